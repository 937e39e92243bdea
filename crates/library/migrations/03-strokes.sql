-- Strokes of brushes are kept once; a step of the history names them by number.
CREATE TABLE strokes (
    id   INTEGER PRIMARY KEY,
    hash BLOB NOT NULL UNIQUE, -- of the data
    data TEXT NOT NULL
) STRICT;

-- Originals on disk that may belong to no frame: on their way in, or out. What is still named here at a start was
-- interrupted, and is taken away.
CREATE TABLE loose (
    hash TEXT PRIMARY KEY
) STRICT, WITHOUT ROWID;

-- Numbers of rolls and frames are never given again: an address once known must not show another picture.
CREATE TABLE new_rolls (
    id      INTEGER PRIMARY KEY AUTOINCREMENT,
    name    TEXT NOT NULL,
    created INTEGER NOT NULL
) STRICT;
INSERT INTO new_rolls SELECT id, name, created FROM rolls;
DROP TABLE rolls;
ALTER TABLE new_rolls RENAME TO rolls;

CREATE TABLE new_frames (
    id       INTEGER PRIMARY KEY AUTOINCREMENT,
    roll     INTEGER NOT NULL REFERENCES rolls (id) ON DELETE CASCADE,
    position INTEGER NOT NULL,
    name     TEXT NOT NULL,
    content  TEXT NOT NULL REFERENCES contents (hash),
    revision INTEGER NOT NULL DEFAULT 0,
    cursor   INTEGER NOT NULL DEFAULT 0,
    exported INTEGER
) STRICT;
INSERT INTO new_frames SELECT id, roll, position, name, content, revision, cursor, exported FROM frames;
DROP TABLE frames;
ALTER TABLE new_frames RENAME TO frames;
CREATE INDEX frames_by_roll ON frames (roll, position);

-- The masks of a step, their strokes by number; empty where there are none.
ALTER TABLE history ADD COLUMN masks TEXT NOT NULL DEFAULT '';
