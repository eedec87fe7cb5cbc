-- Photos of the real piece, beside what was measured on it: each person's own, as their attempts are.
CREATE TABLE attempt_photo (
    person  TEXT NOT NULL,
    attempt TEXT NOT NULL,
    id      TEXT NOT NULL,
    about   TEXT NOT NULL,
    at      REAL NOT NULL,
    wide    INTEGER NOT NULL,
    high    INTEGER NOT NULL,
    body    BLOB NOT NULL,
    PRIMARY KEY (person, attempt, id)
) STRICT;
