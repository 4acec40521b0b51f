"""A plan as a person reads it: conflicts first, then the steps in groups, then what is left and why."""

from __future__ import annotations

import os
import re
from collections import Counter
from collections.abc import Iterable, Iterator, Sequence
from itertools import groupby

from lazy_magpie.cli.passing_names import named_on_target, without_passing
from lazy_magpie.cli.table import Table
from lazy_magpie.cli.terminal import Terminal
from lazy_magpie.formatting import count_text
from lazy_magpie.model import Conflict, Plan, Step, StepKind, Unmoved
from lazy_magpie.model.sends import Send
from lazy_magpie.model.steps import (
    Convert,
    Copy,
    DropFolder,
    Hold,
    MakeFolder,
    Pack,
    Settle,
    Softlink,
    Unpack,
    Write,
)
from lazy_magpie.paths import join, name_of, parent, written

_WHOLE = 60
_LEFT_SHOWN = 8
_UNPACKED_SHOWN = 12
_REPLACED_SHOWN = 6
_WORDS = {
    StepKind.HOLD: "held",
    StepKind.HARDLINK: "linked",
    StepKind.SOFTLINK: "linked by a symbolic link",
    StepKind.COPY: "copied",
    StepKind.UNPACK: "unpacked",
    StepKind.PACK: "packed",
    StepKind.CONVERT: "converted",
    StepKind.WRITE: "written",
    StepKind.DROP: "links taken out",
    StepKind.REPLACE: "rewritten",
    StepKind.SEND: "sent",
    StepKind.RETRACT: "taken off",
}
_NOTHING = dict.fromkeys(("rename", "hold", "new", "pack", "unpack", "convert"), "nothing to do")
_WHERE = {StepKind.HOLD: "the holding area", StepKind.DROP: "taken out", StepKind.RETRACT: "taken off"}


def show_plan(terminal: Terminal, plan: Plan, group: str = "", *, whole: bool = False) -> None:
    """Print a plan; one of more than 60 moves by its groups alone, unless one is opened or `whole` is asked for."""
    moves = list(_with_lines(plan))
    groups = _grouped(moves)
    number = f"Plan {plan.number}: " if plan.number else ""
    are_moves = all(step.kind is StepKind.MOVE for step in moves)
    has_folders = any(step.stamp is not None and step.stamp.is_folder for step in moves)
    what = "step" if not are_moves else "move" if has_folders else "file"
    all_of = f" ({count_text(len(plan.steps), 'step')})" if len(plan.steps) > len(moves) and what != "step" else ""
    makes = any(step.kind is StepKind.MAKE for step in plan.steps)
    folders = "folders to make" if makes else "empty folders to remove"
    empty = folders if plan.steps else _NOTHING.get(plan.command, "nothing to move")
    head = f"{number}{count_text(len(moves), what)} in {count_text(len(groups), 'group')}{all_of}"
    terminal.say(terminal.styled(head if moves else f"{number}{empty}", "head"))
    if not group:
        _show_conflicts(terminal, plan.conflicts)
    if group or whole or len(moves) <= _WHOLE:
        for name, steps in groups.items():
            if group in ("", name):
                _show_group(terminal, name, steps, whole=whole or bool(group))
    else:
        _show_summary(terminal, groups)
    if group:
        return
    if count := sum(isinstance(step, Settle) for step in plan.steps):
        said = "item stays what it is known as, though its new name does not say it"
        many = "items stay what they are known as, though their new names do not say it"
        terminal.say(f"\n{count_text(count, said, many)}.")
    _show_folders(terminal, plan.steps, named=terminal.verbose or not moves)
    _show_left(terminal, plan.unmoved)
    for what, count in plan.passed.items():
        if what.startswith(("in ", "of ", "on ")):
            terminal.say(f"Not looked at: {count_text(count, 'item')} {what}.")
        else:
            terminal.say(f"{count:,} {what}.")


def groups_of(plan: Plan) -> list[str]:
    """Return the names of a plan's groups, in the order of their first steps."""
    return list(_grouped(_with_lines(plan)))


def _with_lines(plan: Plan) -> Iterator[Step]:
    """Yield the steps that have a line of their own, as a person thinks of them."""
    return without_passing(step for step in plan.steps if not _has_no_line(step))


def _has_no_line(step: Step) -> bool:
    """Say whether a step has no line of its own: folders, and answers by which things stay what they are."""
    return isinstance(step, MakeFolder | DropFolder | Settle)


def _grouped(steps: Iterable[Step]) -> dict[str, list[Step]]:
    groups: dict[str, list[Step]] = {}
    for step in steps:
        groups.setdefault(written(step.group), []).append(step)
    return dict(sorted(groups.items(), key=lambda pair: (not _renames(pair[1]), pair[0].casefold())))


