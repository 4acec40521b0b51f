"""The title and the cover of a Matroska file (RFC 9559), written where there is room: nothing else in the file moves.

The title is in the element Info. That gets its new size in the room that it and the Void elements beside it take up;
what is left over is Void. Where Info begins elsewhere then, the index of the segment (SeekHead) says so. A cover is an
attached file, put behind all else; the index, which has Void behind it, says where.
"""

from __future__ import annotations

import zlib
from collections.abc import Iterator
from typing import IO, NamedTuple

EBML, SEGMENT, SEEK_HEAD, INFO, CLUSTER = 0x1A45DFA3, 0x18538067, 0x114D9B74, 0x1549A966, 0x1F43B675
TITLE, VOID, CRC = 0x7BA9, 0xEC, 0xBF
SEEK, SEEK_ID, SEEK_POSITION = 0x4DBB, 0x53AB, 0x53AC
ATTACHMENTS, ATTACHED = 0x1941A469, 0x61A7
FILE_NAME, FILE_TYPE, FILE_DATA, FILE_UID = 0x466E, 0x4660, 0x465C, 0x46AE
_LARGEST = 1 << 20
"""Bytes that Info and the index may have."""


class Element(NamedTuple):
    """An element: its id, where it begins, where its contents do, where they end."""

    id: int
    start: int
    body: int
    end: int


def title_of(file: IO[bytes]) -> str:
    """Return the title of a file, "" for none. Raises ValueError for what is no Matroska."""
    for at in _top(file):
        if at.id == INFO:
            data = _data(file, at)
            for one in _elements(data):
                if one.id == TITLE:
                    return data[one.body : one.end].rstrip(b"\0").decode("utf-8", "replace")
    return ""


def put_title(file: IO[bytes], text: str) -> None:
    """Write the title into an open file. Raises ValueError for what is no Matroska, or has no room for it."""
    top = list(_top(file))
    base = top[0].start  # positions in the index count from here
    place = next((number for number, one in enumerate(top) if one.id == INFO), None)
    if place is None:
        raise ValueError("it says nothing of itself (no Info)")
    body = _with_title(_data(file, top[place]), text)
    start, end = _room(top, place)
    for begin in (top[place].start, start):
        if made := _filled(body, end - begin):
            break
    else:
        raise ValueError("there is no room for the title in it")
    index = _moved_in_index(file, top, top[place].start - base, begin - base) if begin != top[place].start else None
    if index:
        file.seek(index[0])
        file.write(index[1])
    file.seek(begin)
    file.write(made)


def takes_cover(file: IO[bytes]) -> bool:
    """Say whether a cover can be put into a file: nothing is attached to it, and its index has room for one.

    Raises ValueError for what is no Matroska.
    """
    return _index_with_cover(file, list(_top(file))) is not None


def put_cover(file: IO[bytes], picture: bytes, mime: str) -> None:
    """Attach a cover (its `mime` is image/jpeg or image/png) to an open file. Raises ValueError where none fits."""
    index = _index_with_cover(file, list(_top(file)))
    segment, made = _segment(file), _attached(picture, mime)
    width, end = segment.body - segment.start - 4, segment.end + len(made)
    if index is None or end - segment.body >= (1 << 7 * width) - 1:
        raise ValueError("there is no room for a cover in it")
    file.seek(segment.end)
    file.write(made)
    file.seek(index[0])
    file.write(index[1])
    file.seek(segment.start)
    file.write(_head(SEGMENT, end - segment.body, width))


def _attached(picture: bytes, mime: str) -> bytes:
    """Return a cover as the files that are attached to another one."""
    parts = {
        FILE_NAME: b"cover.png" if mime == "image/png" else b"cover.jpg",
        FILE_TYPE: mime.encode(),
        FILE_DATA: picture,
        FILE_UID: (zlib.crc32(picture) or 1).to_bytes(4, "big"),
    }
    return _element(ATTACHMENTS, _element(ATTACHED, b"".join(_element(id, data) for id, data in parts.items())))


def _index_with_cover(file: IO[bytes], top: list[Element]) -> tuple[int, bytes] | None:
    """Return where the index begins, and the index with an attachment behind all else; None where that can't be."""
    segment, size = _segment(file), file.seek(0, 2)
    at = next((number for number, one in enumerate(top) if one.id == SEEK_HEAD), None)
    if at is None or segment.end != size or top[0].id == CRC:
        return None
    indexes = [_data(file, one) for one in top if one.id == SEEK_HEAD]
    if ATTACHMENTS in {one.id for one in top}.union(*map(_named_in, indexes)):
        return None
    kept = (indexes[0][one.start : one.end] for one in _elements(indexes[0]) if one.id not in (VOID, CRC))
    where = _element(SEEK_ID, ATTACHMENTS.to_bytes(4, "big"))
    where += _element(SEEK_POSITION, (size - segment.body).to_bytes(8, "big"))
    start = top[at].start
    made = _filled(b"".join(kept) + _element(SEEK, where), _room(top, at)[1] - start, SEEK_HEAD)
    return (start, made) if made else None


