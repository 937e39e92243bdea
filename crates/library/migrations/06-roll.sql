-- Presets of the user's own. One that was deleted can be taken back until the next start.
CREATE TABLE presets (
    id      TEXT PRIMARY KEY,
    place   INTEGER NOT NULL, -- order on the board
    data    TEXT NOT NULL,
    dropped INTEGER NOT NULL DEFAULT 0
) STRICT;

-- What is marked on the contact sheet: keep, maybe, drop, or nothing; and a note in words.
ALTER TABLE frames ADD COLUMN mark TEXT NOT NULL DEFAULT '';
ALTER TABLE frames ADD COLUMN note TEXT NOT NULL DEFAULT '';
-- It was taken off its roll: it waits there to be brought back or deleted.
ALTER TABLE frames ADD COLUMN off INTEGER NOT NULL DEFAULT 0;

-- When the picture was taken, by the camera's clock: seconds since 1970 as if that clock had no zone.
ALTER TABLE contents ADD COLUMN taken INTEGER;

-- Steps that were made together on several frames share a number; 0 for those that were made alone.
CREATE TABLE batches (
    id    INTEGER PRIMARY KEY AUTOINCREMENT,
    label TEXT NOT NULL
) STRICT;
ALTER TABLE history ADD COLUMN batch INTEGER NOT NULL DEFAULT 0;
-- Ids of the presets that were laid up to this step, as JSON, the latest last.
ALTER TABLE history ADD COLUMN presets TEXT NOT NULL DEFAULT '[]';
CREATE INDEX history_by_batch ON history (batch) WHERE batch <> 0;
