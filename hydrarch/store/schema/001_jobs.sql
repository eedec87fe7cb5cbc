-- Jobs, their plans as revisions, and what was done as events that are only ever added.
CREATE TABLE job (
    id       TEXT PRIMARY KEY,
    created  REAL NOT NULL,
    revision INTEGER NOT NULL CHECK (revision >= 1)
) STRICT;

CREATE TABLE revision (
    job    TEXT NOT NULL REFERENCES job (id) ON DELETE CASCADE,
    number INTEGER NOT NULL CHECK (number >= 1),
    saved  REAL NOT NULL,
    plan   TEXT NOT NULL CHECK (json_valid(plan)),
    PRIMARY KEY (job, number)
) STRICT;

CREATE TABLE event (
    place INTEGER PRIMARY KEY,
    job   TEXT NOT NULL REFERENCES job (id) ON DELETE CASCADE,
    id    TEXT NOT NULL,
    body  TEXT NOT NULL CHECK (json_valid(body)),
    UNIQUE (job, id)
) STRICT;

CREATE TRIGGER event_is_never_edited BEFORE UPDATE ON event
BEGIN
    SELECT RAISE (ABORT, 'events are only ever added');
END;
