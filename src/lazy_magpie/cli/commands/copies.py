"""`magpie copies [ITEMS]`: finds copies, says which one a rule would keep, plans holding or linking the others."""

from __future__ import annotations

import argparse
from collections.abc import Callable, Sequence
from dataclasses import replace
from pathlib import Path

from lazy_magpie.catalogue import All, AnyOf, Below, Catalogue, Condition, opened
from lazy_magpie.cli.items_argument import add_items
from lazy_magpie.cli.json_output import plan_shape
from lazy_magpie.cli.main import NEEDS_YOU
from lazy_magpie.cli.output_file import check_page
from lazy_magpie.cli.parser import JOBS
from lazy_magpie.cli.plan_file import add_save, next_step, save_if_asked
from lazy_magpie.cli.plan_view import show_plan
from lazy_magpie.cli.selection import collection_of, condition_of, path_in, told_of_crash
from lazy_magpie.cli.terminal import Terminal
from lazy_magpie.collection import Collection
from lazy_magpie.copies import (
    DEFAULT,
    FORMS,
    OTHER_VERSION,
    AlikeSearch,
    Copies,
    DuplicateReport,
    Elsewhere,
    Rule,
    find_copies,
    find_elsewhere,
    find_wrapped,
    other_versions,
    parse_rules,
)
from lazy_magpie.drives import located, present
from lazy_magpie.errors import UsageError
from lazy_magpie.formatting import bytes_text, count_text, size_text
from lazy_magpie.intake.downloads import outside
from lazy_magpie.model import Kind, Plan, StepKind
from lazy_magpie.paths import join, written
from lazy_magpie.planners.copies import (
    ArchiveVerdict,
    Choice,
    Verdict,
    also_inside,
    freed_where,
    plan_copies,
    plan_elsewhere,
    repacked,
    verdict,
)
from lazy_magpie.planners.duplicate_folders import collapse_folders
from lazy_magpie.services import execute
from lazy_magpie.services.listing import listing_of
from lazy_magpie.services.session import writing
from lazy_magpie.suggest import nearest

_EXAMPLES = """examples:
  magpie copies                                       what is there more than once, the largest first
  magpie copies --keep folder:Films,shelved --hold    plan moving the others into the holding area
  magpie copies --between Films Downloads             what Downloads has that is in Films too
  magpie copies --alike kind is picture               also what only looks the same
"""

_WORDS = {"bytes": "copy", "contents": "same", OTHER_VERSION: "font"}
"""How a list calls a copy by how it was found; what is only alike is “like”."""


_PAPERS = (Kind.DOCUMENT, Kind.COMPANION, Kind.JUNK)
"""What many archives have in common, and what is not worth a word."""


_NAMED = 20
"""Files that could not be compared which are named."""


def register(parser: argparse.ArgumentParser) -> None:
    """Add the arguments of `copies`."""
    parser.epilog = _EXAMPLES
    add_items(parser, "paths or find words; everything if none")
    parser.add_argument(
        "--keep", metavar="RULE,…", help=f"which one stays, the rules in the order asked: {', '.join(FORMS)}"
    )
    parser.add_argument("--alike", action="store_true", help="also what only looks, sounds, or is sewn the same")
    parser.add_argument("--between", nargs=2, metavar=("A", "B"), help="only what is in both; what is in A stays")
    parser.add_argument(
        "--drives", action="store_true", help="what lies on other roots, too; nothing is taken from those"
    )
    parser.add_argument("--page", metavar="FILE.html", help="show them side by side on a page of their own")
    parser.add_argument("--force", action="store_true", help="let --page or --save replace a file that is there")
    doing = parser.add_mutually_exclusive_group()
    doing.add_argument("--hold", action="store_true", help="plan moving the others into the holding area")
    doing.add_argument("--link", action="store_true", help="plan hard links in the place of the others")
    add_save(parser)
    parser.add_argument("--now", action="store_true", help="apply the plan at once")
    parser.add_argument("--whole", action="store_true", help="print every step, however many there are")
    parser.add_argument("--jobs", type=JOBS, default=0, metavar="N", help="parallel readers (default: one per core)")
    parser.set_defaults(run=run)


