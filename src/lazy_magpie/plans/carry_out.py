"""Carries plans out: applies, takes back and does again, and lets the catalogue follow what moved."""

from __future__ import annotations

import dataclasses
from collections.abc import Collection as Collection_
from collections.abc import Iterable, Sequence

from lazy_magpie import change
from lazy_magpie.catalogue import Catalogue, OneOf, bare
from lazy_magpie.change import Area, Disk, Held, Outcome, Recovered, Watch, restoring
from lazy_magpie.collection import Collection
from lazy_magpie.errors import UsageError
from lazy_magpie.model import Do, Plan, Step
from lazy_magpie.paths import join, parent, written
from lazy_magpie.plans.arrange import arrange, plain
from lazy_magpie.plans.names import Listing
from lazy_magpie.plans.placed import remember
from lazy_magpie.roots import present
from lazy_magpie.scan import carried, gather_again, scan
from lazy_magpie.scan import notes as notes_of_persons
from lazy_magpie.scan.notes import Note, note_of, note_of_own, note_of_tags


def area_of(collection: Collection) -> Area:
    """Return where the collection's changes are kept."""
    return Area(Disk(str(collection.root)))


def keep(collection: Collection, catalogue: Catalogue, plan: Plan) -> Plan:
    """Keep a new plan, with the drives that are mounted now, and return it with its number."""
    plan = dataclasses.replace(plan, drives=area_of(collection).disk.drives())
    return dataclasses.replace(plan, number=catalogue.plans.keep(plan))


def plan_named(catalogue: Catalogue, number: int) -> Plan:
    """Return plan `number` (0: the newest that waits). Raises UsageError where there is none to apply."""
    if not number:
        kept = catalogue.plans.list()
        if not kept:
            raise UsageError("No plan is waiting; “magpie tidy” makes one.")
        number = kept[-1].number
    found = catalogue.plans.get(number)
    if found is None:
        raise UsageError(f"There is no plan {number}; “magpie plans” lists them.")
    if found.state != "kept":
        hint = "“magpie redo” does a change again" if found.state == "applied" else "make a new one"
        raise UsageError(f"Plan {number} was {found.state} already; {hint}.")
    return catalogue.plans.load(number)


def apply(collection: Collection, catalogue: Catalogue, plan: Plan, watch: Watch) -> Outcome:
    """Apply a plan as a new change."""
    catalogue.set_acting(True)
    outcome = change.apply(area_of(collection), plan.steps, plan.command, plan.number, watch, plan.drives)
    if plan.number:
        catalogue.plans.set_state(plan.number, "applied")
    follow(collection, catalogue, outcome)
    return outcome


def split(plan: Plan, groups: Collection_[str], listing: Listing, keep: Iterable[str]) -> tuple[Plan, Plan]:
    """Return the part of a plan that is in `groups` (as they are shown), and the rest, each in an order that works."""
    keep = list(keep)
    moves = plain(plan.steps)
    chosen = [step for step in moves if written(step.group) in groups]
    others = [step for step in moves if written(step.group) not in groups]
    return (
        dataclasses.replace(plan, steps=arrange(chosen, listing, keep)),
        dataclasses.replace(plan, steps=arrange(others, listing, keep), number=0),
    )


def restore(collection: Collection, catalogue: Catalogue, ones: Sequence[Held], watch: Watch) -> Outcome:
    """Bring held things back to where they were, as a change of its own."""
    area = area_of(collection)
    outcome = change.apply(area, restoring(area.disk, ones), "held restore", 0, watch)
    follow(collection, catalogue, outcome)
    return outcome


def undo(collection: Collection, catalogue: Catalogue, number: int, watch: Watch, *, anyway: bool = False) -> Outcome:
    """Take back a change (0: the newest in effect); `anyway` passes over newer ones that can't be read."""
    catalogue.set_acting(True)
    outcome = change.undo(area_of(collection), number, watch, anyway=anyway)
    follow(collection, catalogue, outcome, first=False)
    return outcome


def redo(collection: Collection, catalogue: Catalogue, number: int, watch: Watch) -> Outcome:
    """Do a change again (0: the one taken back last)."""
    catalogue.set_acting(True)
    outcome = change.redo(area_of(collection), number, watch)
    follow(collection, catalogue, outcome)
    return outcome


