"""Opening the catalogue: its tables as one value, brought up to date where an older magpie made it."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterator
from contextlib import contextmanager
from functools import cached_property
from importlib import import_module
from pathlib import Path
from typing import TYPE_CHECKING, Any, NamedTuple

from lazy_magpie.catalogue import schema
from lazy_magpie.collection import Collection
from lazy_magpie.errors import MagpieError, UsageError
from lazy_magpie.plain_json import json_text

if TYPE_CHECKING:
    from lazy_magpie.catalogue.custom_fields import CustomFields
    from lazy_magpie.catalogue.digests import Digests
    from lazy_magpie.catalogue.external_tags import ExternalTags
    from lazy_magpie.catalogue.files import Files
    from lazy_magpie.catalogue.fingerprints import Fingerprints
    from lazy_magpie.catalogue.folder_roles import FolderRoleTable
    from lazy_magpie.catalogue.item_writer import ItemWriter
    from lazy_magpie.catalogue.items import Items
    from lazy_magpie.catalogue.known_files import KnownFiles
    from lazy_magpie.catalogue.left_findings import LeftFindings
    from lazy_magpie.catalogue.marks import Marks
    from lazy_magpie.catalogue.placements import Placements
    from lazy_magpie.catalogue.plans import Plans
    from lazy_magpie.catalogue.readings import Readings
    from lazy_magpie.catalogue.reference_lists import ReferenceLists
    from lazy_magpie.catalogue.roots import Roots
    from lazy_magpie.catalogue.sent_files import SentFiles
    from lazy_magpie.catalogue.sums import SumsTable
    from lazy_magpie.catalogue.tags import Tags
    from lazy_magpie.catalogue.titles import Titles
    from lazy_magpie.catalogue.views import Views

_BUSY_SECONDS = 30.0


class _Table:
    """What knows one of the catalogue's tables, or several: loaded and made when it is asked for first."""

    def __init__(self, module: str, name: str) -> None:
        self._module, self._name = module, name

    def __set_name__(self, owner: type, attribute: str) -> None:
        self._attribute = attribute

    def __get__(self, catalogue: Catalogue, owner: type) -> object:
        known_by = getattr(import_module(f"lazy_magpie.catalogue.{self._module}"), self._name)
        made = vars(catalogue)[self._attribute] = known_by(catalogue.db)  # which is what the next look finds
        return made


def _table(module: str, name: str) -> Any:
    """Return an attribute that is what a module has under a name, made for the catalogue's database."""
    return _Table(module, name)


class Followed(NamedTuple):
    """How many moves of a change the catalogue has followed while the change was at work, and the process that did."""

    change: int
    process: int
    moves: int


class Catalogue:
    """An open catalogue."""

    files: Files = _table("files", "Files")
    known: KnownFiles = _table("known_files", "KnownFiles")
    roles: FolderRoleTable = _table("folder_roles", "FolderRoleTable")
    left: LeftFindings = _table("left_findings", "LeftFindings")
    sent: SentFiles = _table("sent_files", "SentFiles")
    readings: Readings = _table("readings", "Readings")
    items: Items = _table("items", "Items")
    writer: ItemWriter = _table("item_writer", "ItemWriter")
    roots: Roots = _table("roots", "Roots")
    digests: Digests = _table("digests", "Digests")
    fingerprints: Fingerprints = _table("fingerprints", "Fingerprints")
    tags: Tags = _table("tags", "Tags")
    external_tags: ExternalTags = _table("external_tags", "ExternalTags")
    custom_fields: CustomFields = _table("custom_fields", "CustomFields")
    plans: Plans = _table("plans", "Plans")
    views: Views = _table("views", "Views")
    placements: Placements = _table("placements", "Placements")
    lists: ReferenceLists = _table("reference_lists", "ReferenceLists")
    sums: SumsTable = _table("sums", "SumsTable")
    marks: Marks = _table("marks", "Marks")

    def __init__(self, db: sqlite3.Connection, title_language: str, *, writable: bool) -> None:
        self.db = db
        self.title_language = title_language
        self.writable = writable

    @cached_property
    def titles(self) -> Titles:
        """The titles of all lists."""
        from lazy_magpie.catalogue.titles import Titles

        return Titles(self.db, self.title_language)

    def commit(self) -> None:
        """Make what was written last, with its rows of the index."""
        if "writer" in vars(self):
            self.writer.flush()
        self.db.commit()

    def noted(self, key: str) -> str | None:
        """Return what was noted under a key, None for nothing."""
        row = self.db.execute("SELECT value FROM meta WHERE key = ?", (key,)).fetchone()
        return str(row[0]) if row else None

    def note(self, key: str, value: str) -> None:
        """Note a value under a key."""
        self.db.execute("INSERT OR REPLACE INTO meta VALUES (?, ?)", (key, value))

    def next_scan(self) -> int:
        """Return the number of a new scan."""
        number = self.scans() + 1
        self.note("scan", str(number))
        return number

    def set_acting(self, *, acting: bool) -> None:
        """Note, to last, that a change is at work on answers, so that a crash before they are followed is noticed."""
        with self.db:
            self.note("acts", str(self.acts() + 1))
            if acting:
                self.note("acting", "1")
            else:
                self.db.execute("DELETE FROM meta WHERE key IN ('acting', 'followed')")

    def note_followed(self, followed: Followed) -> None:
        """Note how much of what a change is doing has been followed, in the transaction that follows it."""
        self.note("followed", json_text(followed))

    def followed(self) -> Followed | None:
        """Return what was noted last of the change at work, None where nothing was."""
        text = self.noted("followed")
        return Followed(*json.loads(text)) if text else None

    def take_followed(self) -> Followed | None:
        """Return the same and forget it: once this transaction lasts, nobody who followed before goes on."""
        rows = self.db.execute("DELETE FROM meta WHERE key = 'followed' RETURNING value").fetchall()
        return Followed(*json.loads(rows[0][0])) if rows else None

    def acts(self) -> int:
        """Return a number that is another one after every change."""
        return int(self.noted("acts") or 0)

    @property
    def acting(self) -> bool:
        """Say whether a change was at work on answers when magpie was last ended."""
        return self.noted("acting") is not None

    def is_told(self, what: str) -> bool:
        """Say whether a catalogue that was new has learned from the journals what they have of something."""
        return self.noted(f"told {what}") is not None

    def set_told(self, what: str) -> None:
        """Note that it has."""
        self.note(f"told {what}", "1")

    def scans(self) -> int:
        """Return how many scans there were."""
        return int(self.noted("scan") or 0)


