"""A plan as a CSV file that a spreadsheet opens: saved, corrected by hand, read back and checked row by row.

Columns: plan, step, do, apply (yes or no), from, to, group, why. `apply` and `to` may be edited, and rows may be sorted
or taken out; all else is held against the plan that is kept. A text that a spreadsheet would take for a formula has an
apostrophe in front, which is taken off again.
"""

from __future__ import annotations

import csv
import dataclasses
import io
import unicodedata
from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence

from lazy_magpie.collection import STATE_DIR_NAME
from lazy_magpie.errors import UsageError
from lazy_magpie.model import Plan, Step, StepKind
from lazy_magpie.model.proofs import Proof, Unpacked
from lazy_magpie.model.steps import Copy, DropFolder, Hardlink, Hold, MakeFolder, Move, Unpack, renumbered
from lazy_magpie.naming.safe import is_safe
from lazy_magpie.paths import above, is_below, join, name_of, read_back, same_name, split_ending, written
from lazy_magpie.planners.directory_index import Listing, Names
from lazy_magpie.planners.disk_view import DiskView
from lazy_magpie.planners.filing.placement_rules import BY_HAND
from lazy_magpie.planners.step_order import ordered_steps, without_directories
from lazy_magpie.sheet_text import alive, inert
from lazy_magpie.suggest import nearest

COLUMNS = ("plan", "step", "do", "apply", "from", "to", "group", "why")
_YES = frozenset(["yes", "y", "true", "1", "x"])
_NO = frozenset(["no", "n", "false", "0", ""])


def to_csv(plan: Plan) -> str:
    """Return the steps of a kept plan as CSV, with a byte-order mark so that spreadsheets take it for UTF-8."""
    out = io.StringIO()
    out.write("\ufeff")
    writer = csv.writer(out)
    writer.writerow(COLUMNS)
    for step in without_directories(plan.steps):
        values = (written(step.source), written(step.target), written(step.group), step.why)
        writer.writerow((plan.number, step.number, step.kind.value, "yes", *map(inert, values)))
    return out.getvalue()


def plan_number(text: str, source: str) -> int:
    """Return which plan a CSV file is of. Raises UsageError where it is no such file."""
    rows = _rows(text, source)
    numbers = {row["plan"] for _, row in rows}
    if len(numbers) != 1 or not (number := numbers.pop()).isdecimal():
        raise UsageError(f"{source}: the column “plan” must hold one plan's number in every row.")
    return int(number)


def from_csv(
    text: str, source: str, plan: Plan, listing: Listing, disk: DiskView, *, keep: Iterable[str], everywhere: bool
) -> Plan:
    """Return `plan` with the edits of a CSV file, in an order that works; `keep` as in `ordered_steps`.

    What is given one folder is joined: archives, and folders name by name.

    Raises UsageError with every row that can't be meant: an unsafe name, a path outside the root, a name that is taken
    or wanted twice, a changed source, a step that is not in the plan or stands twice.
    """
    known = {step.number: step for step in without_directories(plan.steps)}
    names = Names(listing)
    wrong: list[str] = []
    steps: list[tuple[int, Step]] = []
    done: set[int] = set()
    for row_number, row in _rows(text, source):
        try:
            step = _edited(row, known, done, names, everywhere=everywhere)
        except UsageError as error:
            wrong.append(f"row {row_number}: {error}")
            continue
        if step is not None:
            steps.append((row_number, step))
    followed = list(zip((row for row, _ in steps), _followed(steps, known), strict=True))
    joined = _poured_together(_joined(followed), disk)
    wrong += _conflicts(joined, names)
    if wrong:
        more = f" … and {len(wrong) - 20} more rows." if len(wrong) > 20 else ""
        text = f"{'; '.join(wrong[:20])}.{more} Correct the file; nothing was changed."
        raise UsageError(f"{source} can't be applied: {text}")
    edited = [step for _, step in joined]
    if {step.number: step for step in edited} == known:
        return plan
    if any(step.kind is StepKind.UNPACK for step in plan.steps):
        left_out = known.keys() - {step.number for _, step in followed}
        steps_of_all = _put_in(plan, edited, known, names, left_out)
    else:
        steps_of_all = ordered_steps(without_directories(edited), listing, keep)
    return dataclasses.replace(plan, steps=steps_of_all, read_back=False)


