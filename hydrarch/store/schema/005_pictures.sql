-- Pictures that lie beneath drawings, by the hash of what they hold: a plan names them, and an earlier revision may, too.
CREATE TABLE picture (
    hash  TEXT PRIMARY KEY,
    media TEXT NOT NULL,
    body  BLOB NOT NULL
) STRICT;
