"""What the folders above a file say of it."""

from __future__ import annotations

import re
from dataclasses import dataclass, field, replace
from enum import Enum, auto

from lazy_magpie.identify import title_year
from lazy_magpie.identify.candidates import release_only
from lazy_magpie.identify.extra_words import extra_role
from lazy_magpie.identify.season_names import season_said
from lazy_magpie.identify.title_text import match_key, normalize_title, spaced_once
from lazy_magpie.identify.tokenizer import Name, plain_show, tokenize
from lazy_magpie.identify.vocabulary import (
    ARTICLES,
    COMPANION_FOLDERS,
    COUNTED,
    DISC_FOLDERS,
    EXTRA_FOLDERS,
    GENERIC_WORDS,
    SHELVES,
    SMALL_WORDS,
    STRONG,
)
from lazy_magpie.model import Kind
from lazy_magpie.paths import name_of, parent
from lazy_magpie.patterns import pattern
from lazy_magpie.words import meaning, remembered


class FolderRole(Enum):
    """What one folder's name says by itself."""

    GENERIC = auto()
    SHELF = auto()
    LETTERS = auto()
    YEARS = auto()
    SEASON = auto()
    EPISODE = auto()
    EXTRAS = auto()
    COMPANIONS = auto()
    DISC = auto()
    DISC_NUMBER = auto()
    TITLE = auto()


@dataclass(frozen=True, slots=True)
class Folder:
    """One folder's name, understood. `title` is the show's in front of a season, or the film's or show's own.

    `guess` says that nothing but a number names the season, `collects` that the title is that of several films.
    """

    role: FolderRole
    text: str
    title: str = ""
    year: int = 0
    year_weight: float = 0.0
    season: int = -1
    extra: str = ""
    kind: Kind | None = None
    part: int = 0
    guess: bool = False
    collects: bool = False


@dataclass(frozen=True, slots=True)
class FolderContext:
    """The folders above a file, nearest first, gathered: what each could lend to a reading."""

    titled: Folder | None = None
    season: Folder | None = None
    episode: Folder | None = None
    extras: Folder | None = None
    companions: Folder | None = None
    disc: Folder | None = None
    years: Folder | None = None
    shelf: Kind | None = None
    folders: tuple[Folder, ...] = field(default=())

    @property
    def disc_number(self) -> Folder | None:
        """The folder "CD 2" that the file lies in, directly or below its companions' folder."""
        near = self.folders[:1]
        if near and near[0].role in (FolderRole.COMPANIONS, FolderRole.DISC):
            near = self.folders[1:2]
        return near[0] if near and near[0].role is FolderRole.DISC_NUMBER else None

    @property
    def show(self) -> str:
        """The show that the folders name: in front of the season, or the folder above it."""
        if self.season and self.season.title:
            return self.season.title
        return self.titled.title if self.titled else ""

    def titles(self) -> list[Folder]:
        """Return the folders that carry a title of their own, nearest first, up to the shelf."""
        found = []
        for folder in self.folders:
            if folder.role is FolderRole.SHELF:
                break
            if folder.role in (FolderRole.TITLE, FolderRole.SEASON):
                found.append(folder)
        return found

    def on_shelf(self, kind: Kind) -> FolderContext:
        """Return the same place on a shelf of `kind`."""
        return replace(self, shelf=kind)

    @property
    def show_year(self) -> int:
        """The year in the show's folder, 0 if none stands there in brackets."""
        return self.titled.year if self.titled and self.titled.year_weight >= title_year.BRACKETED else 0


