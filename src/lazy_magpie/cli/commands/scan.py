"""`magpie scan [PATH…]`: reads what is on disk into the catalogue."""

from __future__ import annotations

import argparse
import os
import sys
from collections.abc import Sequence

from lazy_magpie.catalogue import Catalogue
from lazy_magpie.cli.main import NEEDS_YOU
from lazy_magpie.cli.parser import JOBS
from lazy_magpie.cli.selection import collection_of, path_in
from lazy_magpie.cli.signals import stoppable
from lazy_magpie.cli.terminal import Terminal
from lazy_magpie.collection import Collection
from lazy_magpie.drives import present
from lazy_magpie.errors import BusyError, MagpieError, UsageError
from lazy_magpie.formatting import bytes_text, count_text
from lazy_magpie.paths import written
from lazy_magpie.scan import ScanResult, scan
from lazy_magpie.scan.watch import changes
from lazy_magpie.services.session import writing

_EXAMPLES = """examples:
  magpie scan                  everything
  magpie scan Films/New        one folder
  magpie scan --watch          all, and then what changes
"""

_REFUSED_SHOWN = 20


def register(parser: argparse.ArgumentParser) -> None:
    """Add the arguments of `scan`."""
    parser.epilog = _EXAMPLES
    parser.add_argument("paths", nargs="*", metavar="PATH", help="folders of the collection; all of it if none")
    parser.add_argument("--full", action="store_true", help="read everything again, not only what changed")
    parser.add_argument("--watch", action="store_true", help="then go on: scan again what changes, until Ctrl-C")
    parser.add_argument("--jobs", type=JOBS, default=0, metavar="N", help="parallel readers (default: one per core)")
    parser.set_defaults(run=run)


def run(args: argparse.Namespace, terminal: Terminal) -> int:
    """Scan under the lock and say what was found; with --watch, go on as often as something changes."""
    collection = collection_of(args)
    if not os.access(collection.root, os.R_OK | os.X_OK):
        raise MagpieError(f"The folder {collection.root} can't be read: no permission. Check its permissions.")
    found, tops = _scan(args, args.paths, collection, terminal)
    _show(terminal, found)
    if args.watch:
        return _watch(args, collection, tops, terminal)
    return NEEDS_YOU if found.unreadable or found.notes else 0


def _scan(
    args: argparse.Namespace, words: Sequence[str], collection: Collection, terminal: Terminal
) -> tuple[ScanResult, list[str]]:
    """Scan what `words` name; return what was found, and the folders of the roots that are there."""
    with writing(collection, "scan", terminal.note, scanned=False) as catalogue:
        paths = _paths(words, collection, catalogue)
        with terminal.progress("walking") as tick:
            found = scan(
                catalogue,
                collection,
                paths or None,
                full=args.full,
                jobs=args.jobs,
                progress=lambda what, done: tick(done, what),
            )
        tops = list(present(catalogue, collection).values())
    return found, tops


def _watch(args: argparse.Namespace, collection: Collection, tops: Sequence[str], terminal: Terminal) -> int:
    """Scan the folders that change, until Ctrl-C; while another command writes, they wait."""
    args.full = False
    waiting: set[str] = set()
    with stoppable() as stop:
        terminal.note("Watching; Ctrl-C ends it.")
        for folders in changes(tops, stop):
            waiting |= {folder for folder in folders if os.path.isdir(folder)}
            try:
                found, _ = _scan(args, sorted(waiting) or tops, collection, terminal)
                waiting.clear()
                if found.new or found.changed or found.moved or found.missing:
                    _show(terminal, found)
            except BusyError as busy:
                terminal.note(f"{busy}")
    return 0


def _paths(words: Sequence[str], collection: Collection, catalogue: Catalogue) -> list[str]:
    here = present(catalogue, collection)
    found = []
    for word in words:
        path = path_in(collection, here, word)
        if path is None:
            raise UsageError(f"There is no “{word}” in the collection {collection.root}.")
        found.append(path)
    return found


def _show(terminal: Terminal, found: ScanResult) -> None:
    _say(terminal, found)
    sys.stdout.flush()


def _say(terminal: Terminal, found: ScanResult) -> None:
    all_of = [*found.unreadable, *found.refused]
    if terminal.as_json:
        terminal.json(
            {
                "files": found.files,
                "new": found.new,
                "changed": found.changed,
                "moved": found.moved,
                "missing": found.missing,
                "unreadable": len(found.unreadable) + len(found.refused),
                "bytes": found.bytes,
                "tagged": found.tagged,
                "seconds": found.seconds,
                "unreadable_paths": [{"root": one.root, "path": written(one.path), "why": one.why} for one in all_of],
                "notes": list(found.notes),
            }
        )
        return
    for note in found.notes:
        terminal.note(note)
    terminal.say(f"{count_text(found.files, 'file')}, {bytes_text(found.bytes)}, in {found.seconds['all']:.1f} s")
    counts = {"new": found.new, "changed": found.changed, "moved": found.moved, "missing": found.missing}
    terminal.say("  " + ", ".join(f"{count:,} {word}" for word, count in counts.items()))
    if found.tagged:
        terminal.say(f"  {count_text(found.tagged, 'item')} tagged: other programs have tagged their files")
    if found.links:
        terminal.say(f"  {count_text(found.links, 'symbolic link')} passed by")
    shown = all_of if terminal.verbose else [*found.unreadable, *found.refused[:_REFUSED_SHOWN]]
    for root, path, why in shown:
        place = f"{root}: {written(path)}" if root else written(path)
        terminal.say(terminal.styled(f"  can't be read: {place}: {written(why)}", "warn"))
    if len(all_of) > len(shown):
        terminal.say(f"  … and {len(all_of) - len(shown):,} more (“magpie find unreadable known” lists them)")
