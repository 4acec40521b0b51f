"""Facts of drawings made of lines: SVG 1.1, Encapsulated PostScript 3.0, AI (which is PDF or PostScript), INDD.

| fact | what it is |
|---|---|
| width, height | SVG: its size in user units (CSS pixels); EPS and AI: points, 1/72 inch, rounded |
| title | as the file says it |
| author | who made it, where it says so |
| colours | how many colours an SVG names |
| created | the day on which it was made, where it says so |
| pages | of an AI that is a PDF |
"""

from __future__ import annotations

import datetime
import re
from contextlib import suppress
from typing import IO, Any

from lazy_magpie.model import Value
from lazy_magpie.readers.documents import DUBLIN_CORE, pdf_facts

ENDINGS = frozenset(".svg .svgz .eps .ai .indd .indt".split())
_LARGEST = 64 << 20
_HEAD = 1 << 16
_LONGEST = 500
_INDD = bytes.fromhex("0606edf5d81d46e5bd31efe7fe74b71d")
"""The sixteen bytes that a layout of this kind begins with."""
_DOS_EPS = b"\xc5\xd0\xd3\xc6"
"""What an EPS with a preview for other systems begins with; where its PostScript is, comes next (EPSF 3.0)."""


def read(path: str) -> dict[str, Value]:
    """Return the facts of the drawing at `path`. Raises ValueError, and what the parsers do, where it is none."""
    with open(path, "rb") as file:
        head = file.read(_HEAD)
    if head.startswith(b"%PDF-"):
        return pdf_facts(path, sizes=True)
    if head.startswith(_DOS_EPS):
        at = int.from_bytes(head[4:8], "little")
        head = head[at:]
    if head.startswith(b"%!"):
        return _postscript(head)
    if head.startswith(_INDD):
        return _layout(path)
    return _svg(path, packed=head.startswith(b"\x1f\x8b"))


_COLOUR = re.compile(r"(?i)#(?:[0-9a-f]{8}|[0-9a-f]{6}|[0-9a-f]{3,4})\b|(?:rgb|hsl)a?\([^)]{1,60}\)")
_PAINTS = ("fill", "stroke", "stop-color", "color")
_PAINT = re.compile(r"(?:^|[;{\s])(?:fill|stroke|stop-color|color)\s*:\s*([a-zA-Z]+|#[0-9a-fA-F]+)")
_NO_COLOUR = frozenset("none inherit currentcolor transparent initial unset url context-fill context-stroke".split())
_LENGTH = re.compile(r"\s*([0-9.]+(?:e[+-]?\d+)?)\s*(px|pt|pc|mm|cm|in|q)?\s*$", re.IGNORECASE)
_PIXELS = {"px": 1, "pt": 96 / 72, "pc": 16, "mm": 96 / 25.4, "cm": 96 / 2.54, "in": 96, "q": 96 / 101.6, "": 1}
"""CSS pixels of each unit (CSS Values 3)."""


def _svg(path: str, *, packed: bool) -> dict[str, Value]:
    import gzip

    from defusedxml.ElementTree import iterparse

    with open(path, "rb") as file:
        unpacked: Any = gzip.GzipFile(fileobj=file) if packed else file
        source: Any = _Limited(unpacked)
        facts: dict[str, Value] = {}
        colours: set[str] = set()
        depth, root = 0, None
        for event, element in iterparse(source, events=("start", "end")):
            name = element.tag.rpartition("}")[2] if isinstance(element.tag, str) else ""
            if event == "start":
                if root is None:
                    root = element
                    if name != "svg":
                        raise ValueError("it is XML, but no drawing")
                    facts |= _size_of(element.attrib)
                depth += 1
                continue
            depth -= 1
            if name == "title" and depth == 1 and (text := " ".join("".join(element.itertext()).split())):
                facts.setdefault("title", text[:_LONGEST])
            colours |= _colours(element, name)
            if depth > 1:
                element.clear()
    if colours:
        facts["colours"] = len(colours)
    return facts


