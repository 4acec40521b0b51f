"""What files were identified as before, and what that rested on: while it is the same, nothing is identified anew."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Sequence
from typing import Any, NamedTuple

from lazy_magpie.model import Identity, Kind, State, reason_of
from lazy_magpie.plain_json import json_text

_KINDS = {kind.value: kind for kind in Kind}
_STATES = {state.value: state for state in State}
_OWN_IDENTITY = (
    "item.main = file.id AND item.state <> 'settled' AND (item.files = 1 OR NOT EXISTS ("
    "SELECT 1 FROM file AS other WHERE other.item = item.id AND other.id <> file.id AND other.role IN "
    "('main', 'cue', 'other')))"
)
"""Where an item's identity is that of its main file alone: it has no others, or such as only lie beside."""


class KnownFile(NamedTuple):
    """What the catalogue has of a file: what stands for all that it was identified by, its item, its place in that.

    `identity` is what it was taken for where that is known: what is true of several files together is not.
    """

    basis: int
    item: int
    role: str
    part: int
    files: int
    identity: Identity | None


def alone_text(identity: Identity) -> str:
    """Return what a file by itself was taken for, without its evidence, as the catalogue keeps it beside an item's."""
    return json_text(
        [
            identity.kind.value,
            identity.state.value,
            identity.confidence,
            identity.fields,
            identity.facts,
            identity.doubts,
        ]
    )


class KnownFiles:
    """What the tables `file` and `item` have of what files were identified as."""

    def __init__(self, db: sqlite3.Connection) -> None:
        self.db = db

    def in_folder(self, folder: int, doubt: str = "") -> dict[int, KnownFile]:
        """Return what the files of a folder were identified as, by id, but for those that are in `doubt` (a reason)."""
        rows = self.db.execute(
            f"SELECT file.id, basis, item, role, part, files, {_OWN_IDENTITY}, kind, state, confidence, alone, "
            "'[' || fields || ',' || facts || ',' || doubts || ']' FROM file JOIN item ON item.id = file.item "
            "WHERE file.folder = ? AND file.missing = 0 AND basis <> 0",
            (folder,),
        ).fetchall()
        whole, alone = _parsed([row[11] for row in rows]), _parsed([row[10] or "null" for row in rows])
        found = {}
        for row, (fields, facts, doubts), by_itself in zip(rows, whole, alone, strict=True):
            if doubt and any(reason_of(one) == doubt for one in doubts):
                continue
            id, basis, item, role, part, files, is_own, kind, state, confidence, _, _ = row
            said = (kind, state, confidence, fields, facts, doubts) if is_own else by_itself
            found[int(id)] = KnownFile(basis, item, role, part, files, _identity(*said) if said else None)
        return found


def _parsed(texts: Sequence[str]) -> list[Any]:
    """Return what JSON texts hold, read all at once: one by one it takes twice as long."""
    found: list[Any] = json.loads(f"[{','.join(texts)}]")
    return found


def _identity(kind: str, state: str, confidence: float, fields: Any, facts: Any, doubts: Sequence[str]) -> Identity:
    return Identity(_KINDS[kind], _STATES[state], confidence, fields, facts, (), tuple(doubts))
