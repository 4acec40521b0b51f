"""A plan written to a file, to be corrected by hand and applied from there."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import TYPE_CHECKING

from lazy_magpie.cli.output_file import write_new
from lazy_magpie.errors import UsageError

if TYPE_CHECKING:  # a plan brings all that steps are
    from lazy_magpie.model import Plan


def add_save(parser: argparse.ArgumentParser) -> None:
    """Add the option of commands that propose; they have a `--force`, too."""
    parser.add_argument("--save", metavar="FILE.csv", help="write the plan to a file to correct by hand")


def save_if_asked(plan: Plan, args: argparse.Namespace) -> None:
    """Write a plan as CSV where that was asked for.

    Raises UsageError where the file is there already and `--force` does not say otherwise.
    """
    if args.save and args.now:
        raise UsageError("--now applies the plan at once, --save keeps it to be corrected first; say one of them.")
    if not args.save or not plan.steps:
        return
    path = Path(args.save)
    if path.suffix.lower() != ".csv":
        raise UsageError(f"A plan is saved as CSV; call the file {path.name}.csv.")
    from lazy_magpie.planners.plan_csv import to_csv

    write_new(path, to_csv(plan), force=args.force)


def next_step(plan: Plan, args: argparse.Namespace) -> str:
    """Say how a plan that waits is applied: from the file that it was saved to, or by its number."""
    if args.save:
        return f"Correct {args.save}, then: magpie apply {args.save}"
    return f"Next: magpie apply {plan.number}"