_EPISODE = pattern(
    r"(?i)(?<![^\W_])(?:s(?P<season>\d{1,4})[ ._-]{0,3}e\d{1,4}|(?P<of>\d{1,2})x\d{2,3})"
    r"(?P<more>(?:[ ._]?-?[ ._]?[ex]?\d{2,3}(?![\dpi]))*)(?![^\W_])"
)
_HEAPS = pattern(r"(?:folder|shelf)\.(?:downloads|new|misc|temp|desktop|old_laptop|old_disk|backup|to_sort)$")
"""Concepts of folders into which all sorts of things are put."""
_COLLECTS = pattern(
    r"(?i)(?:(?<![^\W_])(?:trilogy|duology|quadrilogy|tetralogy|anthology|collection|saga|box[ ._]?set)(?![^\W_])|"
    r"[(\[](?:19|20)\d\d ?[-–] ?(?:19|20)?\d\d[)\]])"
)
_DISC_NUMBER = pattern(
    r"(?i)^[(\[]?(?:cd|dis[ck]|dvd(?![59]$)|vinyl|lp)[ ._-]?"
    rf"(?P<number>\d{{1,2}}|{'|'.join(COUNTED)})(?![^\W_])[)\]]?(?:[ ._-].*)?$"
)
_SPECIALS = pattern(r"(?i)^(?P<show>.*?)[ ._-]*(?<![^\W_])specials?$")
_SHORT = 3
"""Letters of words that are too short to say that a folder holds specials: "Ona" is a film."""
_NUMBER_ONLY = pattern(
    r"(?i)^(?:(?:year|book|volume|vol|part|set|buch|jahr)\.?[ ._]|(?P<show>.+?)[ ._-]+)?(?P<number>\d{1,2})$"
)
"""A folder that may be a season's: "3", "Book 3", "Tidewater Lane 3"."""
_MINI_SERIES = pattern(
    r"(?i)(?<=\S)[ ._-]+[(\[]?(?:tv[ ._-]?)?mini[ ._-]?series?"
    r"(?:[ ._](?P<year>(?:19|20)\d\d)(?:[-–](?:\d{4})?)?)?[)\]]?"
)
_DATED = pattern(r"[(\[](?:18|19|20)\d\d[)\]]")
_BRACKETS = pattern(r"[(\[][^()\[\]]*[)\]]")
_WORDS = pattern(r"[^\W\d_]{2}")
_HUMP = pattern(r"(?<=[a-z])(?=[A-Z])")
_LETTERS = pattern(r"(?i)^(?:[a-z#]|0-9|[a-z0-9] ?[-–_] ?[a-z0-9]|#-?[a-z]?)$")
_OF_MAKERS = frozenset((Kind.KIT, Kind.DESIGN, Kind.FONT))
"""What is kept by its maker: no word on these shelves is one for a release."""
_LETTERS_ONLY = pattern(r"[^\W\d_]+")
_YEARS = pattern(
    r"^(?:(?:18|19|20)\d0s|[(\[]?(?P<year>(?:18|19|20)\d\d)[)\]]?|"
    r"[(\[]?(?:18|19|20)\d\d ?[-–] ?(?:(?:18|19|20)\d\d)?[)\]]?)$"
)


_COLLECTED = pattern(
    r"(?i)(?<=[^\W_])"
    r"(?:[ ._-]+[(\[]?(?:(?:the[ ._])?complete(?:[ ._](?:tv[ ._])?(?:series|collection|show|box[ ._]?set))?"
    r"|seasons?[ ._]\d{1,2}[ ._]?(?:-|to|&|\+)[ ._]?\d{1,2}|s\d{1,2}[ ._]?-[ ._]?s?\d{1,2}|all[ ._]seasons|batch|"
    r"tv[ ._](?:series|show)|"
    r"box[ ._]?set|\d{1,3} ?- ?\d{1,3}(?=\)))"
    r"(?=$|[)\] ._-])[)\]]?)+(?:[ ._-]+(?:\d{3,4}p|web|bluray|dvdrip|x26[45]|hdtv).*)?$"
)
"""What stands behind a show's name on a folder that holds all of it."""
_ALL_OF_IT = pattern(
    r"^(?:(?:the |all )?(?:complete|full|entire|whole) "
    r"(?:(?:tv )?(?:series|show|run|collection|box ?set)|seasons|episodes)|"
    r"(?:all )?(?:the )?(?:seasons|episodes|series)|box ?set)$"
)
"""A folder between a show and its seasons that is called by nothing but that."""


@remembered(8192)
def understand(text: str) -> Folder:
    """Say what the name of one folder means by itself; one that nobody foresaw is that of a place."""
    try:
        return _understood(text)
    except Exception:
        return Folder(FolderRole.GENERIC, text)


def is_heap(name: str) -> bool:
    """Say whether all sorts of things are put into a folder of this name: "Downloads", "Old disk", "Zu sortieren"."""
    said = meaning(name).items()
    return understand(name).role is FolderRole.GENERIC or any(level == 2 and _HEAPS.match(one) for one, level in said)


def _understood(text: str) -> Folder:
    given = spaced_once(text)
    if mini := _mini_series(given):
        return mini
    text = plain_show(given)
    if given != text:
        return replace(understand(text), text=given, kind=Kind.EPISODE)
    plain = " ".join(text.lower().replace("_", " ").split())
    if plain in DISC_FOLDERS or text.lower() in DISC_FOLDERS:
        return Folder(FolderRole.DISC, text)
    if plain in SHELVES:
        return Folder(FolderRole.SHELF, text, kind=Kind(SHELVES[plain]))
    if extra := _extras(text):
        return Folder(FolderRole.EXTRAS, text, extra=extra)
    if plain in COMPANION_FOLDERS or meaning(text).get("subtitles.folder", 0) > 1:
        return Folder(FolderRole.COMPANIONS, text)
    if _ALL_OF_IT.match(plain):
        return Folder(FolderRole.GENERIC, text)
    if _LETTERS.match(plain):
        return Folder(FolderRole.LETTERS, text)
    if folder := _numbered(text, plain) or _episode(text):
        return folder
    bare = _COLLECTED.sub("", text)
    if season := _season(bare):
        return replace(season, text=text)
    words = _LETTERS_ONLY.findall(plain)
    generic = bool(words) and all(word in GENERIC_WORDS for word in words) and not set(words) <= SMALL_WORDS
    if generic and not _DATED.search(text):
        return Folder(FolderRole.GENERIC, text)
    name = tokenize(text)
    if name.marks and release_only(name):
        return Folder(FolderRole.GENERIC, text)
    whole = _titled(text, name)
    film = whole if bare == text or whole.year_weight >= title_year.FOLLOWED else _titled(bare, tokenize(bare))
    return replace(film, text=text, collects=bool(_COLLECTS.search(text)))


