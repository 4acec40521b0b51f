"""JSON that can be written anywhere: bytes that are not UTF-8, which a name or a title may hold, are escaped."""

from __future__ import annotations

import json
import re

_encode = json.JSONEncoder(ensure_ascii=False, separators=(",", ":")).encode
_LONE = re.compile("[\ud800-\udfff]")


def json_text(value: object, *, spaced: bool = False) -> str:
    """Return a value as JSON on one line: compact, or `spaced` for people to read."""
    text = json.dumps(value, ensure_ascii=False) if spaced else _encode(value)
    if text.isascii() or not _LONE.search(text):
        return text
    return json.dumps(value, separators=None if spaced else (",", ":"))