def run(args: argparse.Namespace, terminal: Terminal) -> int:
    """Find copies, choose, and list them or make the plan."""
    collection = collection_of(args)
    if args.save and not (args.hold or args.link):
        raise UsageError("“--save” writes a plan, so it needs --hold or --link.")
    if args.page:
        from lazy_magpie.cli import copies_report

        check_page(Path(args.page), force=args.force)
    if args.drives:
        return _drives(args, collection, terminal)
    told_of_crash(collection, terminal)
    with opened(collection, write=True) as catalogue:  # looking keeps what it learns, and locks nothing
        verdicts, wrapped, found = _look(args, collection, catalogue, terminal)
        catalogue.commit()
        counts = catalogue.files.counts() if verdicts else {}
        folders, left = collapse_folders(verdicts, counts)
        choices = [*folders, *(one.choice for one in left), *(one.choice for one in wrapped)]
        choices.sort(key=lambda one: (not one.stays, -one.freed, one.others))
        _name_unreadable(terminal, found)
        if args.page:
            with terminal.progress("drawing") as tick:
                copies_report.write_page(args, collection, choices, [*left, *wrapped], tick)
            terminal.note(f"The page is {args.page}.")
    if not (args.hold or args.link):
        return _list(terminal, choices, found)
    with writing(collection, "copies", terminal.note) as catalogue:
        listing, may_go = listing_of(str(collection.root)), _allowed(args, collection, catalogue)
        plan = plan_copies(verdicts, wrapped, collection.config, listing, link=args.link, may_go=may_go)
        return _planned(args, collection, catalogue, plan, terminal)


def _planned(
    args: argparse.Namespace, collection: Collection, catalogue: Catalogue, plan: Plan, terminal: Terminal
) -> int:
    """Keep a plan and show it; apply it where that is asked for."""
    if plan.steps:
        plan = execute.keep(collection, catalogue, plan)
    save_if_asked(plan, args)
    if terminal.as_json and not args.now:
        terminal.json(plan_shape(plan))
    elif not terminal.as_json:
        show_plan(terminal, plan, whole=args.whole)
    if args.now and plan.steps:
        from lazy_magpie.cli.commands.apply import apply_plan

        return apply_plan(collection, catalogue, plan, terminal)
    if plan.steps:
        freed = sum(
            {step.stamp: step.stamp.size for step in plan.steps if step.kind is StepKind.HOLD and step.stamp}.values()
        )
        terminal.note(f"\nNothing has changed yet. {_freed(freed, link=args.link)} {next_step(plan, args)}")
    else:
        terminal.note("There is nothing to take away.")
    return NEEDS_YOU if any(left.asks for left in plan.unmoved) else 0


def _drives(args: argparse.Namespace, collection: Collection, terminal: Terminal) -> int:
    """List what lies on the own root and on others as well, also on those that are away, as far as is remembered.

    Where a rule says that the copies of a root stay, what the own root has of them besides can be held.
    """
    stays = next((rule.behind for rule in _rules(args, collection) if rule.text.partition(":")[0] == "drive"), "")
    if args.link:
        raise UsageError("Links do not reach to other drives; --hold takes away what a root keeps: --keep drive:NAME.")
    if args.hold and not stays:
        raise UsageError("Say whose copies stay: --keep drive:NAME. Nothing is ever taken away from another root.")
    with writing(collection, "copies", terminal.note) as catalogue:
        here = located(catalogue, collection)
        if args.hold and stays not in here.places:
            raise UsageError(f"The root {stays} is away, so nothing can be held against it. Mount it, and ask again.")
        names = {root.number: root.name for root in catalogue.roots.all()}
        with terminal.progress("reading") as tick:
            lines, found = find_elsewhere(catalogue, here.tops, names, args.jobs, lambda count: tick(count, "reading"))
        _name_unreadable(terminal, found)
        if not args.hold and not args.words:
            return _list_elsewhere(terminal, lines, stays)
        items = [item for item in catalogue.items.ask(condition_of(collection, catalogue, args.words)) if not item.root]
        chosen = {file.path for item in items for file in item.files}
        lines = [one for one in lines if one.path in chosen]
        if not args.hold:
            return _list_elsewhere(terminal, lines, stays)
        twins = _twins_on(stays, lines, here.places[stays], str(collection.root))
        going = [item for item in items if any(file.path in twins and file.role == "main" for file in item.files)]
        plan = plan_elsewhere(going, twins, stays, collection.config, listing_of(str(collection.root)))
        return _planned(args, collection, catalogue, plan, terminal)


def _twins_on(name: str, lines: Sequence[Elsewhere], top: str, own: str) -> dict[str, tuple[str, str]]:
    """Return for files of the own root the copy on another (at `top`): as it is called, and its path from the own."""
    found: dict[str, tuple[str, str]] = {}
    for one in lines:
        if one.root == name:
            found.setdefault(one.path, (f"{name}:{one.other}", outside(own, join(top, one.other))))
    return found


