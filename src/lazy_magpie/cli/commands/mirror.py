"""`magpie mirror DIR`: the backup compared, brought up to date, and used to mend what has rotted."""

from __future__ import annotations

import argparse
import time
from collections import Counter
from collections.abc import Sequence
from itertools import groupby

from lazy_magpie.cli.csv_output import print_csv
from lazy_magpie.cli.main import NEEDS_YOU
from lazy_magpie.cli.proposal import add_proposal, answer, propose
from lazy_magpie.cli.selection import collection_of, path_in
from lazy_magpie.cli.signals import stoppable
from lazy_magpie.cli.terminal import Terminal
from lazy_magpie.drives import present
from lazy_magpie.errors import UsageError
from lazy_magpie.formatting import count_text, duration_of
from lazy_magpie.mirrors import Difference, MirrorState
from lazy_magpie.paths import written

_EXAMPLES = """examples:
  magpie mirror /media/backup                  what differs, by sizes, times and what is remembered
  magpie mirror /media/backup --contents       read both sides whole; go on where the last run stopped: --since 30d
  magpie mirror /media/backup --refresh        plan bringing it up to date; what is replaced is held there
  magpie mirror /media/backup --restore Films  take back what is rotten or lost here
A mirror may have a name and find words in magpie.toml: [mirror.NAME] with folder and items.
"""
_SHOWN = 6
_COLUMNS = ("state", "path", "other", "why")
_ORDER = (
    MirrorState.ROTTEN_HERE,
    MirrorState.ROTTEN_THERE,
    MirrorState.DIFFERS,
    MirrorState.MISSING,
    MirrorState.MOVED,
    MirrorState.EXTRA,
)


def register(parser: argparse.ArgumentParser) -> None:
    """Add the arguments of `mirror`."""
    parser.epilog = _EXAMPLES
    parser.add_argument("dir", metavar="DIR", help="the folder of the backup, or the name of a mirror")
    how = parser.add_mutually_exclusive_group()
    how.add_argument("--refresh", action="store_true", help="plan bringing it up to date")
    how.add_argument("--restore", nargs="+", metavar="ITEMS", help="plan taking back what is rotten or lost here")
    parser.add_argument("--contents", action="store_true", help="read both sides whole, not names, sizes and times")
    parser.add_argument("--since", metavar="30d", default="", help="with --contents: but what was read since then")
    parser.add_argument("--keep-extra", action="store_true", help="with --refresh: leave what is only there")
    parser.add_argument("--csv", action="store_true", help="comma-separated values for a spreadsheet")
    add_proposal(parser)
    parser.set_defaults(run=run)


def run(args: argparse.Namespace, terminal: Terminal) -> int:
    """Compare, and list what differs or make the plan."""
    from lazy_magpie.services.mirror import Mirroring, mirror_named, place_of
    from lazy_magpie.services.session import writing

    collection = collection_of(args)
    mirror = mirror_named(collection, args.dir)
    since = _since(args.since)
    with writing(collection, "mirror", terminal.note) as catalogue, stoppable() as stop:
        folder = place_of(collection, mirror)
        with terminal.progress("comparing") as tick:
            mirroring = Mirroring(collection, catalogue, mirror, folder, tick)
            if args.contents:
                for path, why in mirroring.read(since, tick, stop):
                    terminal.note(f"can't be read: {written(path)}: {why}")
            if args.restore:
                roots = present(catalogue, collection)
                named = [(path_in(collection, roots, word), word) for word in args.restore]
                paths = [collection.relative(path) or "" if path else word.rstrip("/") for path, word in named]
                plan = mirroring.restore(paths, tick)
            elif args.refresh:
                plan = mirroring.refresh(keep_extra=args.keep_extra)
            else:
                differences = mirroring.differences()
        for path, why in mirroring.unread:
            terminal.note(f"can't be read: {written(path) or '.'}: {why}")
        if args.restore or args.refresh:
            proposal = propose(collection, catalogue, plan, args, terminal)
    if args.restore:
        return answer(proposal, args, terminal, "Nothing of it is rotten or lost.")
    if args.refresh:
        return answer(proposal, args, terminal, f"{mirror.name} holds what the collection does.")
    if terminal.as_json or args.csv:
        _lines(terminal, differences, as_csv=args.csv)
    else:
        with terminal.paged():
            _show(terminal, differences, len(mirroring.here), whole=args.whole)
        if differences:
            terminal.note(f"\nNext: magpie mirror {args.dir} --refresh")
    return NEEDS_YOU if differences else 0


def _since(word: str) -> float:
    """Return the moment, in seconds, that a time ago was; 0 for none. Raises UsageError."""
    if not word:
        return 0.0
    seconds = duration_of(word)
    if seconds is None:
        raise UsageError(f"“{word}” is no time; write it as 30d.")
    return time.time() - seconds


def _show(terminal: Terminal, differences: Sequence[Difference], count: int, *, whole: bool) -> None:
    """Print how many files are in which state, by their topmost folders, then the files."""
    if not differences:
        terminal.say(f"The same on both sides: {count_text(count, 'file')}.")
        return
    states = Counter(one.state for one in differences)
    terminal.say(", ".join(f"{states[state]:,} {state.value}" for state in _ORDER if states[state]) + ".")
    ordered = sorted(differences, key=lambda one: (_ORDER.index(one.state), one.path))
    for state, some in groupby(ordered, key=lambda one: one.state):
        found = list(some)
        terminal.say(f"\n{terminal.styled(state.value, 'bold')}  {len(found):,}")
        folders = Counter(one.path.partition("/")[0] if "/" in one.path else "." for one in found)
        if len(found) > _SHOWN and not whole:
            for folder, number in folders.most_common():
                terminal.say(f"  {written(folder)}/  {count_text(number, 'file')}")
            terminal.say(f"  first: {written(found[0].path)}  (--whole lists all)")
            continue
        for one in found:
            old = f"  there {written(one.other)}" if one.other else ""
            said = f"{old}{f'  {one.why}' if one.why else ''}"
            terminal.say(f"  {written(one.path)}{terminal.styled(said, 'dim')}")


def _lines(terminal: Terminal, differences: Sequence[Difference], *, as_csv: bool) -> None:
    rows = [(one.state.value, written(one.path), written(one.other), one.why) for one in differences]
    if as_csv:
        print_csv(_COLUMNS, rows)
        return
    for row in rows:
        terminal.json(dict(zip(_COLUMNS, row, strict=True)))