def _renames(steps: Iterable[Step]) -> bool:
    return any(name_of(step.source) != name_of(step.target) for step in steps)


def _show_group(terminal: Terminal, name: str, steps: Sequence[Step], *, whole: bool) -> None:
    terminal.say()
    common = _common_reason(steps)
    said = f"{_counted(steps)}{f'  ({common})' if common else ''}"
    terminal.say(f"{terminal.styled(name, 'bold')}  {terminal.styled(said, 'dim')}")
    makers = {step.bundle for step in steps if isinstance(step, Unpack | Pack | Convert)} - {0}
    others: list[Step] = []
    replaced: list[Step] = []
    for step in steps:
        (replaced if isinstance(step, Hold) and step.bundle in makers else others).append(step)
    for (_, moves), some in groupby(others, key=_folders_of):
        together = list(some)
        if moves and (len(together) > 1 or parent(together[0].source) == parent(together[0].target)):
            _show_files(terminal, together, common)
        else:
            _show_steps(terminal, together, common, whole=whole)
    _show_replaced(terminal, replaced, whole=whole)


def _show_replaced(terminal: Terminal, steps: Sequence[Step], *, whole: bool) -> None:
    """Print how many originals are held for what was made of them, by what that is where it is not much."""
    reasons = Counter(step.why for step in steps)
    if len(reasons) > _REPLACED_SHOWN and not whole:
        reasons = Counter({"each once what was made of it is proved": len(steps)})
    for why, count in reasons.items():
        where = terminal.styled("the holding area", "new")
        terminal.say(f"  {count_text(count, 'original')} → {where}  {terminal.styled(f'({why})', 'dim')}")


def _common_reason(steps: Sequence[Step]) -> str:
    """Return the reason that most steps of a group share, which is said once; "" where there is none."""
    why, count = Counter(step.why for step in steps).most_common(1)[0]
    return why if 2 * count >= len(steps) else ""


def _because(terminal: Terminal, step: Step, common: str) -> str:
    return "" if step.why == common else terminal.styled(f"  ({step.why})", "dim")


def _show_steps(terminal: Terminal, steps: Sequence[Step], common: str, *, whole: bool) -> None:
    for step in steps:
        if step.kind is StepKind.REPLACE and not step.source:  # a file with something else inside
            terminal.say(f"  {written(step.target)}{_because(terminal, step, common)}")
            continue
        terminal.say(f"  {written(step.source or _made_of(step))}")
        target = _WHERE.get(step.kind) or written(step.target)
        terminal.say(f"    → {terminal.styled(target, 'new')}{_because(terminal, step, common)}")
        _show_unpacked(terminal, step, whole=whole)


def _folders_of(step: Step) -> tuple[tuple[str, str], bool]:
    """Return from which folder a step goes to which, and whether a file goes as it is: such are shown together."""
    as_it_is = step.kind is StepKind.MOVE or (isinstance(step, Send) and isinstance(step.by, Copy))
    return (parent(step.source), parent(step.target)), as_it_is


def _show_files(terminal: Terminal, steps: Sequence[Step], common: str) -> None:
    """Print the two folders once, and the names of the files below."""
    before, after = parent(steps[0].source), parent(steps[0].target)
    terminal.say(f"  {written(before) or '.'}/")
    if after != before:
        terminal.say(f"    → {terminal.styled(written(after) + '/', 'new')}")
    for step in steps:
        old, new = written(name_of(step.source)), written(name_of(step.target))
        name = old if old == new else _change_marked(terminal, old, new)
        terminal.say(f"      {name}{_because(terminal, step, common)}")


def _change_marked(terminal: Terminal, old: str, new: str) -> str:
    """Return the old and the new name, marked where they differ."""
    front = _alike(old, new)
    back = min(_alike(old[::-1], new[::-1]), min(len(old), len(new)) - front)

    def marked(name: str, style: str) -> str:
        end = len(name) - back
        middle = terminal.styled(name[front:end], style) if end > front else ""
        return f"{name[:front]}{middle}{name[end:]}"

    return f"{marked(old, 'dim')} → {marked(new, 'new')}"


def _alike(one: str, other: str) -> int:
    """Return how many letters two texts have in common at their beginnings."""
    pairs = zip(one, other, strict=False)
    return next((at for at, (a, b) in enumerate(pairs) if a != b), min(len(one), len(other)))


def _made_of(step: Step) -> str:
    """Return what stands for the source of a step that has none."""
    if isinstance(step, Write):
        return "a small file" if step.text else "a picture"
    if isinstance(step, Softlink):
        return written(os.path.normpath(join(parent(step.target), step.text)))
    return ""


