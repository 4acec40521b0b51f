"""The nouns: what one part of the program hands to the next, as frozen values. Nothing here reads or writes.

What stands here is loaded when it is asked for: who only looks needs no steps.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from lazy_magpie.on_demand import on_demand

if TYPE_CHECKING:
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

__getattr__ = on_demand(
    __name__,
    {
        "identity": "PERSON Answer Evidence Identity reason_of",
        "item": "File Item id_number id_text in_path_order",
        "kinds": "Kind State Value",
        "plan": "Conflict Plan Unmoved",
        "stamps": "FOLDER_SIZE FileStamp FileStatus FolderAttributes PathStamp",
        "steps": "Step StepKind",
    },
)
