-- Impulse responses of places of the user's own.
CREATE TABLE response (
    id INTEGER PRIMARY KEY,
    name TEXT NOT NULL UNIQUE,
    audio TEXT NOT NULL REFERENCES audio (hash)
) STRICT;

-- What was noted, compared or handed over while a track was worked on, tied to the state it was said of.
CREATE TABLE entry (
    id INTEGER PRIMARY KEY AUTOINCREMENT,
    track_id INTEGER NOT NULL REFERENCES track (id) ON DELETE CASCADE,
    kind TEXT NOT NULL CHECK (kind IN ('note', 'blind', 'hand-over')),
    note TEXT NOT NULL,
    -- The state that was saved last; its words and numbers stay when it is trimmed.
    revision INTEGER,
    made_at TEXT NOT NULL DEFAULT (strftime('%Y-%m-%dT%H:%M:%fZ', 'now'))
) STRICT;
CREATE INDEX entry_of_track ON entry (track_id, id);

-- What the user says of a kept version: a star for what was sent out, and tags.
CREATE TABLE version_mark (
    version_id INTEGER PRIMARY KEY REFERENCES version (id) ON DELETE CASCADE,
    star INTEGER NOT NULL DEFAULT 0 CHECK (star IN (0, 1)),
    tags TEXT NOT NULL DEFAULT ''
) STRICT;

-- How far the ear trainer has come, by skill.
CREATE TABLE ear (
    skill TEXT PRIMARY KEY,
    body TEXT NOT NULL
) STRICT, WITHOUT ROWID;

-- Records a track is held against: a passage to be played, and what was measured of it.
CREATE TABLE reference (
    id INTEGER PRIMARY KEY AUTOINCREMENT,
    track_id INTEGER NOT NULL REFERENCES track (id) ON DELETE CASCADE,
    name TEXT NOT NULL,
    audio TEXT NOT NULL REFERENCES audio (hash),
    numbers TEXT NOT NULL,
    made_at TEXT NOT NULL DEFAULT (strftime('%Y-%m-%dT%H:%M:%fZ', 'now'))
) STRICT;
CREATE INDEX reference_of_track ON reference (track_id, id);

-- A folder of the user's own that hand-overs of a track are written to, and whose files may be watched.
CREATE TABLE outlet (
    track_id INTEGER PRIMARY KEY REFERENCES track (id) ON DELETE CASCADE,
    folder TEXT NOT NULL,
    watching INTEGER NOT NULL DEFAULT 0 CHECK (watching IN (0, 1))
) STRICT;

-- Files of that folder that parts are made from: as they were when they were taken last.
CREATE TABLE watched (
    track_id INTEGER NOT NULL REFERENCES track (id) ON DELETE CASCADE,
    part TEXT NOT NULL,
    file TEXT NOT NULL,
    audio TEXT NOT NULL,
    PRIMARY KEY (track_id, part)
) STRICT, WITHOUT ROWID;
