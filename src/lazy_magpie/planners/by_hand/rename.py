"""Plans names by hand: operations on the names of files with what goes along, or of folders, checked one by one."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial

from lazy_magpie.config import Config
from lazy_magpie.errors import UsageError
from lazy_magpie.identify import disc_folder
from lazy_magpie.model import Plan, Unmoved
from lazy_magpie.naming import MissingField
from lazy_magpie.naming.safe import LONGEST, is_safe
from lazy_magpie.paths import join, name_of, parent, written
from lazy_magpie.planners.by_hand.chosen import Chosen, HandDraft
from lazy_magpie.planners.by_hand.operations import Counter, Operation, Renamed, name_from, renamed
from lazy_magpie.planners.directory_index import Listing, is_mounted
from lazy_magpie.planners.filing.placement_rules import BY_HAND


def rename(
    chosen: Sequence[Chosen], operations: Sequence[Operation], counter: Counter, config: Config, listing: Listing
) -> Plan:
    """Plan new names for what was chosen, in its order; a new name is kept by later plans.

    Companions that are called as their main file is follow it. Raises UsageError, with the file, for a name that is
    empty, not safe or too long.
    """
    keep = [shelf.folder for shelf in config.shelves]
    draft = HandDraft("rename", "named by hand", listing, keep)
    draft.conflict_why = lambda paths: "each would have this name (--number tells them apart)"
    draft.group_of = lambda source, target: parent(source) or "."
    for one, number in zip(chosen, counter.texts(len(chosen)), strict=True):
        if disc_folder(one.path) and not one.is_folder:
            draft.unmoved.append(Unmoved(one.path, "a disc's folder, whose player knows it by this name"))
            continue
        if one.is_folder and is_mounted(listing, one.path):
            draft.unmoved.append(Unmoved(one.path, "a drive is mounted there; mount it under another name", asks=True))
            continue
        old = name_from(name_of(one.path), is_folder=one.is_folder)
        about = Renamed(partial(one.values, config), number)
        try:
            new = renamed(old, about, operations)
        except MissingField as missing:
            draft.unmoved.append(Unmoved(one.path, f"its {missing.field.replace('_', ' ')} is not known", asks=True))
            continue
        target = join(parent(one.path), str(new))
        if not name_of(new.stem).strip(". "):
            raise UsageError(f"“{written(one.path)}” can't be renamed: its new name would be empty.")
        _check(one.path, str(new), everywhere=config.everywhere)
        filing = None if one.is_folder and config.shelf_of(one.path) is None else BY_HAND
        if target != one.path:
            item = one.item.id if one.item and not one.is_folder else 0
            draft.want(one.path, target, one.stamp, filing=filing, item=item)
            for file, rest in one.along():
                goal = join(parent(target), name_of(str(new.stem)) + rest)
                _check(file.path, name_of(goal), everywhere=config.everywhere)
                draft.want(file.path, goal, file.stamp, item=item)
    return draft.plan()


def _check(path: str, new: str, *, everywhere: bool) -> None:
    """Raise UsageError where a new name (or one with folders in front) can't be written."""
    for part in new.split("/"):
        if part in ("", ".", ".."):
            what = f"“{part}” is no name"
        elif len(part.encode("utf-8", "surrogateescape")) > LONGEST:
            what = f"its new name “{written(part[:40])}…” would be longer than {LONGEST} bytes"
        elif not is_safe(part, everywhere=False) or (
            not is_safe(part, everywhere=everywhere) and is_safe(name_of(path), everywhere=everywhere)
        ):
            what = f"“{written(part)}” is a name that not every disk takes"
        else:
            continue
        raise UsageError(f"“{written(path)}” can't be renamed: {what}.")
