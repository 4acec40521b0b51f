"""Carries plans out: applies, takes back and does again, and lets the catalogue follow what moved."""

from __future__ import annotations

import dataclasses
import os
from collections.abc import Callable, Iterable, Mapping, Sequence
from collections.abc import Collection as Collection_

from lazy_magpie import change, targets
from lazy_magpie.catalogue import Catalogue, FollowedMoves, OneOf
from lazy_magpie.change import (
    Change,
    Held,
    Outcome,
    Recovered,
    RunControl,
    restoring,
)
from lazy_magpie.collection import STATE_DIR_NAME, Collection
from lazy_magpie.drives import present
from lazy_magpie.errors import UsageError
from lazy_magpie.model import Plan, Step
from lazy_magpie.model.sends import Send
from lazy_magpie.model.steps import LeaveFindings, SetField, SetTags, Settle, SettleFolder, Unpack
from lazy_magpie.paths import is_below, join, on_target, parent, written
from lazy_magpie.planners.directory_index import Listing
from lazy_magpie.planners.step_order import ordered_steps, without_directories
from lazy_magpie.scan import decision_log, folder_roles, identify_again, scan, tag_sync
from lazy_magpie.scan.decision_log import Note, note_of, note_of_custom, note_of_left, note_of_role, note_of_tags
from lazy_magpie.services.following import Follower
from lazy_magpie.services.journals import journal_store, newest_change
from lazy_magpie.services.placements import remember

__all__ = [
    "Change",
    "Outcome",
    "RunControl",
    "apply",
    "keep",
    "plan_named",
    "recover",
    "redo",
    "restore",
    "split",
    "undo",
    "update_catalogue",
]


def keep(collection: Collection, catalogue: Catalogue, plan: Plan) -> Plan:
    """Keep a new plan, with the drives that are mounted now, and return it with its number."""
    plan = dataclasses.replace(plan, drives=journal_store(collection).disk.drives())
    return dataclasses.replace(plan, number=catalogue.plans.keep(plan, newest_change(collection)))


def plan_named(catalogue: Catalogue, number: int) -> Plan:
    """Return plan `number` (0: the newest that is pending). Raises UsageError where there is none to apply."""
    if not number:
        kept = catalogue.plans.list()
        if not kept:
            raise UsageError("No plan is pending; “magpie tidy” makes one.")
        number = kept[-1].number
    found = catalogue.plans.get(number)
    if found is None:
        raise UsageError(f"There is no plan {number}; “magpie plans” lists them.")
    if found.state != "kept":
        hint = "“magpie redo” does a change again" if found.state == "applied" else "make a new one"
        raise UsageError(f"Plan {number} is no longer pending: it was {found.state}; {hint}.")
    return catalogue.plans.load(number)


def apply(collection: Collection, catalogue: Catalogue, plan: Plan, control: RunControl) -> Outcome:
    """Apply a plan as a new change."""
    store = journal_store(collection)

    def act(control: RunControl) -> Outcome:
        return change.apply(store, plan.steps, plan.command, plan.number, control, plan.drives)

    return _followed(collection, catalogue, control, act, plan=plan)


def _followed(
    collection: Collection,
    catalogue: Catalogue,
    control: RunControl,
    act: Callable[[RunControl], Outcome],
    *,
    first: bool = True,
    plan: Plan | None = None,
) -> Outcome:
    """Change something, the catalogue following, and return the outcome: `plan` is the one that is applied."""
    trusted = plan is not None and plan.read_back
    catalogue.set_acting(acting=True)
    with Follower(collection, catalogue, first=first, trusted=trusted) as follower:
        outcome = act(dataclasses.replace(control, noted=follower.noted))
        unknown = follower.unknown()
    if plan and plan.number:
        catalogue.plans.set_state(plan.number, "applied")
    update_catalogue(collection, catalogue, outcome, first=first, trusted=trusted, unknown=unknown)
    return outcome


def split(plan: Plan, groups: Collection_[str], listing: Listing, keep: Iterable[str]) -> tuple[Plan, Plan]:
    """Return the part of a plan that is in `groups` (as they are shown), and the rest, each in an order that works."""
    keep = list(keep)
    moves = without_directories(plan.steps)
    chosen = [step for step in moves if written(step.group) in groups]
    others = [step for step in moves if written(step.group) not in groups]
    return (
        dataclasses.replace(plan, steps=ordered_steps(chosen, listing, keep)),
        dataclasses.replace(plan, steps=ordered_steps(others, listing, keep), number=0),
    )


