"""Keywords where formats have an open place for them: inside pictures and songs, and in sidecars.

| where | what |
|---|---|
| .jpg .jpeg | an XMP packet (ISO 16684-1) in a segment APP1, in it dc:subject |
| .png | the same packet in a chunk iTXt called XML:com.adobe.xmp (PNG, third edition, W3C) |
| .flac .ogg .oga .opus | Vorbis comments called KEYWORDS (xiph.org) |
| .mp3 | a frame TXXX called KEYWORDS (id3.org, ID3v2.4) |
| NAME.xmp beside a file | an XMP packet alone |
"""

from __future__ import annotations

import re
import struct
import zlib
from collections.abc import Callable, Iterable, Mapping
from pathlib import Path
from typing import Any
from xml.etree import ElementTree

SIDECAR = ".xmp"
_NAME = "KEYWORDS"
_LARGEST = 1 << 22
"""Bytes that a packet may have."""
_DC, _RDF, _X = "http://purl.org/dc/elements/1.1/", "http://www.w3.org/1999/02/22-rdf-syntax-ns#", "adobe:ns:meta/"
_EMPTY = f'<x:xmpmeta xmlns:x="{_X}"><rdf:RDF xmlns:rdf="{_RDF}"><rdf:Description rdf:about=""/></rdf:RDF></x:xmpmeta>'
_BEGIN = b'<?xpacket begin="\xef\xbb\xbf" id="W5M0MpCehiHzreSzNTczkc9d"?>\n'
_END = b'\n<?xpacket end="w"?>\n'
_PREFIX = re.compile(rb"xmlns:([\w.-]+)\s*=\s*[\"']([^\"']+)[\"']")
_APP1, _JPEG_XMP = 0xE1, b"http://ns.adobe.com/xap/1.0/\0"
_PNG, _PNG_XMP = b"\x89PNG\r\n\x1a\n", b"XML:com.adobe.xmp\0"


def can_hold(ending: str) -> bool:
    """Say whether files with this ending (".png") have a place for keywords."""
    return ending.lower() in _WAYS


def of(path: str, ending: str) -> list[str]:
    """Return the keywords in a file. Raises ValueError, OSError, and what mutagen does for what it can't read."""
    return _WAYS[ending.lower()][0](path)


def put(path: str, ending: str, words: Iterable[str]) -> None:
    """Write keywords into a file, in place of those that it has; all else in it stays. Raises as `of` does."""
    _WAYS[ending.lower()][1](path, list(words))


# --- packets ---------------------------------------------------------------------------------------------------------


def subjects(packet: bytes) -> list[str]:
    """Return the words of dc:subject in an XMP packet. Raises ValueError for what is none, or far too large."""
    root = _parsed(packet)
    found = (
        " ".join((li.text or "").split()) for bag in root.iter(f"{{{_DC}}}subject") for li in bag.iter(f"{{{_RDF}}}li")
    )
    return [word for word in dict.fromkeys(found) if word and word.isprintable()]


def with_subjects(packet: bytes, words: Iterable[str]) -> bytes:
    """Return an XMP packet with these words as dc:subject; all else in it stays. b"" makes a new one.

    Raises ValueError as `subjects` does.
    """
    root = _parsed(packet or _EMPTY.encode())
    for prefix, uri in _PREFIX.findall(packet):
        if not re.fullmatch(rb"ns\d+", prefix):
            ElementTree.register_namespace(prefix.decode(), uri.decode("utf-8", "replace"))
    for prefix, uri in (("dc", _DC), ("rdf", _RDF), ("x", _X)):
        ElementTree.register_namespace(prefix, uri)
    described = next(root.iter(f"{{{_RDF}}}Description"), None)
    if described is None:
        raise ValueError("no description in the packet")
    for parent in list(root.iter()):
        for old in parent.findall(f"{{{_DC}}}subject"):
            parent.remove(old)
    if kept := list(words):
        bag = ElementTree.SubElement(ElementTree.SubElement(described, f"{{{_DC}}}subject"), f"{{{_RDF}}}Bag")
        for word in kept:
            ElementTree.SubElement(bag, f"{{{_RDF}}}li").text = word
    body: bytes = ElementTree.tostring(root, "utf-8")
    return _BEGIN + body + _END


def _parsed(packet: bytes) -> ElementTree.Element:
    import defusedxml
    import defusedxml.ElementTree

    if len(packet) > _LARGEST:
        raise ValueError("the packet is too large")
    try:
        root: ElementTree.Element = defusedxml.ElementTree.fromstring(packet.strip(b"\0 \t\r\n"))
    except (ElementTree.ParseError, defusedxml.DefusedXmlException) as error:
        raise ValueError(f"no XMP that can be read: {error}") from None
    return root


# --- pictures --------------------------------------------------------------------------------------------------------


