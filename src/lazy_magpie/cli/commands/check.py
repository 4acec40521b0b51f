"""`magpie check [ITEMS]`: what a player would not see and what else is wrong, with the fix."""

from __future__ import annotations

import argparse
from collections.abc import Sequence
from itertools import groupby
from pathlib import Path

from lazy_magpie.catalogue import Catalogue, Condition
from lazy_magpie.checks.findings import Finding
from lazy_magpie.cli.csv_output import print_csv
from lazy_magpie.cli.items_argument import add_items
from lazy_magpie.cli.main import NEEDS_YOU
from lazy_magpie.cli.output_file import check_page, write_new
from lazy_magpie.cli.proposal import add_proposal, answer, check_fix, propose
from lazy_magpie.cli.selection import collection_of, some_of
from lazy_magpie.cli.signals import stoppable
from lazy_magpie.cli.table import cell_width
from lazy_magpie.cli.terminal import Terminal
from lazy_magpie.collection import Collection
from lazy_magpie.config.sections.target import size_of
from lazy_magpie.errors import UsageError
from lazy_magpie.formatting import count_text, duration_of
from lazy_magpie.paths import written

_EXAMPLES = """examples:
  magpie check                              everything, the worst first
  magpie check Films --rule wrong-folder,missing-part
  magpie check --player lounge              also what this player does not read
  magpie check --contents --for 2h          read again what was not read for the longest time
  magpie check --fix                        plan what can be mended
"""
_SHOWN = 5
_COLUMNS = ("rule", "path", "text", "fix")


def register(parser: argparse.ArgumentParser) -> None:
    """Add the arguments of `check`."""
    parser.epilog = _EXAMPLES
    add_items(parser, "paths or find words; everything if none")
    parser.add_argument("--rule", metavar="RULE,…", default="", help="only these rules (a wrong one lists them)")
    parser.add_argument("--player", action="append", default=[], metavar="NAME", help="this player alone, not all")
    parser.add_argument("--contents", action="store_true", help="read files again, and compare with the last reading")
    parser.add_argument("--for", dest="budget", metavar="2h", default="", help="with --contents: no longer than this")
    parser.add_argument("--bytes", metavar="200G", default="", help="with --contents: no more than this")
    parser.add_argument("--decode", action="store_true", help="with --contents: decode films, songs, pictures, zips")
    parser.add_argument("--left", action="store_true", help="also what “settle --leave” leaves as it is")
    parser.add_argument("--csv", action="store_true", help="comma-separated values for a spreadsheet")
    parser.add_argument("--page", metavar="FILE.html", help="write a page to look at in a browser")
    parser.add_argument("--fix", action="store_true", help="plan all that can be mended")
    add_proposal(parser)
    parser.set_defaults(run=run)


def run(args: argparse.Namespace, terminal: Terminal) -> int:
    """Check, and list what is found or make the plan."""
    from lazy_magpie.report import checks_page
    from lazy_magpie.services.check import (
        Asked,
        check_collection,
        plan_mending,
        players_named,
        rules_named,
        without_left,
    )
    from lazy_magpie.services.session import writing

    collection = collection_of(args)
    check_fix(args)
    if args.page:
        check_page(Path(args.page), force=args.force)
    rules = rules_named([name.strip() for name in args.rule.split(",") if name.strip()])
    players = players_named(collection, args.player)
    with writing(collection, "check", terminal.note) as catalogue:
        condition = some_of(collection, catalogue, args.words)
        rotten = _read(args, collection, catalogue, terminal, condition) if args.contents else []
        with terminal.progress("checking") as tick:
            asked = Asked(condition, rules, players, not args.words, rotten)
            findings = check_collection(catalogue, collection, asked, tick)
        every = len(findings)
        findings = findings if args.left else without_left(catalogue, findings)
        if args.fix:
            plan = plan_mending(catalogue, collection, findings)
            proposal = propose(collection, catalogue, plan, args, terminal)
    if args.fix:
        return answer(proposal, args, terminal, "Nothing that can be mended.")
    says = {rule.name: rule.says for rule in rules}
    if args.page:
        write_new(Path(args.page), checks_page(collection.name, findings, says), force=args.force)
        terminal.note(f"The page is {args.page}.")
    elif terminal.as_json or args.csv:
        _lines(terminal, findings, as_csv=args.csv)
    else:
        with terminal.paged():
            _show(terminal, findings, says, whole=args.whole)
        if left := every - len(findings):
            terminal.note(f"\n{count_text(left, 'finding')} left for ever, by your word (--left shows them).")
        if any(one.fix for one in findings):
            terminal.note("\nNext: magpie check --fix plans what can be mended.")
    return NEEDS_YOU if findings else 0


def _read(
    args: argparse.Namespace, collection: Collection, catalogue: Catalogue, terminal: Terminal, condition: Condition
) -> list[tuple[str, str]]:
    """Read files again, the longest unread first; return those whose contents are not what they were."""
    from lazy_magpie.services.mirror import Budget, check_contents

    seconds, size = duration_of(args.budget) if args.budget else 0.0, size_of(args.bytes) if args.bytes else 0
    if seconds is None or size is None:
        raise UsageError("“--for” is a time like 2h or 30m, “--bytes” a size like 200G.")
    chosen = None
    if args.words:
        chosen = {file.path for item in catalogue.items.ask(condition) if not item.root for file in item.files}
    with terminal.progress("reading") as tick, stoppable() as stop:
        wrong, count = check_contents(collection, catalogue, chosen, Budget(seconds, size, args.decode), tick, stop)
    terminal.note(f"{count_text(count, 'file')} read.")
    return wrong


def _show(terminal: Terminal, findings: Sequence[Finding], says: dict[str, str], *, whole: bool) -> None:
    """Print the findings by their rules, the first five of each; what all of a rule have in common is said once."""
    if not findings:
        terminal.say("Nothing is wrong.")
    for number, (rule, some) in enumerate(groupby(findings, key=lambda one: one.rule)):
        found = list(some)
        if number:
            terminal.say()
        mended = sum(one.fix is not None for one in found)
        can = f"  ({mended:,} can be mended)" if mended else ""
        head = f"{terminal.styled(rule, 'bold')}  {len(found):,}  {says[rule]}{terminal.styled(can, 'dim')}"
        terminal.say(head)
        is_common = len({one.text for one in found}) == 1 < len(found)
        for one in found if whole else found[:_SHOWN]:
            _say(terminal, written(one.path), "" if is_common else one.text)
        if len(found) > _SHOWN and not whole:
            terminal.say(f"  … and {len(found) - _SHOWN:,} more (--whole, or --rule {rule} --csv)")


def _say(terminal: Terminal, path: str, text: str) -> None:
    """Print a finding on one line, or on two where it is too long for one."""
    wide = terminal.width and cell_width(path) + cell_width(text) + 4 > terminal.width
    gap = "\n      " if text and wide else "  "
    terminal.say(f"  {path}{gap}{terminal.styled(text, 'dim')}".rstrip())


def _lines(terminal: Terminal, findings: Sequence[Finding], *, as_csv: bool) -> None:
    """Print a line a finding."""
    if as_csv:
        print_csv(_COLUMNS, ((one.rule, written(one.path), one.text, one.fix) for one in findings))
        return
    for one in findings:
        found = (one.rule, written(one.path), one.text, one.fix)
        terminal.json(dict(zip(_COLUMNS, found, strict=True)))
