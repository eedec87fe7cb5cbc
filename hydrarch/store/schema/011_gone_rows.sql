-- Rows that were taken out of the crew's parts: a drawing that was begun before names them still.
CREATE TABLE gone_row (
    name    TEXT PRIMARY KEY,
    section TEXT NOT NULL,
    body    TEXT NOT NULL
) STRICT;
