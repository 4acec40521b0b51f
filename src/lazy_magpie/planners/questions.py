"""What is in doubt as questions that a person can answer, grouped by their reason, with what the title lists say."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from lazy_magpie.catalogue import Title, Titles
from lazy_magpie.identify.candidates import lacks
from lazy_magpie.identify.namesakes import NAMESAKES
from lazy_magpie.identify.roles.left_over import BESIDE_OR_ALONE, FOLDER_ROLE
from lazy_magpie.identify.roles.place import ROLES
from lazy_magpie.identify.title_keys import key_of
from lazy_magpie.identify.title_text import match_key
from lazy_magpie.model import Answer, Item, Kind, State, Value, reason_of
from lazy_magpie.model.steps import Settle
from lazy_magpie.paths import name_of, parent
from lazy_magpie.titles import TitleMatch, candidates
from lazy_magpie.titles.match import SAME, is_clear

LISTED_OTHERWISE = "listed otherwise"
"""The reason to ask about a clear item."""
ASKS: Mapping[str, str] = {
    "bare year": "is the number the film's year, or does it belong to its title?",
    "no year": "of which year is it?",
    "year of a folder": "is the folder's year the film's?",
    LISTED_OTHERWISE: "who is right, the name or the title list?",
    "folder disagrees": "who is right, the name or the folder?",
    "two titles": "which is its title, the file's or the folder's?",
    "two readings": "which of the two is it?",
    "bracket in title": "does what stands in brackets belong to the title?",
    "words behind the year": "do they belong to the title, or are they a part's?",
    "release word in title": "do the words belong to the title?",
    "group or title": "is the last word a group's name, or does it belong to the title?",
    "language or title": "does the last word belong to the title?",
    "words written together": "how is the title written?",
    "copy or part": "is it a copy, or a part of the kit?",
    "copy or title": "is it a copy, or does the number belong to the title?",
    "list number": "does the number in front belong to the title?",
    "part or episode": "is it a part of one film, or an episode of a short series?",
    "no season said": "of which season is it?",
    "no episode": "which episode is it?",
    "no show": "of which show is it?",
    NAMESAKES: "of which of the shows of that name is it?",
    "season": "is it a film, or an episode of a season?",
    "shelf": "is it a film, though it stands on the shelf of series?",
    "bare number": "is the number an episode's?",
    "several numbers": "which episodes are these?",
    "several days": "of which day is it?",
    "recording": "is it an episode of that day, or a recording of your own?",
    "special": "is it a special?",
    "show behind": "which of the names is the show's?",
    "show or title": "where does the show's name end?",
    "country or word": "is it a country, or a word of the name?",
    "day or month first": "does the day stand first in the date?",
    "role of a folder": "what is the folder for?",
    "left over": "is that its name, or is it said beside it?",
    "little speaks for it": "is it what it is taken for?",
    "beside or alone": "does it belong to what lies near it?",
    "no family": "of which family is it?",
    "placeholder": "what is its real name?",
    "order of names": "which of the names is the artist's or maker's?",
    "no track": "is the upper folder the artist's?",
    "tags disagree": "who is right, the name or the tags?",
    "no artist": "who is the artist?",
    "no maker": "who made it?",
    "no system": "for which system is it?",
    "no title": "what is it called?",
    "name alone": "what is it?",
    "name not understood": "what is it? Its name is one that magpie can't read",
    "waits in the inbox": "what is it, and who made it?",
}
"""The question that each reason for doubt asks."""

_CURED = frozenset(
    "bare year|no year|year of a folder|two readings|bracket in title|words written together|list number|shelf|"
    "release word in title|group or title|language or title|show or title|words behind the year|"
    "country or word|show behind|folder disagrees|no season said|bare number|part or episode".split("|")
)
"""Reasons that a clear match in a title list settles."""
_LISTED: Mapping[Kind, str] = {
    Kind.MOVIE: "movie",
    Kind.EPISODE: "show",
    Kind.TRACK: "track",
    Kind.GAME: "game",
    Kind.KIT: "kit",
    Kind.DESIGN: "design",
    Kind.FONT: "font",
}
"""What an item of a kind is looked up as."""
_QUOTED = re.compile("“(.+?)”")
_CALLED: Mapping[Kind, tuple[str, str, str, str, str]] = {
    Kind.TRACK: ("a shelf, a genre, any group", "an artist", "an album", "a disc, a side", "what lies beside"),
    Kind.DESIGN: ("a shelf, a theme, any group", "a maker", "a set", "a format, a size", "what lies beside"),
    Kind.KIT: ("a shelf, a theme, any group", "a maker", "a kit", "a section of a kit", "what lies beside"),
    Kind.FONT: ("a shelf, a style, any group", "a maker", "a family", "a format, a style", "what lies beside"),
    Kind.GAME: ("a shelf, any group", "a system", "a game", "a disc", "what lies beside"),
    Kind.EPISODE: ("a shelf, a genre, any group", "a person", "a show", "a season", "extras, subtitles"),
    Kind.MOVIE: ("a shelf, a genre, any group", "a person", "a film", "a part", "extras, subtitles"),
    Kind.UNKNOWN: ("a shelf, any group", "a maker", "a work", "a part of one", "what lies beside"),
}
"""What a folder of each role is called among items of a kind, in the order of the roles."""
_BY_TITLE = (Kind.MOVIE, Kind.GAME)
_OF_FOLDER = frozenset(["no maker", "no artist", "no track", BESIDE_OR_ALONE, FOLDER_ROLE])
"""Reasons that the items of one folder share."""
_KEPT = ("edition", "part", "languages")


@dataclass(frozen=True, slots=True)
class Question:
    """One question: its reason, what it is about, the items that share it, and candidates, the best first.

    `folder` is the folder that is asked about, "" where the items themselves are.
    """

    reason: str
    subject: str
    items: tuple[Item, ...]
    found: tuple[TitleMatch, ...] = ()
    clear: bool = False
    folder: str = ""

    @property
    def asks(self) -> str:
        """The question in words."""
        if self.folder:
            return f"What is “{name_of(self.folder)}” for?"
        return ASKS.get(self.reason, "what is it?")

    @property
    def choices(self) -> Mapping[str, str]:
        """What the folder may be, by role, in words that fit what it holds; of a question about items nothing."""
        if not self.folder:
            return {}
        words = _CALLED.get(Counter(item.kind for item in self.items).most_common(1)[0][0], _CALLED[Kind.UNKNOWN])
        return dict(zip(ROLES, words, strict=True))

    @property
    def readable(self) -> bool:
        """Say whether the items can be taken as they are read: no needed field is missing."""
        return all(not lacks(item.kind, item.fields) for item in self.items)


def in_doubt(doubt: str) -> str:
    """Return a doubt as the question that would end it, with what is special about this one."""
    asks = ASKS.get(reason_of(doubt), "what is it?")
    special = doubt.partition(": ")[2]
    return f"in doubt: {asks}{f' ({special})' if re.search(r'“|[0-9]', special) else ''}"


def questions(items: Iterable[Item], titles: Titles) -> list[Question]:
    """Return the questions that settle `items`, the largest group of one reason first; a show is asked once."""
    groups: dict[tuple[str, str], list[Item]] = {}
    for item in items:
        if item.doubts:
            reason = reason_of(item.doubts[0])
            groups.setdefault((reason, _subject(item, reason)), []).append(item)
    found = [
        Question(reason, folder, tuple(group), folder=folder)
        if (folder := _folder_asked(group[0]))
        else _looked_up(reason, group, titles)
        for (reason, _), group in groups.items()
    ]
    sizes: dict[str, int] = {}
    for question in found:
        sizes[question.reason] = sizes.get(question.reason, 0) + len(question.items)
    return sorted(found, key=lambda question: _rank(question, sizes))


def _rank(question: Question, sizes: Mapping[str, int]) -> tuple[bool, int, str, str]:
    """Return the place of a question: one about a folder stands first, and first of them that which decides most."""
    size = len(question.items) if question.folder else sizes[question.reason]
    return (not question.folder, -size, question.reason, question.subject.casefold())


def _subject(item: Item, reason: str) -> str:
    """Return what two items must have in common to share a question: show, film, game with its discs, or folder."""
    if reason == FOLDER_ROLE and (folder := _folder_asked(item)):
        return folder
    names = ("show",) if item.kind is Kind.EPISODE else ("title", "year") if item.kind in _BY_TITLE else ()
    values = [match_key(str(item.fields[name])) for name in names if name in item.fields]
    if values:
        return f"{item.kind} {' '.join(values)}"
    return parent(item.path) if reason in _OF_FOLDER and parent(item.path) else item.path


def _folder_asked(item: Item) -> str:
    """Return the folder of the own root that an item's doubt asks about, the nearest of that name; "" if none."""
    match = _QUOTED.search(item.doubts[0])
    if match is None or item.root or reason_of(item.doubts[0]) != FOLDER_ROLE:
        return ""
    folder = parent(item.path)
    while folder and name_of(folder) != match[1]:
        folder = parent(folder)
    return folder


