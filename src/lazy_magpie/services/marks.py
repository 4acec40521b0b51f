"""Keeps up to date what reference lists and preferences say of items, so that they can be asked for."""

from __future__ import annotations

from collections.abc import Mapping

from lazy_magpie.catalogue import Catalogue, Is
from lazy_magpie.catalogue.marks import Mark
from lazy_magpie.collection import Collection
from lazy_magpie.errors import BusyError
from lazy_magpie.identify.title_keys import key_of
from lazy_magpie.lists.matched import GameMatch, MatchState
from lazy_magpie.lists.preferred import Version, choose
from lazy_magpie.model import Item, Kind
from lazy_magpie.services.match import Matching, basis_of, open_lists
from lazy_magpie.services.session import writing

_NOTED = "marks"
_WORST_LAST = tuple(MatchState)


def refresh_marks(collection: Collection, catalogue: Catalogue) -> bool:
    """Work out what is said of items anew, where something has changed since; say whether that could be done.

    Another process that writes is not waited for: then what was found last stands.
    """
    if catalogue.noted(_NOTED) == basis_of(collection, catalogue):
        return True
    if catalogue.writable:
        _work_out(collection, catalogue)
        return True
    try:
        with writing(collection, "find", lambda text: None) as own:
            _work_out(collection, own)
    except BusyError:
        return False
    return True


def _work_out(collection: Collection, catalogue: Catalogue) -> None:
    matching = open_lists(collection, catalogue) if collection.config.lists else None
    listed: dict[int, MatchState] = {}
    families: dict[int, tuple[object, bool]] = {}
    if matching is not None:
        matching.read(0, lambda count: None)
        _listed(matching, listed, families)
    games = list(catalogue.items.ask(Is("kind", Kind.GAME.value)))
    versions = [_version(item, listed, families) for item in games]
    verdicts = dict(choose(versions, collection.config.prefer))
    complete = {one.id: one.is_complete for one in versions}
    ids = {*listed, *verdicts}
    catalogue.marks.put_all(
        Mark(
            id,
            listed[id].value if id in listed else "",
            complete.get(id, listed.get(id) is not MatchState.INCOMPLETE),
            id in verdicts and verdicts[id].is_preferred,
            verdicts[id].why if id in verdicts else "",
        )
        for id in ids
    )
    catalogue.note(_NOTED, basis_of(collection, catalogue))
    catalogue.commit()


def _listed(matching: Matching, listed: dict[int, MatchState], families: dict[int, tuple[object, bool]]) -> None:
    """Note of each item how the lists have it, and which family of parent and clones it is of."""
    for one in matching.results():
        if not isinstance(one, GameMatch):
            if one.place.item:
                listed.setdefault(one.place.item, MatchState.UNKNOWN)
            continue
        items = {match.wanted.holdings[0].place.item for match in one.files if match.wanted.holdings}
        items |= {matching.item_at(match.path) for match in one.files if match.path and not match.wanted.holdings}
        for item in items - {0}:
            known = listed.get(item)
            if known is None or _WORST_LAST.index(one.state) < _WORST_LAST.index(known):
                listed[item] = one.state
            if one.game.parent or item not in families:
                families[item] = ((one.list.known.id, one.game.parent or one.game.name), not one.game.parent)


def _version(item: Item, listed: Mapping[int, MatchState], families: Mapping[int, tuple[object, bool]]) -> Version:
    fields = item.fields
    title = (str(fields.get("system", "")), key_of(str(fields.get("title", item.path))))
    game, is_parent = families.get(item.id, (title, True))
    return Version(
        item.id,
        game,
        item.path,
        _words(fields.get("regions")),
        _words(fields.get("languages")),
        str(fields.get("revision", "")),
        _words(fields.get("status")),
        str(item.facts.get("dump", "")),
        is_parent,
        _is_complete(item) and listed.get(item.id) not in (MatchState.INCOMPLETE, MatchState.DAMAGED),
    )


def _words(value: object) -> tuple[str, ...]:
    return tuple(map(str, value)) if isinstance(value, list) else (str(value),) if value else ()


def _is_complete(item: Item) -> bool:
    """Say whether no disc is missing before the last one that is there."""
    discs = {file.part for file in item.files if file.part and file.role == "main"}
    return discs == set(range(1, len(discs) + 1))