def recover(collection: Collection, catalogue: Catalogue) -> list[Recovered]:
    """Put right what a crash left half done, and say what was found."""
    found = change.recover(area_of(collection))
    for recovered in found:
        if recovered.plan and catalogue.plans.get(recovered.plan):
            catalogue.plans.set_state(recovered.plan, "applied")
        follow(collection, catalogue, recovered)
    if catalogue.acting:  # ended before the catalogue had followed: the journals tell what was answered
        _follow_notes(collection, catalogue, list(change.all_notes(area_of(collection))))
        catalogue.set_acting(False)
    return found


def follow(collection: Collection, catalogue: Catalogue, done: Outcome | Recovered, *, first: bool = True) -> None:
    """Let the catalogue follow what was moved and answered; `first` keeps each item's first path as a fact."""
    with catalogue.db:
        unknown = catalogue.files.relocate(done.moves, first=first)
        catalogue.files.there([target for source, target, _ in done.moves if change.is_held(source)], there=True)
        back = {target for _, target, _ in done.moves}  # what took its place went, and it came back
        held = done.held if isinstance(done, Outcome) else ()
        catalogue.files.there([path for path in held if path not in back], there=False)
        _follow_notes(collection, catalogue, done.notes)
    catalogue.set_acting(False)
    made = [*done.made, *back.intersection(held), *unknown] if isinstance(done, Outcome) else []
    if made:  # what is new, or has other contents, is looked at as a scan would
        top = str(collection.root)
        scan(catalogue, collection, sorted({join(top, parent(path)) if parent(path) else top for path in made}))
    if done.placed:
        moves = {source: target for source, target, _ in done.moves}
        gather_again(catalogue, collection, remember(catalogue, done.change, done.placed, moves))
        catalogue.writer.index_stale()
    for step, why in done.refused if isinstance(done, Outcome) else ():
        _refuse(catalogue, step, why)


def _refuse(catalogue: Catalogue, step: Step, why: str) -> None:
    """Keep why archives could not be unpacked: they are not offered again."""
    for part in step.data.get("parts", ()):
        if "damaged" in why or "cut off" in why:
            size, mtime, _ = part["seen"]
            catalogue.placements.refuse(size, mtime, str(part["listing"]), why)


def _stands(catalogue: Catalogue, step: Step) -> bool:
    """Say whether an item is there with the answer that a step was to change: a newer one is never overwritten."""
    if catalogue.items.folder_of(step.item) is None:
        return False
    now = bare(catalogue.items.answer_of(step.item))
    return now in (step.data.get("old"), step.data.get("new"))


def _follow_notes(collection: Collection, catalogue: Catalogue, notes: Sequence[Step]) -> None:
    """Let the catalogue have the answers of steps; what an answer was taken back of is identified anew."""
    again = set()
    told: list[Note] = []
    for step in notes:
        if step.do is Do.SETTLE and _stands(catalogue, step):
            found = catalogue.items.ask(OneOf((step.item,)), gone=True)
            told += [note_of(item, step.data.get("new")) for item in found]
            catalogue.writer.settle(step.item, step.data.get("new"))
            if step.data.get("new") is None and (folder := catalogue.items.folder_of(step.item)):
                again.add(folder)
        elif "field" in step.data:
            field, now = str(step.data["field"]), catalogue.own.of(step.item)
            if catalogue.items.folder_of(step.item) and now.get(field) in (step.data.get("old"), step.data.get("new")):
                catalogue.own.put(step.item, field, step.data.get("new"))
                told += [note_of_own(item) for item in catalogue.items.ask(OneOf((step.item,)), gone=True)]
        elif step.do is Do.TAG and list(catalogue.tags.of(step.item)) in (step.data.get("old"), step.data.get("new")):
            catalogue.tags.put(step.item, step.data["new"])
            carried.agree_after(catalogue, area_of(collection).disk, step)
            told += [note_of_tags(item) for item in catalogue.items.ask(OneOf((step.item,)), gone=True)]
    notes_of_persons.write(present(catalogue, collection), told)
    gather_again(catalogue, collection, again)
    if again or notes:
        catalogue.writer.index_stale()
