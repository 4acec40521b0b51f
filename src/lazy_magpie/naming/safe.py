"""Names that are safe on every disk: what Windows, exFAT or a network share refuses never gets into a name."""

from __future__ import annotations

import re
import unicodedata
from functools import lru_cache

from lazy_magpie.paths import split_ending
from lazy_magpie.patterns import pattern

LONGEST = 255
"""The bytes of UTF-8 that a file name may have on the disks people use."""

_EVERYWHERE = str.maketrans({"?": "", "*": "", "<": "", ">": "", '"': "'", "|": "-", "\\": "-", "/": "-", ":": "\0"})
_COLON = pattern(r"\s*\0\s*(?=\S)|\0")
_CONTROL = pattern("[\x00-\x1f\x7f-\x9f\u2028\u2029\u200e\u200f\u202a-\u202e\u2066-\u2069]")
_RESERVED = pattern(r"(?i)^(con|prn|aux|nul|com[0-9¹²³]|lpt[0-9¹²³])(?=\.|$)")
_PLAIN = pattern(r"\w[\w.-]*(?: [\w.-]+)*", re.ASCII)
"""A text that can stand inside a name as it is, as most can."""
_SPACES = pattern(r" {2,}")


def safe_value(text: str, *, everywhere: bool) -> str:
    """Return `text` as it can stand inside a name: NFC, no character that a disk refuses.

    A colon becomes " - " (Title: More → Title - More), a question mark goes. Without `everywhere` only `/` and
    control characters are taken out.
    """
    if _PLAIN.fullmatch(text):
        return text
    text = unicodedata.normalize("NFC", text)
    if everywhere:
        text = text.translate(_EVERYWHERE)
        text = _COLON.sub(lambda match: " - " if match.end() > match.start() + 1 else "-", text)
    return _SPACES.sub(" ", _CONTROL.sub("", text.replace("/", "-"))).strip()


def safe_part(text: str, *, everywhere: bool, room: int = 0) -> str:
    """Return one folder's or file's name (without its ending) made safe, cut to 255 bytes less `room`.

    "" where nothing is left of it.
    """
    text = unicodedata.normalize("NFC", _CONTROL.sub("", text)).strip()
    if everywhere:
        text = text.rstrip(". ")
        if _RESERVED.match(text):
            text = "_" + text
    if text in (".", ".."):
        return ""
    return shortened(text, LONGEST - room)


@lru_cache(maxsize=1 << 13)
def safe_name(name: str, *, everywhere: bool) -> str:
    """Return a file's name, with its ending, as every disk takes it; "_" stands for what nothing is left of.

    The ending keeps its room where the name is cut.
    """
    stem, ending = split_ending(name)
    ending = safe_value(ending, everywhere=everywhere).rstrip(". ")
    room = len(ending.encode("utf-8", "surrogateescape"))
    return (safe_part(safe_value(stem, everywhere=everywhere), everywhere=everywhere, room=room) or "_") + ending


def shortened(text: str, limit: int) -> str:
    """Cut `text` to `limit` bytes of UTF-8, between characters, at a space where one is near."""
    data = text.encode("utf-8", "surrogateescape")
    if len(data) <= limit:
        return text
    cut = data[: max(limit, 1)].decode("utf-8", "ignore")
    while cut and unicodedata.combining(text[len(cut)]):
        cut = cut[:-1]
    at_space = cut.rfind(" ")
    if at_space > len(cut) * 3 // 4:
        cut = cut[:at_space]
    return cut.rstrip(" .-_([{&,")


def is_safe(name: str, *, everywhere: bool) -> bool:
    """Say whether a name as it stands can be written on every disk (or on Linux alone)."""
    if not name or name in (".", "..") or "/" in name or "\0" in name:
        return False
    if len(name.encode("utf-8", "surrogateescape")) > LONGEST:
        return False
    if not everywhere:
        return True
    clean = not _CONTROL.search(name) and not any(c in name for c in '<>:"/\\|?*')
    return clean and not name.endswith((".", " ")) and not _RESERVED.match(name)