def _show_unpacked(terminal: Terminal, step: Step, *, whole: bool) -> None:
    """Print where the files of archives stand in the folder that they are unpacked to."""
    parts = step.parts if isinstance(step, Unpack) else ()
    names = sorted(written(rest) for part in parts for rest in part.layout.values())
    shown = names if whole or len(names) <= _UNPACKED_SHOWN + 1 else names[:_UNPACKED_SHOWN]
    for name in shown:
        terminal.say(terminal.styled(f"        {name}", "dim"))
    if len(names) > len(shown):
        terminal.say(terminal.styled(f"        … and {len(names) - len(shown):,} more (--whole lists them)", "dim"))


def _counted(steps: Sequence[Step]) -> str:
    moves = [step for step in steps if step.kind is StepKind.MOVE]
    renamed = sum(1 for step in moves if name_of(step.source) != name_of(step.target))
    moved = sum(1 for step in moves if parent(step.source) != parent(step.target))
    others = {word: sum(1 for step in steps if step.kind is do) for do, word in _WORDS.items()}
    of_them = " and renamed" if renamed == moved else f", {renamed:,} of them renamed"
    both = f"{moved:,} moved{of_them if renamed else ''}" if moved else ""
    if renamed and moved < len(moves):  # some stay in their folders
        both = f"{renamed:,} with a new name, {len(moves) - renamed:,} moved only" if moved else f"{renamed:,} renamed"
    return ", ".join([both] * bool(both) + [f"{count:,} {word}" for word, count in others.items() if count])


def _show_summary(terminal: Terminal, groups: dict[str, list[Step]]) -> None:
    terminal.say()
    rows = [
        (name, _counted(steps), written(name_of(steps[0].target or steps[0].source))) for name, steps in groups.items()
    ]
    terminal.table(Table(("group", "steps", "for example"), rows, least=("for example",)))
    terminal.say()
    terminal.say("One group whole: magpie plans N --group NAME; everything: magpie plans N --whole.")


def _show_conflicts(terminal: Terminal, conflicts: Sequence[Conflict]) -> None:
    if not conflicts:
        return
    terminal.say()
    head = f"{count_text(len(conflicts), 'conflict')}: these want one name, so all stay where they are"
    terminal.say(terminal.styled(head, "warn"))
    for conflict in conflicts:
        terminal.say(f"  {written(conflict.target)}")
        for item in conflict.items:
            terminal.say(f"    ← {written(item)}")
        terminal.say(f"      {terminal.styled(conflict.why, 'dim')}")


def _show_folders(terminal: Terminal, steps: Iterable[Step], *, named: bool) -> None:
    made = [step for step in steps if step.kind is StepKind.MAKE]
    dropped = [step for step in steps if step.kind is StepKind.DROP and _has_no_line(step)]
    if not made and not dropped:
        return
    terminal.say()
    parts = [count_text(len(made), "new folder")] if made else []
    parts += [f"{count_text(len(dropped), 'emptied folder')} will be removed"] * bool(dropped)
    terminal.say(f"Folders: {', '.join(parts)}.")
    if named:
        for step in (*made, *dropped):
            terminal.say(f"  {'+' if step.kind is StepKind.MAKE else '-'} {written(step.target or step.source)}/")


def _show_left(terminal: Terminal, left: Sequence[Unmoved]) -> None:
    if not left:
        return
    by_reason: dict[str, list[tuple[Unmoved, str]]] = {}
    for one in left:
        why = _NOTE.sub("", one.why)
        by_reason.setdefault(why, []).append((one, one.why[len(why) :]))
    terminal.say()
    terminal.say(terminal.styled(f"Left where they are: {count_text(len(left), 'file')}", "warn"))
    for why, ones in sorted(by_reason.items(), key=lambda pair: (not pair[1][0][0].asks, -len(pair[1]), pair[0])):
        notes = {note for _, note in ones}
        is_one = len(notes) == 1
        terminal.say(f"  {why}{ones[0][1] if is_one else ''}")
        by_path: dict[str, list[str]] = {}  # an archive stands here once, whatever is left of it
        for one, note in ones:
            by_path.setdefault(one.path, []).append("" if is_one else note)
        shown = list(by_path.items())[: None if terminal.verbose else _LEFT_SHOWN]
        for path, said in shown:
            terminal.say(f"    {terminal.styled(written(named_on_target(path)), 'dim')}{_left_of_it(said)}")
        if len(by_path) > len(shown):
            terminal.say(f"    … and {len(by_path) - len(shown):,} more (-v lists them)")


def _left_of_it(notes: Sequence[str]) -> str:
    """Return how much of one file is left, and what is said of it alone: the first note, and how many more."""
    count = f"  {count_text(len(notes), 'file')} in it" if len(notes) > 1 else ""
    first, *more = dict.fromkeys(notes)
    return f"{count}{' ' if first else ''}{first}{f' and {len(more):,} more' if more else ''}"


_NOTE = re.compile(r" \(“[^()]*”[^()]*\)$")
"""What a question says of one thing alone: “which of the names is the artist's? (“Kelp” may be the artist)”."""
