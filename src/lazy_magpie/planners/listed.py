"""Clear items whose titles or years the title lists have otherwise: who is right is a question."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from lazy_magpie.catalogue import Title, Titles
from lazy_magpie.identify.title_keys import key_of, keys_of
from lazy_magpie.model import Item, Kind
from lazy_magpie.planners.questions import LISTED_OTHERWISE, Question, names_of
from lazy_magpie.titles import TitleMatch
from lazy_magpie.titles.match import weigh


def listed_otherwise(items: Iterable[Item], titles: Titles) -> list[Question]:
    """Return the questions about clear items that a list names, but with another year or another title.

    Items that lists do not have by name ask nothing.
    """
    groups: dict[tuple[str, str, int], list[Item]] = {}
    for item in items:
        for kind, name, year in names_of(item):
            groups.setdefault((kind, name, year), []).append(item)
    found = []
    for (kind, name, year), group in groups.items():
        listed = titles.by_key(key_of(name), (kind,))
        if not listed:
            continue
        if (meant := _meant(listed, name, year)) is None:
            found.append(_question(name, name, group, listed, year))
        elif meant.kind == "show":
            differing = (item for item in group if _differs(item, meant, titles))
            found += [_question(f"{name} {item.path}", name, [item], [meant], year) for item in differing]
    return found


def _meant(listed: Sequence[Title], name: str, year: int) -> Title | None:
    """Return the title that an item is without any difference, None where each of them differs."""
    key = key_of(name)
    return next(
        (one for one in listed if key in keys_of(one.title) and (not year or not one.year or one.year == year)), None
    )


def _differs(item: Item, show: Title, titles: Titles) -> bool:
    """Say whether a show's list calls an episode otherwise."""
    fields = item.fields
    own = str(fields.get("episode_title", ""))
    if item.kind is not Kind.EPISODE or not own or "season" not in fields or "episode" not in fields:
        return False
    listed = titles.episode(show.id, int(str(fields["season"])), int(str(fields["episode"])))
    return bool(listed and listed[0]) and key_of(listed[0] if listed else "") != key_of(own)


def _question(subject: str, name: str, items: Sequence[Item], listed: Sequence[Title], year: int) -> Question:
    matches: list[TitleMatch] = sorted((weigh(one, key_of(name), year) for one in listed), key=lambda m: -m.score)
    return Question(LISTED_OTHERWISE, subject, tuple(items), tuple(matches))
