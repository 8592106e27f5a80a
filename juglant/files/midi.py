"""Standard MIDI files 1.0: a track's kicks, hits and line out, notes of a line in."""

import io
import re
from dataclasses import dataclass

import mido
import numpy as np
from mido.midifiles.meta import KeySignatureError
from numpy.typing import NDArray

from juglant.core import music
from juglant.core.errors import UserError
from juglant.core.lowend.line import strokes_of
from juglant.core.lowend.linenotes import NotesOf
from juglant.core.measure.transcribe import NoteFound
from juglant.core.recipes.notes import PULSES
from juglant.core.recipes.track import TrackState
from juglant.core.tempo import beat_ms

Array = NDArray[np.float64]

LARGEST_BYTES = 4 * 1024 * 1024
# More than this is no line of some bars.
MOST_NOTES = 10_000
# Notes that the General MIDI percussion map gives to kinds of drum; a ghost trigger plays the
# key above its range, where nothing usual is mapped.
_DRUM_KEYS = {
    "kick": 36, "808": 35, "snare": 38, "clap": 39, "hat": 42, "tom": 45, "percussion": 62, "texture": 70,
}  # fmt: skip
GHOST_KEY = 24
_DRUM_CHANNEL, _BASS_CHANNEL, _GHOST_CHANNEL = 9, 0, 15
_HIT_PULSES = PULSES // 8
# Of a curve that falls by some dB in a millisecond: a twentieth of one at 120 BPM.
_FINE_PULSES = 9600


@dataclass(frozen=True)
class MidiNote:
    """A note of a file, in beats from its start."""

    at: float
    beats: float
    midi: int
    velocity: float


@dataclass(frozen=True)
class MidiTrack:
    """One track of a file that holds notes."""

    name: str
    drums: bool
    notes: list[MidiNote]


@dataclass(frozen=True)
class MidiLine:
    """What a file holds; `bpm` is None where it names no tempo."""

    bpm: float | None
    key: str | None
    tracks: list[MidiTrack]


def key_signature(key: music.Key) -> str:
    """The signature with the key's notes: a minor key by its name, other modes by their major."""
    if key.mode in ("minor", "harmonic minor", "melodic minor"):
        name = key.tonic + "m"
        odd = {"Dbm": "C#m", "Gbm": "F#m"}
        return odd.get(name, name)
    major = (music.pitch_class(key.tonic) + music.to_relative_major(key.mode)) % 12
    if key.mode == "major" and key.tonic in ("C#", "F#"):
        return key.tonic
    return music.FLAT_NAMES[major]


def _track(name: str, events: list[tuple[int, int, int, int, int]]) -> mido.MidiTrack:
    """One track of notes: start, length, key, velocity and channel, times in pulses."""
    track = mido.MidiTrack([mido.MetaMessage("track_name", name=name)])
    timed = []
    for start, length, key, velocity, channel in events:
        common = {"note": key, "channel": channel}
        timed.append((start, 1, mido.Message("note_on", velocity=velocity, **common)))
        timed.append((start + length, 0, mido.Message("note_off", velocity=0, **common)))
    now = 0
    # Of what falls together an end comes first, or it would end the new note.
    for at, _, message in sorted(timed, key=lambda one: one[:2]):
        track.append(message.copy(time=at - now))
        now = at
    return track


def _read_name(name: str) -> str:
    """A name as it was meant: files do not say how theirs are written, most today in UTF-8."""
    try:
        return name.encode("latin-1").decode("utf-8").strip()
    except UnicodeError:
        return name.strip()


def write_midi(name: str, state: TrackState, lines: NotesOf) -> bytes:
    """Tempo, key and one track for each part of one pass of the loop, swing played out; `lines` are the
    notes of every line that is heard.

    The ghost trigger is the kick's pattern once more, on a channel of its own, for a sidechain
    that goes on when the kick does not.
    """
    length = 4 * beat_ms(state.brief.bpm) * state.brief.bars
    return _written(name, [Stretch("", state, lines, 0.0, length)])


@dataclass(frozen=True)
class Stretch:
    """A section as it is played from one time to another, as often as its loop fits: its name, its state,
    and the notes of its lines.
    """

    name: str
    state: TrackState
    lines: NotesOf
    from_ms: float
    to_ms: float

    def times(self, in_loop_ms: float) -> list[float]:
        """A time in the loop as times of the arrangement."""
        loop = 4 * beat_ms(self.state.brief.bpm) * self.state.brief.bars
        turns = int(np.ceil((self.to_ms - self.from_ms) / loop - 1e-6))
        every = [self.from_ms + n * loop + in_loop_ms for n in range(turns)]
        return [at for at in every if at < self.to_ms - 1e-3]


