"""The nouns: what one part of the program hands to the next, as frozen values. Nothing here reads or writes."""

from __future__ import annotations

from lazy_magpie.model.identity import PERSON, Answer, Evidence, Identity, reason_of
from lazy_magpie.model.item import File, Item, id_number, id_text, in_path_order
from lazy_magpie.model.kinds import Kind, State, Value
from lazy_magpie.model.plan import Conflict, Plan, Unmoved
from lazy_magpie.model.stamps import FOLDER_SIZE, FileStamp, FileStatus, FolderAttributes, PathStamp
from lazy_magpie.model.steps import Step, StepKind

__all__ = [
    "FOLDER_SIZE",
    "PERSON",
    "Answer",
    "Conflict",
    "Evidence",
    "File",
    "FileStamp",
    "FileStatus",
    "FolderAttributes",
    "Identity",
    "Item",
    "Kind",
    "PathStamp",
    "Plan",
    "State",
    "Step",
    "StepKind",
    "Unmoved",
    "Value",
    "id_number",
    "id_text",
    "in_path_order",
    "reason_of",
]
