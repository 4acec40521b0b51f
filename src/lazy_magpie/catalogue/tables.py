"""The SQL of the catalogue's tables: those of the first version, and what each later one has changed."""

from __future__ import annotations

from collections.abc import Mapping

from lazy_magpie.catalogue.list_tables import LIST_TABLES

VERSION = 17

TABLES = """
CREATE TABLE meta (
    key TEXT PRIMARY KEY,
    value TEXT NOT NULL
);
CREATE TABLE folder (
    id INTEGER PRIMARY KEY,
    path TEXT NOT NULL UNIQUE,
    seen INTEGER NOT NULL               -- the scan that saw it last
);
CREATE TABLE file (
    id INTEGER PRIMARY KEY,
    folder INTEGER NOT NULL REFERENCES folder (id),
    name TEXT NOT NULL,                 -- written form
    size INTEGER NOT NULL,              -- bytes; -1 for a disc folder that is one file to us
    mtime INTEGER NOT NULL,             -- nanoseconds
    inode INTEGER NOT NULL,
    added INTEGER NOT NULL,             -- the scan that found it
    missing INTEGER NOT NULL DEFAULT 0, -- the scan that missed it, 0 while it is there
    item INTEGER,
    role TEXT NOT NULL DEFAULT 'main',
    UNIQUE (folder, name)
);
CREATE INDEX file_item ON file (item) WHERE item IS NOT NULL;
CREATE TABLE item (
    id INTEGER PRIMARY KEY,
    main INTEGER NOT NULL REFERENCES file (id),
    kind TEXT NOT NULL,
    state TEXT NOT NULL,
    confidence REAL NOT NULL,
    fields TEXT NOT NULL,               -- JSON
    facts TEXT NOT NULL,                -- JSON
    doubts TEXT NOT NULL,               -- JSON
    search TEXT NOT NULL                -- folded words of the fields
);
CREATE TABLE fact (
    item INTEGER NOT NULL,
    field TEXT NOT NULL,
    value TEXT NOT NULL,
    source TEXT NOT NULL,
    PRIMARY KEY (item, field, source)
);
CREATE TABLE plan (
    number INTEGER PRIMARY KEY,
    made TEXT NOT NULL,                 -- ISO 8601, UTC
    command TEXT NOT NULL,
    state TEXT NOT NULL,                -- kept, applied, dropped
    steps INTEGER NOT NULL,
    passed TEXT NOT NULL                -- JSON: what lay outside the plan's business, counted
);
CREATE TABLE plan_step (
    plan INTEGER NOT NULL,
    step INTEGER NOT NULL,
    sort TEXT NOT NULL,
    source TEXT NOT NULL,
    target TEXT NOT NULL,
    why TEXT NOT NULL,
    gathered TEXT NOT NULL,             -- the group that it is shown in
    item INTEGER NOT NULL,
    size INTEGER,
    mtime INTEGER,
    inode INTEGER,
    data TEXT NOT NULL,                 -- JSON
    PRIMARY KEY (plan, step)
);
CREATE TABLE plan_note (
    plan INTEGER NOT NULL,
    note INTEGER NOT NULL,
    sort TEXT NOT NULL,                 -- conflict, left, asks (left, and an answer would move it)
    path TEXT NOT NULL,
    items TEXT NOT NULL,                -- JSON
    why TEXT NOT NULL,
    PRIMARY KEY (plan, note)
);
"""

SECOND = """
CREATE TABLE told (                     -- what a file says of itself
    file INTEGER PRIMARY KEY,
    size INTEGER NOT NULL,              -- as it was when it was read
    mtime INTEGER NOT NULL,
    facts TEXT NOT NULL                 -- JSON
);
CREATE TABLE settled (
    item INTEGER PRIMARY KEY,
    kind TEXT NOT NULL,
    fields TEXT NOT NULL,               -- JSON
    by TEXT NOT NULL,                   -- "person", or the title list that decided
    at TEXT NOT NULL                    -- ISO 8601, UTC
);
CREATE TABLE title_list (
    id INTEGER PRIMARY KEY,
    name TEXT NOT NULL UNIQUE,
    source TEXT NOT NULL,               -- a file's path, or a service's URL
    sort TEXT NOT NULL,                 -- file, service
    added TEXT NOT NULL,                -- ISO 8601, UTC
    titles INTEGER NOT NULL
);
CREATE TABLE title (
    id INTEGER PRIMARY KEY,
    list INTEGER NOT NULL,
    kind TEXT NOT NULL,
    title TEXT NOT NULL,
    year INTEGER NOT NULL,              -- 0: not known
    maker TEXT NOT NULL,
    others TEXT NOT NULL                -- JSON: other titles
);
CREATE INDEX title_of_list ON title (list);
CREATE TABLE title_name (               -- every name of a title, as keys
    id INTEGER PRIMARY KEY,
    title INTEGER NOT NULL,
    key TEXT NOT NULL
);
CREATE INDEX title_by_key ON title_name (key);
CREATE INDEX title_name_of ON title_name (title);
CREATE VIRTUAL TABLE title_gram USING fts5 (
    key, tokenize = 'trigram', detail = 'none', content = 'title_name', content_rowid = 'id'
);
CREATE VIRTUAL TABLE title_vocabulary USING fts5vocab (title_gram, row);
CREATE TABLE title_episode (
    title INTEGER NOT NULL,
    season INTEGER NOT NULL,
    episode INTEGER NOT NULL,
    name TEXT NOT NULL,
    air_date TEXT NOT NULL,
    PRIMARY KEY (title, season, episode)
);
CREATE TABLE asked (                    -- what services have answered: their titles stand in `title`
    service TEXT NOT NULL,
    question TEXT NOT NULL,
    at TEXT NOT NULL,                   -- ISO 8601, UTC
    PRIMARY KEY (service, question)
);
"""