def _numbered(text: str, plain: str) -> Folder | None:
    """Read a folder that is called by a number: a disc's, "CD 2", or a year's."""
    if match := _DISC_NUMBER.match(plain):
        return Folder(FolderRole.DISC_NUMBER, text, season=COUNTED.get(match["number"]) or int(match["number"]))
    if match := _YEARS.match(plain):
        return Folder(FolderRole.YEARS, text, year=int(match["year"] or 0))
    return None


def _mini_series(text: str) -> Folder | None:
    """Read the folder of a mini-series, "Keeper's Log (Mini-Series 1998)": it is the show's and its only season's."""
    brackets = (match for match in _BRACKETS.finditer(text) if match.start() and "miniseries" in meaning(match.group()))
    match = _MINI_SERIES.search(text) or next(brackets, None)  # "(Vierteiler)"
    if match is None:
        return None
    year = f" ({said})" if (said := match.groupdict().get("year")) else ""
    show = text[: match.start()] + year + text[match.end() :]
    return replace(_titled(show, tokenize(show)), role=FolderRole.SEASON, text=text, season=1, kind=Kind.EPISODE)


def _episode(text: str) -> Folder | None:
    """Read a folder that holds one episode, named as its file would be; one with several is a season's."""
    if match := _EPISODE.search(text):
        start, season = match.start(), int(match["season"] or match["of"])
    elif date := next((m for m in tokenize(text).marks if m.field == "air_date" and m.strength == STRONG), None):
        start, season = date.start, -1
    else:
        return None
    show = text[:start].rstrip(" ._-[(")
    if not normalize_title(show):
        return Folder(FolderRole.EPISODE, text, season=season) if match and not match["more"] else None
    role = FolderRole.SEASON if match and match["more"] else FolderRole.EPISODE
    return replace(_titled(show, tokenize(show)), role=role, text=text, season=season)


def _season(text: str) -> Folder | None:
    said = season_said(text)
    if (match := _SPECIALS.match(text)) and not season_said(match["show"]) and match["show"].lower() not in ARTICLES:
        return Folder(FolderRole.SEASON, text, title=normalize_title(match["show"]), season=0)
    if (len(text) > _SHORT or not text.isascii()) and meaning(text).get("special", 0) > 1:  # "Sonderfolgen", "특별편"
        return Folder(FolderRole.SEASON, text, season=0)
    if said is None:
        return None
    rest = said.rest.strip(" ._-")
    if extra := _extras(rest):  # "Season 1 Extras"
        return Folder(FolderRole.EXTRAS, text, extra=extra)
    if rest.lower() == "specials":
        return Folder(FolderRole.SEASON, text, title=normalize_title(said.show), season=0, guess=True)
    year = _YEARS.match(said.show.strip(" ._-"))
    named = said.show.strip(" ._-") and not year
    titled = _titled(said.show, tokenize(said.show)) if named else Folder(FolderRole.TITLE, said.show)
    return replace(titled, role=FolderRole.SEASON, text=text, season=said.number)


def _titled(text: str, name: Name) -> Folder:
    sure = [read for read in title_year.readings(name) if not read.year or read.weight >= title_year.BARE]
    best = max(sure, key=lambda reading: reading.weight, default=None)
    if best is None:
        return Folder(FolderRole.GENERIC, text)
    discs = (m for m in name.marks if m.field == "part" and m.start > 0 and m.strength == STRONG)
    part = next((int(str(m.value)) for m in discs if not _WORDS.search(_BRACKETS.sub("", text[m.end :]))), 0)
    weight = best.weight if best.year else 0.0
    return Folder(FolderRole.TITLE, text, title=best.title, year=best.year, year_weight=weight, part=part)


def _number_below(text: str, title: str) -> int:
    """Return the number that a folder below a show's has for a name, perhaps behind a word or the show: 0 if none."""
    match = _NUMBER_ONLY.match(text)
    return int(match["number"]) if match and (not match["show"] or match_key(match["show"]) == match_key(title)) else 0


