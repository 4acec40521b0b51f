"""Title lists as files: CSV or JSON Lines, with the columns below; a row is a title or, for a show, one episode.

| column | what it holds |
|---|---|
| kind | movie, show (or episode), track, game, kit, design, font |
| title | the title; for an episode its show's |
| year | of the film; the first one of a show |
| other titles | in CSV parted by `|`, in JSON a list |
| title en, title de, … | the title in a language, by its code |
| maker | artist, studio, designer (may be missing) |
| season, episode, episode title, air date | of one episode of the show |

Columns are found by their heads in any order and case, with `_` or a space; unknown ones are passed over.
"""

from __future__ import annotations

import csv
import io
import json
import re
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from lazy_magpie.catalogue import NewTitle
from lazy_magpie.errors import UsageError
from lazy_magpie.identify.title_keys import keys_of
from lazy_magpie.suggest import nearest

KINDS = ("movie", "show", "track", "game", "kit", "design", "font")
_ALSO = {"episode": "show", "series": "show", "film": "movie"}
_COLUMNS = ("kind", "title", "year", "other titles", "maker", "season", "episode", "episode title", "air date")
_IN_LANGUAGE = re.compile(r"title \(?([a-z]{2,3})\)?")
_NEEDED = ("kind", "title")


@dataclass
class _Show:
    """A show whose episodes are gathered from its rows."""

    year: int
    maker: str
    others: list[str]
    languages: dict[str, str]
    episodes: list[tuple[int, int, str, str]] = field(default_factory=list)


def read_titles(path: Path) -> Iterator[NewTitle]:
    """Yield the titles of a list, shows last with all their episodes.

    Raises UsageError with the row of the first mistake.
    """
    try:
        with open(path, encoding="utf-8-sig", newline="") as file:
            yield from _titles(_rows(file, path), path)
    except UnicodeDecodeError as error:
        raise UsageError(f"{path} is not UTF-8 (byte {error.start}); save it as UTF-8.") from None
    except OSError as error:
        raise UsageError(f"{path} can't be read: {error.strerror}. Name a CSV or JSON Lines file.") from None


def _rows(file: io.TextIOWrapper, path: Path) -> Iterator[tuple[int, Mapping[str, Any]]]:
    """Yield (row number, values by column) of a file of either format."""
    if path.suffix.lower() in (".jsonl", ".ndjson", ".json"):
        for number, line in enumerate(file, start=1):
            if line.strip():
                yield number, _object(line, number, path)
        return
    head = file.readline()
    separator = max(",;\t", key=head.count)
    names = [_column(name) for name in next(csv.reader([head], delimiter=separator), [])]
    for column in _NEEDED:
        if column not in names:
            raise UsageError(f"{path}, row 1: there is no column “{column}”{nearest(column, names)}")
    for number, values in enumerate(csv.reader(file, delimiter=separator), start=2):
        if any(values):
            yield number, dict(zip(names, values, strict=False))


def _object(line: str, number: int, path: Path) -> Mapping[str, Any]:
    try:
        found = json.loads(line)
    except (ValueError, RecursionError) as error:
        raise UsageError(f"{path}, row {number}: this is not JSON: {error}.") from None
    if not isinstance(found, dict):
        raise UsageError(f'{path}, row {number}: a row is a JSON object, like {{"kind": "movie", …}}.')
    return {_column(str(key)): value for key, value in found.items()}


def _column(name: str) -> str:
    return " ".join(name.strip().lower().replace("_", " ").split())


def _titles(rows: Iterable[tuple[int, Mapping[str, Any]]], path: Path) -> Iterator[NewTitle]:
    shows: dict[tuple[str, int], _Show] = {}
    for number, row in rows:
        try:
            kind, title, year = _kind(row), _text(row, "title"), _number(row, "year")
            if not title:
                raise UsageError("“title” is empty")
            languages = _languages(row)
            others, maker = [*_others(row), *languages.values()], _text(row, "maker")
            others = [other for other in dict.fromkeys(others) if other != title]
            if kind != "show":
                yield _new(kind, title, year, maker, others, (), languages)
                continue
            show = shows.setdefault((title, year), _Show(year, maker, [], {}))
            show.languages |= languages
            show.others += [other for other in others if other not in show.others]
            season, episode = _number(row, "season", -1), _number(row, "episode", -1)
            if season >= 0 and episode >= 0:
                show.episodes.append((season, episode, _text(row, "episode title"), _text(row, "air date")))
        except UsageError as error:
            raise UsageError(f"{path}, row {number}: {error}. Correct the row; nothing was added.") from None
    for (title, year), show in shows.items():
        yield _new("show", title, year, show.maker, show.others, show.episodes, show.languages)


def _new(
    kind: str,
    title: str,
    year: int,
    maker: str,
    others: list[str],
    episodes: Iterable[tuple[int, int, str, str]],
    languages: Mapping[str, str],
) -> NewTitle:
    keys = [key for name in (title, *others) for key in keys_of(name)]
    return NewTitle(kind, title, year, maker, others, keys, episodes, languages)


def _kind(row: Mapping[str, Any]) -> str:
    word = _text(row, "kind").lower()
    kind = _ALSO.get(word, word)
    if kind not in KINDS:
        hint = nearest(word, KINDS, f"; there are {', '.join(KINDS)}")
        raise UsageError(f"there is no kind “{word}”{hint}".rstrip("."))
    return kind


def _text(row: Mapping[str, Any], column: str) -> str:
    value = row.get(column)
    return "" if value is None else str(value).encode("utf-8", "replace").decode().strip()


def _number(row: Mapping[str, Any], column: str, missing: int = 0) -> int:
    text = _text(row, column)
    if not text:
        return missing
    if not text.isdecimal() or len(text) > 6:
        raise UsageError(f"“{column}” is a number, not “{text}”")
    return int(text)


def _languages(row: Mapping[str, Any]) -> dict[str, str]:
    """Return the titles of the columns "title de", "title en", by the language code."""
    codes = {column: match[1] for column in row if (match := _IN_LANGUAGE.fullmatch(column))}
    return {code: text for column, code in codes.items() if (text := _text(row, column))}


def _others(row: Mapping[str, Any]) -> list[str]:
    value = row.get("other titles")
    parts = value if isinstance(value, list) else str(value or "").split("|")
    return [text for part in parts if (text := str(part).encode("utf-8", "replace").decode().strip())]
