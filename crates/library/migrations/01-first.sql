-- Rolls of frames; a frame is an original (addressed by its content) and a development with its whole history.
CREATE TABLE rolls (
    id      INTEGER PRIMARY KEY,
    name    TEXT NOT NULL,
    created INTEGER NOT NULL -- seconds since 1970
) STRICT;

-- Originals on disk, by content hash. A row is written after its file is complete.
CREATE TABLE contents (
    hash   TEXT PRIMARY KEY,
    format TEXT NOT NULL,
    bytes  INTEGER NOT NULL,
    width  INTEGER NOT NULL, -- oriented
    height INTEGER NOT NULL
) STRICT;

CREATE TABLE frames (
    id       INTEGER PRIMARY KEY,
    roll     INTEGER NOT NULL REFERENCES rolls (id) ON DELETE CASCADE,
    position INTEGER NOT NULL,
    name     TEXT NOT NULL,
    content  TEXT NOT NULL REFERENCES contents (hash),
    revision INTEGER NOT NULL DEFAULT 0, -- grows with every change; a second window is caught by it
    cursor   INTEGER NOT NULL DEFAULT 0, -- the step of the history that is in force
    exported INTEGER                     -- when last exported
) STRICT;
CREATE INDEX frames_by_roll ON frames (roll, position);

-- Every step keeps the whole document: it is small, and undo cannot go wrong.
CREATE TABLE history (
    frame       INTEGER NOT NULL REFERENCES frames (id) ON DELETE CASCADE,
    step        INTEGER NOT NULL,
    label       TEXT NOT NULL, -- what the step did, in words
    development TEXT NOT NULL,
    PRIMARY KEY (frame, step)
) STRICT, WITHOUT ROWID;

-- Copies of the stocks that developments were made with, so that old work never changes silently.
CREATE TABLE stocks (
    hash TEXT PRIMARY KEY,
    id   TEXT NOT NULL,
    data TEXT NOT NULL
) STRICT;

CREATE TABLE facts (
    name  TEXT PRIMARY KEY,
    value TEXT NOT NULL
) STRICT;
