-- Folders that are watched are looked through by themselves whenever something in them changes.
ALTER TABLE folder ADD COLUMN watched INTEGER NOT NULL DEFAULT 0;
