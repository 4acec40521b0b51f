"""`magpie mirror DIR`: the backup compared, brought up to date, and used to mend what has rotted."""

from __future__ import annotations

import argparse
import os
import time
from collections import Counter
from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager
from itertools import groupby
from pathlib import Path
from typing import TYPE_CHECKING, Any

from lazy_magpie.catalogue import opened
from lazy_magpie.cli.csv_output import print_csv
from lazy_magpie.cli.items_argument import add_listed
from lazy_magpie.cli.main import NEEDS_YOU
from lazy_magpie.cli.output_file import check_page, write_new, written_whole
from lazy_magpie.cli.proposal import add_proposal, answer, propose
from lazy_magpie.cli.selection import collection_of, path_in, some_of
from lazy_magpie.cli.signals import stoppable
from lazy_magpie.cli.terminal import Terminal, Ticker
from lazy_magpie.collection import Collection
from lazy_magpie.drives import present
from lazy_magpie.errors import MagpieError, UsageError
from lazy_magpie.formatting import count_text, duration_of
from lazy_magpie.mirrors import Difference, MirrorState
from lazy_magpie.paths import written

if TYPE_CHECKING:
    from lazy_magpie.services.mirror import Mirroring

_EXAMPLES = """examples:
  magpie mirror /media/backup                  what differs, by sizes, times and what is remembered
  magpie mirror /media/backup --contents       read both sides whole; go on where the last run stopped: --since 30d
  magpie mirror /media/backup --refresh        plan bringing it up to date; what is replaced is held there
  magpie mirror kites.sha256 --write sha256    a checksum list that sha256sum -c reads; a bag: --write bagit
  magpie mirror /media/backup --restore Films  take back what is rotten or lost here
A mirror may have a name and find words in magpie.toml: [mirror.NAME] with folder and items.
"""
_SHOWN = 6
_AS_BYTES: Mapping[str, Any] = {"encoding": "utf-8", "errors": "surrogateescape", "newline": ""}
_CHECKED = {
    "sha256": "sha256sum -c reads it, in the collection's folder.",
    "bagit": "Any BagIt program reads it; so does: magpie mirror {} --verify",
}
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
    parser.add_argument(
        "dir", metavar="DIR", help="the folder of the backup, or the name of a mirror; of --write a path"
    )
    how = parser.add_mutually_exclusive_group()
    how.add_argument("--refresh", action="store_true", help="plan bringing it up to date")
    how.add_argument("--restore", nargs="+", metavar="ITEMS", help="plan taking back what is rotten or lost here")
    how.add_argument("--write", choices=("sha256", "bagit"), help="write a checksum list, or a bag, to DIR")
    how.add_argument("--verify", action="store_true", help="hold what lies there against a checksum list, or a bag")
    add_listed(parser, "with --write: of the paths in FILE, one a line")
    parser.add_argument(
        "--items", dest="words", nargs="+", metavar="ITEMS", default=[], help="with --write: of these, not of all"
    )
    parser.add_argument("--contents", action="store_true", help="read both sides whole, not names, sizes and times")
    parser.add_argument("--since", metavar="30d", default="", help="with --contents: but what was read since then")
    parser.add_argument("--keep-extra", action="store_true", help="with --refresh: leave what is only there")
    parser.add_argument("--csv", action="store_true", help="comma-separated values for a spreadsheet")
    parser.add_argument("--page", metavar="FILE.html", help="write a page to look at in a browser")
    add_proposal(parser)
    parser.set_defaults(run=run)


def run(args: argparse.Namespace, terminal: Terminal) -> int:
    """Compare, and list what differs or make the plan; or write and verify checksum lists."""
    if args.verify:
        return _verify(Path(args.dir), terminal)
    collection = collection_of(args)
    if args.write:
        return _write(args, collection, terminal)
    return _plan(args, collection, terminal) if args.refresh or args.restore else _compare(args, collection, terminal)


@contextmanager
def _walked(args: argparse.Namespace, collection: Collection, terminal: Terminal) -> Iterator[tuple[Mirroring, Ticker]]:
    """Yield the collection beside its mirror, read where that was asked for, and what tells of progress."""
    from lazy_magpie.services.mirror import Mirroring, mirror_named
    from lazy_magpie.services.session import writing

    mirror = mirror_named(collection, args.dir)
    since = _since(args.since)
    with (
        writing(collection, "mirror", terminal.note) as catalogue,
        stoppable() as stop,
        terminal.progress("comparing") as tick,
    ):
        mirroring = Mirroring(collection, catalogue, mirror, tick)
        for path, why in mirroring.read(since, tick, stop) if args.contents else ():
            terminal.note(f"can't be read: {written(path)}: {why}")
        yield mirroring, tick
        for path, why in mirroring.unread:
            terminal.note(f"can't be read: {written(path) or '.'}: {why}")


