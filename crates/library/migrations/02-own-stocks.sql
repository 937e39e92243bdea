-- Stocks of the user's own. What frames were developed with is copied to `stocks`: changing or deleting one of these
-- changes no old work.
CREATE TABLE own_stocks (
    id    TEXT PRIMARY KEY,
    place INTEGER NOT NULL, -- order on the board
    data  TEXT NOT NULL
) STRICT;
