"""Follows the moves of a change, so that all that is known of files stays with them."""

from __future__ import annotations

from collections.abc import Iterable

from lazy_magpie.catalogue.files import Files
from lazy_magpie.catalogue.query import OF_MAIN, at_or_below
from lazy_magpie.catalogue.roots import MAIN_ROOT
from lazy_magpie.paths import name_of, parent, written

# SQLite knows nothing of how few rows these have: CROSS JOIN makes it begin with them.
_MOVED = """
CREATE TEMP TABLE IF NOT EXISTS relocation (folder, name, new_folder, new_name, source);
CREATE TEMP TABLE IF NOT EXISTS moved (file INTEGER PRIMARY KEY, folder, name, item, source);
DELETE FROM relocation;
DELETE FROM moved;
"""


_READ_BACK = """
UPDATE folder SET dirty = 0 WHERE id > ? AND id IN (SELECT folder FROM moved)
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
"""New folders (ids above the one given) with a film or episodes, what is named after each, and nothing else.

Such a name was read anew when the move was planned, and gave the same identity; alone with what is its own nothing can
belong to anything else now.
"""


def relocate(
    files: Files, moves: Iterable[tuple[str, str, bool]], *, first: bool, read_back: bool = False
) -> list[str]:
    """Follow moves (from, to, whether it is a folder) that a change has made, so that all stays with the files.

    `first` keeps the first path of each item as a fact, so that no move destroys its own evidence; `read_back` says
    that every new name of a film or an episode was read as what it is, so that a scan need not do it. Returns where
    files are now that the catalogue did not know.
    """
    unknown: list[str] = []
    run: dict[str, str] = {}  # where a file is now: where it was
    for source, target, is_folder in moves:
        run[target] = run.pop(source, source)
        if is_folder:
            unknown += _relocate_files(files, run, first=first, read_back=read_back)
            run = {}
            _relocate_folders(files, source, target)
    return unknown + _relocate_files(files, run, first=first, read_back=read_back)


def _relocate_files(files: Files, run: dict[str, str], *, first: bool, read_back: bool) -> list[str]:
    """Give files their new places all at once, so that those that changed places do not meet.

    Returns the places of those that are not known.
    """
    newest = files.newest_folder()
    old = {home: files.folder_id(home) for home in {parent(source) for source in run.values()}}
    new = {home: files.folder(home, 0)[0] for home in {parent(target) for target in run}}
    files.db.executescript(_MOVED)
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
    if first:
        files.db.execute(
            "INSERT OR IGNORE INTO fact SELECT item, 'first_path', source, 'disk' FROM moved WHERE item IS NOT NULL"
        )
    files.db.execute(
        "UPDATE item SET stale = 1 WHERE stale = 0 AND id IN "
        "(SELECT file.item FROM moved CROSS JOIN file ON file.id = moved.file)"
    )
    files.drop_digest(
        "id IN (SELECT folder FROM moved UNION SELECT file.folder FROM moved CROSS JOIN file ON file.id = moved.file)"
    )
    files.db.execute("UPDATE file SET folder = -id WHERE id IN (SELECT file FROM moved)")
    files.db.execute(
        "UPDATE OR REPLACE file SET (folder, name) = (SELECT moved.folder, moved.name FROM moved "
        "WHERE moved.file = file.id) "
        "WHERE id IN (SELECT file FROM moved)"
    )
    files.mark_dirty(id for id in {*old.values(), *new.values()} if id and files.in_folder(id))
    if read_back:
        files.db.execute(_READ_BACK, (newest,))
    unknown = files.db.execute("SELECT source FROM relocation EXCEPT SELECT source FROM moved").fetchall()
    now = {written(source): target for target, source in run.items()} if unknown else {}
    return [now[source] for (source,) in unknown]


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
