"""One SQLite file holds a whole studio. No SQL outside this folder."""
