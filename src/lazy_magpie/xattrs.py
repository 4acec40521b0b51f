"""Tags where other programs see them: in a file's extended attribute `user.xdg.tags`, words parted by commas.

They are in UTF-8. That is the open desktops' convention (freedesktop.org, "Common Extended Attributes"). Where a system
or a drive has no such attributes, there is none to read, and none is written.
"""

from __future__ import annotations

import errno
import os
from collections.abc import Iterable
from contextlib import suppress

NAME = "user.xdg.tags"
_NONE = (errno.ENODATA, errno.ENOENT, errno.ENOTDIR)


def tags_of(path: str) -> tuple[str, ...] | None:
    """Return the tags that a file carries, in their order; None where its drive has no attributes, or it can't be read.

    Links are not followed. What can't be a tag of ours is passed by: nothing, and what is not printable.
    """
    if not hasattr(os, "getxattr"):
        return None
    try:
        raw = os.getxattr(path, NAME, follow_symlinks=False)
    except OSError as error:
        return () if error.errno in _NONE and os.path.lexists(path) else None
    return unpacked(raw)


def carries_tags(path: str) -> bool:
    """Say whether a file has the attribute at all: quicker than reading it where most have none."""
    try:
        return NAME in os.listxattr(path, follow_symlinks=False)
    except (OSError, AttributeError):
        return False


def put_tags(path: str, tags: Iterable[str]) -> bool:
    """Write these tags to a file, in their order, in place of others; say whether its drive has taken them."""
    raw = ",".join(tags).encode("utf-8", "surrogateescape")
    try:
        if raw:
            os.setxattr(path, NAME, raw, follow_symlinks=False)
        else:
            os.removexattr(path, NAME, follow_symlinks=False)
    except AttributeError:
        return False
    except OSError as error:
        return not raw and error.errno == errno.ENODATA
    return True


def raw_of(path: str) -> str | None:
    """Return the attribute of a file as it is, in hexadecimal digits; None where it has none."""
    try:
        return os.getxattr(path, NAME, follow_symlinks=False).hex()
    except (OSError, AttributeError):
        return None


def put_raw(path: str, raw: str | None) -> None:
    """Give a file the attribute that `raw_of` returned, or take it off."""
    with suppress(OSError, AttributeError):
        if raw is None:
            os.removexattr(path, NAME, follow_symlinks=False)
        else:
            os.setxattr(path, NAME, bytes.fromhex(raw), follow_symlinks=False)


def unpacked(raw: bytes) -> tuple[str, ...]:
    """Return the tags that the attribute's bytes list, each once."""
    words = (" ".join(word.split()) for word in raw.decode("utf-8", "replace").split(","))
    return tuple(dict.fromkeys(word for word in words if word and word.isprintable()))
