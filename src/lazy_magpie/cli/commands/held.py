"""`magpie held`: what the holding area has; `held restore ITEMS`; `held empty`."""

from __future__ import annotations

import argparse
import datetime
import re
from collections.abc import Sequence

from lazy_magpie.catalogue import Catalogue, opened
from lazy_magpie.change import Held, RunControl, delete_held, held_things, older_than
from lazy_magpie.cli.outcome_view import show_outcome
from lazy_magpie.cli.selection import agreed, collection_of, told_of_crash
from lazy_magpie.cli.signals import stoppable
from lazy_magpie.cli.table import Table
from lazy_magpie.cli.terminal import Terminal
from lazy_magpie.collection import Collection
from lazy_magpie.errors import UsageError
from lazy_magpie.formatting import bytes_text, count_text, size_text
from lazy_magpie.paths import is_below, read_back, written
from lazy_magpie.services import execute
from lazy_magpie.services.journals import journal_store
from lazy_magpie.services.session import writing

_EXAMPLES = """examples:
  magpie held                            what is held, why, since when
  magpie held restore "Heap/Kelp.mkv"    bring one thing back
  magpie held empty --older-than 30d     delete for good what has been held for a month
"""
_DAYS = {"d": 1.0, "w": 7.0, "m": 30.0, "y": 365.0, "h": 1 / 24}


def register(parser: argparse.ArgumentParser) -> None:
    """Add the arguments of `held`."""
    parser.epilog = _EXAMPLES
    parser.add_argument(
        "words", nargs="*", metavar="restore ITEMS | empty", help="what to do; lists if nothing is said"
    )
    parser.add_argument("--older-than", metavar="TIME", help="only what has been held longer: 12h, 30d, 4w, 6m, 1y")
    parser.add_argument("--yes", action="store_true", help="empty without asking")
    parser.set_defaults(run=run)


def run(args: argparse.Namespace, terminal: Terminal) -> int:
    """List, restore or empty."""
    collection = collection_of(args)
    match args.words:
        case []:
            with opened(collection) as catalogue:
                told_of_crash(collection, terminal)
                _list(_held(collection, args), terminal)
            return 0
        case ["restore", *names] if names:
            with writing(collection, "held restore", terminal.note) as catalogue:
                return _restore(collection, catalogue, _named(_held(collection, args), names), terminal)
        case ["empty"]:
            with writing(collection, "held empty", terminal.note) as catalogue:
                return _empty(collection, _held(collection, args), args, terminal)
        case _:
            raise UsageError("“magpie held” takes “restore” with paths or words, or “empty”; alone it lists.")


def _held(collection: Collection, args: argparse.Namespace) -> list[Held]:
    ones = held_things(journal_store(collection))
    if args.older_than is None:
        return ones
    match = re.fullmatch(r"(\d+(?:\.\d+)?)([hdwmy])", args.older_than)
    if not match:
        raise UsageError(f"“{args.older_than}” is no length of time; write 12h, 30d, 4w, 6m or 1y.")
    return older_than(ones, float(match[1]) * _DAYS[match[2]], datetime.datetime.now(datetime.UTC))


def _named(ones: Sequence[Held], names: Sequence[str]) -> list[Held]:
    """Return what the names mean: paths where things were, folders above them, or words of those paths."""
    found: dict[str, Held] = {}
    for name in names:
        path = read_back(name).strip("/")
        fitting = [one for one in ones if is_below(one.origin, path)]
        fitting = fitting or [one for one in ones if name.casefold() in written(one.origin).casefold()]
        if not fitting:
            raise UsageError(f"Nothing held was called “{name}”; “magpie held” lists what there is.")
        found |= {one.path: one for one in fitting}
    return list(found.values())


def _list(ones: Sequence[Held], terminal: Terminal) -> None:
    if terminal.as_json:
        for one in ones:
            terminal.json(
                {
                    "path": written(one.path),
                    "from": written(one.origin),
                    "why": one.why,
                    "since": one.since,
                    "change": one.change,
                    "size": one.size,
                }
            )
    elif not ones:
        terminal.note("Nothing is held.")
    else:
        rows = [(one.since[:10], str(one.change), size_text(one.size), written(one.origin), one.why) for one in ones]
        terminal.table(Table(("since", "change", "size", "was", "why"), rows, ("change",), right=("change", "size")))
        terminal.note(f"{count_text(len(ones), 'thing')}, {bytes_text(sum(one.size for one in ones))} in all.")


def _restore(collection: Collection, catalogue: Catalogue, ones: Sequence[Held], terminal: Terminal) -> int:
    with stoppable() as stop, terminal.progress("restoring", len(ones)) as tick:
        outcome = execute.restore(collection, catalogue, ones, RunControl(tick, stop))
    return show_outcome(terminal, outcome, "done", f"To undo: magpie undo {outcome.change}")


def _empty(collection: Collection, ones: Sequence[Held], args: argparse.Namespace, terminal: Terminal) -> int:
    """Delete, after a question that names what goes."""
    size = sum(one.size for one in ones)
    if not ones and not terminal.as_json:
        terminal.note("Nothing is held.")
        return 0
    if (
        ones
        and not args.yes
        and not agreed(f"Delete {count_text(len(ones), 'held thing')}, {bytes_text(size)}, for good?")
    ):
        terminal.note("Nothing was deleted.")
        return 0
    disk = journal_store(collection).disk
    for one in ones:
        delete_held(disk, one)
    if terminal.as_json:
        terminal.json({"deleted": len(ones), "bytes": size})
    else:
        terminal.say(f"{count_text(len(ones), 'held thing')} deleted, {bytes_text(size)} freed.")
    return 0
