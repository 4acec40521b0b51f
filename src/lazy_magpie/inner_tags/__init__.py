"""What songs and films say of themselves inside: title, artist, album, numbers, year and cover; read, and written.

| ending | what it takes |
|---|---|
| .mp3 | ID3v2.4 frames (id3.org), the cover as APIC |
| .flac | Vorbis comments (xiph.org), the cover as a picture block |
| .ogg .oga .opus | Vorbis comments, the cover as METADATA_BLOCK_PICTURE |
| .m4a .mp4 .m4v | metadata items (ISO base media files), the cover as covr |
| .mkv .mka .webm | the title, the cover as an attached file (RFC 9559) |
"""

from __future__ import annotations

import base64
import os
import re
from collections.abc import Mapping, Sequence
from typing import Any, NamedTuple

from lazy_magpie.inner_tags import matroska
from lazy_magpie.model import Value

_VORBIS, _MP4, _MATROSKA = (".ogg", ".oga", ".opus"), (".m4a", ".mp4", ".m4v"), (".mkv", ".mka", ".webm")
ENDINGS = frozenset([".mp3", ".flac", *_VORBIS, *_MP4, *_MATROSKA])
"""The endings of files into which something can be written."""
_TEXTS = {"artist": "artist", "albumartist": "album_artist", "album": "album", "title": "title", "genre": "genre"}
_NUMBERS = {"tracknumber": "track", "discnumber": "disc"}
_KEYS = {name: key for key, name in {**_TEXTS, **_NUMBERS, "date": "year"}.items()}
_FRONT = 3
"""The sort of picture that a front cover is (ID3v2, APIC)."""
_MIME = {b"\xff\xd8\xff": "image/jpeg", b"\x89PN": "image/png"}
_MP4_FORMS = {"image/jpeg": 13, "image/png": 14}


class Inside(NamedTuple):
    """What a file says of itself, and whether a cover is in it, or it has no room for one."""

    tags: Mapping[str, Value]
    has_cover: bool


def takes(ending: str) -> frozenset[str]:
    """Return what files with this ending (".mp3") take: names of fields, and "cover"; nothing for most."""
    if ending not in ENDINGS:
        return frozenset()
    return frozenset(["title", "cover"]) if ending in _MATROSKA else frozenset([*_KEYS, "cover"])


def said(tags: Any) -> dict[str, Value]:
    """Return the fields in the tags of a file as mutagen opens it; of several values the first."""
    found: dict[str, Value] = {}
    for key, name in _TEXTS.items():
        if text := _first(tags, key):
            found[name] = text
    for key, name in _NUMBERS.items():
        if (match := re.match(r"\d+", _first(tags, key))) and int(match.group()):
            found[name] = int(match.group())
    if match := re.search(r"\b(\d{4})\b", _first(tags, "date")):
        found["year"] = int(match[1])
    return found


def differing(tags: Any) -> list[str]:
    """Return what the tags of a file say twice, each time otherwise, where one thing can be true: "album: A / B"."""
    found = []
    for key in _OF_ONE:
        texts = {text.casefold(): text for text in _all(tags, key)}
        if len(texts) > 1:
            found.append(f"{(_TEXTS | _NUMBERS)[key]}: {' / '.join(texts.values())}")
    return found


_OF_ONE = ("title", "album", "tracknumber", "discnumber")
"""What a song has one of; it may have several artists, genres and dates."""
_OTHER_NAMES: Mapping[str, Sequence[str]] = {
    "artist": ("TPE1", "Author"),
    "albumartist": ("TPE2", "Album Artist", "WM/AlbumArtist", "album_artist"),
    "album": ("TALB", "WM/AlbumTitle"),
    "title": ("TIT2",),
    "genre": ("TCON", "WM/Genre"),
    "tracknumber": ("TRCK", "Track", "track", "WM/TrackNumber"),
    "discnumber": ("TPOS", "Disc", "disc", "WM/PartOfSet"),
    "date": ("TDRC", "TDRL", "Year", "WM/Year"),
}
"""What the tags of formats without an “easy” interface are called: ID3 frames, APE and ASF names."""


def _first(tags: Any, key: str) -> str:
    return next(iter(_all(tags, key)), "")