def wanted(items: Iterable[Item]) -> list[tuple[str, str, int]]:
    """Return what will be looked up for `items`: (kind, title, year), each once."""
    found = (one for item in items for one in names_of(item))
    return list(dict.fromkeys(found))


def names_of(item: Item) -> list[tuple[str, str, int]]:
    """Return the names that an item may be listed under; a number at the end of one may be its year or not."""
    kind = _LISTED.get(item.kind)
    fields = item.fields
    name = str(fields.get("show") or fields.get("title") or fields.get("family") or "")
    if kind is None or not name:
        return []
    year = int(str(fields.get("year") or fields.get("show_year") or 0))
    found = [(kind, name, year)]
    reason = reason_of(item.doubts[0]) if item.doubts else ""
    if reason == "bare year" and year:
        found.append((kind, f"{name} {year}", 0))
    if reason in ("part or episode", "bare number"):
        found.append(("movie", name, 0))
    return found


def _looked_up(reason: str, items: Sequence[Item], titles: Titles) -> Question:
    item = items[0]
    best: dict[tuple[str, str, int], TitleMatch] = {}
    for kind, title, year in names_of(item):
        for candidate in candidates(titles, kind, title, year):
            key = (candidate.title.kind, candidate.title.title, candidate.title.year)
            if key not in best or candidate.score > best[key].score:
                best[key] = candidate
    found = sorted(best.values(), key=lambda candidate: -candidate.score)
    if reason == NAMESAKES:
        found = [*_namesakes(item, found), *found]
    subject = str(item.fields.get("show") or item.fields.get("title") or item.path)
    clear = bool(found) and is_clear(found) and all(_settles(reason, one, found, titles) for one in items)
    return Question(reason, subject, tuple(items), tuple(found), clear)