def _list_elsewhere(terminal: Terminal, lines: Sequence[Elsewhere], stays: str) -> int:
    for one in lines:
        where, goes = f"{one.root}:{one.other}", stays == one.root and not one.away
        kept, other = (where, one.path) if goes else (one.path, where)
        if terminal.as_json:
            why = f"drive:{stays}" if goes else f"also on {one.root}{', which is away' if one.away else ''}"
            shape = {
                "match": "elsewhere",
                "sure": True,
                "keep": written(kept),
                "others": [written(other)],
                "bytes": 0,
                "why": why,
            }
            terminal.json(shape)
            continue
        away = terminal.styled("  away", "warn") if one.away else ""
        terminal.say(f"{terminal.styled('stays', 'new')}  {written(kept)}{f'  (drive:{stays})' if goes else ''}")
        terminal.say(f"{terminal.styled('copy', 'old') if goes else 'also'}   {written(other)}{away}")
        terminal.say()
    if not terminal.as_json:
        count = count_text(len({one.path for one in lines}), "file")
        terminal.note(f"On other roots as well: {count}." if lines else "Nothing lies on other roots as well.")
        if any(one.root == stays and not one.away for one in lines):
            terminal.note("Next: the same with --hold plans taking away what the collection's own root has of these.")
    return 0


def _name_unreadable(terminal: Terminal, found: DuplicateReport) -> None:
    shown = found.unreadable if terminal.verbose else found.unreadable[:_NAMED]
    for path, why in shown:
        terminal.note(f"not compared: {written(path)}: {why}")
    if more := len(found.unreadable) - len(shown):
        terminal.note(f"not compared: {count_text(more, 'more file')} (-v lists them)")


def _look(
    args: argparse.Namespace, collection: Collection, catalogue: Catalogue, terminal: Terminal
) -> tuple[list[Verdict], list[ArchiveVerdict], DuplicateReport]:
    """Find the copies among the items chosen, and say of each set which one stays."""
    config, root = collection.config, str(collection.root)
    rules = _rules(args, collection)
    between = [_folder(collection, catalogue, word) for word in args.between or ()]
    items = list(catalogue.items.ask(_condition(args, collection, catalogue, between)))
    with terminal.progress("reading") as tick:
        found = find_copies(catalogue, root, items, args.jobs, lambda count: tick(count, "reading"))
    verdicts = [one for copies in found.copies if (one := verdict(copies, rules, config, between))]
    if args.alike:
        going = {item.id for one in verdicts for item in one.others if one.stays}
        rest = [item for item in items if item.id not in going]
        with (
            terminal.progress("comparing") as tick,
            AlikeSearch(catalogue, root, found, args.jobs, lambda count: tick(count, "comparing")) as search,
        ):
            beyond = _beyond(found.copies, list(search.sets(rest)))
            beyond += _beyond(beyond, list(other_versions(rest)))
            chosen_of = [one for copies in beyond if (one := verdict(copies, rules, config, between))]
            verdicts += filter(None, (_held_against(one, search) for one in chosen_of))
    gone = {path for one in verdicts for path in one.choice.others}
    chosen = {file.path: (item, file.role) for item in items for file in item.files}
    wrappings, inside, read = find_wrapped(catalogue, root)
    found.bytes_read += read
    wrapped = []
    for each in wrappings:
        if each.more:
            more = count_text(each.more, "file")
            terminal.note(f"{written(each.archives[0].file.path)} is no copy: it has {more} that its folder has not.")
        archives = tuple(one for one in each.archives if one.file.path in chosen and one.file.path not in gone)
        if archives and (packing := repacked(each._replace(archives=archives), rules, config, between)):
            wrapped.append(packing)
    for also in inside if not between else ():
        item, role = chosen.get(also.file, (None, ""))
        if item is None or also.archive in [file.path for file in item.files]:  # the archive that it came from
            continue
        if role == "main" and item.kind not in _PAPERS and also.file not in gone:
            wrapped.append(also_inside(also))
    return verdicts, wrapped, found


def _held_against(one: Verdict, search: AlikeSearch) -> Verdict | None:
    """Return a set with those alone that are alike to the one that stays, None where there are none."""
    if one.stays is None or not one.copies.sure:
        return one
    ids = {item.id for item in search.alike_to(one.copies, one.stays)}
    others = tuple(item for item in one.others if item.id in ids)
    return replace(one, others=others) if others else None


def _beyond(same: Sequence[Copies], alike: Sequence[Copies]) -> list[Copies]:
    """Return the sets of what is alike that say more than that some things hold the same."""
    ids = [{item.id for item in copies.items} for copies in same]
    return [one for one in alike if not any({item.id for item in one.items} <= equal for equal in ids)]