def _extras(text: str) -> str:
    """Return which extras a folder holds by its whole name, "" if none."""
    return EXTRA_FOLDERS.get(" ".join(re.split(r"[ ._-]+", _HUMP.sub(" ", text).lower()))) or extra_role(text)


def _extras_of(text: str, title: str) -> str:
    """Return which extras a folder holds that repeats the title above it: "The Salt Orchard - Extras"; "" if none."""
    front, dash, rest = text.rpartition("-")
    return _extras(rest.strip(" ._")) if dash and match_key(normalize_title(front)) == match_key(title) else ""


def _below(here: Folder, above: FolderContext) -> Folder:
    """Return a folder as what it is below those above it: a season by its number, a disc, a language's subtitles."""
    if (
        here.role is FolderRole.SHELF and above.titled and _ALL_OF_IT.match(here.text.lower())
    ):  # "Tidewater Lane/Episodes"
        return replace(here, role=FolderRole.GENERIC, kind=None)
    if here.title.isdecimal() and int(here.title) == here.season and above.titled:  # "Tidewater Lane/02 - Season 2"
        return replace(here, title="")
    if here.role is FolderRole.DISC_NUMBER and not above.titled and _DATED.search(here.text):  # a film called "Disc 9"
        return titled_folder(here.text)
    if above.shelf in _OF_MAKERS and _is_called_as_of_films(here, above):
        return titled_folder(here.text)
    if here.role is not FolderRole.TITLE:
        return here
    if above.titled and (number := _number_below(here.text, above.titled.title)):
        if above.season:  # "Season 2/Part 1"
            return replace(here, role=FolderRole.GENERIC)
        return Folder(FolderRole.SEASON, here.text, season=number, guess=True)
    if above.titled and (extra := _extras_of(here.text, above.titled.title) or extra_role(here.text, weak=True)):
        return Folder(FolderRole.EXTRAS, here.text, extra=extra)
    if above.folders and above.folders[0].role is FolderRole.COMPANIONS:
        return replace(here, role=FolderRole.COMPANIONS)
    if here.part and above.titled and match_key(here.title) == match_key(above.titled.title):
        return Folder(FolderRole.DISC_NUMBER, here.text, season=here.part)
    return here


def _is_called_as_of_films(here: Folder, above: FolderContext) -> bool:
    """Say whether a maker's or a kit's folder has a name that means something only among films: "Bluray", "Disc 9"."""
    if here.role in (FolderRole.EXTRAS, FolderRole.DISC_NUMBER):
        return above.shelf is Kind.KIT or not above.titled
    return here.role is FolderRole.GENERIC and release_only(tokenize(here.text))


def _show_of_shelf(above: FolderContext) -> Folder | None:
    """Return the folder between a shelf and a season, whose show it must be called by: "Series/Home/Season 1"."""
    sorts = [folder.role for folder in above.folders[:2]]
    return titled_folder(above.folders[0].text) if sorts == [FolderRole.GENERIC, FolderRole.SHELF] else None


def titled_folder(text: str) -> Folder:
    """Return a folder as a film's or a show's own, whatever else its name may mean."""
    return _titled(text, tokenize(text))


@remembered(2048)
def place_of(folder: str) -> FolderContext:
    """Gather what the folders from `folder` up to the root say ("" is the root)."""
    if not folder:
        return FolderContext()
    here = understand(name_of(folder))
    above = place_of(parent(folder))
    here = _below(here, above)
    folders = (here, *above.folders)
    match here.role:
        case FolderRole.SEASON if here.kind is Kind.EPISODE:  # a mini-series: its show's folder, too
            return FolderContext(here, here, shelf=above.shelf, years=above.years, folders=folders)
        case FolderRole.SEASON:
            show = above.titled or (_show_of_shelf(above) if not here.title else None)
            return replace(above, titled=show, season=here, folders=folders, extras=None, companions=None)
        case FolderRole.EPISODE:
            if not here.title:  # "Season 2/S02E05": the show stands above
                return replace(above, episode=here, folders=folders)
            return replace(above, titled=here, episode=here, season=None, folders=folders)
        case FolderRole.EXTRAS:
            return replace(above, extras=here, folders=folders)
        case FolderRole.COMPANIONS:
            return replace(above, companions=here, folders=folders)
        case FolderRole.DISC:
            return replace(above, disc=here, folders=folders)
        case FolderRole.YEARS:
            return replace(above, years=here, folders=folders)
        case FolderRole.SHELF:
            return FolderContext(shelf=here.kind, folders=folders)
        case FolderRole.TITLE if not (
            above.titled and release_only(tokenize(here.text), weak=True)
        ):  # no "Tidewater Lane/DVD"
            return FolderContext(titled=here, shelf=here.kind or above.shelf, years=above.years, folders=folders)
        case _:
            return replace(above, folders=folders)