def _named_in(index: bytes) -> Iterator[int]:
    """Yield the ids of the elements that an index leads to."""
    for seek in _elements(index):
        data = index[seek.body : seek.end] if seek.id == SEEK else b""
        yield from (int.from_bytes(data[one.body : one.end], "big") for one in _elements(data) if one.id == SEEK_ID)


def _with_title(data: bytes, text: str) -> bytes:
    """Return the contents of Info with this title."""
    kept = [data[one.start : one.end] for one in _elements(data) if one.id not in (TITLE, VOID, CRC)]
    return b"".join(kept) + _element(TITLE, text.encode())


def _room(top: list[Element], place: int) -> tuple[int, int]:
    """Return where the room of Info, with the Void elements beside it, begins and ends."""
    first = last = place
    while first and top[first - 1].id == VOID and top[first - 1].end == top[first].start:
        first -= 1
    while last + 1 < len(top) and top[last + 1].id == VOID and top[last].end == top[last + 1].start:
        last += 1
    return top[first].start, top[last].end


def _filled(body: bytes, room: int, id: int = INFO) -> bytes:
    """Return an element of these contents, and Void behind it, so that both fill the room; b"" where they don't fit."""
    for width in range(1, 9):
        made = _element(id, body, width)
        left = room - len(made)
        if not made or left == 1 or left < 0:
            continue
        if not left:
            return made
        wide = 1 if left < 100 else 8
        return made + _element(VOID, bytes(left - 1 - wide), wide)
    return b""


def _moved_in_index(file: IO[bytes], top: list[Element], old: int, new: int) -> tuple[int, bytes] | None:
    """Return where the index's contents begin, and the contents with the new place of Info; None where it says none.

    Raises ValueError where the new place does not fit.
    """
    for head in (one for one in top if one.id == SEEK_HEAD):
        data = bytearray(_data(file, head))
        for seek in _elements(data):
            parts = {one.id: one for one in _elements(bytes(data[seek.body : seek.end]))} if seek.id == SEEK else {}
            where = parts.get(SEEK_POSITION)
            if where is None or int.from_bytes(data[seek.body + where.body : seek.body + where.end], "big") != old:
                continue
            data[seek.body + where.body : seek.body + where.end] = new.to_bytes(where.end - where.body, "big")
            _seal(data)
            return head.body, bytes(data)
    return None


def _seal(data: bytearray) -> None:
    """Put the checksum right that the contents of an element begin with, where they do."""
    first = next(_elements(data), None)
    if first and first.id == CRC and first.end - first.body == 4:
        data[first.body : first.end] = zlib.crc32(data[first.end :]).to_bytes(4, "little")


# --- elements ---------------------------------------------------------------------------------------------------------


def _segment(file: IO[bytes]) -> Element:
    head = _read(file, 0)
    if head is None or head.id != EBML:
        raise ValueError("no Matroska")
    segment = _read(file, head.end)
    if segment is None or segment.id != SEGMENT:
        raise ValueError("no Matroska")
    return segment


def _top(file: IO[bytes]) -> Iterator[Element]:
    """Yield the elements of the segment before its first cluster."""
    segment = _segment(file)
    at = segment.body
    while (one := _read(file, at)) and one.id != CLUSTER and one.end <= segment.end:
        yield one
        at = one.end


def _read(file: IO[bytes], at: int) -> Element | None:
    file.seek(at)
    return _parsed(file.read(12), at)


def _data(file: IO[bytes], one: Element) -> bytes:
    if one.end - one.body > _LARGEST:
        raise ValueError("it says far too much of itself")
    file.seek(one.body)
    return file.read(one.end - one.body)


def _elements(data: bytes | bytearray) -> Iterator[Element]:
    at = 0
    while at < len(data):
        one = _parsed(bytes(data[at : at + 12]), at)
        if one is None or one.end > len(data):
            raise ValueError("damaged")
        yield one
        at = one.end


def _parsed(head: bytes, at: int) -> Element | None:
    """Return the element whose first 12 bytes these are, None where there is none."""
    wide = _width(head[:1], 4)
    long = _width(head[wide : wide + 1], 8) if wide else 0
    if not long or len(head) < wide + long:
        return None
    size = int.from_bytes(head[wide : wide + long], "big") & ((1 << 7 * long) - 1)
    body = at + wide + long
    is_open = size == (1 << 7 * long) - 1  # of a size that nobody knew when it was written
    return Element(int.from_bytes(head[:wide], "big"), at, body, 1 << 62 if is_open else body + size)


def _width(first: bytes, most: int) -> int:
    """Return how many bytes a number takes by its first one, 0 for none that there may be."""
    width = 9 - first[0].bit_length() if first and first[0] else 0
    return width if width <= most else 0


def _element(id: int, body: bytes, width: int = 0) -> bytes:
    """Return an element, its size written in `width` bytes (0: as few as do); b"" where that is too few."""
    width = width or next(n for n in range(1, 9) if len(body) < (1 << 7 * n) - 1)
    return _head(id, len(body), width) + body if len(body) < (1 << 7 * width) - 1 else b""


def _head(id: int, size: int, width: int) -> bytes:
    """Return what an element of so many bytes begins with, the size written in `width` bytes."""
    return id.to_bytes((id.bit_length() + 7) // 8, "big") + (size | 1 << 7 * width).to_bytes(width, "big")
