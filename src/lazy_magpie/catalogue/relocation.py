"""Follows the moves of a change, so that all that is known of files stays with them."""

from __future__ import annotations

from collections.abc import Iterable

from lazy_magpie.catalogue.files import Files
from lazy_magpie.catalogue.query import OF_MAIN, at_or_below
from lazy_magpie.catalogue.roots import MAIN_ROOT
from lazy_magpie.paths import name_of, parent, written

# SQLite knows nothing of how few rows these have: CROSS JOIN makes it begin with them.
_MOVED = (
    "CREATE TEMP TABLE IF NOT EXISTS relocation (folder, name, new_folder, new_name, source)",
    "CREATE TEMP TABLE IF NOT EXISTS moved (file INTEGER PRIMARY KEY, folder, name, item, source)",
    "DELETE FROM relocation",
    "DELETE FROM moved",
)


_READ_BACK = """
UPDATE folder SET dirty = 0 WHERE id > ?
AND (SELECT COUNT(DISTINCT item) = 1 OR COUNT(DISTINCT item) = COUNT(*) FROM file WHERE folder = folder.id)
AND NOT EXISTS (
    SELECT 1 FROM file LEFT JOIN item ON item.id = file.item LEFT JOIN file AS main ON main.id = item.main
    WHERE file.folder = folder.id AND (
        item.id IS NULL OR kind NOT IN ('movie', 'episode') OR state <> 'clear'
        OR json_extract(fields, '$.part') IS NOT NULL
        OR instr(file.name, rtrim(rtrim(main.name, replace(main.name, '.', '')), '.')) <> 1
        OR EXISTS (SELECT 1 FROM file AS other WHERE other.item = item.id AND other.folder <> folder.id)
    )
)
"""
"""Folders that moves have made (ids above the one given), with a film or episodes and what is named after each alone.

Such a name was read anew when the move was planned, and gave the same identity; alone with what is its own nothing can
belong to anything else now.
"""


class FollowedMoves:
    """Follows the moves of one change, all at once or some at a time, in their order.

    `first` keeps the first path of each item as a fact, so that no move destroys its own evidence. `unknown` says where
    files are now that the catalogue did not know.
    """

    def __init__(self, files: Files, *, first: bool) -> None:
        self.files = files
        self.first = first
        self.unknown: list[str] = []
        self._newest = files.newest_folder()

    def follow(self, moves: Iterable[tuple[str, str, bool]]) -> None:
        """Follow moves (from, to, whether it is a folder)."""
        run: dict[str, str] = {}  # where a file is now: where it was
        for source, target, is_folder in moves:
            run[target] = run.pop(source, source)
            if is_folder:
                self._relocate_files(run)
                run = {}
                _relocate_folders(self.files, source, target)
        self._relocate_files(run)

    def trust(self) -> None:
        """Note, when all was followed, that every new name of a film or an episode was read as what it is.

        So a scan need not read it again.
        """
        self.files.db.execute(_READ_BACK, (self._newest,))

    def _relocate_files(self, run: dict[str, str]) -> None:
        """Give files their new places all at once, so that those that changed places do not meet."""
        files = self.files
        old = {home: files.folder_id(home) for home in {parent(source) for source in run.values()}}
        new = {home: files.folder(home, 0)[0] for home in {parent(target) for target in run}}
        for statement in _MOVED:  # no script, which would commit what was done before
            files.db.execute(statement)
        files.db.executemany(
            "INSERT INTO relocation VALUES (?, ?, ?, ?, ?)",
            (
                (
                    old[parent(source)],
                    written(name_of(source)),
                    new[parent(target)],
                    written(name_of(target)),
                    written(source),
                )
                for target, source in run.items()
            ),
        )
        files.db.execute(
            "INSERT INTO moved SELECT file.id, new_folder, new_name, item.id, source FROM relocation "
            f"JOIN file ON file.folder = relocation.folder AND file.name = relocation.name LEFT {OF_MAIN}"
        )
        if self.first:
            files.db.execute(
                "INSERT OR IGNORE INTO fact SELECT item, 'first_path', source, 'disk' FROM moved WHERE item IS NOT NULL"
            )
        files.db.execute(
            "UPDATE item SET stale = 1 WHERE stale = 0 AND id IN "
            "(SELECT file.item FROM moved CROSS JOIN file ON file.id = moved.file)"
        )
        files.drop_digest(
            "id IN (SELECT folder FROM moved UNION "
            "SELECT file.folder FROM moved CROSS JOIN file ON file.id = moved.file)"
        )
        files.db.execute("UPDATE file SET folder = -id WHERE id IN (SELECT file FROM moved)")
        files.db.execute(
            "UPDATE OR REPLACE file SET (folder, name) = (SELECT moved.folder, moved.name FROM moved "
            "WHERE moved.file = file.id) "
            "WHERE id IN (SELECT file FROM moved)"
        )
        files.mark_changed(id for id in {*old.values(), *new.values()} if id)
        lost = files.db.execute("SELECT source FROM relocation EXCEPT SELECT source FROM moved").fetchall()
        now = {written(source): target for target, source in run.items()} if lost else {}
        self.unknown += [now[source] for (source,) in lost]


def _relocate_folders(files: Files, source: str, target: str) -> None:
    top = written(source)
    condition, values = at_or_below(top)
    rows = files.db.execute(
        f"SELECT id, path FROM folder WHERE root = ? AND {condition}", (MAIN_ROOT, *values)
    ).fetchall()
    for id, path in rows:
        files.db.execute("UPDATE item SET stale = 1 WHERE id IN (SELECT item FROM file WHERE folder = ?)", (id,))
        moved = written(target) + path[len(top) :]
        taken = files.db.execute("SELECT id FROM folder WHERE root = ? AND path = ?", (MAIN_ROOT, moved)).fetchone()
        files.drop_digest("id = ? OR id = ?", (id, taken[0] if taken else id))
        if taken is None:
            files.db.execute("UPDATE folder SET path = ? WHERE id = ?", (moved, id))
        else:
            files.db.execute("UPDATE OR IGNORE file SET folder = ? WHERE folder = ?", (taken[0], id))
