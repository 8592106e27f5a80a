-- What the user says of a sound of the stock, by its content.
CREATE TABLE mark (
    hash TEXT PRIMARY KEY,
    stars INTEGER NOT NULL DEFAULT 0 CHECK (stars BETWEEN 0 AND 5),
    tags TEXT NOT NULL DEFAULT '',
    note TEXT NOT NULL DEFAULT ''
) WITHOUT ROWID;

-- Finished hits, chains and patterns, whole, for any track.
CREATE TABLE filed (
    id INTEGER PRIMARY KEY,
    what TEXT NOT NULL,
    kind TEXT NOT NULL,
    name TEXT NOT NULL,
    body BLOB NOT NULL,
    made_at TEXT NOT NULL DEFAULT (strftime('%Y-%m-%dT%H:%M:%fZ', 'now'))
);
CREATE INDEX filed_what ON filed (what, kind, name);
