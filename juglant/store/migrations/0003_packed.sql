-- Working states are packed: hundreds of undo steps of a large track weigh little.
CREATE TABLE packed (
    id INTEGER PRIMARY KEY AUTOINCREMENT,
    track_id INTEGER NOT NULL REFERENCES track (id) ON DELETE CASCADE,
    parent INTEGER REFERENCES state (id) ON DELETE SET NULL,
    body BLOB NOT NULL,
    made_at TEXT NOT NULL DEFAULT (strftime('%Y-%m-%dT%H:%M:%fZ', 'now'))
) STRICT;
INSERT INTO packed SELECT id, track_id, parent, pack(body), made_at FROM state;
DROP TABLE state;
ALTER TABLE packed RENAME TO state;
CREATE INDEX state_of_track ON state (track_id, id);
CREATE INDEX state_children ON state (parent);

-- By which engine a version was made, and what sounded then: levels in dB, as JSON. Unknown of earlier ones.
ALTER TABLE version ADD COLUMN engine INTEGER;
ALTER TABLE version ADD COLUMN sounded TEXT;
