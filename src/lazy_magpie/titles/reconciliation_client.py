"""Title services asked by the Reconciliation Service API 0.2 (W3C Entity Reconciliation Community Group).

The manifest says what a service can; names are asked for in batches (by POST, or by GET where it refuses that), with
the kind as type and the year as property where it knows them; year and other titles come by data extension, or from the
name itself. What was answered is kept in the catalogue, so that all goes on without a network.
"""

from __future__ import annotations

import datetime
import json
import re
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any
from urllib.parse import quote

from lazy_magpie.catalogue import NewTitle, TitleList, Titles
from lazy_magpie.identify.title_keys import keys_of
from lazy_magpie.titles import web
from lazy_magpie.titles.web import Refused, ServiceError

Question = tuple[str, str, int]
"""Kind, title, year (0: not known)."""
BATCH = 20
LIMIT = 6
KEPT = datetime.timedelta(days=30)
"""How long an answer counts."""
_TYPE_WORDS = {
    "movie": ("movie", "film", "motion picture"),
    "show": ("show", "series", "tv series", "television series", "tv show"),
    "track": ("track", "song", "recording"),
    "game": ("game", "video game"),
    "kit": ("kit",),
    "design": ("design",),
    "font": ("font", "typeface"),
}
_PROPERTIES = {
    "year": ("year", "release year", "publication date", "release date", "date", "first aired", "start year"),
    "other titles": ("other titles", "other title", "alias", "aliases", "also known as", "alternative title"),
    "maker": ("maker", "artist", "performer", "publisher"),
    "episodes": ("episodes", "episode list"),
}
_EPISODE = re.compile(r"^(\d{1,4})x(\d{1,4})\s*(.*)$")
_YEAR_BEHIND = re.compile(r"^(?P<title>.+?) *[(\[](?P<year>(?:18|19|20)\d\d)[)\]]$")


@dataclass
class Service:
    """A service and what its manifest says. `off` holds the sentence that ended its use in this run."""

    url: str
    name: str = ""
    types: Mapping[str, str] = field(default_factory=dict)
    properties: Mapping[str, str] = field(default_factory=dict)
    extends: bool = False
    by_get: bool = False
    plain: bool = False
    off: str = ""
    http: Any = None

    def meet(self) -> None:
        """Read the manifest. Raises ServiceError where this is no such service."""
        self.http = self.http or web.client()
        manifest = web.fetch(self.http, self.url)
        if not isinstance(manifest, dict) or not isinstance(manifest.get("name"), str):
            raise ServiceError(f"{self.url} is no reconciliation service: it has no manifest with a name.")
        self.name = manifest["name"]
        types = [one for one in manifest.get("defaultTypes") or [] if isinstance(one, dict) and "id" in one]
        self.types = {
            kind: str(one["id"]) for kind, words in _TYPE_WORDS.items() for one in types if _named(one, words)
        }
        extend = manifest.get("extend")
        self.extends = isinstance(extend, dict)
        if isinstance(extend, dict) and isinstance(extend.get("propose_properties"), dict):
            self.properties = self._proposed(extend["propose_properties"])

    def _proposed(self, where: Mapping[str, Any]) -> dict[str, str]:
        """Return the ids of the properties that matter to us, by what they are to us."""
        url = f"{where.get('service_url') or self.url}{where.get('service_path') or ''}"
        found: dict[str, str] = {}
        for type_id in dict.fromkeys(self.types.values()) or [""]:
            answer = web.fetch(self.http, f"{url}?type={quote(type_id)}")
            offered = answer.get("properties") if isinstance(answer, dict) else None
            for one in offered if isinstance(offered, list) else ():
                for ours, words in _PROPERTIES.items():
                    if isinstance(one, dict) and "id" in one and _named(one, words):
                        found.setdefault(ours, str(one["id"]))
        return found

    def ask(self, questions: Sequence[Question]) -> dict[Question, list[NewTitle]]:
        """Return the titles that the service offers for each question, at most `BATCH` questions at a time."""
        if self.types:  # of a kind that it does not have it knows nothing
            questions = [question for question in questions if question[0] in self.types]
        queries = {f"q{number}": self._query(question) for number, question in enumerate(questions)}
        if not queries:
            return {}
        try:
            answer = self._call("queries", queries)
        except Refused:
            if self.plain:
                raise
            self.plain = True  # perhaps it knows no types or properties
            return self.ask(questions)
        results = {question: _results(answer.get(f"q{number}"), self.url) for number, question in enumerate(questions)}
        known = self._extended({id for found in results.values() for id, _ in found})
        return {
            question: [self._title(question[0], name, known.get(id, {})) for id, name in found]
            for question, found in results.items()
        }

    def _query(self, question: Question) -> dict[str, Any]:
        kind, title, year = question
        query: dict[str, Any] = {"query": title, "limit": LIMIT}
        if kind in self.types and not self.plain:
            query["type"] = self.types[kind]
        if year and "year" in self.properties and not self.plain:
            query["properties"] = [{"pid": self.properties["year"], "v": year}]
        return query

    def _call(self, name: str, value: Mapping[str, Any]) -> dict[str, Any]:
        text = json.dumps(value, ensure_ascii=False)
        answer = None
        if not self.by_get:
            try:
                answer = web.fetch(self.http, self.url, {name: text})
            except Refused:
                self.by_get = True
        if answer is None:
            answer = web.fetch(self.http, f"{self.url}{'&' if '?' in self.url else '?'}{name}={quote(text)}")
        if not isinstance(answer, dict):
            raise ServiceError(f"The title service {self.name or self.url} answers in a form that is not the API's.")
        return answer

    def _extended(self, ids: set[str]) -> dict[str, dict[str, list[str]]]:
        """Return what the service knows of each id, by our names of the properties; {} where it can't say."""
        if not ids or not self.extends or not self.properties:
            return {}
        wanted = [{"id": id} for id in self.properties.values()]
        try:
            answer = self._call("extend", {"ids": sorted(ids), "properties": wanted})
        except ServiceError:
            self.extends = False  # the names alone have to do
            return {}
        rows = answer.get("rows")
        ours = {id: name for name, id in self.properties.items()}
        return {
            str(id): {ours[pid]: _values(cells) for pid, cells in row.items() if pid in ours}
            for id, row in (rows.items() if isinstance(rows, dict) else ())
            if isinstance(row, dict)
        }

    def _title(self, kind: str, name: str, known: Mapping[str, list[str]]) -> NewTitle:
        year = next((int(text[:4]) for text in known.get("year", []) if text[:4].isdecimal()), 0)
        if match := _YEAR_BEHIND.match(name):
            name, year = match["title"], year or int(match["year"])
        others = [other.strip() for text in known.get("other titles", []) for other in text.split("|") if other.strip()]
        maker = next(iter(known.get("maker", [])), "")
        listed = (_EPISODE.match(text) for text in known.get("episodes", []))
        episodes = [(int(match[1]), int(match[2]), match[3], "") for match in listed if match]
        keys = [key for one in (name, *others) for key in keys_of(one)]
        return NewTitle(kind, name, year, maker, others, keys, episodes)


