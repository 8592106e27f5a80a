-- Tracks, their working states, kept versions, and imported audio.
CREATE TABLE audio (
    hash TEXT PRIMARY KEY,
    name TEXT NOT NULL,
    kind TEXT NOT NULL,
    rate INTEGER NOT NULL,
    frames INTEGER NOT NULL,
    channels INTEGER NOT NULL,
    bytes BLOB NOT NULL,
    made_at TEXT NOT NULL DEFAULT (strftime('%Y-%m-%dT%H:%M:%fZ', 'now'))
) STRICT;

CREATE TABLE track (
    id INTEGER PRIMARY KEY,
    name TEXT NOT NULL,
    -- The working state: the latest saved, or an earlier one after undo.
    head INTEGER REFERENCES state (id) DEFERRABLE INITIALLY DEFERRED,
    made_at TEXT NOT NULL DEFAULT (strftime('%Y-%m-%dT%H:%M:%fZ', 'now'))
) STRICT;

-- Every saved working state; the parent is what undo goes back to.
CREATE TABLE state (
    id INTEGER PRIMARY KEY AUTOINCREMENT,
    track_id INTEGER NOT NULL REFERENCES track (id) ON DELETE CASCADE,
    parent INTEGER REFERENCES state (id) ON DELETE SET NULL,
    body TEXT NOT NULL,
    made_at TEXT NOT NULL DEFAULT (strftime('%Y-%m-%dT%H:%M:%fZ', 'now'))
) STRICT;
CREATE INDEX state_of_track ON state (track_id, id);
CREATE INDEX state_children ON state (parent);

-- Kept versions are never changed.
CREATE TABLE version (
    id INTEGER PRIMARY KEY AUTOINCREMENT,
    track_id INTEGER NOT NULL REFERENCES track (id) ON DELETE CASCADE,
    body TEXT NOT NULL,
    numbers TEXT NOT NULL,
    note TEXT NOT NULL,
    made_at TEXT NOT NULL DEFAULT (strftime('%Y-%m-%dT%H:%M:%fZ', 'now'))
) STRICT;
CREATE INDEX version_of_track ON version (track_id, id);
CREATE TRIGGER version_is_final BEFORE UPDATE ON version
BEGIN
    SELECT RAISE(ABORT, 'a kept version is never changed');
END;