def _colours(element: Any, name: str) -> set[str]:
    texts = [element.get("style", "")]
    if name == "style":
        texts.append(element.text or "")
    named = [element.get(paint, "") for paint in _PAINTS]
    named += [match[1] for text in texts for match in _PAINT.finditer(text)]
    found = {match.group().lower() for text in (*texts, *named) for match in _COLOUR.finditer(text)}
    found |= {word for text in named if (word := text.strip().lower()).isalpha() and word not in _NO_COLOUR}
    return found


def _size_of(attributes: Any) -> dict[str, Value]:
    sides = [_LENGTH.match(attributes.get(name, "")) for name in ("width", "height")]
    box = re.split(r"[\s,]+", attributes.get("viewBox", "").strip())
    with suppress(ValueError, OverflowError):
        if all(sides):
            numbers = [float(side[1]) * _PIXELS[(side[2] or "").lower()] for side in sides if side]
        else:
            numbers = [float(side) for side in box[2:4]]
        if len(numbers) == 2 and all(0.5 <= number < 1e9 for number in numbers):
            return {"width": round(numbers[0]), "height": round(numbers[1])}
    return {}


class _Limited:
    """What is read of a file, up to a bound, so that a packed one can't be endless. Raises ValueError beyond it."""

    def __init__(self, file: IO[bytes]) -> None:
        self._file, self._left = file, _LARGEST

    def read(self, size: int = -1) -> bytes:
        data = self._file.read(size)
        self._left -= len(data)
        if self._left < 0:
            raise ValueError(f"it is larger than {_LARGEST >> 20} MiB of text")
        return data


_BOX = re.compile(rb"%%(HiRes)?BoundingBox:\s*(-?[\d.]+)\s+(-?[\d.]+)\s+(-?[\d.]+)\s+(-?[\d.]+)")
_COMMENT = re.compile(rb"^%%(Title|For|CreationDate):[ \t]*(.*?)[ \t]*$", re.MULTILINE)


def _postscript(head: bytes) -> dict[str, Value]:
    """Read the comments in the head (Document Structuring Conventions 3.0)."""
    head = head.replace(b"\r\n", b"\n").replace(b"\r", b"\n")
    facts: dict[str, Value] = {}
    if box := _BOX.search(head):
        left, bottom, right, top = (float(box[at]) for at in (2, 3, 4, 5))
        if right > left and top > bottom:
            facts |= {"width": round(right - left), "height": round(top - bottom)}
    for name, value in _COMMENT.findall(head.partition(b"%%EndComments")[0]):
        text = value.decode("utf-8", "replace").strip()
        text = text[1:-1] if text.startswith("(") and text.endswith(")") else text
        if name == b"CreationDate":
            if day := _day(text):
                facts.setdefault("created", day)
        elif text and text != "(atend)":
            facts.setdefault({b"Title": "title", b"For": "author"}[name], text[:_LONGEST])
    return facts


def _day(text: str) -> str:
    """Return the day in a date that a program wrote, "" where its order is not sure."""
    if match := re.match(r"D:(\d{4})(\d\d)(\d\d)", text):
        return _in_order("%Y-%m-%d", "-".join(match.groups()))
    words = text.split()
    return _in_order("%Y-%m-%d", text[:10]) or _in_order("%a %b %d %Y", " ".join((*words[:3], *words[3:][-1:])))


def _in_order(order: str, text: str) -> str:
    with suppress(ValueError):
        return datetime.datetime.strptime(text, order).date().isoformat()
    return ""


def _layout(path: str) -> dict[str, Value]:
    """Read the packet of metadata (XMP, ISO 16684) that such a file holds somewhere."""
    from defusedxml.ElementTree import fromstring

    with open(path, "rb") as file:
        data = file.read(_LARGEST)
    start = data.rfind(b"<x:xmpmeta")
    end = data.find(b"</x:xmpmeta>", start)
    if start < 0 or end < 0:
        return {}
    facts: dict[str, Value] = {}
    root = fromstring(data[start : end + len(b"</x:xmpmeta>")])
    for element in root.iter():
        field = {DUBLIN_CORE + "title": "title", DUBLIN_CORE + "creator": "author"}.get(element.tag)
        if field and (text := " ".join("".join(element.itertext()).split())):
            facts.setdefault(field, text[:_LONGEST])
    return facts
