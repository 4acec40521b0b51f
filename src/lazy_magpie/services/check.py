"""Checks a collection by rules, from the catalogue, and plans what mends it."""

from __future__ import annotations

import os
from collections.abc import Callable, Iterable, Iterator, Sequence
from contextlib import suppress
from dataclasses import dataclass, replace

from lazy_magpie.catalogue import Catalogue, Condition, OneOf
from lazy_magpie.change import Filesystem
from lazy_magpie.checks import OF_PLACES, RULES, Finding, Mend, Rule, Sight, run
from lazy_magpie.collection import Collection
from lazy_magpie.config import Player
from lazy_magpie.errors import UsageError
from lazy_magpie.lists.matched import GameMatch, MatchState
from lazy_magpie.model import Item, Kind, Plan
from lazy_magpie.model.steps import Move
from lazy_magpie.mounts import mounts_inside
from lazy_magpie.paths import above, is_below, join, same_name, written
from lazy_magpie.planners.mend import mend
from lazy_magpie.services.listing import listing_of
from lazy_magpie.services.match import open_lists
from lazy_magpie.services.tidying import tidy_collection
from lazy_magpie.suggest import nearest

_LARGEST = 1 << 16
_NOT_THERE = (MatchState.ABSENT, MatchState.DAMAGED, MatchState.INCOMPLETE)


def rules_named(names: Sequence[str]) -> tuple[Rule, ...]:
    """Return the rules of these names, in their own order; all if none are named. Raises UsageError."""
    known = {rule.name for rule in RULES}
    for name in names:
        if name not in known:
            there_are = f"; there are {', '.join(rule.name for rule in RULES)}."
            raise UsageError(f"There is no rule “{name}”{nearest(name, known, there_are)}")
    return tuple(rule for rule in RULES if not names or rule.name in names)


def players_named(collection: Collection, names: Sequence[str]) -> tuple[Player, ...]:
    """Return the players of these names, all if none are named. Raises UsageError."""
    known = collection.config.players
    for name in names:
        if name not in known:
            there_are = f"; there are {', '.join(known)}." if known else "; name one in magpie.toml: [player.NAME]."
            raise UsageError(f"There is no player “{name}”{nearest(name, known, there_are)}")
    return tuple(player for name, player in known.items() if not names or name in names)


@dataclass(frozen=True)
class Asked:
    """What is checked: the items that meet a condition, by which rules, for which players.

    `whole` says that this is the whole collection. `rotten` are files whose contents are not what they were, with what
    is to be said of that.
    """

    condition: Condition
    rules: Sequence[Rule]
    players: Sequence[Player]
    whole: bool
    rotten: Sequence[tuple[str, str]] = ()


def check_collection(
    catalogue: Catalogue, collection: Collection, asked: Asked, progress: Callable[[int], None]
) -> list[Finding]:
    """Return what is found, the worst rules first."""
    condition, rules = asked.condition, asked.rules
    config, root = collection.config, str(collection.root)
    disk = Filesystem(root)
    needs_places = config.shelves and OF_PLACES.intersection(rule.name for rule in rules)
    plan = tidy_collection(catalogue, collection, condition) if needs_places else Plan("tidy", ())
    sight = Sight(
        config=config,
        players=tuple(asked.players),
        text_of=lambda path: _text(disk, path),
        is_there=lambda path: disk.status(path) is not None,
        filed=_places(plan),
        rotten=tuple(asked.rotten),
    )
    if asked.whole:
        sight = replace(
            sight,
            empty_folders=lambda: _empty(catalogue, collection),
            dead_links=lambda: _dead_links(catalogue, collection),
            firmware=lambda: _firmware(catalogue, collection),
        )
    order = {rule.name: number for number, rule in enumerate(rules)}

    def items() -> Iterator[Item]:
        for number, item in enumerate(catalogue.items.ask(condition), start=1):
            progress(number)
            if not item.root and not config.is_left(item.path) and not is_below(item.path, config.attic):
                yield item

    return sorted(run(rules, items(), sight), key=lambda one: (order[one.rule], one.path))