def restore(collection: Collection, catalogue: Catalogue, ones: Sequence[Held], control: RunControl) -> Outcome:
    """Bring held things back to where they were, as a change of its own."""
    store = journal_store(collection)
    steps = restoring(store.disk, ones)
    return _followed(
        collection, catalogue, control, lambda control: change.apply(store, steps, "held restore", 0, control)
    )


def undo(
    collection: Collection, catalogue: Catalogue, number: int, control: RunControl, *, anyway: bool = False
) -> Outcome:
    """Take back a change (0: the newest in effect); `anyway` passes over newer ones that can't be read."""
    store = journal_store(collection)
    return _followed(
        collection,
        catalogue,
        control,
        lambda control: change.undo(store, number, control, anyway=anyway),
        first=False,
    )


def redo(collection: Collection, catalogue: Catalogue, number: int, control: RunControl) -> Outcome:
    """Do a change again (0: the one taken back last)."""
    store = journal_store(collection)
    return _followed(collection, catalogue, control, lambda control: change.redo(store, number, control))


def recover(collection: Collection, catalogue: Catalogue) -> list[Recovered]:
    """Put right what a crash left half done, and say what was found."""
    store = journal_store(collection)
    found = change.recover(store)
    for recovered in found:
        _heard_late(collection, catalogue, recovered)
    if catalogue.acting:  # ended before the catalogue had followed: the journals tell what was done and answered
        followed = catalogue.followed()
        if followed and (done := change.last_run(store, followed.change)):
            _heard_late(collection, catalogue, done)
        _follow_notes(collection, catalogue, list(change.answers_in_effect(store)))
        catalogue.set_acting(acting=False)
    return found


def _heard_late(collection: Collection, catalogue: Catalogue, done: Recovered) -> None:
    """Update the catalogue with what a run did that was cut off before that could be."""
    if done.plan and catalogue.plans.get(done.plan):
        catalogue.plans.set_state(done.plan, "applied")
    update_catalogue(collection, catalogue, done, first=done.run != "undo")


def update_catalogue(
    collection: Collection,
    catalogue: Catalogue,
    done: Outcome | Recovered,
    *,
    first: bool = True,
    trusted: bool = False,
    unknown: Sequence[str] = (),
) -> None:
    """Update the catalogue with what was moved and answered, as far as it has not followed that yet.

    `first` keeps each item's first path as a fact; `trusted` says that new names were read as what they are; `unknown`
    has the places of files that it did not know, among what it has followed.
    """
    with catalogue.db:
        followed = catalogue.take_followed()
        moves = FollowedMoves(catalogue.files, first=first)
        moves.follow(done.moves[followed.moves if followed and followed.change == done.change else 0 :])
        if trusted:
            moves.trust()
        catalogue.files.there([target for source, target, _ in done.moves if _is_ours(source)], there=True)
        catalogue.files.there([target for _, target, _ in done.moves if _is_ours(target)], there=False)
        back = {target for _, target, _ in done.moves}  # what took its place went, and it came back
        held = done.held if isinstance(done, Outcome) else ()
        catalogue.files.there([path for path in held if path not in back], there=False)
        _follow_sent(collection, catalogue, done)
        catalogue.readings.follow("", done.moves)
        if left := catalogue.left.follow(done.moves):
            decision_log.write(present(catalogue, collection), [note_of_left(*one) for one in left.items()])
        _follow_notes(collection, catalogue, done.notes)
    catalogue.set_acting(acting=False)
    made = [*done.made, *back.intersection(held), *unknown, *moves.unknown] if isinstance(done, Outcome) else []
    if made:  # what is new, or has other contents, is looked at as a scan would
        top = str(collection.root)
        scan(catalogue, collection, sorted({join(top, parent(path)) if parent(path) else top for path in made}))
    if done.placed or (first and done.moves):
        went = {source: target for source, target, _ in done.moves}
        identify_again(catalogue, collection, remember(catalogue, done.change, done.placed, went))
        catalogue.writer.index_stale()
    for step, why in done.damaged if isinstance(done, Outcome) else ():
        _refuse(catalogue, step, why)


