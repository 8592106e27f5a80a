"""The stock at work: folders are looked through, and candidates are tried in a track."""
