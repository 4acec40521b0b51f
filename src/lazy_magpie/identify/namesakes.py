"""Shows of one name and several years: of which of them an episode is that says no year is a question."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import replace

from lazy_magpie.identify.title_text import match_key
from lazy_magpie.model import Identity, Kind, State

NAMESAKES = "shows of one name"
"""The doubt of which show an episode is."""

Namesakes = Mapping[str, tuple[int, ...]]
"""The first years of shows that share a name, by the folded name."""


def namesakes_of(shows: Iterable[tuple[str, int]]) -> dict[str, tuple[int, ...]]:
    """Return the names that shows of several years share; `shows` are names with years, 0 where none is said."""
    years: dict[str, set[int]] = {}
    for name, year in shows:
        if year:
            years.setdefault(match_key(name), set()).add(year)
    return {name: tuple(sorted(found)) for name, found in years.items() if len(found) > 1}


def asked(identity: Identity, namesakes: Namesakes) -> Identity:
    """Return a clear episode that says no year in doubt, where several shows have its show's name."""
    if identity.kind is not Kind.EPISODE or identity.state is not State.CLEAR or "show_year" in identity.fields:
        return identity
    years = namesakes.get(match_key(str(identity.fields.get("show", ""))))
    if not years:
        return identity
    said = " and ".join(str(year) for year in years)
    doubt = f"{NAMESAKES}: there are “{identity.fields['show']}” of {said}"
    return replace(identity, state=State.DOUBTFUL, confidence=min(identity.confidence, 0.5), doubts=(doubt,))
