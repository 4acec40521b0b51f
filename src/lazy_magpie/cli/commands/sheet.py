"""`magpie sheet make FILE.xlsx [ITEMS]` and `magpie sheet take FILE.xlsx`: items in a worksheet, to be filled in."""

from __future__ import annotations

import argparse
from collections.abc import Iterator, Sequence
from pathlib import Path

from lazy_magpie import spreadsheet
from lazy_magpie.catalogue import Catalogue, opened
from lazy_magpie.cli.commands.apply import apply_plan
from lazy_magpie.cli.items_argument import add_items
from lazy_magpie.cli.json_output import plan_shape
from lazy_magpie.cli.main import NEEDS_YOU
from lazy_magpie.cli.output_file import is_there, written_whole
from lazy_magpie.cli.selection import collection_of, condition_of, told_of_crash
from lazy_magpie.cli.terminal import Terminal
from lazy_magpie.collection import Collection
from lazy_magpie.drives import present
from lazy_magpie.errors import UsageError
from lazy_magpie.fields import shown
from lazy_magpie.formatting import count_text
from lazy_magpie.labels import label
from lazy_magpie.model import Answer, Plan, Step
from lazy_magpie.model.steps import SetField, SetTags, Settle, renumbered
from lazy_magpie.paths import written
from lazy_magpie.planners import worksheet
from lazy_magpie.planners.worksheet import Problem
from lazy_magpie.services import execute
from lazy_magpie.services.propose import with_tags
from lazy_magpie.services.session import writing
from lazy_magpie.spreadsheet import Cell

_EXAMPLES = """examples:
  magpie sheet make kits.xlsx Kits kind is kit     one row an item, with columns to fill in
  magpie sheet make doubts.xlsx state is doubtful --identity     titles and years to fill in, too
  magpie sheet take kits.xlsx                      what was filled in, as a plan
"""
_ENDINGS = (".xlsx", ".csv")
_SHOWN = 40


def register(parser: argparse.ArgumentParser) -> None:
    """Add the arguments of `sheet`."""
    parser.epilog = _EXAMPLES
    parser.add_argument("do", choices=["make", "take"], help="make a sheet, or take what was filled in")
    parser.add_argument("file", metavar="FILE", help="a workbook (.xlsx) or .csv")
    add_items(parser, "make: paths or find words; everything if none")
    parser.add_argument("--identity", action="store_true", help="make: title, year, show and so on to fill in, too")
    parser.add_argument("--force", action="store_true", help="make: replace a file that is there")
    parser.add_argument("--partly", action="store_true", help="take: take the rows that are right, leave the others")
    parser.add_argument("--new", action="store_true", help="take: accept tags that look like typos")
    parser.add_argument("--now", action="store_true", help="take: apply the plan at once")
    parser.set_defaults(run=run)


def run(args: argparse.Namespace, terminal: Terminal) -> int:
    """Make a sheet, or take one."""
    collection = collection_of(args)
    if not args.file.lower().endswith(_ENDINGS):
        raise UsageError(f"A sheet is a workbook (.xlsx) or .csv; call the file {Path(args.file).name}.xlsx.")
    if args.do == "make":
        return _make(args, collection, terminal)
    if args.words:
        raise UsageError("“magpie sheet take” takes one file and no items; the rows say which are meant.")
    return _take(args, collection, terminal)


def _make(args: argparse.Namespace, collection: Collection, terminal: Terminal) -> int:
    path = Path(args.file)
    if path.exists() and not args.force:
        raise is_there(path)
    with opened(collection) as catalogue:
        told_of_crash(collection, terminal)
        condition = condition_of(collection, catalogue, args.words)
        kinds = dict.fromkeys(item.kind for item in catalogue.items.ask(condition))
        if not kinds:
            raise UsageError("Nothing found to make a sheet of; “magpie find” lists what there is.")
        fields, tags = collection.config.fields.values(), list(catalogue.tags.counts())
        about = worksheet.columns(kinds, fields, tags, roots=bool(collection.config.roots), identity=args.identity)
        tops, count = present(catalogue, collection), 0

        def rows() -> Iterator[Sequence[Cell]]:
            nonlocal count
            for item in catalogue.items.ask(condition):
                count += 1
                tick(count)
                yield worksheet.row(item, about, tops)

        with terminal.progress("writing") as tick, written_whole(path, force=args.force) as part:
            spreadsheet.write(str(part), about, rows())
    if terminal.as_json:
        terminal.json({"file": str(path), "rows": count, "columns": [column.name for column in about]})
    to_fill = ", ".join(column.name for column in about if column.to_fill)
    terminal.note(f"{count_text(count, 'row')} in {path}; to fill in: {to_fill}. Then: magpie sheet take {path}")
    return 0


