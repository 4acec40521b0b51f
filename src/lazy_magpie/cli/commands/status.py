"""`magpie status`: one screen on how the collection stands, and the next sensible step."""

from __future__ import annotations

import argparse
from pathlib import Path

from lazy_magpie import collection as collections
from lazy_magpie.cli.terminal import Terminal
from lazy_magpie.formatting import bytes_text, count_text, time_text
from lazy_magpie.services.status import RootStatus, Status, name_of, status_of

_EXAMPLES = """examples:
  magpie status
  magpie -C /media/films status --json
"""


def register(parser: argparse.ArgumentParser) -> None:
    """Add the arguments of `status`."""
    parser.epilog = _EXAMPLES
    parser.set_defaults(run=run)


def run(args: argparse.Namespace, terminal: Terminal) -> int:
    """Print how the collection stands."""
    collection = collections.find(Path(args.folder))
    found = status_of(collection)
    if terminal.as_json:
        terminal.json(_shape(found))
    else:
        _show(terminal, name_of(collection), found)
    return 0


def _shape(found: Status) -> dict[str, object]:
    return {
        "roots": [
            {"root": root.name, "path": root.path, "away": root.away, "scanned": root.scanned or None,
             "files": root.files, "bytes": root.bytes}
            for root in found.roots
        ],
        "new": found.new,
        "doubtful": found.doubtful,
        "plans": list(found.plans),
        "unfinished": found.unfinished or None,
        "held": {"files": found.held_files, "bytes": found.held_bytes},
        "next": found.next,
    }  # fmt: skip


def _show(terminal: Terminal, name: str, found: Status) -> None:
    terminal.say(terminal.styled(name, "head"))
    for root in found.roots:
        terminal.say(f"  {_root(root)}")
    lines = [
        ("new", f"{count_text(found.new, 'file')} in the latest scan", found.new),
        ("in doubt", count_text(found.doubtful, "item"), found.doubtful),
        ("pending", f"plan {', '.join(map(str, found.plans))}", found.plans),
        ("unfinished", f"change {found.unfinished}, left by a crash; the next command that writes puts it right",
         found.unfinished),
        ("held", f"{count_text(found.held_files, 'file')}, {bytes_text(found.held_bytes)}", found.held_files),
    ]  # fmt: skip
    for what, text, is_so in lines:
        if is_so:
            terminal.say(f"  {what:<10}  {text}")
    terminal.say(f"Next: {terminal.styled(found.next, 'bold')}")


def _root(root: RootStatus) -> str:
    name = f"{root.name}: {root.path}" if root.name else root.path
    if not root.scanned:
        return f"{name}  never scanned"
    seen = f"{count_text(root.files, 'file')}, {bytes_text(root.bytes)}, scanned {time_text(root.scanned)}"
    return f"{name}  {'away; ' * root.away}{seen}"
