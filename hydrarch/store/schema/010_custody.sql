-- What was done about access and jobs, jobs that were deleted for good and are kept a while, and what the passphrase was.
CREATE TABLE audit (
    place INTEGER PRIMARY KEY,
    at    REAL NOT NULL,
    who   TEXT NOT NULL,
    what  TEXT NOT NULL,
    about TEXT NOT NULL
) STRICT;

CREATE TABLE forgotten (
    id   TEXT PRIMARY KEY,
    job  TEXT NOT NULL,
    name TEXT NOT NULL,
    by   TEXT NOT NULL,
    at   REAL NOT NULL,
    file BLOB NOT NULL
) STRICT;

CREATE TABLE passphrase (
    place INTEGER PRIMARY KEY CHECK (place = 1),
    salt  BLOB NOT NULL,
    hash  BLOB NOT NULL
) STRICT;

ALTER TABLE session ADD COLUMN owner INTEGER NOT NULL DEFAULT 0;
