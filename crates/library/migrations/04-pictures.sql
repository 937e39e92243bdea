-- Pictures of the user's own that are laid on others, in the folder `pictures`, by content hash. A row is written after
-- its file is complete.
CREATE TABLE pictures (
    hash   TEXT PRIMARY KEY,
    name   TEXT NOT NULL,
    bytes  INTEGER NOT NULL,
    width  INTEGER NOT NULL,
    height INTEGER NOT NULL,
    place  INTEGER NOT NULL -- order on the board
) STRICT;
