-- After ids were parted events stay as they are again.
CREATE TRIGGER event_is_never_edited BEFORE UPDATE ON event
BEGIN
    SELECT RAISE (ABORT, 'events are only ever added');
END;
