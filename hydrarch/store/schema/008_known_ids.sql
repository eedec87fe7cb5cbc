-- Every id a job ever knew, by its plans or its events, and whether it is in the newest plan: a new thing may have none of them.
CREATE TABLE known_id (
    job  TEXT NOT NULL REFERENCES job (id) ON DELETE CASCADE,
    id   TEXT NOT NULL,
    here INTEGER NOT NULL CHECK (here IN (0, 1)),
    PRIMARY KEY (job, id)
) STRICT, WITHOUT ROWID;

-- What was called otherwise when an id that had been used twice was parted, as it stood before.
CREATE TABLE before_parting (
    what  TEXT NOT NULL CHECK (what IN ('event', 'revision')),
    job   TEXT NOT NULL,
    place INTEGER NOT NULL,
    body  TEXT NOT NULL CHECK (json_valid(body)),
    PRIMARY KEY (what, job, place)
) STRICT;

DROP TRIGGER event_is_never_edited;
