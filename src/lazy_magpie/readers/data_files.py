"""What data files beside things say of these: JSON-LD, XMP, Dublin Core, and any small XML that names a title.

| fact | what it is |
|---|---|
| data | "yes": it was understood as data about one thing |
| title, show, artist, album | texts |
| year, season, episode | numbers |
| lines | of a text that is none of these |

An XML of another make is understood where its root, or the one element in it, has an element called title or name
beside one that says a year or a number; anything else says nothing. Words are those of schema.org, of Dublin Core
(ISO 15836), and plain English ones.
"""

from __future__ import annotations

import json
import re
from collections.abc import Mapping
from typing import Any

from lazy_magpie.model import Value

ENDINGS = frozenset(".nfo .xml .xmp .jsonld".split())
_LARGEST = 1 << 20
_LONGEST = 300
_DEEPEST = 4
_TITLE = re.compile("title|name")
_DATE = re.compile("date|year|released?|published|date ?published|release[ _-]?date")
_TEXTS = {
    "show": re.compile("(?:part ?of ?)?(?:show|series)[ _-]?(?:title|name)?"),
    "artist": re.compile("(?:by ?)?artist|creator"),
}
_NUMBERS = {
    "season": re.compile("(?:part ?of ?)?season[ _-]?(?:number)?"),
    "episode": re.compile("episode[ _-]?(?:number)?"),
}
"""What elements are called that say these, in small letters, in whatever program's way to write them."""


def read(path: str) -> dict[str, Value]:
    """Return what the data file at `path` says; a text that is none has only lines."""
    with open(path, "rb") as file:
        data = file.read(_LARGEST + 1)
    if len(data) > _LARGEST:
        return {}
    if path.lower().endswith(".jsonld"):
        return _facts(_of_json(data))
    if data.lstrip(b"\xef\xbb\xbf \t\r\n").startswith(b"<"):
        return _facts(_of_xml(data))
    return {"lines": data.count(b"\n") + (not data.endswith(b"\n") and bool(data))}


def _facts(said: Mapping[str, str]) -> dict[str, Value]:
    """Return the facts in what a file says, by names in small letters; nothing where it tells of no one thing."""
    title = _first(said, _TITLE)
    year = re.search(r"\b(1[89]\d\d|20\d\d)\b", _first(said, _DATE))
    numbers = {fact: int(text) for fact, names in _NUMBERS.items() if (text := _first(said, names)).isdecimal()}
    texts = {fact: text for fact, names in _TEXTS.items() if (text := _first(said, names))}
    if not title or not (year or numbers or texts):
        return {}
    found: dict[str, Value] = {"data": "yes", "title": title, **texts, **numbers}
    return {**found, "year": int(year[1])} if year else found


def _first(said: Mapping[str, str], called: re.Pattern[str]) -> str:
    return next((text[:_LONGEST] for name, text in said.items() if text and called.fullmatch(name)), "")


def _of_json(data: bytes) -> dict[str, str]:
    try:
        thing = json.loads(data)
    except (ValueError, RecursionError):
        return {}
    return {key.lower(): text for key, value in thing.items() if (text := _plain(value))} if _is_one(thing) else {}


def _is_one(thing: object) -> bool:
    return isinstance(thing, dict) and "@type" in thing


def _plain(value: object) -> str:
    """Return a value as a text: a thing by its name or its number."""
    if isinstance(value, dict):
        value = value.get("name") or value.get("seasonNumber")
    return str(value).strip() if isinstance(value, str | int) else ""


def _of_xml(data: bytes) -> dict[str, str]:
    import defusedxml.ElementTree
    from defusedxml.common import DefusedXmlException

    try:
        root: Any = defusedxml.ElementTree.fromstring(data)
    except (defusedxml.ElementTree.ParseError, DefusedXmlException, ValueError, RecursionError):
        return {}
    for _ in range(_DEEPEST):  # a packet in a packet: what tells is the element with more than one in it
        if len(root) != 1:
            break
        root = root[0]
    said: dict[str, str] = {}
    for one in root:
        name = str(one.tag).rpartition("}")[2].lower()
        if text := " ".join("".join(one.itertext()).split()):
            said.setdefault(name, text)
    return said
