"""JSON that can be written anywhere: bytes that are not UTF-8, which a name or a title may hold, are escaped."""

from __future__ import annotations

import json
import re

_encode = json.JSONEncoder(ensure_ascii=False, separators=(",", ":")).encode
_LONE = re.compile("[\ud800-\udfff]")


def json_text(value: object) -> str:
    """Return a value as compact JSON on one line."""
    text = _encode(value)
    return text if text.isascii() or not _LONE.search(text) else json.dumps(value, separators=(",", ":"))
