"""The SQL of the tables of reference lists, which the thirteenth version of the catalogue brought."""

LIST_TABLES = """
CREATE TABLE reference (                -- reference lists, as they were read
    id INTEGER PRIMARY KEY,
    section TEXT NOT NULL,              -- its name in magpie.toml
    path TEXT NOT NULL,                 -- where the list lies
    size INTEGER NOT NULL,              -- the list's own, as it was when it was read
    mtime INTEGER NOT NULL,
    name TEXT NOT NULL,
    about TEXT NOT NULL,
    version TEXT NOT NULL,
    date TEXT NOT NULL,
    sets INTEGER NOT NULL,
    files INTEGER NOT NULL,
    bytes INTEGER NOT NULL,
    digests TEXT NOT NULL               -- which ones it has besides the CRC-32, parted by blanks
);
CREATE TABLE listed_set (
    id INTEGER PRIMARY KEY,
    list INTEGER NOT NULL,
    name TEXT NOT NULL,
    about TEXT NOT NULL,
    parent TEXT NOT NULL,               -- the set that it is a clone of
    family INTEGER NOT NULL,            -- the set that all of its clones lead to, itself if none
    line INTEGER NOT NULL,              -- of the list
    in_folder INTEGER NOT NULL,         -- loose files of it lie in a folder of its own
    spelling TEXT NOT NULL              -- its name without case, for names that are one on some disks
);
CREATE INDEX listed_set_of ON listed_set (list, family);
CREATE INDEX listed_set_spelling ON listed_set (spelling);
CREATE TABLE listed_file (
    id INTEGER PRIMARY KEY,
    owner INTEGER NOT NULL,             -- its set
    name TEXT NOT NULL,
    size INTEGER NOT NULL,              -- bytes; -1 where the list says none
    key,                                -- a CRC-32 as a number, else a digest; null for neither
    md5 BLOB NOT NULL,                  -- empty where the list says none
    sha1 BLOB NOT NULL,
    sha256 BLOB NOT NULL,
    status TEXT NOT NULL                -- bad, missing
);
CREATE INDEX listed_file_of ON listed_file (owner);
CREATE INDEX listed_file_key ON listed_file (key, size);
CREATE TABLE sums (                     -- checksums of contents, as reference lists have them
    file INTEGER NOT NULL,
    member TEXT NOT NULL,               -- of an archive, written form; "" for the file itself
    skipped INTEGER NOT NULL,           -- bytes of a header in front that do not count
    size INTEGER NOT NULL,              -- the file's, as it was when it was read
    mtime INTEGER NOT NULL,
    bytes INTEGER NOT NULL,             -- of the content
    crc INTEGER NOT NULL,
    md5 BLOB NOT NULL,                  -- empty where it was not asked for
    sha1 BLOB NOT NULL,
    sha256 BLOB NOT NULL,
    PRIMARY KEY (file, member, skipped)
) WITHOUT ROWID;
CREATE TABLE mark (                     -- what lists and preferences say of items
    item INTEGER PRIMARY KEY,
    listed TEXT NOT NULL,               -- its state by the lists, "" where none has it
    complete INTEGER NOT NULL,
    preferred INTEGER NOT NULL,
    why TEXT NOT NULL                   -- it is preferred or not
);
CREATE TABLE matched (                  -- how lists were found to stand, while nothing has changed
    list INTEGER PRIMARY KEY,
    basis TEXT NOT NULL,                -- stands for the catalogue, the lists and magpie.toml as they were
    counts TEXT NOT NULL                -- JSON
);
"""
