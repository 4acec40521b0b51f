r"""Paths as text: inside the program as the file system gives them, outside in one written form.

Inside, a path is a `str` with `/` between folders, relative to its root; bytes that are not UTF-8 stand in it
as lone surrogates (PEP 383). The *written form*, used in the catalogue, in plans and in every output, is plain
Unicode: such bytes, control characters and the marks that turn the direction of text are written `\xNN`, a
backslash `\\`. `written` and `read_back` are each other's inverse.
"""

from __future__ import annotations

import os
import re
import unicodedata
from collections.abc import Iterable, Iterator
from functools import lru_cache

CONFIG_NAME = "magpie.toml"
"""The configuration at the top of a collection."""
TARGETS = ".magpie/targets"
"""Below it the targets stand in steps: .magpie/targets/card/Games/one.gb is Games/one.gb on the target “card”."""

_UNSAFE = re.compile("[\x00-\x1f\x7f-\x9f\u061c\u200e\u200f\u2028-\u202e\u2066-\u2069\ud800-\udfff\\\\]")
_ESCAPE = re.compile(r"\\(?:x([0-9a-fA-F]{2})|\\)")


def _escape(match: re.Match[str]) -> str:
    character = match.group()
    if character == "\\":
        return "\\\\"
    try:
        data = os.fsencode(character)
    except UnicodeEncodeError:  # half a character that no path can hold
        data = character.encode("utf-8", "surrogatepass")
    return "".join(f"\\x{byte:02x}" for byte in data)


def written(path: str) -> str:
    """Return `path` in its written form."""
    if path.isascii() and path.isprintable() and "\\" not in path:
        return path
    return _UNSAFE.sub(_escape, path)


_UNSEEN = re.compile("[\x00-\x08\x0b-\x1f\x7f-\x9f\u061c\u200e\u200f\u2028-\u202e\u2066-\u2069\ud800-\udfff]")


def visible(text: str) -> str:
    r"""Return a text in which all is to be seen that would else act on a terminal, as `\xNN`; lines stay lines."""
    if text.isascii() and text.isprintable():
        return text
    return _UNSEEN.sub(_escape, text)


def read_back(text: str) -> str:
    r"""Return the path that `written` turned into `text`; an escape that means nothing (`\q`) stays as it is."""
    if "\\" not in text:
        return text
    out = bytearray()
    end = 0
    for match in _ESCAPE.finditer(text):
        out += os.fsencode(text[end : match.start()])
        out += bytes([int(match.group(1), 16)]) if match.group(1) else b"\\"
        end = match.end()
    out += os.fsencode(text[end:])
    return os.fsdecode(bytes(out))


def same_name(path: str) -> str:
    """Return the key under which two names are one name: case and the encoding of accents do not count."""
    if path.isascii():
        return path.lower()
    return unicodedata.normalize("NFC", unicodedata.normalize("NFC", path).casefold())


def parent(path: str) -> str:
    """Return the folder that `path` lies in, "" for the root itself."""
    return path.rpartition("/")[0]


def name_of(path: str) -> str:
    """Return the last part of `path`."""
    return path.rpartition("/")[2]


def join(folder: str, name: str) -> str:
    """Return `name` below `folder`, where "" is the root."""
    return f"{folder}/{name}" if folder else name


def above(path: str) -> Iterator[str]:
    """Yield the folders above `path`, nearest first, without the root ("")."""
    at = path.rfind("/")
    while at > 0:
        yield path[:at]
        at = path.rfind("/", 0, at)


def is_below(path: str, folder: str) -> bool:
    """Say whether `path` is `folder` or lies below it; everything lies below the root ("")."""
    return not folder or path == folder or path.startswith(folder + "/")


@lru_cache(maxsize=4096)
def split_ending(name: str) -> tuple[str, str]:
    """Split a file name into its stem and its ending with the dot ("" if none that could be one).

    An ending is at most ten letters and digits with at least one letter, or a `7z`-like mix; so
    `Vol. 2` has none and `film.1987` has none.
    """
    stem, dot, ending = name.rpartition(".")
    if (
        not dot
        or not stem
        or not 1 <= len(ending) <= 10
        or not ending.replace("!", "a").isalnum()
        or ending.isdecimal()
    ):
        return name, ""
    return stem, "." + ending


def endings_of(names: Iterable[str]) -> tuple[str, ...]:
    """Return the endings of file names in small letters, without dots, each once."""
    return tuple(dict.fromkeys(ending[1:] for name in names if (ending := split_ending(name)[1].lower())))


def unpacked_name(archive: str) -> str:
    """Return the name of the folder that an archive of this name would be unpacked to."""
    return split_ending(archive)[0].removesuffix(".tar")


def target_path(target: str, path: str = "") -> str:
    """Return how steps name a path on a target."""
    return f"{TARGETS}/{target}/{path}" if path else f"{TARGETS}/{target}"


def on_target(path: str) -> tuple[str, str] | None:
    """Return the target, and the path on it, that a path of a step names; None where it names none."""
    if not path.startswith(f"{TARGETS}/"):
        return None
    target, _, rest = path[len(TARGETS) + 1 :].partition("/")
    return target, rest
