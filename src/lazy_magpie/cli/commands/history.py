"""`magpie history`: lists the changes."""

from __future__ import annotations

import argparse

from lazy_magpie.change import history
from lazy_magpie.cli.choose import collection_of
from lazy_magpie.cli.terminal import Terminal
from lazy_magpie.plans.carry_out import area_of

_EXAMPLES = """examples:
  magpie history
  magpie history --json
"""


def register(parser: argparse.ArgumentParser) -> None:
    """Add the arguments of `history`."""
    parser.epilog = _EXAMPLES
    parser.set_defaults(run=run)


def run(args: argparse.Namespace, terminal: Terminal) -> int:
    """Print the changes, oldest first."""
    changes = history(area_of(collection_of(args)))
    if terminal.as_json:
        for change in changes:
            shape = change._asdict()
            terminal.json({"change": shape.pop("number"), **shape})
    elif not changes:
        terminal.note("No change has been made yet.")
    else:
        columns = ("change", "command", "state", "steps", "skipped", "failed", "who", "when")
        rows = [
            (
                str(change.number),
                change.command,
                change.state,
                f"{change.done:,}",
                f"{change.skipped:,}",
                f"{change.failed:,}",
                change.who,
                change.ended[:19].replace("T", " "),
            )
            for change in changes
        ]
        terminal.table(columns, rows, right=("change", "steps", "skipped", "failed"))
    return 0