def _named(one: Mapping[str, Any], words: Sequence[str]) -> bool:
    names = {str(one.get(key, "")).strip().lower().replace("_", " ") for key in ("id", "name")}
    return bool(names & set(words))


def _results(answer: Any, url: str) -> list[tuple[str, str]]:
    """Return (id, name) of the results of one query."""
    found = answer.get("result") if isinstance(answer, dict) else None
    if not isinstance(found, list):
        raise ServiceError(f"The title service {url} answers in a form that is not the API's.")
    whole = [one for one in found[:LIMIT] if isinstance(one, dict) and "id" in one and one.get("name")]
    return [(str(one["id"]), str(one["name"])) for one in whole]


def _values(cells: Any) -> list[str]:
    """Return the values of a cell of an extension as text."""
    found = []
    for cell in cells if isinstance(cells, list) else ():
        value = next((cell[key] for key in ("str", "int", "float", "date", "name") if key in cell), None)
        if value is not None:
            found.append(str(int(value)) if isinstance(value, float) else str(value))
    return found


@dataclass
class Services:
    """All services of a catalogue. What they answer is kept there, among the titles of a list of their name.

    `tell` is told once what is wrong with a service.
    """

    titles: Titles
    tell: Callable[[str], None]

    def prepare(self, questions: Iterable[Question]) -> None:
        """Ask all services for all questions that were not asked lately, in batches."""
        wanted = list(dict.fromkeys(questions))
        for one in self.titles.lists():
            if one.sort == "service":
                self._prepare(one, wanted)

    def _prepare(self, one: TitleList, wanted: Sequence[Question]) -> None:
        since = datetime.datetime.now(datetime.UTC) - KEPT
        asked = self.titles.asked(one.source, since)
        open_questions = [question for question in wanted if _text(question) not in asked]
        if not open_questions:
            return
        service = Service(one.source)
        try:
            service.meet()
            for batch in _batches(open_questions):
                answers = service.ask(batch)
                self.titles.add_new(one.id, (title for found in answers.values() for title in found))
                self.titles.note_asked(one.source, map(_text, batch))
        except ServiceError as error:
            self.tell(f"{error} Titles were not looked up there; all else goes on.")
        except Exception as error:  # whatever a service makes of its answers
            self.tell(
                f"The title service {one.name} answers in a form that can't be used ({error!r}). Titles were not "
                "looked up there; all else goes on."
            )


def _batches(questions: Sequence[Question]) -> Iterator[Sequence[Question]]:
    for at in range(0, len(questions), BATCH):
        yield questions[at : at + BATCH]


def _text(question: Question) -> str:
    return json.dumps(question, ensure_ascii=False)