def _compare(args: argparse.Namespace, collection: Collection, terminal: Terminal) -> int:
    from lazy_magpie.report import mirror_page

    if args.page:
        check_page(Path(args.page), force=args.force)
    with _walked(args, collection, terminal) as (mirroring, _):
        differences = mirroring.differences()
        count = len(mirroring.here)
    if args.page:
        page = mirror_page(collection.name, sorted(differences, key=_order_of))
        write_new(Path(args.page), page, force=args.force)
        terminal.note(f"The page is {args.page}.")
    elif terminal.as_json or args.csv:
        _lines(terminal, differences, as_csv=args.csv)
    else:
        with terminal.paged():
            _show(terminal, differences, count, whole=args.whole)
        if differences:
            terminal.note(f"\nNext: magpie mirror {args.dir} --refresh")
    return NEEDS_YOU if differences else 0


def _plan(args: argparse.Namespace, collection: Collection, terminal: Terminal) -> int:
    """Plan refreshing the mirror, or taking back from it."""
    with _walked(args, collection, terminal) as (mirroring, tick):
        catalogue = mirroring.catalogue
        if args.restore:
            roots = present(catalogue, collection)
            named = [(path_in(collection, roots, word), word) for word in args.restore]
            paths = [collection.relative(path) or "" if path else word.rstrip("/") for path, word in named]
            plan = mirroring.restore(paths, tick)
        else:
            plan = mirroring.refresh(keep_extra=args.keep_extra)
        proposal = propose(collection, catalogue, plan, args, terminal)
    nothing = "Nothing of it is rotten or lost." if args.restore else "The mirror holds what the collection does."
    return answer(proposal, args, terminal, nothing)


def _write(args: argparse.Namespace, collection: Collection, terminal: Terminal) -> int:
    """Write a checksum list or a bag of what is in the collection, or of some of it."""
    from lazy_magpie.mirrors.manifests import checksum_lines, write_bag

    root, out = str(collection.root), Path(args.dir)
    with opened(collection) as catalogue:
        condition = some_of(collection, catalogue, args.words)
        items = [item for item in catalogue.items.ask(condition) if not item.root and not item.missing]
    paths = {file.path for item in items for file in item.files if os.path.isfile(os.path.join(root, file.path))}
    with terminal.progress("reading") as tick:
        try:
            if args.write == "bagit":
                out.mkdir()
                write_bag(out, root, paths, collection.name, tick)
            else:
                with written_whole(out, force=args.force) as part, part.open("w", **_AS_BYTES) as file:
                    file.writelines(checksum_lines(root, paths, tick))
        except FileExistsError:
            raise UsageError(f"{out} is there already; name a new folder.") from None
        except OSError as error:
            raise MagpieError(f"{out} can't be written: {(error.strerror or str(error)).lower()}.") from error
    terminal.say(f"{out}: {count_text(len(paths), 'file')}.")
    terminal.note(_CHECKED[args.write].format(out))
    return 0


def _verify(path: Path, terminal: Terminal) -> int:
    """Say which files of a checksum list, or of a bag, are not as it says."""
    from lazy_magpie.services.manifests import verified

    wrong = count = 0
    with terminal.progress("reading") as tick:
        try:
            for name, why in verified(path, tick):
                count += 1
                if why:
                    wrong += 1
                    terminal.say(f"{written(name)}: {why}")
        except OSError as error:
            raise MagpieError(f"{path} can't be read: {(error.strerror or str(error)).lower()}.") from error
    terminal.say(f"{count_text(count, 'file')}, {wrong:,} not as listed.")
    return NEEDS_YOU if wrong else 0


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
    ordered = sorted(differences, key=_order_of)
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


def _order_of(one: Difference) -> tuple[int, str]:
    return _ORDER.index(one.state), one.path


def _lines(terminal: Terminal, differences: Sequence[Difference], *, as_csv: bool) -> None:
    rows = [(one.state.value, written(one.path), written(one.other), one.why) for one in differences]
    if as_csv:
        print_csv(_COLUMNS, rows)
        return
    for row in rows:
        terminal.json(dict(zip(_COLUMNS, row, strict=True)))
