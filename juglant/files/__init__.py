"""Open formats in and out: WAV, FLAC, AIFF, CSV, the track sheet, the hand-over ZIP."""