def write_arrangement(name: str, stretches: list[Stretch]) -> bytes:
    """A whole arrangement as a standard MIDI file; every section begins with a marker of its name."""
    return _written(name, stretches)


def _written(name: str, stretches: list[Stretch]) -> bytes:
    state = stretches[0].state
    brief = state.brief
    beat = beat_ms(brief.bpm)

    def pulses(ms: float) -> int:
        return round(ms / beat * PULSES)

    def of_127(velocity: float) -> int:
        return max(1, round(127 * velocity))

    file = mido.MidiFile(type=1, ticks_per_beat=PULSES, charset="utf-8")
    head = mido.MidiTrack([
        mido.MetaMessage("track_name", name=name),
        mido.MetaMessage("set_tempo", tempo=round(60_000_000 / brief.bpm)),
        mido.MetaMessage("time_signature", numerator=4, denominator=4),
        mido.MetaMessage("key_signature", key=key_signature(brief.key)),
    ])  # fmt: skip
    now = 0
    for stretch in stretches:
        if stretch.name:
            at = pulses(stretch.from_ms)
            head.append(mido.MetaMessage("marker", text=stretch.name, time=at - now))
            now = at
    head.append(mido.MetaMessage("end_of_track", time=pulses(stretches[-1].to_ms) - now))
    file.tracks.append(head)
    for hit in state.all_hits:
        key = _DRUM_KEYS["kick" if hit is state.kick else hit.kind]
        struck = [
            (pulses(at), _HIT_PULSES, key, of_127(one.velocity), _DRUM_CHANNEL)
            for stretch in stretches if not stretch.state.hit(hit.id).mute
            for one in strokes_of(stretch.state.hit(hit.id), stretch.state.brief)
            for at in stretch.times(one.at_ms)
        ]  # fmt: skip
        if struck:
            file.tracks.append(_track(hit.name, struck))
    for line in dict.fromkeys(line for stretch in stretches for line in stretch.lines):
        events = []
        for stretch in stretches:
            for note in stretch.lines.get(line, ()):
                for starts in stretch.times(note.start_ms):
                    at, ends = pulses(starts), pulses(min(starts + note.length_ms, stretch.to_ms))
                    events.append((at, max(1, ends - at), note.midi, of_127(note.velocity), _BASS_CHANNEL))
        if events:
            file.tracks.append(_track(line.capitalize(), events))
    ghost = [
        (pulses(at), _HIT_PULSES, GHOST_KEY, 127, _GHOST_CHANNEL)
        for stretch in stretches for one in strokes_of(stretch.state.kick, stretch.state.brief)
        for at in stretch.times(one.at_ms)
    ]  # fmt: skip
    file.tracks.append(_track("Ghost trigger", ghost))
    out = io.BytesIO()
    file.save(file=out)
    return out.getvalue()


def write_found_notes(name: str, found: list[NoteFound], bpm: float, a4_hz: float = 440.0) -> bytes:
    """Notes that were found in a file as a standard MIDI file; the loudest has full velocity."""
    beat = beat_ms(bpm)
    top = max((note.level_db for note in found), default=0.0)
    events = []
    for note in found:
        velocity = round(127 * 10 ** (max(note.level_db - top, -40.0) / 40))
        key = music.nearest_note(note.hz, a4_hz).midi
        at, length = (round(ms / beat * PULSES) for ms in (note.at_ms, note.length_ms))
        events.append((at, max(length, 1), key, max(velocity, 1), _BASS_CHANNEL))
    file = mido.MidiFile(type=0, ticks_per_beat=PULSES, charset="utf-8")
    track = _track(name, events)
    track.insert(0, mido.MetaMessage("set_tempo", tempo=mido.bpm2tempo(bpm)))
    file.tracks.append(track)
    out = io.BytesIO()
    file.save(file=out)
    return out.getvalue()