THIRD = """
ALTER TABLE item ADD COLUMN stale INTEGER NOT NULL DEFAULT 1;   -- its path has changed since it was indexed
CREATE INDEX item_stale ON item (id) WHERE stale = 1;
ALTER TABLE folder ADD COLUMN dirty INTEGER NOT NULL DEFAULT 1; -- something in it has still to be read and identified
CREATE INDEX folder_dirty ON folder (id) WHERE dirty = 1;
CREATE INDEX item_kind ON item (kind);
CREATE TABLE field (
    id INTEGER PRIMARY KEY,
    name TEXT NOT NULL UNIQUE
);
CREATE TABLE value (                    -- every value of every item: a number without text, or 0 and a folded text
    field INTEGER NOT NULL,
    number REAL NOT NULL,
    text TEXT NOT NULL,
    item INTEGER NOT NULL,
    PRIMARY KEY (field, number, text, item)
) WITHOUT ROWID;
CREATE INDEX value_of_item ON value (item);
CREATE VIRTUAL TABLE words USING fts5 (search, content = 'item', content_rowid = 'id', prefix = '2 3');
INSERT INTO words (words) VALUES ('rebuild');
CREATE TABLE kept_columns (             -- the columns that a person chose for a kind
    kind TEXT PRIMARY KEY,
    columns TEXT NOT NULL
);
"""

FOURTH = """
CREATE TABLE root (
    id INTEGER PRIMARY KEY,             -- 0: the collection's own
    name TEXT NOT NULL UNIQUE,          -- "" for the collection's own
    mark TEXT NOT NULL,                 -- the id that it carries
    volume TEXT NOT NULL,               -- the id of the file system that it lay on, "" if not known
    place TEXT NOT NULL                 -- the folder that it was at last
);
INSERT INTO root VALUES (0, '', '', '', '');
CREATE TABLE folder_of_root (
    id INTEGER PRIMARY KEY,
    root INTEGER NOT NULL DEFAULT 0,
    path TEXT NOT NULL,
    seen INTEGER NOT NULL,              -- the scan that saw it last
    dirty INTEGER NOT NULL DEFAULT 1,   -- something in it has still to be read and identified
    digest BLOB,                        -- of its files as they were seen last; null where that is not so any more
    UNIQUE (root, path)
);
INSERT INTO folder_of_root (id, path, seen) SELECT id, path, seen FROM folder;
DROP TABLE folder;
ALTER TABLE folder_of_root RENAME TO folder;
CREATE INDEX folder_dirty ON folder (id) WHERE dirty = 1;
ALTER TABLE file ADD COLUMN part INTEGER NOT NULL DEFAULT 0;    -- which part or disc of its item it is
ALTER TABLE item ADD COLUMN files INTEGER NOT NULL DEFAULT 2;   -- how many files it has, or had once
ALTER TABLE item ADD COLUMN filed TEXT NOT NULL DEFAULT '';     -- what the index has from its files
ALTER TABLE item ADD COLUMN was TEXT NOT NULL DEFAULT '';       -- JSON: fields and facts that the index still has
DROP INDEX value_of_item;
DELETE FROM value;
UPDATE item SET stale = 1;
CREATE TABLE member (                   -- what archives hold
    file INTEGER NOT NULL,
    path TEXT NOT NULL,                 -- written form
    size INTEGER NOT NULL,              -- bytes
    crc INTEGER                         -- CRC-32, where the format has one
);
CREATE INDEX member_of ON member (file);
CREATE TABLE crc (                      -- CRC-32 of contents, as archives have it
    file INTEGER PRIMARY KEY,
    size INTEGER NOT NULL,
    mtime INTEGER NOT NULL,
    crc INTEGER NOT NULL
);
CREATE TABLE digest (                   -- of contents, by BLAKE3; empty where not known
    file INTEGER PRIMARY KEY,
    size INTEGER NOT NULL,              -- as the file was when it was read
    mtime INTEGER NOT NULL,
    ends BLOB NOT NULL,                 -- 16 bytes: of the first and the last 64 KiB
    whole BLOB NOT NULL                 -- 32 bytes
);
CREATE INDEX digest_whole ON digest (whole) WHERE whole <> x'';
"""

