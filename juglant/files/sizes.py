"""How large files may be that are brought in, in bytes."""

# A minute in stereo at 192 kHz, in 32 bits.
MOST_SOUND_BYTES = 96 << 20
MOST_PARCEL_BYTES = 512 << 20
MOST_RECORD_BYTES = 1 << 30
