"""`magpie scan [PATH…]`: reads what is on disk into the catalogue."""

from __future__ import annotations

import argparse
import os

from lazy_magpie.catalogue import opened
from lazy_magpie.change import locked
from lazy_magpie.cli.choose import collection_of, path_of, recovered
from lazy_magpie.cli.main import NEEDS_YOU
from lazy_magpie.cli.terminal import Terminal
from lazy_magpie.errors import MagpieError, UsageError
from lazy_magpie.paths import written
from lazy_magpie.scan import Scanned, scan
from lazy_magpie.units import count_text, size_text

_EXAMPLES = """examples:
  magpie scan                  everything
  magpie scan Films/New        one folder
"""


_REFUSED_SHOWN = 20


def register(parser: argparse.ArgumentParser) -> None:
    """Add the arguments of `scan`."""
    parser.epilog = _EXAMPLES
    parser.add_argument("paths", nargs="*", metavar="PATH", help="folders of the collection; all of it if none")
    parser.add_argument("--full", action="store_true", help="read everything anew, not only what changed")
    parser.add_argument("--jobs", type=int, default=0, metavar="N", help="files read at a time; as many as cores")
    parser.set_defaults(run=run)


def run(args: argparse.Namespace, terminal: Terminal) -> int:
    """Scan under the lock and say what was found."""
    collection = collection_of(args)
    paths = []
    for word in args.paths:
        path = path_of(collection, word)
        if path is None:
            raise UsageError(f"There is no “{word}” in the collection {collection.root}.")
        paths.append(path)
    if not os.access(collection.root, os.R_OK | os.X_OK):
        raise MagpieError(f"The folder {collection.root} can't be read: no permission. Check its permissions.")
    with locked(collection.own, "scan"), opened(collection, write=True, scanned=False) as catalogue:
        recovered(collection, catalogue, terminal)
        with terminal.progress("walking") as tick:
            found = scan(
                catalogue,
                collection,
                paths or [""],
                full=args.full,
                jobs=args.jobs,
                progress=lambda what, done: tick(done, what),
            )
    _show(terminal, found)
    return NEEDS_YOU if found.unreadable else 0


def _show(terminal: Terminal, found: Scanned) -> None:
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
                "seconds": found.seconds,
                "unreadable_paths": [{"path": written(path), "why": why} for path, why in all_of],
            }
        )
        return
    terminal.say(f"{count_text(found.files, 'file')}, {size_text(found.bytes)}, in {found.seconds['all']:.1f} s")
    counts = {"new": found.new, "changed": found.changed, "moved": found.moved, "missing": found.missing}
    terminal.say("  " + ", ".join(f"{count:,} {word}" for word, count in counts.items()))
    if found.links:
        terminal.say(f"  {count_text(found.links, 'symbolic link')} passed by")
    shown = all_of if terminal.verbose else [*found.unreadable, *found.refused[:_REFUSED_SHOWN]]
    for path, why in shown:
        terminal.say(terminal.styled(f"  can't be read: {written(path)}: {written(why)}", "warn"))
    if len(all_of) > len(shown):
        terminal.say(f"  … and {len(all_of) - len(shown):,} more (“magpie find unreadable known” lists them)")
