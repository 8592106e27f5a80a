-- Folders of the user's own; they are only read.
CREATE TABLE folder (
    id INTEGER PRIMARY KEY,
    path TEXT NOT NULL UNIQUE,
    added_at TEXT NOT NULL DEFAULT (strftime('%Y-%m-%dT%H:%M:%fZ', 'now'))
);

-- What was measured of a content, once, by the engine of that version.
CREATE TABLE sound (
    hash TEXT PRIMARY KEY,
    engine INTEGER NOT NULL,
    midi REAL,
    note TEXT,
    cents REAL,
    note_confidence REAL NOT NULL,
    length_ms REAL NOT NULL,
    decay_ms REAL,
    centroid_hz REAL,
    sub_db REAL,
    click_db REAL,
    lufs REAL,
    peak_dbfs REAL NOT NULL,
    bpm REAL,
    song_key TEXT,
    odds TEXT NOT NULL,
    reasons TEXT NOT NULL,
    picture BLOB NOT NULL
) WITHOUT ROWID;

-- What is long, and asked for one by one: what is searched stays small. No id comes twice, so that the
-- greatest tells whether anything was measured since.
CREATE TABLE detail (
    id INTEGER PRIMARY KEY AUTOINCREMENT,
    hash TEXT NOT NULL UNIQUE REFERENCES sound (hash) ON DELETE CASCADE,
    numbers BLOB NOT NULL,
    portrait BLOB NOT NULL
);
CREATE INDEX sound_midi ON sound (midi);
CREATE INDEX sound_length ON sound (length_ms);

-- Where a content lies; one that cannot be read says why. The name is kept as the system gives it, too.
CREATE TABLE place (
    id INTEGER PRIMARY KEY,
    folder INTEGER NOT NULL REFERENCES folder (id) ON DELETE CASCADE,
    raw BLOB NOT NULL,
    path TEXT NOT NULL,
    size INTEGER NOT NULL,
    mtime_ns INTEGER NOT NULL,
    hash TEXT REFERENCES sound (hash),
    kind TEXT,
    confidence REAL,
    trouble TEXT,
    UNIQUE (folder, raw)
);
CREATE INDEX place_hash ON place (hash);
CREATE INDEX place_kind ON place (kind, confidence);

CREATE VIRTUAL TABLE words USING fts5 (text, tokenize = "unicode61 remove_diacritics 2");
CREATE TRIGGER place_read AFTER INSERT ON place BEGIN
    INSERT INTO words (rowid, text) VALUES (new.id, replace(replace(new.path, '_', ' '), '-', ' '));
END;
CREATE TRIGGER place_gone AFTER DELETE ON place BEGIN
    DELETE FROM words WHERE rowid = old.id;
END;
