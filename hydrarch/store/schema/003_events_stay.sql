-- After the events were carried over they stay as they are again.
CREATE TRIGGER event_is_never_edited BEFORE UPDATE ON event
BEGIN
    SELECT RAISE (ABORT, 'events are only ever added');
END;

CREATE TABLE book (
    place INTEGER PRIMARY KEY CHECK (place = 1),
    body  TEXT NOT NULL CHECK (json_valid(body))
) STRICT;
