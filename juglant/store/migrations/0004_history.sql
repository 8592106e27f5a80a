-- What each state changed, in words; unknown of earlier ones.
ALTER TABLE state ADD COLUMN what TEXT;

-- What was deleted stays for a while, to be brought back.
ALTER TABLE track ADD COLUMN deleted_at TEXT;
ALTER TABLE version ADD COLUMN deleted_at TEXT;
DROP TRIGGER version_is_final;
CREATE TRIGGER version_is_final
BEFORE UPDATE OF id, track_id, body, numbers, note, made_at, engine, sounded ON version
BEGIN
    SELECT RAISE(ABORT, 'a kept version is never changed');
END;