def _rules(args: argparse.Namespace, collection: Collection) -> list[Rule]:
    """Return the rules asked for. Raises UsageError for one that there is not, and for a root that there is not."""
    rules = parse_rules(args.keep.split(",") if args.keep else collection.config.keep or DEFAULT, str(collection.root))
    known = [root.name for root in collection.config.roots]
    for rule in rules:
        if rule.text.startswith("drive:") and rule.behind not in known:
            raise UsageError(f"There is no root “{rule.behind}”{nearest(rule.behind, known)}")
    return rules


def _allowed(args: argparse.Namespace, collection: Collection, catalogue: Catalogue) -> Callable[[Verdict], bool]:
    """Return what says whether a set of things that are only alike may go: by rule, or as each of it was named."""
    if "alike" in (rule.text for rule in _rules(args, collection)):
        return lambda one: True
    roots = present(catalogue, collection)
    paths = (path_in(collection, roots, word) for word in args.words)
    named = {collection.relative(path) for path in paths if path}
    return lambda one: all(item.path in named for item in one.copies.items)


def _freed(size: int, *, link: bool) -> str:
    where = "once “magpie held empty” has deleted what is held"
    return f"{bytes_text(size)} in all will be free {where}{', since the links need no room' if link else ''}."


def _folder(collection: Collection, catalogue: Catalogue, word: str) -> str:
    path = path_in(collection, present(catalogue, collection), word)
    inside = collection.relative(path) if path else None
    if inside is None:
        raise UsageError(f"There is no folder “{word}” in the collection {collection.root}.")
    return inside


def _condition(
    args: argparse.Namespace, collection: Collection, catalogue: Catalogue, between: Sequence[str]
) -> Condition:
    chosen = condition_of(collection, catalogue, args.words)
    return All((chosen, AnyOf(tuple(map(Below, between))))) if between else chosen


def _size(choices: Sequence[Choice]) -> str:
    return size_text(sum(one.freed for one in choices))


def _list(terminal: Terminal, choices: Sequence[Choice], found: DuplicateReport) -> int:
    undecided = [one for one in choices if not one.stays and one.sure]
    perhaps = sum(not one.sure and one.match != OTHER_VERSION for one in choices)
    versions = sum(one.match == OTHER_VERSION for one in choices)
    if terminal.as_json:
        for one in choices:
            terminal.json(
                {
                    "match": one.match,
                    "sure": one.sure,
                    "keep": written(one.stays) if one.stays else None,
                    "others": [written(path) for path in one.others],
                    "bytes": one.freed,
                    "why": one.why,
                }
            )
        return NEEDS_YOU if undecided else 0
    for one in choices:
        if one.stays:
            frees = terminal.styled(f"  frees {size_text(one.freed)}", "dim")
            terminal.say(f"{terminal.styled('stays', 'new')}  {written(one.stays)}  ({one.why}){frees}")
        else:
            head = "version" if one.match == OTHER_VERSION else "undecided" if one.sure else "perhaps"
            terminal.say(f"{terminal.styled(head, 'warn')}   {one.why}:")
        for path in one.others:
            terminal.say(f"{terminal.styled(_WORDS.get(one.match, 'like'), 'old')}   {written(path)}")
        terminal.say()
    sure = [one for one in choices if one.stays and not one.is_alike]
    alike = [one for one in choices if one.stays and one.is_alike]
    _sum_up(terminal, sure, alike, found)
    if perhaps:
        terminal.say(f"{count_text(perhaps, 'pair')} perhaps alike; never removed, whatever the rules say.")
    if versions:
        terminal.say(f"{count_text(versions, 'font')} of which another version is there; they are no copies.")
    if undecided:
        terminal.note(f"{count_text(len(undecided), 'set')} undecided; add a rule with --keep.")
    if sure:
        terminal.note("Next: magpie copies --hold plans taking the copies away; nothing is deleted by it.")
    elif alike:
        terminal.note("Next: magpie copies --alike --hold FILE FILE plans it for one set, --keep …,alike for all.")
    return NEEDS_YOU if undecided else 0


def _sum_up(terminal: Terminal, sure: Sequence[Choice], alike: Sequence[Choice], found: DuplicateReport) -> None:
    """Say how much can go, and where it lies."""
    count = sum(one.things for one in sure)
    read = f"; {bytes_text(found.bytes_read)} read" if found.bytes_read else ""
    can_go = f"{count_text(count, 'copy', 'copies')} can go: {_size(sure)}{read}."
    terminal.say(can_go if count else f"No copies to remove{read}.")
    where = freed_where(sure)
    if len(where) > 1:
        for folder, size in where:
            terminal.say(f"  {size_text(size):>6}  {written(folder) or 'the root'}")
    if alike:
        count = sum(one.things for one in alike)
        terminal.say(f"{count_text(count, 'look-alike')} ({_size(alike)}); never removed unless you ask.")