def _all(tags: Any, key: str) -> list[str]:
    """Return what the tags of a file say for a key of the “easy” interface, by the first of its names that is there."""
    for name in (key, *_OTHER_NAMES.get(key, ())):
        try:
            values = tags.get(name)
        except (KeyError, ValueError):
            continue
        texts = getattr(values, "text", values) or ()
        if found := [text for one in ([texts] if isinstance(texts, str) else texts) if (text := str(one).strip())]:
            return found
    return []


def read(path: str, ending: str) -> Inside:
    """Return what is inside a file. Raises ValueError, OSError, and what mutagen does for what it can't read."""
    if ending in _MATROSKA:
        with open(path, "rb") as file:
            title, is_full = matroska.title_of(file), not matroska.takes_cover(file)
        return Inside({"title": title} if title else {}, is_full)
    return Inside(said(_opened(path, ending, easy=True).tags or {}), _has_cover(_opened(path, ending), ending))


def put(path: str, ending: str, tags: Mapping[str, Value], cover: bytes = b"") -> None:
    """Write fields into a file, and a cover (JPEG or PNG; b"" for none); all else in it stays. Raises as `read`."""
    if ending in _MATROSKA:
        with open(path, "r+b") as file:
            if cover:  # first: its place in the index is found in room that the title could take
                matroska.put_cover(file, cover, _mime_of(cover))
            try:
                if tags:
                    matroska.put_title(file, str(tags["title"]))
            except ValueError:
                if not cover:  # else what has room is in
                    raise
        return
    if tags:
        easy = _opened(path, ending, easy=True)
        if easy.tags is None:
            easy.add_tags()
        for name, value in tags.items():
            key = _KEYS[name]
            of = re.search(r"/\d+$", _first(easy.tags, key)) if key in _NUMBERS else None
            easy[key] = [f"{value}{of.group() if of else ''}"]
        easy.save()
    if cover:
        _put_cover(path, ending, cover)


def answer(path: str) -> dict[str, object]:
    """Answer what is inside a file, as a worker does; raises as `read`."""
    found = read(path, os.path.splitext(path)[1].lower())
    return {"tags": dict(found.tags), "has_cover": found.has_cover}


def _frames() -> Any:
    import mutagen.id3

    return mutagen.id3


def _opened(path: str, ending: str, *, easy: bool = False) -> Any:
    import mutagen
    from mutagen.easymp4 import EasyMP4
    from mutagen.mp3 import MP3, EasyMP3
    from mutagen.mp4 import MP4

    sorts: dict[bool, Any] = {}
    if ending == ".mp3":  # what has no tags yet is not known by its first bytes
        sorts = {True: EasyMP3, False: MP3}
    elif ending in _MP4:
        sorts = {True: EasyMP4, False: MP4}
    if sorts:
        return sorts[easy](path)
    file = mutagen.File(path, easy=easy)
    if file is None:
        raise ValueError("no format that is known")
    return file


def _has_cover(file: Any, ending: str) -> bool:
    if ending == ".flac":
        return bool(file.pictures)
    tags = file.tags or {}
    return any(str(key).startswith(("APIC", "covr", "metadata_block_picture")) for key in tags.keys())  # noqa: SIM118


def _put_cover(path: str, ending: str, cover: bytes) -> None:
    mime = _mime_of(cover)
    file = _opened(path, ending)
    if file.tags is None:
        file.add_tags()
    if ending == ".mp3":
        file.tags.add(_frames().APIC(encoding=3, mime=mime, type=_FRONT, desc="", data=cover))
    elif ending in _MP4:
        import mutagen.mp4

        cover_type: Any = mutagen.mp4.MP4Cover
        file.tags["covr"] = [cover_type(cover, imageformat=_MP4_FORMS[mime])]
    elif ending == ".flac":
        file.add_picture(_block(cover, mime))
    else:
        file.tags["metadata_block_picture"] = [base64.b64encode(_block(cover, mime).write()).decode()]
    file.save()


def _mime_of(cover: bytes) -> str:
    mime = _MIME.get(cover[:3])
    if mime is None:
        raise ValueError("the picture is neither JPEG nor PNG")
    return mime


def _block(cover: bytes, mime: str) -> Any:
    import mutagen.flac

    picture_type: Any = mutagen.flac.Picture
    picture = picture_type()
    picture.type, picture.mime, picture.data = _FRONT, mime, cover
    return picture
