"""Facts of Type 1 fonts and of their metrics (Adobe Type 1 Font Format; AFM 4.1; Printer Font Metrics of Windows 3).

| fact | what it is |
|---|---|
| family, style | as the font says them; its style is what its full name has behind the family |
| weight | 100 to 900, by the word for it |
| version | as the font says it |
| licence, licence_name | the copyright's text, cut at 200 characters; what the licence is called in short |
| glyphs | how many the metrics list, or the font says to have |
"""

from __future__ import annotations

import re

from lazy_magpie.licences import short_name
from lazy_magpie.model import Value

ENDINGS = frozenset(".pfb .pfa .t1 .afm .pfm".split())
_HEAD, _LARGEST = 1 << 15, 16 << 20
_LONGEST = 200
_WEIGHTS = {
    "thin": 100, "hairline": 100, "extralight": 200, "ultralight": 200, "light": 300, "book": 400, "regular": 400,
    "roman": 400, "normal": 400, "medium": 500, "demi": 600, "demibold": 600, "semibold": 600, "bold": 700,
    "extrabold": 800, "ultrabold": 800, "heavy": 900, "black": 900,
}  # fmt: skip
_SEGMENT = b"\x80\x01"
"""What a segment of text begins with, in a font of segments (PFB); its length comes next, six bytes in all."""
_IN_FONT = re.compile(rb"/(FamilyName|FullName|Weight|version|Notice)\s*\(((?:[^()\\]|\\.|\([^()]*\))*)\)")
_GLYPHS = re.compile(rb"/CharStrings\s+(\d+)\s+dict")
_IN_METRICS = re.compile(rb"^(FamilyName|FullName|Weight|Version|Notice)[ \t]+(.+?)[ \t\r]*$", re.MULTILINE)
_COUNT = re.compile(rb"^StartCharMetrics[ \t]+(\d+)", re.MULTILINE)
_PFM_VERSIONS, _PFM_HEAD = (b"\x00\x01", b"\x00\x02"), 117


def read(path: str) -> dict[str, Value]:
    """Return the facts of the font at `path`. Raises ValueError where it is none."""
    with open(path, "rb") as file:
        data = file.read(_LARGEST)
    if data.startswith((_SEGMENT, b"%!")):
        text = data[6:] if data.startswith(_SEGMENT) else data
        head = text[:_HEAD].partition(b"eexec")[0]
        said = {name.lower(): _unescaped(value) for name, value in reversed(_IN_FONT.findall(head))}
        return _facts(said, _GLYPHS.search(head))
    if data.startswith(b"StartFontMetrics"):
        said = {name.lower(): value for name, value in reversed(_IN_METRICS.findall(data[:_HEAD]))}
        return _facts(said, _COUNT.search(data))
    if data[:2] in _PFM_VERSIONS and int.from_bytes(data[2:6], "little") == len(data) > _PFM_HEAD:
        return _printer_metrics(data)
    raise ValueError("neither a Type 1 font nor metrics of one")


def _facts(said: dict[bytes, bytes], glyphs: re.Match[bytes] | None) -> dict[str, Value]:
    texts = {name: " ".join(value.decode("utf-8", "replace").split()) for name, value in said.items()}
    family, full, weight = texts.get(b"familyname", ""), texts.get(b"fullname", ""), texts.get(b"weight", "")
    facts: dict[str, Value] = {}
    if family or full:
        facts["family"] = family or full
        behind = full.removeprefix(family).strip(" -") if full != family else ""
        facts["style"] = (behind or weight or "Regular")[:_LONGEST]
    if number := _WEIGHTS.get(re.sub(r"[\s-]", "", weight).lower()):
        facts["weight"] = number
    if version := texts.get(b"version", ""):
        facts["version"] = version[:_LONGEST]
    if notice := texts.get(b"notice", ""):
        facts["licence"] = notice[:_LONGEST]
        facts |= {"licence_name": name} if (name := short_name(notice)) else {}
    return facts | ({"glyphs": int(glyphs[1])} if glyphs else {})


def _unescaped(text: bytes) -> bytes:
    r"""Return a string of PostScript as bytes: `\(` is `(`, `\251` one byte."""
    plain = re.sub(rb"\\([0-7]{1,3})", lambda match: bytes([int(match[1], 8) & 0xFF]), text)
    return re.sub(rb"\\(.)", rb"\1", plain).decode("latin-1").encode()


def _printer_metrics(data: bytes) -> dict[str, Value]:
    at = int.from_bytes(data[105:109], "little")
    family = data[at:].split(b"\0")[0].decode("cp1252", "replace") if _PFM_HEAD <= at < len(data) else ""
    weight = int.from_bytes(data[83:85], "little")
    facts: dict[str, Value] = {"family": family[:_LONGEST]} if family else {}
    return facts | ({"weight": weight} if 100 <= weight <= 900 else {})