def _joined(steps: Iterable[tuple[int, Step]]) -> list[tuple[int, Step]]:
    """Return steps, where archives that a person gave one folder are unpacked into it together.

    Where two of them hold files of one name they stay apart, and are a conflict.
    """
    places: dict[str, int] = {}
    bundles: dict[int, int] = {}
    found: list[tuple[int, Step]] = []
    for row, step in steps:
        at = places.get(same_name(step.target)) if isinstance(step, Unpack) else None
        if at is not None and (both := _both(found[at][1], step)):
            found[at] = (found[at][0], both)
            if step.bundle:
                bundles[step.bundle] = both.bundle
            continue
        if isinstance(step, Unpack):
            places.setdefault(same_name(step.target), len(found))
        found.append((row, step))
    return [
        (row, dataclasses.replace(step, bundle=bundles[step.bundle]) if step.bundle in bundles else step)
        for row, step in found
    ]


def _both(one: Step, other: Step) -> Unpack | None:
    """Return the step that unpacks two archives, or two lots of them, into one folder; None where that can't be."""
    if not (isinstance(one, Unpack) and isinstance(other, Unpack)) or one.outside != other.outside:
        return None
    parts = (*one.parts, *other.parts)
    inside = [same_name(place) for part in parts for place in part.layout.values()]
    if len(set(inside)) < len(inside):
        return None
    return dataclasses.replace(one, parts=parts, bytes=one.bytes + other.bytes, why=f"{len(parts)} archives together")


def _poured_together(steps: Sequence[tuple[int, Step]], disk: DiskView) -> list[tuple[int, Step]]:
    """Return steps, where folders that a person gave one name are poured into one of that name.

    Where two of them hold files of one name they stay apart, and are a conflict.
    """
    coming: dict[str, list[Step]] = defaultdict(list)
    for _, step in steps:
        if isinstance(step, Move):
            coming[same_name(step.target)].append(step)
    poured: dict[int, list[Step]] = {}
    for together in coming.values():
        if len(together) > 1 and all(_is_folder(disk, step.source) for step in together):
            poured |= _poured(together, together[0].target, disk)
    return [(row, one) for row, step in steps for one in poured.get(step.number, [step])]


def _poured(folders: Sequence[Step], target: str, disk: DiskView) -> dict[int, list[Step]]:
    """Return the steps by which folders are put together into one, by each one's number; none where names clash."""
    inside: dict[str, list[Step]] = defaultdict(list)
    for step in folders:
        for name in sorted(disk.names(step.source)):
            path = join(step.source, name)
            status = disk.status(path)
            inner = dataclasses.replace(step, source=path, target=join(target, name), stamp=status and status.stamp)
            inside[same_name(name)].append(inner)
    steps: dict[int, list[Step]] = {step.number: [] for step in folders}
    for same in inside.values():
        below = {same[0].number: same}
        if len(same) > 1:
            below = _poured(same, same[0].target, disk) if all(_is_folder(disk, one.source) for one in same) else {}
        if not below:
            return {}
        for number, found in below.items():
            steps[number] += found
    emptied = folders if inside else folders[1:]
    for number, source, group in ((step.number, step.source, step.group) for step in emptied):
        steps[number].append(DropFolder(number=number, source=source, why="left empty", group=group))
    return steps if inside else steps | {folders[0].number: [folders[0]]}


def _is_folder(disk: DiskView, path: str) -> bool:
    status = disk.status(path)
    return status is not None and status.is_folder and not status.is_link


def _put_in(
    plan: Plan, edited: Iterable[Step], known: Mapping[int, Step], names: Names, left_out: Iterable[int]
) -> tuple[Step, ...]:
    """Return the steps of a plan in their own order, with those that were edited, and without those in `left_out` or
    joined to another.

    Folders that edited steps need are made before them; what stays in a folder keeps it from being dropped.
    """
    now: dict[int, list[Step]] = defaultdict(list)
    for step in edited:
        now[step.number].append(step)
    stays = {known[number].source for number in left_out}
    stays |= {step.target for number in now for step in now[number] if step != known[number]}
    made: set[str] = {step.target for step in plan.steps if step.kind is StepKind.MAKE}
    steps: list[Step] = []
    for step in plan.steps:
        for new in now[step.number] if step.number in known else [step]:
            if new.kind is StepKind.DROP and any(is_below(path, new.source) for path in stays):
                continue
            for folder in reversed(list(above(new.target)) if new != step else ()):
                if folder not in made and not names.existing(folder):
                    made.add(folder)
                    steps.append(MakeFolder(target=folder, why="new folder", group=new.group))
            steps.append(new)
    return renumbered(steps)