FIFTH = """
CREATE TABLE print (                    -- what a file is known by where copies that are only alike are sought
    file INTEGER PRIMARY KEY,
    way INTEGER NOT NULL,               -- the way in which prints were taken then
    size INTEGER NOT NULL,              -- as the file was then
    mtime INTEGER NOT NULL,
    print BLOB NOT NULL                 -- empty where there is nothing to go by
);
CREATE TABLE looked (                   -- what a second look at two files has said
    one INTEGER NOT NULL,
    other INTEGER NOT NULL,             -- the larger id
    alike INTEGER NOT NULL,
    PRIMARY KEY (one, other)
) WITHOUT ROWID;
CREATE INDEX looked_other ON looked (other);
CREATE TABLE tagged (                   -- the words that a person put on items
    item INTEGER NOT NULL,
    tag TEXT NOT NULL,
    PRIMARY KEY (item, tag)
) WITHOUT ROWID;
CREATE INDEX tagged_tag ON tagged (tag);
CREATE TABLE tag_colour (
    tag TEXT PRIMARY KEY,
    colour TEXT NOT NULL
);
"""

SIXTH = """
DROP INDEX folder_dirty;                -- 2: only what its files carry outside has to be looked at
CREATE INDEX folder_dirty ON folder (id) WHERE dirty <> 0;
CREATE TABLE outside (                  -- the tags that files themselves carry
    file INTEGER NOT NULL,
    place TEXT NOT NULL,                -- attribute, inside, sidecar
    agreed TEXT NOT NULL,               -- JSON: when both sides agreed last
    now TEXT,                           -- JSON: as they were seen since; null: as agreed
    PRIMARY KEY (file, place)
) WITHOUT ROWID;
CREATE TABLE own_value (                -- what a person filled in: custom fields
    item INTEGER NOT NULL,
    field TEXT NOT NULL,
    value TEXT NOT NULL,                -- JSON
    PRIMARY KEY (item, field)
) WITHOUT ROWID;
CREATE TABLE view (
    name TEXT PRIMARY KEY,
    made TEXT NOT NULL                  -- JSON: what it shows and how
);
CREATE TABLE view_link (                -- what magpie has put into a view
    view TEXT NOT NULL,
    path TEXT NOT NULL,                 -- written form, from the root
    target TEXT NOT NULL,               -- the file that it stands for
    PRIMARY KEY (view, path)
) WITHOUT ROWID;
"""

SEVENTH = """
ALTER TABLE plan ADD COLUMN drives TEXT;    -- JSON: those mounted inside the root when it was made
CREATE TABLE placement (                -- what a change has placed by a naming: a file, or the folder of one thing
    path TEXT PRIMARY KEY,              -- written form
    change INTEGER NOT NULL,
    rule TEXT NOT NULL,                 -- stands for the shelf and the naming
    kind TEXT NOT NULL,
    thing TEXT NOT NULL,                -- JSON: its values for the naming; null: a file for itself
    answer TEXT NOT NULL                -- JSON: how a person had settled it
) WITHOUT ROWID;
CREATE TABLE taken (                    -- archives that were unpacked, by what they list
    listing TEXT PRIMARY KEY,
    home TEXT NOT NULL,                 -- written form
    change INTEGER NOT NULL
) WITHOUT ROWID;
CREATE TABLE came_from (                -- the file that a file was unpacked from
    file INTEGER PRIMARY KEY,
    archive INTEGER NOT NULL,
    change INTEGER NOT NULL
);
CREATE INDEX came_from_archive ON came_from (archive);
CREATE TABLE refused (                  -- archives that could not be unpacked
    size INTEGER NOT NULL,
    mtime INTEGER NOT NULL,
    listing TEXT NOT NULL,
    why TEXT NOT NULL,
    PRIMARY KEY (size, mtime)
) WITHOUT ROWID;
"""

EIGHTH = """
CREATE INDEX file_missing ON file (id) WHERE missing <> 0;
CREATE INDEX item_doubtful ON item (id) WHERE state = 'doubtful';
"""