def _picture_words(split: Callable[[bytes], tuple[bytes, bytes, bytes]]) -> Callable[[str], list[str]]:
    def read(path: str) -> list[str]:
        packet = split(Path(path).read_bytes())[1]
        return subjects(packet) if packet else []

    return read


def _put_into_picture(
    split: Callable[[bytes], tuple[bytes, bytes, bytes]], wrap: Callable[[bytes], bytes]
) -> Callable[[str, list[str]], None]:
    def write(path: str, words: list[str]) -> None:
        head, packet, tail = split(Path(path).read_bytes())
        with open(path, "r+b") as file:
            file.write(head + wrap(with_subjects(packet, words)) + tail)
            file.truncate()

    return write


def _split_jpeg(data: bytes) -> tuple[bytes, bytes, bytes]:
    """Return what stands before the XMP packet of a JPEG (or before where one would stand), the packet, the rest."""
    if data[:2] != b"\xff\xd8":
        raise ValueError("no JPEG")
    at, place = 2, 2
    while at + 4 <= len(data) and data[at] == 0xFF and 0xE0 <= data[at + 1] <= 0xEF:
        end = at + 2 + int.from_bytes(data[at + 2 : at + 4], "big")
        body = data[at + 4 : end]
        if data[at + 1] == _APP1 and body.startswith(_JPEG_XMP):
            return data[:at], body[len(_JPEG_XMP) :], data[end:]
        if data[at + 1] <= _APP1:
            place = end  # behind the format's own segment and the camera's
        at = end
    return data[:place], b"", data[place:]


def _jpeg_segment(packet: bytes) -> bytes:
    body = _JPEG_XMP + packet
    if len(body) > 0xFFFD:
        raise ValueError("the packet is too large for a JPEG")
    return bytes((0xFF, _APP1)) + struct.pack(">H", len(body) + 2) + body


def _split_png(data: bytes) -> tuple[bytes, bytes, bytes]:
    """Return what stands before the XMP packet of a PNG (or before where one would stand), the packet, the rest."""
    if data[:8] != _PNG or data[12:16] != b"IHDR":
        raise ValueError("no PNG")
    place = at = 8 + 25
    while at + 12 <= len(data):
        end = at + 12 + int.from_bytes(data[at : at + 4], "big")
        body = data[at + 8 : end - 4]
        if data[at + 4 : at + 8] == b"iTXt" and body.startswith(_PNG_XMP):
            packed, text = body[len(_PNG_XMP)], body[len(_PNG_XMP) + 2 :].split(b"\0", 2)[-1]
            if packed:
                text = zlib.decompressobj().decompress(text, _LARGEST)
            return data[:at], text, data[end:]
        at = end
    return data[:place], b"", data[place:]


def _png_chunk(packet: bytes) -> bytes:
    body = b"iTXt" + _PNG_XMP + b"\0\0\0\0" + packet
    return struct.pack(">I", len(body) - 4) + body + struct.pack(">I", zlib.crc32(body))


# --- songs -----------------------------------------------------------------------------------------------------------


def _comments(path: str) -> Any:
    import mutagen

    file = mutagen.File(path)
    if file is None:
        raise ValueError("no audio format that is known")
    if file.tags is None:
        file.add_tags()
    return file


def _comment_words(path: str) -> list[str]:
    return [str(word) for word in _comments(path).tags.get(_NAME, [])]


def _put_into_comments(path: str, words: list[str]) -> None:
    file = _comments(path)
    if _NAME in file.tags:
        del file.tags[_NAME]
    if words:
        file.tags[_NAME] = words
    file.save()


def _id3() -> Any:
    import mutagen.id3

    return mutagen.id3


def _frames(path: str) -> Any:
    try:
        return _id3().ID3(path)
    except _id3().ID3NoHeaderError:
        return _id3().ID3()


def _frame_words(path: str) -> list[str]:
    return [str(word) for frame in _frames(path).getall(f"TXXX:{_NAME}") for word in frame.text]


def _put_into_frames(path: str, words: list[str]) -> None:
    frames = _frames(path)
    frames.delall(f"TXXX:{_NAME}")
    if words:
        frames.add(_id3().TXXX(encoding=3, desc=_NAME, text=words))
    frames.save(path)


_JPEG = (_picture_words(_split_jpeg), _put_into_picture(_split_jpeg, _jpeg_segment))
_WAYS: Mapping[str, tuple[Callable[[str], list[str]], Callable[[str, list[str]], None]]] = {
    ".jpg": _JPEG,
    ".jpeg": _JPEG,
    ".png": (_picture_words(_split_png), _put_into_picture(_split_png, _png_chunk)),
    **dict.fromkeys((".flac", ".ogg", ".oga", ".opus"), (_comment_words, _put_into_comments)),
    ".mp3": (_frame_words, _put_into_frames),
}
"""How keywords are read and written, by the file's ending."""
