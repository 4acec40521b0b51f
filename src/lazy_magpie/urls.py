"""Paths as links have them, also those that are not UTF-8."""

from __future__ import annotations

import os
from urllib.parse import quote


def relative_url(path: str, home: str) -> str:
    """Return the link to a file from a page in the folder `home`; both are whole paths."""
    return quote(os.fsencode(os.path.relpath(path, home)), safe="/")


def file_url(path: str) -> str:
    """Return the URL of a file by its whole path."""
    if os.name == "posix":
        return "file://" + quote(os.fsencode(path))
    from urllib.request import pathname2url  # which loads all that speaks to servers

    return "file://" + pathname2url(path)
