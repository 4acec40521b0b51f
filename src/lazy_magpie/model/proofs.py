"""Proofs that a step may take something away: what stays instead, checked in the moment in which it goes."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from lazy_magpie.model.stamps import FileStamp


@dataclass(frozen=True, slots=True)
class SameBytes:
    """What is held equals this file, byte for byte."""

    path: str


@dataclass(frozen=True, slots=True)
class Alike:
    """What is held is alike this file, by a person's word, as long as that looks as it did."""

    path: str
    stamp: FileStamp


@dataclass(frozen=True, slots=True)
class Unpacked:
    """Everything in the archive that is held lies in this folder, each member where `layout` says (None: as named).

    `names` is the encoding of its members' names, "" for the one that they most likely have.
    """

    folder: str
    layout: Mapping[str, str] | None = None
    names: str = ""


@dataclass(frozen=True, slots=True)
class Repacked:
    """Everything in the archive that is held is in this archive too."""

    archive: str


@dataclass(frozen=True, slots=True)
class InArchive:
    """What is held is this member of an archive, byte for byte."""

    archive: str
    member: str


@dataclass(frozen=True, slots=True)
class Spread:
    """Every file in the archive that is held is in one of these places: a path, and a member of it ("": the file)."""

    places: Mapping[str, tuple[str, str]]


@dataclass(frozen=True, slots=True)
class Converted:
    """What is held was turned into this file, which was proved when it was made."""

    path: str


Proof = SameBytes | Alike | Unpacked | Repacked | InArchive | Spread | Converted
"""What stays instead of something held: checked in the moment in which it goes."""
