-- Kept versions of a frame, newest last. One that was dropped can be taken back until the next start.
CREATE TABLE proofs (
    id          INTEGER PRIMARY KEY AUTOINCREMENT,
    frame       INTEGER NOT NULL REFERENCES frames (id) ON DELETE CASCADE,
    name        TEXT NOT NULL,
    development TEXT NOT NULL,
    masks       TEXT NOT NULL, -- as in the history
    dropped     INTEGER NOT NULL DEFAULT 0
) STRICT;
CREATE INDEX proofs_by_frame ON proofs (frame, id);

-- Places of a frame whose readings are pinned: shares of width and height, as JSON.
ALTER TABLE frames ADD COLUMN pins TEXT NOT NULL DEFAULT '[]';
