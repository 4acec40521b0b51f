"""`magpie rename ITEMS`: plans names by hand, for files with what goes along, or for folders."""

from __future__ import annotations

import argparse
from collections.abc import Callable, Sequence
from typing import Any

from lazy_magpie.cli.commands.apply import apply_plan
from lazy_magpie.cli.items_argument import add_items
from lazy_magpie.cli.parser import as_typed
from lazy_magpie.cli.proposal import add_proposal, answer, propose, selection_of
from lazy_magpie.cli.selection import check_sort, collection_of
from lazy_magpie.cli.terminal import Terminal
from lazy_magpie.config import Config
from lazy_magpie.errors import TemplateError, UsageError
from lazy_magpie.fields import with_custom
from lazy_magpie.naming import template_of
from lazy_magpie.naming.template import Template
from lazy_magpie.planners.by_hand import operations
from lazy_magpie.planners.by_hand.operations import Counter, Operation
from lazy_magpie.services.by_hand import plan_freeing, plan_rename
from lazy_magpie.services.session import writing

_EXAMPLES = """examples:
  magpie rename kind is picture --append -cover     put “-cover” behind every picture's name
  magpie rename --folders Kits/* --ending finished  “Kits/Owl” becomes “Kits/Owl.finished”
  magpie rename Songs --to "{track:02} {title}"     names from a template
The operations act in the order given. A name given by hand is kept by tidy until “magpie rename --free ITEMS”.
"""
_OPTIONS: Sequence[tuple[str, int, tuple[str, ...], str]] = (
    ("--to", 1, ("TEMPLATE",), "name by a template: any field, {name}, {ending}, {folder}, {number}"),
    ("--swap", 2, ("OLD", "NEW"), "put NEW in the place of the text OLD"),
    ("--swap-pattern", 2, ("RE", "NEW"), "the same for a regular expression of Python's"),
    ("--prepend", 1, ("TEXT",), "put TEXT in front"),
    ("--append", 1, ("TEXT",), "put TEXT behind the name, before the ending"),
    ("--ending", 1, ("END",), "give another ending; a folder gets one, or another one"),
    ("--case", 1, ("CASE",), f"{', '.join(operations.CASES[:-1])} or {operations.CASES[-1]}"),
    ("--number", 1, ("START[:WIDTH]",), "number in the order shown: {number}, or in front where no template has it"),
)


class _InOrder(argparse.Action):
    """Collects operations in the order in which they are given."""

    def __call__(
        self, parser: argparse.ArgumentParser, namespace: argparse.Namespace, values: Any, option: str | None = None
    ) -> None:
        words = tuple(as_typed(word) for word in values)
        namespace.operations = [*(getattr(namespace, "operations", None) or ()), (self.dest, words)]


def register(parser: argparse.ArgumentParser) -> None:
    """Add the arguments of `rename`."""
    parser.epilog = _EXAMPLES
    add_items(parser, "paths or find words", needed=True)
    for option, count, names, text in _OPTIONS:
        parser.add_argument(
            option, nargs=count, metavar=names, action=_InOrder, dest=option[2:].replace("-", "_"), help=text
        )
    parser.add_argument("--folders", action="store_true", help="the folders themselves, not the files in them")
    parser.add_argument("--free", action="store_true", help="let tidy file what was named or placed by hand")
    parser.add_argument("--sort", metavar="FIELD", default="", help="the order of numbers: by a field, not by path")
    parser.add_argument("--reverse", action="store_true", help="the largest first")
    add_proposal(parser)
    parser.set_defaults(run=run, operations=[])


def run(args: argparse.Namespace, terminal: Terminal) -> int:
    """Make the plan, keep it, show it, and apply it if asked."""
    collection = collection_of(args)
    if bool(args.operations) == args.free:
        what = "--free goes alone." if args.free else "Say what changes, with --to, --swap, --append, --ending …"
        raise UsageError(f"{what} “magpie rename --help” shows all.")
    check_sort(args.sort, with_custom(collection.config.fields.values()))
    steps, counter = _operations(args.operations, collection.config)
    with writing(collection, "rename", terminal.note) as catalogue:
        selection = selection_of(collection, catalogue, args.words, args.sort, down=args.reverse)
        if args.free:
            plan = plan_freeing(selection)
            if not plan.steps:
                terminal.note("None of these was named or placed by hand.")
                return 0
            return apply_plan(collection, catalogue, plan, terminal, "set free")
        plan = plan_rename(selection, steps, counter, folders=args.folders)
        proposal = propose(collection, catalogue, plan, args, terminal)
    return answer(proposal, args, terminal, "No name would change.")


def _operations(given: Sequence[tuple[str, Sequence[str]]], config: Config) -> tuple[list[Operation], Counter]:
    """Return the operations that were asked for, in their order, and how numbers are counted."""
    found: list[Operation] = []
    counter, numbered, has_template = Counter(), -1, False
    for name, words in given:
        if name == "to":
            template = _template(words[0], config)
            has_template = has_template or "number" in template.fields()
            found.append(operations.to(template, everywhere=config.everywhere))
        elif name == "number":
            counter, numbered = operations.counter(words[0]), len(found)
        else:
            found.append(_MAKERS[name](*words))
    if numbered >= 0 and not has_template:
        found.insert(numbered, operations.number())
    return found, counter


def _template(text: str, config: Config) -> Template:
    try:
        return template_of(text, frozenset(config.fields))
    except TemplateError as error:
        raise UsageError(f"--to: {error}") from None


_MAKERS: dict[str, Callable[..., Operation]] = {
    "swap": operations.swap,
    "swap_pattern": operations.swap_pattern,
    "prepend": operations.prepend,
    "append": operations.append,
    "ending": operations.ending,
    "case": operations.case,
}