def _followed(steps: Iterable[tuple[int, Step]], known: Mapping[int, Step]) -> list[Step]:
    """Return edited steps, where an archive that goes once it is unpacked is held against where it now is unpacked."""
    edited = [step for _, step in steps]
    moved = {known[step.number].target: step.target for step in edited if isinstance(step, Unpack)}
    return [
        dataclasses.replace(step, proofs=tuple(_moved(proof, moved) for proof in step.proofs))
        if isinstance(step, Hold)
        else step
        for step in edited
    ]


def _moved(proof: Proof, moved: Mapping[str, str]) -> Proof:
    if isinstance(proof, Unpacked) and proof.folder in moved:
        return dataclasses.replace(proof, folder=moved[proof.folder])
    return proof


def _rows(text: str, source: str) -> list[tuple[int, Mapping[str, str]]]:
    text = text.removeprefix("\ufeff")
    separator = ";" if text.split("\n", 1)[0].count(";") > text.split("\n", 1)[0].count(",") else ","
    reader = csv.DictReader(io.StringIO(text, newline=""), delimiter=separator)
    names = [name.strip().lower() for name in reader.fieldnames or ()]
    for column in COLUMNS[:6]:
        if column not in names:
            raise UsageError(
                f"{source} has no column “{column}”{nearest(column, names)} Save a plan again with --save."
            )
    reader.fieldnames = names
    filled: list[tuple[int, Mapping[str, str]]] = []
    for number, values in enumerate(reader, start=2):
        row = {key: alive(value or "") for key, value in values.items() if key}
        if any(row.values()):
            filled.append((number, row))
    if not filled:
        raise UsageError(f"{source} has no rows. Save a plan again with --save.")
    return filled


def _edited(
    row: Mapping[str, str], known: Mapping[int, Step], done: set[int], names: Names, *, everywhere: bool
) -> Step | None:
    """Return the step of a row as it was edited, None where the row says no. Raises UsageError."""
    word = row["apply"].strip().lower()
    step = known.get(int(row["step"])) if row["step"].strip().isdecimal() else None
    if step is None:
        raise UsageError(f"the plan has no step “{row['step']}”")
    if step.number in done:
        raise UsageError(f"step {step.number} stands twice")
    done.add(step.number)
    if row["from"] != written(step.source) or row["do"] != step.kind.value:
        raise UsageError(f"“from” and “do” of step {step.number} can't be edited")
    if word in _NO:
        return None
    if word not in _YES:
        raise UsageError(f"“apply” is yes or no, not “{row['apply']}”")
    target = read_back(row["to"].strip())
    if target == step.target:
        return step
    target = unicodedata.normalize("NFC", target)
    parts = target.split("/")
    if not target or target.startswith(("/", "~")) or ".." in parts or "." in parts or "" in parts:
        raise UsageError(f"“{row['to']}” is not a path inside the collection")
    if STATE_DIR_NAME in map(str.lower, parts):
        raise UsageError(f"“{row['to']}” lies in magpie's own folder")
    for part in parts:
        if not is_safe(part, everywhere=everywhere):
            raise UsageError(f"“{part}” is a name that not every disk takes")
    if split_ending(name_of(target))[1].lower() != split_ending(name_of(step.target))[1].lower():
        raise UsageError(f"“{row['to']}” has another ending than the file")
    spelled = names.as_spelled(target)
    return step if spelled == step.target else _corrected(step, spelled)


def _corrected(step: Step, target: str) -> Step:
    """Return a step with another target, which is kept from then on."""
    corrected = dataclasses.replace(step, target=target, why="corrected by hand")
    if isinstance(corrected, Move | Copy | Unpack):
        return dataclasses.replace(corrected, filing=BY_HAND)
    return corrected


def _conflicts(steps: Iterable[tuple[int, Step]], names: Names) -> list[str]:
    steps = list(steps)
    leaving = {same_name(step.source) for _, step in steps if same_name(step.source) != same_name(step.target)}
    wanted: dict[str, int] = {}
    wrong = []
    for number, step in ((n, s) for n, s in steps if s.target and not (isinstance(s, Hardlink) and s.replaces)):
        key = same_name(step.target)
        occupant = names.existing(step.target)
        if key in wanted:
            wrong.append(f"row {number}: “{written(step.target)}” is wanted by row {wanted[key]} too")
        elif occupant and same_name(occupant) not in leaving and same_name(occupant) != same_name(step.source):
            wrong.append(f"row {number}: “{written(step.target)}” is there already")
        wanted.setdefault(key, number)
    return wrong
