"""What the files of a bundle say of it: a read-me or licence, the title of a PDF document, the family of a font.

Documents and fonts are read by the readers, which see to it that a damaged one costs neither time nor memory.
"""

from __future__ import annotations

import os
from collections.abc import Iterator, Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass
from tempfile import TemporaryDirectory

from lazy_magpie.change import Filesystem, head_of
from lazy_magpie.identify.file_types import BY_ENDING
from lazy_magpie.intake.downloads import Bundle, Piece
from lazy_magpie.model import Kind, Value
from lazy_magpie.paths import name_of, split_ending
from lazy_magpie.readers.worker_pool import read_all

_TEXTS = (".txt", ".md", ".rtf", ".htm", ".html", ".nfo", "")
_LARGEST_TEXT = 1 << 16
_TEXT = 1 << 14
"""Bytes of a text that are looked at for a maker's name."""
_LARGEST_PAPER = 4 << 20
_MOST_TEXTS, _MOST_PAPERS, _MOST_FONTS = 3, 2, 8
_AT_ONCE = 32
"""Bundles whose documents are unpacked side by side to be read."""


@dataclass(frozen=True)
class EmbeddedText:
    """What the files of a bundle say: all texts, in which a maker may be named; titles; its fonts' families, and
    whether all fonts were asked; their vendor."""

    text: str = ""
    titles: tuple[str, ...] = ()
    families: tuple[str, ...] = ()
    all_fonts: bool = False
    vendor: str = ""


NOTHING = EmbeddedText()


def embedded_text(disk: Filesystem, bundles: Sequence[Bundle]) -> Iterator[EmbeddedText]:
    """Yield what the files of each bundle say of it, in order."""
    for start in range(0, len(bundles), _AT_ONCE):
        some = bundles[start : start + _AT_ONCE]
        with TemporaryDirectory() as folder:
            papers = [_on_disk(disk, bundle, os.path.join(folder, str(at))) for at, bundle in enumerate(some)]
            facts = dict(read_all(path for paths in papers for path in paths))
        for bundle, paths in zip(some, papers, strict=True):
            yield _said(disk, bundle, [facts[path] for path in paths])


def _said(disk: Filesystem, bundle: Bundle, facts: Sequence[Mapping[str, Value]]) -> EmbeddedText:
    """Return what the texts of a bundle say, and what was read of its documents."""
    texts = [_head(disk, piece, _TEXT).decode("utf-8", "replace") for piece in _texts_in(bundle)]
    texts += [str(one[fact]) for one in facts for fact in ("title", "author") if fact in one]
    titles = tuple(str(one["title"]) for one in facts if "title" in one)
    fonts = [one for one in facts if "family" in one]
    families, vendors = {str(one["family"]) for one in fonts}, {str(one.get("vendor", "")) for one in fonts}
    vendor = vendors.pop() if len(vendors) == 1 else ""
    return EmbeddedText("\n".join(texts), titles, tuple(sorted(families)), len(fonts) == len(_fonts_in(bundle)), vendor)


def _on_disk(disk: Filesystem, bundle: Bundle, folder: str) -> list[str]:
    """Return where the documents and fonts of a bundle that are to be read are; what is packed is put into `folder`."""
    paths = []
    for number, piece in enumerate((*_papers_in(bundle), *_fonts_in(bundle)[:_MOST_FONTS])):
        if not piece.member:
            paths.append(disk.path(piece.source.path))
        elif 0 < piece.size <= _LARGEST_PAPER and (data := _head(disk, piece, _LARGEST_PAPER)):
            path = os.path.join(folder, f"{number}{split_ending(piece.member)[1].lower()}")
            with suppress(OSError):  # no room for it: then it says nothing
                os.makedirs(folder, exist_ok=True)
                with open(path, "wb") as file:
                    file.write(data)
                paths.append(path)
    return paths


def _head(disk: Filesystem, piece: Piece, most: int) -> bytes:
    """Return the beginning of a file, b"" where it can't be read."""
    if piece.member:
        return head_of(disk, piece.source.path, piece.member, most)
    try:
        with open(disk.path(piece.source.path), "rb") as file:
            return file.read(most)
    except OSError:
        return b""


def _texts_in(bundle: Bundle) -> list[Piece]:
    """Return the small texts of a bundle: a read-me, a licence."""
    texts = [piece for piece in bundle.pieces if 0 < piece.size <= _LARGEST_TEXT and _ending(piece) in _TEXTS]
    return texts[:_MOST_TEXTS]


def _papers_in(bundle: Bundle) -> list[Piece]:
    return [piece for piece in bundle.pieces if _ending(piece) == ".pdf"][:_MOST_PAPERS]


def _fonts_in(bundle: Bundle) -> list[Piece]:
    return [piece for piece in bundle.pieces if BY_ENDING.get(_ending(piece)) is Kind.FONT]


def _ending(piece: Piece) -> str:
    return split_ending(name_of(piece.path))[1].lower()
