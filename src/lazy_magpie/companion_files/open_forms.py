"""Data files in open forms: JSON-LD in the words of schema.org, Dublin Core (ISO 15836) as XML, XMP (ISO 16684-1)."""

from __future__ import annotations

import json
from collections.abc import Iterator, Mapping

from lazy_magpie.model import Item, Kind, Value
from lazy_magpie.paths import name_of, written
from lazy_magpie.xml_text import escaped

_TYPES = {
    Kind.MOVIE: "Movie",
    Kind.EPISODE: "TVEpisode",
    Kind.TRACK: "MusicRecording",
    Kind.GAME: "VideoGame",
    Kind.PICTURE: "Photograph",
    Kind.DOCUMENT: "DigitalDocument",
}


def json_ld(item: Item) -> str:
    """Return an item as JSON-LD, with the words that schema.org has for its kind."""
    fields = item.fields
    found: dict[str, object] = {"@context": "https://schema.org", "@type": _TYPES.get(item.kind, "CreativeWork")}
    found["name"] = _text(fields.get("episode_title") or fields.get("title") or name_of(item.path))
    _put(found, "datePublished", fields.get("air_date") or fields.get("year"))
    match item.kind:
        case Kind.EPISODE:
            _put(found, "episodeNumber", fields.get("episode") or fields.get("running"))
            if "season" in fields:
                found["partOfSeason"] = {"@type": "TVSeason", "seasonNumber": fields["season"]}
            found["partOfSeries"] = {"@type": "TVSeries", "name": _text(fields.get("show", ""))}
        case Kind.TRACK:
            found["byArtist"] = {"@type": "MusicGroup", "name": _text(fields.get("artist", ""))}
            if "album" in fields:
                found["inAlbum"] = {"@type": "MusicAlbum", "name": _text(fields["album"])}
        case Kind.GAME:
            _put(found, "gamePlatform", fields.get("system"))
        case _:
            if "maker" in fields:
                found["creator"] = {"@type": "Organization", "name": _text(fields["maker"])}
    _put(found, "keywords", list(item.tags) or None)
    length = item.facts.get("length")
    if isinstance(length, int | float):
        found["duration"] = f"PT{round(length)}S"
    return json.dumps(found, ensure_ascii=False, indent=2) + "\n"


def _put(found: dict[str, object], key: str, value: Value | None) -> None:
    if value not in (None, ""):
        found[key] = _text(value) if isinstance(value, str) else value


def _text(value: object) -> str:
    return written(str(value))


def dublin_core(item: Item) -> str:
    """Return an item as Dublin Core in XML (the terms of ISO 15836)."""
    lines = ['<?xml version="1.0" encoding="UTF-8"?>', '<metadata xmlns:dc="http://purl.org/dc/elements/1.1/">']
    lines += [f"  <dc:{term}>{escaped(value)}</dc:{term}>" for term, value in _terms(item.fields, item)]
    return "\n".join([*lines, "</metadata>", ""])


def _terms(fields: Mapping[str, Value], item: Item) -> Iterator[tuple[str, str]]:
    yield "title", _text(fields.get("episode_title") or fields.get("title") or name_of(item.path))
    for field in ("artist", "maker"):
        if field in fields:
            yield "creator", _text(fields[field])
    for field in ("show", "album"):
        if field in fields:
            yield "relation", _text(fields[field])
    if date := fields.get("air_date") or fields.get("year"):
        yield "date", _text(date)
    yield "type", item.kind.value
    for tag in item.tags:
        yield "subject", _text(tag)


_ARRAYS = {"title": "Alt", "creator": "Seq", "date": "Seq", "relation": "Bag", "type": "Bag", "subject": "Bag"}
"""In what XMP puts the values of each term: one of several languages, in order, or as they come."""


def xmp(item: Item) -> str:
    """Return an item as an XMP packet, with the terms of Dublin Core."""
    terms: dict[str, list[str]] = {}
    for term, value in _terms(item.fields, item):
        terms.setdefault(term, []).append(escaped(value))
    lines = [
        '<?xpacket begin="\ufeff" id="W5M0MpCehiHzreSzNTczkc9d"?>',
        '<x:xmpmeta xmlns:x="adobe:ns:meta/">',
        '<rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#">',
        '<rdf:Description rdf:about="" xmlns:dc="http://purl.org/dc/elements/1.1/">',
    ]
    for term, values in terms.items():
        array = _ARRAYS[term]
        language = ' xml:lang="x-default"' if array == "Alt" else ""
        inside = "".join(f"<rdf:li{language}>{value}</rdf:li>" for value in values)
        lines.append(f"  <dc:{term}><rdf:{array}>{inside}</rdf:{array}></dc:{term}>")
    return "\n".join([*lines, "</rdf:Description>", "</rdf:RDF>", "</x:xmpmeta>", '<?xpacket end="w"?>', ""])
