-- Joints are named after the ends of runs, and an event says what each joint was. The events as they stood are kept beside.
CREATE TABLE event_as_it_was (
    place INTEGER PRIMARY KEY,
    body  TEXT NOT NULL CHECK (json_valid(body))
) STRICT;

INSERT INTO event_as_it_was SELECT place, body FROM event;

DROP TRIGGER event_is_never_edited;
