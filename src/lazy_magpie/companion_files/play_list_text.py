"""The text of play lists: M3U8 (UTF-8), and XSPF (version 1, xspf.org), both with paths from where the list lies."""

from __future__ import annotations

import os
import re
from collections.abc import Iterator, Sequence

from lazy_magpie.model import Item
from lazy_magpie.paths import name_of, split_ending, written
from lazy_magpie.urls import relative_url
from lazy_magpie.xml_text import escaped

_BREAKS = re.compile(r"[\r\n\x00]+")
Entry = tuple[Item, str]
"""An item, and the path of one of its main files."""


def m3u8(title: str, entries: Sequence[Entry], home: str) -> str:
    """Return a list that lies in the folder `home`, as M3U8. A name with a line break has no place in one."""
    lines = ["#EXTM3U", f"#PLAYLIST:{_one_line(title)}"]
    for item, path in entries:
        if _BREAKS.search(path):
            continue
        length = item.facts.get("length")
        seconds = round(length) if isinstance(length, int | float) else -1
        creator, name = _creator(item), _title(item)
        lines.append(f"#EXTINF:{seconds},{_one_line(f'{creator} - {name}' if creator else name)}")
        lines.append(os.path.relpath(f"/{path}", f"/{home}"))
    return "\n".join([*lines, ""])


def xspf(title: str, entries: Sequence[Entry], home: str) -> str:
    """Return a list that lies in the folder `home`, as XSPF."""
    lines = ['<?xml version="1.0" encoding="UTF-8"?>', '<playlist version="1" xmlns="http://xspf.org/ns/0/">']
    lines += [f"  <title>{escaped(title)}</title>", "  <trackList>"]
    for item, path in entries:
        place = relative_url(f"/{path}", f"/{home}")
        lines += ["    <track>", f"      <location>{place}</location>"]
        lines += [f"      <{name}>{escaped(text)}</{name}>" for name, text in _said(item)]
        lines.append("    </track>")
    return "\n".join([*lines, "  </trackList>", "</playlist>", ""])


def _said(item: Item) -> Iterator[tuple[str, str]]:
    """Yield what a track says of itself, in the order that the format wants."""
    yield "title", _title(item)
    if creator := _creator(item):
        yield "creator", creator
    if album := item.fields.get("album"):
        yield "album", str(album)
    track = item.fields.get("track")
    if isinstance(track, int) and track > 0:
        yield "trackNum", str(track)
    length = item.facts.get("length")
    if isinstance(length, int | float) and length > 0:
        yield "duration", str(round(length * 1000))


def _title(item: Item) -> str:
    fields = item.fields
    return str(fields.get("episode_title") or fields.get("title") or split_ending(name_of(item.path))[0])


def _creator(item: Item) -> str:
    return str(item.fields.get("artist") or item.fields.get("show") or "")


def _one_line(text: str) -> str:
    return _BREAKS.sub(" ", written(text))