def _follow_sent(collection: Collection, catalogue: Catalogue, done: Outcome | Recovered) -> None:
    """Keep what was put on targets, taken off, or renamed there: in the catalogue, and on the targets themselves."""
    moves = [(source, target) for source, target, _ in done.moves if on_target(source) and on_target(target)]
    for name, folder in targets.located(collection).items() if done.sent or moves else ():
        put: dict[str, targets.SentFile] = {}
        gone: list[str] = []
        there = targets.manifest(folder) if moves else {}
        for source, target in moves:
            before, after = on_target(source), on_target(target)
            assert before is not None and after is not None
            if before[0] == name and (moved := there.get(before[1]) or _renamed_there(there, folder, after[1])):
                put[after[1]] = dataclasses.replace(moved, path=after[1])
                gone.append(moved.path)
        for step, stamp in done.sent:
            place = on_target(step.target or step.source)
            if place is None or place[0] != name:
                continue
            if isinstance(step, Send) and stamp is not None:
                put[place[1]] = targets.SentFile(place[1], stamp.size, stamp.mtime, step)
            else:
                put.pop(place[1], None)
                gone.append(place[1])
        targets.note_sent(folder, put.values(), [path for path in gone if path not in put])
        catalogue.sent.put(name, ((one.path, one.size, one.mtime, one.step) for one in put.values()), gone)


def _renamed_there(sent: Mapping[str, targets.SentFile], folder: str, path: str) -> targets.SentFile | None:
    """Return what was sent and is gone from its place there, and is at another path now."""
    try:
        status = os.lstat(os.path.join(folder, path))
    except OSError:
        return None
    found = [one for one in sent.values() if (one.size, one.mtime) == (status.st_size, status.st_mtime_ns)]
    lost = [one for one in found if not os.path.lexists(os.path.join(folder, one.path))]
    return lost[0] if len(lost) == 1 else None


def _is_ours(path: str) -> bool:
    """Say whether a path lies in magpie's own folder, whose files are not the catalogue's."""
    return change.is_held(path) or is_below(path, STATE_DIR_NAME)


def _refuse(catalogue: Catalogue, step: Unpack, why: str) -> None:
    """Keep why archives could not be unpacked: they are not offered again."""
    for part in step.parts:
        catalogue.placements.refuse(part.stamp.size, part.stamp.mtime, part.listing, why)


def _follow_notes(collection: Collection, catalogue: Catalogue, notes: Sequence[Step]) -> None:
    """Apply the answers of steps to the catalogue; identify again what an answer was taken back of."""
    again: set[int] = set()
    written_notes: list[Note] = []
    for step in notes:
        match step:
            case Settle() if _is_current(catalogue, step):
                found = catalogue.items.ask(OneOf((step.item,)), gone=True)
                written_notes += [note_of(item, step.new) for item in found]
                catalogue.writer.settle(step.item, step.new)
                if step.new is None and (folder := catalogue.items.folder_of(step.item)):
                    again.add(folder)
            case SettleFolder(source=path, root=root, new=role):
                numbers = {one.name: one.number for one in catalogue.roots.all()}
                if root in numbers and (folder := catalogue.roles.tell(numbers[root], path, role)):
                    written_notes.append(note_of_role(path, root, role))
                    before = set(catalogue.files.dirty_folders())
                    again |= (marked := folder_roles.refresh(catalogue, [folder]))
                    catalogue.files.mark_clean(marked - before)
            case LeaveFindings(source=path, new=rules):
                catalogue.left.put(path, rules)
                written_notes.append(note_of_left(path, rules))
            case SetField(field=name, old=old, new=new):
                now = catalogue.custom_fields.of(step.item).get(name)
                if catalogue.items.folder_of(step.item) and now in (old, new):
                    catalogue.custom_fields.put(step.item, name, new)
                    written_notes += map(note_of_custom, catalogue.items.ask(OneOf((step.item,)), gone=True))
            case SetTags(old=old, new=new) if tuple(catalogue.tags.of(step.item)) in (old, new):
                catalogue.tags.put(step.item, new)
                tag_sync.record_agreement(catalogue, journal_store(collection).disk, step)
                written_notes += map(note_of_tags, catalogue.items.ask(OneOf((step.item,)), gone=True))
    decision_log.write(present(catalogue, collection), written_notes)
    identify_again(catalogue, collection, again)
    if again or notes:
        catalogue.writer.index_stale()


def _is_current(catalogue: Catalogue, step: Settle) -> bool:
    """Say whether an item is there with the answer that a step was to change: a newer one is never overwritten."""
    if catalogue.items.folder_of(step.item) is None:
        return False
    return catalogue.items.answer_of(step.item) in (step.old, step.new)
