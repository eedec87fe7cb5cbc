-- Who is of the crew, and the devices that were let in. Of a session's token only its hash is kept.
CREATE TABLE member (
    name   TEXT PRIMARY KEY,
    letter TEXT NOT NULL,
    colour INTEGER NOT NULL,
    since  REAL NOT NULL
) STRICT;

CREATE TABLE session (
    token  TEXT PRIMARY KEY,
    id     TEXT NOT NULL UNIQUE,
    member TEXT NOT NULL,
    device TEXT NOT NULL,
    opened REAL NOT NULL,
    seen   REAL NOT NULL,
    ends   REAL NOT NULL
) STRICT;