def without_left(catalogue: Catalogue, findings: Iterable[Finding]) -> list[Finding]:
    """Return the findings but for those that a person leaves as they are, for ever."""
    left = catalogue.left.all()
    if not left:
        return list(findings)
    return [one for one in findings if not any(one.rule in left.get(top, ()) for top in (one.path, *above(one.path)))]


def plan_mending(catalogue: Catalogue, collection: Collection, findings: Sequence[Finding]) -> Plan:
    """Plan all that has a remedy."""
    disk = Filesystem(str(collection.root))
    ids = {id for one in findings if one.mend is Mend.TIDY and (id := catalogue.items.having(one.path))}
    tidied = Plan("check", ())
    if ids:
        tidied = tidy_collection(catalogue, collection, OneOf(tuple(sorted(ids))))

    listing = listing_of(str(collection.root))
    plan = mend(findings, tidied, collection.config, disk, listing)
    return replace(plan, passed={})


def _places(plan: Plan) -> dict[str, str]:
    """Return where a plan brings each file in the end."""
    came: dict[str, str] = {}
    for step in plan.steps:
        if isinstance(step, Move):
            came[step.target] = came.pop(step.source, step.source)
    return {source: target for target, source in came.items()}


def _empty(catalogue: Catalogue, collection: Collection) -> Iterator[str]:
    """Yield the folders with nothing in them but for such as are to stay."""
    config = collection.config
    keep = set(map(same_name, config.standing))
    mounted = mounts_inside(str(collection.root)) or {}
    for folder in catalogue.files.empty_folders():
        if same_name(folder) in keep or config.is_left(folder) or any(is_below(one, folder) for one in mounted):
            continue
        path = os.path.join(collection.root, folder)
        if os.path.isdir(path) and not any(_others(top) for top, _, _ in os.walk(path)):
            yield folder


def _dead_links(catalogue: Catalogue, collection: Collection) -> Iterator[tuple[str, str]]:
    """Yield the links that lead to what is not there, with what they lead to."""
    for folder in catalogue.files.folder_tree():
        if collection.config.is_left(folder):
            continue
        for entry in _others(os.path.join(collection.root, folder)):
            if entry.is_symlink() and not os.path.exists(entry.path):
                with suppress(OSError):
                    yield join(folder, entry.name), os.readlink(entry.path)


def _firmware(catalogue: Catalogue, collection: Collection) -> Iterator[tuple[str, str]]:
    """Yield what lists of firmware have that is not there, or not right: the list, and what is wrong."""
    named = [name for name, one in collection.config.lists.items() if one.kind is Kind.FIRMWARE]
    if not named:
        return
    devices = [name for name, one in collection.config.targets.items() if one.player and one.player.firmware]
    needing = f"; {', '.join(devices)} would get it" if devices else ""
    for match in open_lists(collection, catalogue, named).results():
        if isinstance(match, GameMatch) and match.state in _NOT_THERE:
            files = ", ".join(written(one.wanted.name) for one in match.files if one.state in _NOT_THERE)
            text = f"{match.text or 'it is not there'}{needing}"
            yield match.list.known.path, f"{written(match.game.name)} needs {files}: {text}"


def _others(folder: str) -> list[os.DirEntry[str]]:
    """Return all in a folder that is neither a file nor a folder of its own right: a scan passes these by."""
    try:
        with os.scandir(folder) as entries:
            found = [one for one in entries if not one.is_dir(follow_symlinks=False)]
    except OSError:
        return []
    return [one for one in found if not one.is_file(follow_symlinks=False)]


def _text(disk: Filesystem, path: str) -> str:
    try:
        with disk.open_old(path) as file:
            return file.read(_LARGEST).decode("utf-8", "surrogateescape")
    except OSError:
        return ""