def _take(args: argparse.Namespace, collection: Collection, terminal: Terminal) -> int:
    if not Path(args.file).is_file():
        raise UsageError(f"There is no file {args.file}; “magpie sheet make” makes one.")
    with writing(collection, "sheet take", terminal.note) as catalogue:
        steps, problems, moved = _read(args, collection, catalogue)
        for text in moved[:_SHOWN]:
            terminal.note(f"moved since: {text}")
        if problems and not args.partly:
            steps = []
        every = with_tags(collection, steps)
        plan = Plan("sheet take", renumbered(every))
        if steps:
            plan = execute.keep(collection, catalogue, plan)
        _show(terminal, plan, problems)
        if args.now and steps:
            return apply_plan(collection, catalogue, plan, terminal) or (NEEDS_YOU if problems else 0)
    if terminal.as_json:
        terminal.json({**plan_shape(plan), "problems": [problem._asdict() for problem in problems]})
    elif steps:
        terminal.note(f"\nNothing has changed yet. Next: magpie apply {plan.number}")
    elif problems:
        terminal.note("Nothing was taken. Correct the cells, or take the other rows with --partly.")
    else:
        terminal.note("Nothing was changed in the sheet.")
    return NEEDS_YOU if problems else 0


def _read(
    args: argparse.Namespace, collection: Collection, catalogue: Catalogue
) -> tuple[list[Step], list[Problem], list[str]]:
    names, rows = spreadsheet.read(args.file)
    for name in (worksheet.ID, worksheet.WAS):
        if name not in names:
            raise UsageError(f"{args.file} has no column “{name}”, so it is no sheet of magpie's; make a new one.")
    return worksheet.plan_rows(catalogue, names, rows, collection.config.fields, new_tags=args.new)


def _show(terminal: Terminal, plan: Plan, problems: Sequence[Problem]) -> None:
    """Print what changes, old and new, and what can't be taken."""
    if terminal.as_json:
        return
    changes = [step for step in plan.steps if isinstance(step, SetField | SetTags | Settle)]
    shown_steps = changes if terminal.verbose else changes[:_SHOWN]
    path = ""
    for step in shown_steps:
        if step.source != path:
            path = step.source
            terminal.say(written(path))
        name, old, new = change_of(step)
        before = terminal.styled(old or "nothing", "old")
        terminal.say(f"  {name}: {before} → {terminal.styled(new or 'nothing', 'new')}")
    if len(changes) > len(shown_steps):
        terminal.say(f"… and {len(changes) - len(shown_steps):,} more (-v lists them)")
    if changes:
        terminal.say(f"{count_text(len({step.item for step in changes}), 'item')} changed.")
    if problems:
        terminal.say(terminal.styled(f"{count_text(len(problems), 'cell')} can't be taken:", "warn"))
    for problem in problems if terminal.verbose else problems[:_SHOWN]:
        place = problem.cell or f"row {problem.row}"
        terminal.say(f"  {place} ({problem.column}): {written(problem.text)}")
    if len(problems) > _SHOWN and not terminal.verbose:
        terminal.say(f"  … and {len(problems) - _SHOWN:,} more (-v lists them)")


def _called(answer: Answer | None) -> str:
    return written(label(answer.kind, answer.fields)) if answer else ""


def change_of(step: SetField | SetTags | Settle) -> tuple[str, str, str]:
    """Return what a step changes: the name of a field, of the tags or of all, the old value and the new one."""
    if isinstance(step, Settle):
        return "what it is", _called(step.old) or "as it was read", _called(step.new)
    if isinstance(step, SetField):
        return step.field, written(shown(step.field, step.old)), written(shown(step.field, step.new))
    return (
        worksheet.TAGS,
        written(shown(worksheet.TAGS, list(step.old))),
        written(shown(worksheet.TAGS, list(step.new))),
    )
