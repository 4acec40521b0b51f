"""Texts as XML and HTML can have them: some characters have no place there, however they are written."""

from __future__ import annotations

import re
from html import escape

_NO_PLACE = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\ud800-\udfff\ufffe\uffff]")


def allowed(text: str, instead: str = "") -> str:
    """Return a text with `instead` in the place of each character that XML can't have."""
    return _NO_PLACE.sub(instead, text)


def escaped(text: str, instead: str = "") -> str:
    """Return a text as it stands between tags."""
    return escape(allowed(text, instead), quote=False)
