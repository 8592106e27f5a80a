"""How large files may be that are brought in, in bytes."""

MOST_SOUND_BYTES = 50 << 20
MOST_PARCEL_BYTES = 512 << 20
MOST_RECORD_BYTES = 1 << 30