def _namesakes(item: Item, listed: Iterable[TitleMatch]) -> list[TitleMatch]:
    """Return the shows of one name that an item's doubt names, but for those that title lists have."""
    name = str(item.fields["show"])
    known = {candidate.title.year for candidate in listed if key_of(candidate.title.title) == key_of(name)}
    years = [int(year) for year in re.findall(r"\d{4}", item.doubts[0].rpartition("”")[2])]
    return [
        TitleMatch(Title(0, "", "show", name, year, "", ()), 1.0, 1.0, "a show of the collection")
        for year in years
        if year not in known
    ]


def _settles(reason: str, item: Item, found: Sequence[TitleMatch], titles: Titles) -> bool:
    """Say whether the first candidate leaves no doubt about an item, not only about its title."""
    best = found[0].title
    if reason not in _CURED or len({reason_of(doubt) for doubt in item.doubts} - _CURED):
        return False
    answer = answered(item, found[0], titles)
    if answer is None or lacks(answer.kind, answer.fields):
        return False
    if reason == "folder disagrees":
        return sum(candidate.likeness >= SAME for candidate in found) == 1
    if reason == "no season said":
        return titles.seasons(best.id) == {1}
    if reason in ("bare number", "part or episode") and item.kind is Kind.EPISODE and best.kind == "show":
        season, episode = item.fields.get("season"), item.fields.get("episode")
        return season is not None and titles.episode(best.id, int(str(season)), int(str(episode))) is not None
    return True


def answered(item: Item, candidate: TitleMatch, titles: Titles) -> Answer | None:
    """Return what an item is if it is the candidate, None where the candidate can't be meant."""
    title, fields = candidate.title, item.fields
    kept = {key: fields[key] for key in _KEPT if key in fields}
    if title.kind == "movie":
        if item.kind is Kind.EPISODE:
            kept.setdefault("part", fields.get("episode", 1))
        year = {"year": title.year} if title.year else {}
        return Answer(Kind.MOVIE, {"title": title.title, **year, **kept}, title.list)
    if title.kind == "show":
        return Answer(Kind.EPISODE, _episode(item, title, titles), title.list)
    if title.kind == "font":
        return Answer(Kind.FONT, {**fields, "family": title.title}, title.list)
    maker = {"artist" if title.kind == "track" else "maker": title.maker} if title.maker else {}
    return Answer(Kind(title.kind), {**fields, **maker, "title": title.title}, title.list)


def _episode(item: Item, show: Title, titles: Titles) -> dict[str, Value]:
    """Return an episode's fields with the show as the list has it; its year only where two shows share the name."""
    fields = {key: value for key, value in item.fields.items() if key not in ("show", "show_year")}
    shared = len({one.year for one in titles.by_key(key_of(show.title), ("show",))}) > 1
    found: dict[str, Value] = {"show": show.title}
    asked = any(reason_of(doubt) == NAMESAKES for doubt in item.doubts)
    if show.year and (shared or asked or "show_year" in item.fields):
        found["show_year"] = show.year
    found |= fields
    if "season" in fields and "episode" in fields and ("episode_title" not in fields or item.state is State.CLEAR):
        listed = titles.episode(show.id, int(str(fields["season"])), int(str(fields["episode"])))
        if listed and listed[0]:
            found["episode_title"] = listed[0]
    return found


def settling(item: Item, answer: Answer | None, old: Answer | None) -> Settle:
    """Return the step that settles an item, or takes its answer back (None); `old` is how it was settled before."""
    why = f"settled by {answer.by}" if answer else "taken back"
    return Settle(source=item.path, why=why, item=item.id, old=old, new=answer)
