"""Data files in open forms: JSON-LD in the words of schema.org, Dublin Core (ISO 15836) as XML, XMP (ISO 16684-1)."""

from __future__ import annotations

import json
from collections.abc import Iterator

from lazy_magpie.companion_files.works import Work, WorkKind, numbers_of
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
_TYPES_OF_WORKS = {WorkKind.SHOW: "TVSeries", WorkKind.ALBUM: "MusicAlbum"}


def json_ld(item: Item | Work) -> str:
    """Return an item, a show or an album as JSON-LD, with the words that schema.org has for its kind."""
    found = _work(item) if isinstance(item, Work) else _thing(item)
    return json.dumps({"@context": "https://schema.org", **found}, ensure_ascii=False, indent=2) + "\n"


def _work(work: Work) -> dict[str, object]:
    fields = work.fields
    found: dict[str, object] = {"@type": _TYPES_OF_WORKS[work.kind], "name": _title(work)}
    is_show = work.kind is WorkKind.SHOW
    _put(found, "startDate" if is_show else "datePublished", fields.get("year"))
    if is_show:
        found["containsSeason"] = [
            {"@type": "TVSeason", "seasonNumber": number, "numberOfEpisodes": count}
            for number, count in numbers_of(work).items()
        ]
    else:
        found["byArtist"] = {"@type": "MusicGroup", "name": _text(fields.get("artist", ""))}
        found["track"] = [
            {"@type": "MusicRecording", "name": _text(item.fields.get("title", ""))} for item in work.things
        ]
    _put(found, "keywords", work.tags or None)
    return found


def _thing(item: Item) -> dict[str, object]:
    fields = item.fields
    found: dict[str, object] = {"@type": _TYPES.get(item.kind, "CreativeWork")}
    found["name"] = _title(item)
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
    return found


def _put(found: dict[str, object], key: str, value: Value | None) -> None:
    if value not in (None, ""):
        found[key] = _text(value) if isinstance(value, str) else value


def _text(value: object) -> str:
    return written(str(value))


def _title(item: Item | Work) -> str:
    if isinstance(item, Work):
        return _text(item.title)
    return _text(item.fields.get("episode_title") or item.fields.get("title") or name_of(item.path))


def dublin_core(item: Item | Work) -> str:
    """Return an item, a show or an album as Dublin Core in XML (the terms of ISO 15836)."""
    lines = ['<?xml version="1.0" encoding="UTF-8"?>', '<metadata xmlns:dc="http://purl.org/dc/elements/1.1/">']
    lines += [f"  <dc:{term}>{escaped(value)}</dc:{term}>" for term, value in _terms(item)]
    return "\n".join([*lines, "</metadata>", ""])


def _terms(item: Item | Work) -> Iterator[tuple[str, str]]:
    fields = item.fields
    yield "title", _title(item)
    for field in ("artist", "maker"):
        if field in fields:
            yield "creator", _text(fields[field])
    for field in ("show", "album") if isinstance(item, Item) else ():
        if field in fields:
            yield "relation", _text(fields[field])
    if date := fields.get("air_date") or fields.get("year"):
        yield "date", _text(date)
    yield "type", item.kind.value
    for tag in item.tags:
        yield "subject", _text(tag)


_ARRAYS = {"title": "Alt", "creator": "Seq", "date": "Seq", "relation": "Bag", "type": "Bag", "subject": "Bag"}
"""In what XMP puts the values of each term: one of several languages, in order, or as they come."""


def xmp(item: Item | Work) -> str:
    """Return an item, a show or an album as an XMP packet, with the terms of Dublin Core."""
    terms: dict[str, list[str]] = {}
    for term, value in _terms(item):
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