def write_controller(name: str, bpm: float, gain_db: Array, rate: int, *, controller: int = 11) -> bytes:
    """A gain as controller data: 127 is 0 dB, and half of it half the amplitude; an event wherever the
    value changes, as exact as the file's pulses are. Controller 11 is expression (MIDI 1.0).
    """
    beat_frames = beat_ms(bpm) / 1000 * rate
    count = int(np.ceil(gain_db.size / beat_frames * _FINE_PULSES))
    at = np.minimum((np.arange(count) * beat_frames / _FINE_PULSES).astype(int), gain_db.size - 1)
    values = np.clip(np.round(127 * 10 ** (gain_db[at] / 20)), 0, 127).astype(int)
    file = mido.MidiFile(type=0, ticks_per_beat=_FINE_PULSES, charset="utf-8")
    track = mido.MidiTrack(
        [
            mido.MetaMessage("track_name", name=name),
            mido.MetaMessage("set_tempo", tempo=round(60_000_000 / bpm)),
        ]
    )
    before, pulse = None, 0
    for n, value in enumerate(values.tolist()):
        if value != before:
            track.append(mido.Message("control_change", control=controller, value=value, time=n - pulse))
            before, pulse = value, n
    file.tracks.append(track)
    out = io.BytesIO()
    file.save(file=out)
    return out.getvalue()


def _notes_of(track: mido.MidiTrack, pulses: int) -> tuple[list[MidiNote], bool]:
    """A track's notes and whether they are drums; what is never ended lasts a sixteenth."""
    open_notes: dict[tuple[int, int], tuple[int, int]] = {}
    found: list[MidiNote] = []
    now, channels = 0, set()

    def close(who: tuple[int, int], end: int) -> None:
        start, velocity = open_notes.pop(who)
        beats = max(end - start, 0) / pulses
        found.append(MidiNote(start / pulses, beats, who[1], velocity / 127))

    for message in track:
        now += message.time
        if message.type not in ("note_on", "note_off"):
            continue
        who = (message.channel, message.note)
        channels.add(message.channel)
        if who in open_notes:
            close(who, now)
        if message.type == "note_on" and message.velocity > 0:
            open_notes[who] = (now, message.velocity)
    for who in list(open_notes):
        close(who, open_notes[who][0] + pulses // 4)
    return sorted(found, key=lambda note: (note.at, note.midi)), channels == {_DRUM_CHANNEL}


# A key signature: so many sharps or flats, major or minor.
_KEY = re.compile(rb"\xff\x59\x02(..)", re.DOTALL)


def _usable_key(found: re.Match[bytes]) -> bytes:
    """A key signature that there is none of becomes another one, and is not told: no note depends on it."""
    sharps, minor = found[1][0], found[1][1]
    sharps -= 256 if sharps > 127 else 0
    return found[0] if -7 <= sharps <= 7 and minor in (0, 1) else found[0][:3] + b"\0\0"


def read_midi(data: bytes, name: str) -> MidiLine:
    """The notes of a file. UserError, with what is wrong, where it is none or too much."""
    if len(data) > LARGEST_BYTES:
        raise UserError(f"{name} is larger than a MIDI file of some bars: 4 MB are taken at most.")
    usable = _KEY.sub(_usable_key, data)
    try:
        file = mido.MidiFile(file=io.BytesIO(usable), clip=True)
    except (OSError, EOFError, ValueError, KeyError, IndexError, KeySignatureError) as error:
        raise UserError(f"{name} is not a standard MIDI file, or it breaks off: {error}.") from error
    if file.ticks_per_beat <= 0 or file.ticks_per_beat >= 0x8000:
        raise UserError(f"{name} counts in film frames, not in beats: that cannot be laid on bars.")
    messages = [message for track in file.tracks for message in track]
    tempo = next((message.tempo for message in messages if message.type == "set_tempo"), None)
    key = next((message.key for message in messages if message.type == "key_signature"), None)
    if usable != data:
        key = None
    tracks = []
    for number, track in enumerate(file.tracks, 1):
        found, drums = _notes_of(track, file.ticks_per_beat)
        if found:
            tracks.append(MidiTrack(_read_name(track.name) or f"track {number}", drums, found))
    total = sum(len(track.notes) for track in tracks)
    if total == 0:
        raise UserError(f"{name} holds no notes.")
    if total > MOST_NOTES:
        raise UserError(
            f"{name} holds {total} notes; {MOST_NOTES} are taken at most. Export the bars alone."
        )
    return MidiLine(mido.tempo2bpm(tempo) if tempo else None, key, tracks)