@contextmanager
def opened(collection: Collection, *, write: bool = False, scanned: bool = True) -> Iterator[Catalogue]:
    """Open the collection's catalogue, for reading unless `write`.

    Raises UsageError where nothing has been scanned yet and `scanned` asks for it, MagpieError where the file
    can't be opened or is no catalogue.
    """
    path = collection.catalogue_path
    if scanned and not path.exists():
        raise UsageError("Nothing has been scanned yet; run “magpie scan” first.")
    db = None
    try:
        if not write and path.exists() and schema.is_older(path):
            _bring_up(collection)
        db = _connect(collection, write=write)
        catalogue = _catalogue(db, collection, write=write)
        if scanned and not catalogue.scans():
            raise UsageError("Nothing has been scanned yet; run “magpie scan” first.")
        yield catalogue
        if write:
            catalogue.commit()
    except sqlite3.Error as error:
        raise MagpieError(
            f"The catalogue {path} can't be {'written' if write else 'read'}: {error}. Check the disk's space and "
            "permissions; a damaged catalogue can be moved away and made anew by “magpie scan”."
        ) from error
    finally:
        if db is not None:
            db.close()


def _catalogue(db: sqlite3.Connection, collection: Collection, *, write: bool) -> Catalogue:
    return Catalogue(db, collection.config.title_language, writable=write)


def _bring_up(collection: Collection) -> None:
    """Bring an older catalogue up to date, with its index, so that it answers at once."""
    db = _connect(collection, write=True)
    try:
        catalogue = _catalogue(db, collection, write=True)
        catalogue.writer.index_stale()
        catalogue.commit()
    finally:
        db.close()


def in_memory() -> sqlite3.Connection:
    """Return an empty catalogue that lives in memory alone, for any thread."""
    db = sqlite3.connect(":memory:", check_same_thread=False)
    schema.prepare(db, Path(":memory:"))
    return db


def _connect(collection: Collection, *, write: bool) -> sqlite3.Connection:
    path = collection.catalogue_path
    uri = path.absolute().as_uri()
    if write:
        db = sqlite3.connect(path, timeout=_BUSY_SECONDS)
        db.execute("PRAGMA journal_mode = WAL")
        db.execute("PRAGMA synchronous = NORMAL")
        db.execute("PRAGMA cache_size = -32768")  # KiB
        db.execute("PRAGMA wal_autocheckpoint = 8000")  # pages: a long scan copies each page back seldom
        schema.prepare(db, path)
        return db
    try:
        db = sqlite3.connect(uri + "?mode=ro", uri=True, timeout=_BUSY_SECONDS)
        db.execute("SELECT 1 FROM meta LIMIT 1").fetchall()
        return db
    except sqlite3.OperationalError:  # a read-only disk has no room for the files that WAL needs
        return sqlite3.connect(uri + "?immutable=1", uri=True)
