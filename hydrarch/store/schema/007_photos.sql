-- Photos of joints, sections, things and marks, sized down, with the place they were taken at only where that was kept on purpose.
CREATE TABLE photo (
    job   TEXT NOT NULL REFERENCES job (id) ON DELETE CASCADE,
    id    TEXT NOT NULL,
    about TEXT NOT NULL,
    by    TEXT NOT NULL,
    at    REAL NOT NULL,
    note  TEXT NOT NULL,
    wide  INTEGER NOT NULL,
    high  INTEGER NOT NULL,
    north REAL,
    east  REAL,
    body  BLOB NOT NULL,
    PRIMARY KEY (job, id)
) STRICT;