NINTH = """
ALTER TABLE file ADD COLUMN basis INTEGER NOT NULL DEFAULT 0;   -- stands for what it was identified by; 0: not known
ALTER TABLE folder ADD COLUMN taken_for TEXT NOT NULL DEFAULT '';   -- its role, "" where that is not known
CREATE TABLE in_place (                 -- items that a tidy found in their places
    item INTEGER PRIMARY KEY,
    basis INTEGER NOT NULL,             -- stands for the item as it was then, and the rules
    home TEXT NOT NULL                  -- the folder that is its own, in the written form
);
"""

TENTH = """
ALTER TABLE folder ADD COLUMN told_role TEXT NOT NULL DEFAULT '';   -- what a person said it is for
"""

ELEVENTH = """
CREATE INDEX item_show ON item (json_extract(fields, '$.show'), json_extract(fields, '$.show_year'))
    WHERE kind = 'episode';
ALTER TABLE root ADD COLUMN scanned TEXT NOT NULL DEFAULT '';   -- when it was walked as a whole last: ISO 8601, UTC
ALTER TABLE root ADD COLUMN files_seen INTEGER NOT NULL DEFAULT 0;  -- what there was then
ALTER TABLE root ADD COLUMN bytes_seen INTEGER NOT NULL DEFAULT 0;
UPDATE told SET facts = replace(replace(facts, '"video_codec"', '"picture_codec"'), '"audio_codec"', '"sound_codec"')
    WHERE facts LIKE '%_codec"%';
UPDATE item SET facts = replace(replace(facts, '"video_codec"', '"picture_codec"'), '"audio_codec"', '"sound_codec"')
    WHERE facts LIKE '%_codec"%';
UPDATE field SET name = 'picture_codec' WHERE name = 'video_codec';
UPDATE field SET name = 'sound_codec' WHERE name = 'audio_codec';
UPDATE kept_columns SET columns = replace(columns, 'video_codec', 'picture_codec');
UPDATE kept_columns SET columns = replace(columns, 'audio_codec', 'sound_codec');
ALTER TABLE plan ADD COLUMN since INTEGER;   -- the newest change when it was made
ALTER TABLE title ADD COLUMN languages TEXT NOT NULL DEFAULT '{}';  -- JSON: titles by language
"""

TWELFTH = """
ALTER TABLE placement RENAME TO placed;
CREATE TABLE placement (                -- what a change has placed: a file, or the folder of one thing
    path TEXT NOT NULL,                 -- written form
    change INTEGER NOT NULL,
    rule TEXT NOT NULL,                 -- stands for the shelf and the naming; "": it is placed no more
    kind TEXT NOT NULL,
    thing TEXT NOT NULL,                -- JSON: its values for the naming; null: a file for itself
    answer TEXT NOT NULL,               -- JSON: how a person had settled it
    PRIMARY KEY (path, change)
) WITHOUT ROWID;
INSERT INTO placement SELECT path, change, rule, kind, thing, answer FROM placed;
DROP TABLE placed;
"""

FOURTEENTH = """
CREATE TABLE let_be (                   -- findings that a person leaves as they are, there and below
    path TEXT PRIMARY KEY,              -- written form, on the own root
    rules TEXT NOT NULL                 -- JSON: names of rules of check
) WITHOUT ROWID;
"""

FIFTEENTH = """
CREATE TABLE sent (                     -- files on targets that magpie put there
    target TEXT NOT NULL,
    path TEXT NOT NULL,                 -- there, in the written form
    size INTEGER NOT NULL,
    mtime INTEGER NOT NULL,
    source TEXT NOT NULL,               -- where it came from
    PRIMARY KEY (target, path)
) WITHOUT ROWID;
"""

SIXTEENTH = """
CREATE TABLE reading (                  -- what files held when they were read whole last
    place TEXT NOT NULL,                -- "": the collection's own root, else a mirror
    path TEXT NOT NULL,                 -- written form
    size INTEGER NOT NULL,
    mtime INTEGER NOT NULL,
    digest BLOB NOT NULL,               -- BLAKE3
    at INTEGER NOT NULL,                -- when it was read: seconds
    PRIMARY KEY (place, path)
) WITHOUT ROWID;
"""

UPGRADES: Mapping[int, str] = {
    1: SECOND, 2: THIRD, 3: FOURTH, 4: FIFTH, 5: SIXTH, 6: SEVENTH, 7: EIGHTH, 8: NINTH, 9: TENTH, 10: ELEVENTH,
    11: TWELFTH, 12: LIST_TABLES, 13: FOURTEENTH, 14: FIFTEENTH, 15: SIXTEENTH,
    16: "ALTER TABLE file ADD COLUMN alone TEXT NOT NULL DEFAULT '';",  # what a companion was taken for, JSON
}  # fmt: skip
"""For each older version the SQL that takes it one version up."""
