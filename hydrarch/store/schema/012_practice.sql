-- Exercises a crew made or took in, and what each person did in any exercise: kept apart from jobs, each person's own.
CREATE TABLE exercise (
    id    TEXT PRIMARY KEY,
    added REAL NOT NULL,
    body  TEXT NOT NULL
) STRICT;

CREATE TABLE attempt (
    id       TEXT PRIMARY KEY,
    person   TEXT NOT NULL,
    exercise TEXT NOT NULL,
    begun    REAL NOT NULL,
    changed  REAL NOT NULL,
    ended    REAL,
    share    REAL,
    missed   TEXT NOT NULL,
    before   TEXT NOT NULL,
    body     TEXT NOT NULL
) STRICT;

CREATE INDEX attempt_of ON attempt (person, begun);
