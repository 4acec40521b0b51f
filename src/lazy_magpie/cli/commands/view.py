"""`magpie view make NAME WORDS…`, `view refresh`, `view list`, `view drop NAME`: folders of links."""

from __future__ import annotations

import argparse
from collections import Counter
from collections.abc import Sequence

from lazy_magpie.catalogue import Catalogue, View, opened
from lazy_magpie.cli.commands.apply import apply_plan
from lazy_magpie.cli.json_output import plan_shape
from lazy_magpie.cli.main import NEEDS_YOU
from lazy_magpie.cli.plan_view import show_plan
from lazy_magpie.cli.selection import collection_of, condition_of
from lazy_magpie.cli.terminal import Terminal
from lazy_magpie.collection import Collection
from lazy_magpie.errors import UsageError
from lazy_magpie.find import OPERATORS
from lazy_magpie.model import Conflict, Plan, Step, Unmoved
from lazy_magpie.model.steps import renumbered
from lazy_magpie.planners import views
from lazy_magpie.scan.view_folders import VIEW_NOTE, folder_of
from lazy_magpie.services import execute
from lazy_magpie.services.propose import plan_view, plan_view_removal
from lazy_magpie.services.session import writing
from lazy_magpie.suggest import nearest

_EXAMPLES = """examples:
  magpie view make harbour theme is harbour --by "{kind}/{maker}"
  magpie view make evening tag is "film evening" --links m3u8   a play list instead of links
  magpie view make films shelf is films --links html     an index to be read in a browser
  magpie view refresh                                what has changed since
  magpie view drop harbour
"""
_FORMS = "make NAME WORDS… · refresh [NAME…] · list · drop NAME"


def register(parser: argparse.ArgumentParser) -> None:
    """Add the arguments of `view`."""
    parser.epilog = _EXAMPLES
    parser.add_argument("words", nargs="+", metavar="make|refresh|list|drop", help=_FORMS)
    parser.add_argument("--by", metavar="TEMPLATE", default="", help="make: the folders in it, like “{maker}/{theme}”")
    parser.add_argument(
        "--links",
        choices=views.LINKS,
        default="soft",
        help="make: hard links (one drive), copies, play lists (m3u8, xspf), or an index (html)",
    )
    parser.add_argument("--now", action="store_true", help="apply the plan at once")
    parser.add_argument("--whole", action="store_true", help="print every step, however many there are")
    parser.set_defaults(run=run)


def run(args: argparse.Namespace, terminal: Terminal) -> int:
    """Do one of the four."""
    collection = collection_of(args)
    if args.words == ["list"]:
        with opened(collection) as catalogue:
            return _list(collection, catalogue, terminal)
    with writing(collection, "view", terminal.note) as catalogue:
        match args.words:
            case ["make", name, *words] if words:
                view = views.checked(View(name, tuple(words), args.by, args.links), collection.config)
                if views.same_view(name, _made(collection, catalogue)):
                    raise UsageError(f"There is a view “{name}” already; drop it first, or take another name.")
                plan = _refreshed(collection, catalogue, [view])
                _warn_of_nothing(terminal, collection, catalogue, view)
                catalogue.views.keep(view)
            case ["refresh", *names]:
                plan = _refreshed(collection, catalogue, _named(catalogue, names))
            case ["drop", name]:
                (view,) = _named(catalogue, [name])
                plan = plan_view_removal(collection, catalogue, view)
                catalogue.views.drop(name)
            case _:
                raise UsageError(f"“magpie view” takes {_FORMS}.")
        if plan.steps:
            plan = execute.keep(collection, catalogue, plan)
        if not terminal.as_json:
            _show(args, terminal, plan)
        if args.now and plan.steps:
            return apply_plan(collection, catalogue, plan, terminal) or (NEEDS_YOU if plan.conflicts else 0)
    if terminal.as_json:
        terminal.json(plan_shape(plan))
    elif plan.steps:
        terminal.note(f"\nNothing has changed yet. Next: magpie apply {plan.number}")
    return NEEDS_YOU if plan.conflicts or any(left.asks for left in plan.unmoved) else 0


def _show(args: argparse.Namespace, terminal: Terminal, plan: Plan) -> None:
    if plan.steps or plan.conflicts or plan.unmoved:
        show_plan(terminal, plan, whole=args.whole)
    else:
        terminal.note("Every view shows what it should.")


def _named(catalogue: Catalogue, names: Sequence[str]) -> list[View]:
    known = catalogue.views.all()
    for name in names:
        if name not in known:
            there_are = f". Known views: {', '.join(known) or 'none'}."
            raise UsageError(f"No view “{name}”{nearest(name, known, there_are)}")
    return [known[name] for name in names or known]


def _refreshed(collection: Collection, catalogue: Catalogue, chosen: Sequence[View]) -> Plan:
    """Return one plan that brings all views up to date."""
    steps: list[Step] = []
    conflicts: list[Conflict] = []
    left: list[Unmoved] = []
    passed: Counter[str] = Counter()
    for view in chosen:
        condition = condition_of(collection, catalogue, view.words)
        part = plan_view(collection, catalogue, view, condition)
        steps += part.steps
        conflicts += part.conflicts
        left += part.unmoved
        passed.update(part.passed)
    return Plan("view", renumbered(steps), tuple(conflicts), tuple(left), dict(passed))


def _made(collection: Collection, catalogue: Catalogue) -> dict[str, View]:
    """Return the views that are there: a plan that was never applied has made none."""
    known = catalogue.views.all().items()
    return {name: view for name, view in known if (collection.root / folder_of(view) / VIEW_NOTE).exists()}


def _warn_of_nothing(terminal: Terminal, collection: Collection, catalogue: Catalogue, view: View) -> None:
    """Say that nothing is shown by a view, and that a condition in quotes is one plain word."""
    if next(catalogue.items.ask(condition_of(collection, catalogue, view.words)), None) is not None:
        return
    quoted = next((word for word in view.words if set(word.split()[1:2]) & set(OPERATORS)), "")
    hint = f" Without the quotes “{quoted}” is a condition: magpie view make {view.name} {quoted}" if quoted else ""
    terminal.note(f"Nothing matches “{' '.join(view.words)}” now.{hint}")


def _list(collection: Collection, catalogue: Catalogue, terminal: Terminal) -> int:
    known = _made(collection, catalogue)
    if not known and not terminal.as_json:
        terminal.note("No views yet; “magpie view make NAME WORDS” makes one.")
    for view in known.values():
        count = len(catalogue.views.links(view.name))
        if terminal.as_json:
            terminal.json({"view": view.name, **view.made, "folder": folder_of(view), "files": count})
        else:
            terminal.say(f"{count:>8,}  {terminal.styled(folder_of(view), 'bold')}  {views.shown(view)}")
    return 0
