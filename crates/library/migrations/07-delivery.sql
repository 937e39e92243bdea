-- The queue of exports: what was ordered, with the development that it was ordered with, and what became of it.
CREATE TABLE exports (
    id          INTEGER PRIMARY KEY AUTOINCREMENT,
    place       REAL NOT NULL,    -- order in the queue; an export can be put between two others
    frame       INTEGER NOT NULL, -- may be gone by now
    batch       INTEGER NOT NULL, -- those that were ordered together share the number of the first
    output      TEXT NOT NULL,    -- format, size and what is attached, as JSON
    folder      TEXT NOT NULL,    -- empty for the data folder's own
    name        TEXT NOT NULL,    -- as it was asked for, without ending
    file        TEXT NOT NULL,    -- the file's name, promised to nobody else
    development TEXT NOT NULL,
    masks       TEXT NOT NULL,
    state       TEXT NOT NULL DEFAULT 'waiting', -- waiting, running, done, failed, cancelled
    hash        TEXT NOT NULL DEFAULT '', -- of the finished file, written before the file has its name
    bytes       INTEGER NOT NULL DEFAULT 0,
    why         TEXT NOT NULL DEFAULT '', -- of a failure, in words
    ended       INTEGER           -- when: seconds since 1970
) STRICT;
CREATE INDEX exports_by_state ON exports (state, place);
CREATE INDEX exports_by_file ON exports (folder, file);
CREATE INDEX exports_by_batch ON exports (batch);

-- Lab orders of the user's own, by their names.
CREATE TABLE orders (
    name TEXT PRIMARY KEY,
    data TEXT NOT NULL
) STRICT;
