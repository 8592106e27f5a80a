"""Faults, each put into a clean track. Invented."""

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from bench.tracks import GENRES, RATE, TONICS, Track, clean, highpassed, kick, line
from bench.tracks import hz_of as _hz
from juglant.core.recipes.duck import DuckRecipe
from juglant.core.recipes.hit import Hit, Imported, Layer
from juglant.core.recipes.notes import HitStep
from juglant.core.recipes.parts import ImportedBass, Stem, Voice
from tests.tracks import changed

Array = NDArray[np.float64]

# A fault: its name, how a finding's id must begin, and what makes it of a clean track.
Fault = tuple[str, tuple[str, ...], Callable[[Track], None]]


def _swap_kick(track: Track, change: Callable[[Array], Array]) -> None:
    source = track.state.kick.layers[0].source
    assert isinstance(source, Imported)
    new = source.model_copy(update={"audio": track.keep(change(track.files[source.audio]))})
    track.state = track.state.with_kick(track.state.kick.with_source(0, new))


def _swap_bass(track: Track, change: Callable[[Array], Array]) -> None:
    bass = track.state.bass
    assert isinstance(bass, ImportedBass)
    new = bass.model_copy(update={"audio": track.keep(change(track.files[bass.audio]))})
    track.state = changed(track.state, bass=new)


def _hum(x: Array, db: float, hz: float = 50.0) -> Array:
    y = np.concatenate([x, np.zeros(round(0.5 * RATE))])
    t = np.arange(y.size) / RATE
    hum = (
        np.sin(2 * np.pi * hz * t) + 0.4 * np.sin(4 * np.pi * hz * t + 1) + 0.3 * np.sin(6 * np.pi * hz * t)
    )
    return np.asarray(y + np.max(np.abs(x)) * 10 ** (db / 20) * hum)


def _resampled(x: Array, semitones: float) -> Array:
    count = round(x.size / 2 ** (semitones / 12))
    return np.asarray(np.interp(np.linspace(0, x.size - 1, count), np.arange(x.size), x))


def _brief(track: Track, **changes: object) -> None:
    brief = track.state.brief.model_copy(update=changes)
    track.state = track.state.model_copy(update={"brief": brief})


def _long_bass(track: Track, kind: str = "sub") -> Array:
    """A bass that sounds throughout, in the kick's own octave."""
    brief = track.state.brief
    root = 24 + TONICS.index(brief.tonic) + (12 if TONICS.index(brief.tonic) < 5 else 0)
    notes = [(4.0 * bar, 3.95, root) for bar in range(brief.bars)]
    return line(notes, brief.bpm, brief.bars, kind, 0.45)


def _second_line(track: Track, x: Array) -> None:
    voice = Voice(name="second", bass=ImportedBass(audio=track.keep(x), name="second.wav"))
    track.state = changed(track.state, lines=(voice,))


def _stem(track: Track, x: Array) -> None:
    track.state = changed(track.state, stems=(Stem(name="Loop", audio=track.keep(x)),))


def _bass_file(track: Track) -> Array:
    assert isinstance(track.state.bass, ImportedBass)
    return track.files[track.state.bass.audio]


def _ducks(track: Track, **dials: object) -> None:
    duck = DuckRecipe.model_validate(dials)
    track.state = track.state.with_duck(on=True, duck=duck)


def _time(x: Array) -> Array:
    return np.asarray(np.arange(x.size) / RATE)


def _tuned(track: Track, cents: float, ms: float) -> Array:
    """A kick with a clear note, some cents from the tonic."""
    return 0.6 * kick(_hz(36 + TONICS.index(track.state.brief.tonic) + cents / 100), ms)


def _silent(x: Array, ms: float, noise: float = 0.0) -> Array:
    rng = np.random.default_rng(1)
    return np.concatenate([noise * rng.standard_normal(round(ms / 1000 * RATE)), x])


def _full_kick(track: Track) -> None:
    _swap_kick(track, lambda _: 0.7 * kick(49.0, 800))
    _swap_bass(track, lambda _: _long_bass(track))
    _brief(track, sub_owner="bass")


def _under_kick(track: Track) -> None:
    _swap_bass(track, lambda _: _long_bass(track))
    _brief(track, sub_owner="kick")


def _nobody(track: Track) -> None:
    _swap_kick(track, lambda x: highpassed(x, 130, 12))
    _swap_bass(track, lambda x: highpassed(x, 130, 12))
    _brief(track, sub_owner="kick")


def _gone_owner(track: Track) -> None:
    _swap_kick(track, lambda x: highpassed(x, 80, 8))
    _swap_bass(track, lambda _: highpassed(_long_bass(track, "saw"), 160, 12))
    _brief(track, sub_owner="bass")


def _ducked_owner(track: Track) -> None:
    _swap_kick(track, lambda _: highpassed(kick(70, 110), 80, 8))
    _swap_bass(track, lambda _: _long_bass(track))
    _brief(track, sub_owner="bass")
    _ducks(track, depth_db=12, hold_ms=60, release_ms=120, band="all")


def _too_loud(track: Track) -> None:
    _swap_kick(track, lambda x: 2.2 * x)
    _swap_bass(track, lambda x: 2.2 * x)


def _ringing(x: Array, hz: float, seconds: float, gain: float) -> Array:
    t = _time(x)
    y = x + gain * np.sin(2 * np.pi * hz * t) * np.exp(-t / seconds)
    return np.asarray(0.6 * y / np.max(np.abs(y)))


def _rumbling(x: Array) -> Array:
    ease = np.minimum(1.0, np.arange(x.size)[::-1] / (0.05 * RATE))
    return np.asarray(x + 0.12 * np.sin(2 * np.pi * 22 * _time(x)) * ease)


def _swap_hit(track: Track, index: int, change: Callable[[Array], Array]) -> None:
    hit = track.state.all_hits[index]
    source = hit.layers[0].source
    assert isinstance(source, Imported)
    new = source.model_copy(update={"audio": track.keep(change(track.files[source.audio]))})
    track.state = track.state.with_part(hit.with_source(0, new))


def _hit_file(track: Track, index: int) -> Array:
    source = track.state.all_hits[index].layers[0].source
    assert isinstance(source, Imported)
    return track.files[source.audio]


def _second_layer(track: Track, x: Array, gain_db: float = 0.0) -> None:
    one = track.state.kick.layers[0].model_copy(update={"job": "body"})
    source = Imported(audio=track.keep(x), name="other.wav")
    other = Layer(name="other", job="body", source=source, gain_db=gain_db)
    hit = track.state.kick.model_copy(update={"layers": (one, other)})
    track.state = track.state.with_kick(hit)


def _twins(track: Track) -> None:
    _swap_kick(track, lambda _: 0.5 * kick(52.0, 360))
    _second_layer(track, 0.4 * kick(54.0, 300, sweep=3.0))


def _tom(track: Track, cents: float) -> None:
    midi = 48 + TONICS.index(track.state.brief.tonic)
    t = np.arange(round(0.5 * RATE)) / RATE
    x = 0.3 * np.sin(2 * np.pi * _hz(midi + cents / 100) * t) * np.exp(-t / 0.12) * np.minimum(1, t / 0.002)
    source = Imported(audio=track.keep(x), name="tom.wav")
    tom = Hit(name="Tom", kind="tom", layers=(Layer(source=source),), steps=(HitStep(at=3.75),))
    track.state = changed(track.state, hits=(*track.state.hits, tom))


def _loop_with_clap(track: Track, late_ms: float) -> None:
    """A stem with the track's own clap or snare in it, over hats of its own."""
    brief, index = track.state.brief, 2
    beat = 60 / brief.bpm * RATE
    x = np.zeros(round(4 * brief.bars * beat))
    rng = np.random.default_rng(3)
    for bar in range(brief.bars):
        for step in track.state.hits[index - 1].steps:
            y = _hit_file(track, index)
            start = round((4 * bar + step.at) * beat + late_ms / 1000 * RATE)
            x[start : start + y.size] += y[: x.size - start]
    for n in range(8 * brief.bars):
        hiss = 0.05 * np.diff(rng.standard_normal(2400)) * np.exp(-np.arange(2399) / 400)
        start = round(n * beat / 2)
        x[start : start + 2399] += hiss[: x.size - start]
    _stem(track, 0.8 * x)


def _grating(track: Track) -> None:
    """A long kick on the tonic over a second bar a semitone off."""
    _swap_kick(track, lambda _: _tuned(track, 0, 900))
    tonic = track.state.brief.tonic
    _brief(track, chord_roots=("tonic", TONICS[(TONICS.index(tonic) + 1) % 12]), sub_owner="kick")


def _two_sides(x: Array, right: float, late_ms: float = 0.0) -> Array:
    pad = np.concatenate([x, np.zeros(round(0.03 * RATE))])
    return np.stack([pad, right * np.roll(pad, round(late_ms / 1000 * RATE))], axis=1)


def _against(track: Track) -> None:
    """A bass in the kick's octave and of the opposite polarity wherever it sounds."""
    x = 0.6 * kick(50.0, 600)
    _swap_kick(track, lambda _: x)
    _brief(track, sub_owner="kick")
    beat = 60 / track.state.brief.bpm * RATE
    y = np.zeros(_bass_file(track).shape[0])
    for n in (step.at for step in track.state.kick.steps):
        for bar in range(track.state.brief.bars):
            index = (round((4 * bar + n) * beat) + np.arange(x.size)) % y.size
            y[index] -= 0.9 * x
    _swap_bass(track, lambda _: y)


FAULTS: tuple[Fault, ...] = (
    ("silence in front of the kick", ("leading-silence",),
     lambda t: _swap_kick(t, lambda x: _silent(x, 14))),
    ("silence in front, with noise", ("leading-silence",),
     lambda t: _swap_kick(t, lambda x: _silent(x, 9, 1e-4))),
    ("silence in front of the bass", ("leading-silence",),
     lambda t: _swap_bass(t, lambda x: _silent(_long_bass(t), 20)[: x.size])),
    ("a clipped kick", ("flat-top",), lambda t: _swap_kick(t, lambda x: np.clip(2.5 * x, -0.6, 0.6))),
    ("a clipped bass", ("flat-top",), lambda t: _swap_bass(t, lambda x: np.clip(2.0 * x, -0.35, 0.35))),
    ("an offset", ("dc-offset",),
     lambda t: _swap_kick(t, lambda x: np.concatenate([x, np.zeros(RATE // 5)]) + 0.02)),
    ("50 Hz hum", ("hum",), lambda t: _swap_kick(t, lambda x: _hum(x, -40))),
    ("60 Hz hum", ("hum",), lambda t: _swap_kick(t, lambda x: _hum(x, -46, 60.0))),
    ("two strokes in the file", ("several-strokes",),
     lambda t: _swap_kick(t, lambda x: np.concatenate([x, np.zeros(round(0.1 * RATE)), 0.8 * x]))),
    ("a texture as a kick", ("continuous",),
     lambda t: _swap_kick(t, lambda _: 0.1 * np.random.default_rng(2).standard_normal(2 * RATE))),
    ("kick 40 cents sharp", ("off-key",), lambda t: _swap_kick(t, lambda _: _tuned(t, 40, 380))),
    ("kick 30 cents flat", ("off-key",), lambda t: _swap_kick(t, lambda _: _tuned(t, -30, 380))),
    ("bass under the whole kick", ("collision", "sub-"), _under_kick),
    ("a full kick over an 808 that owns the sub", ("sub-shared", "collision"), _full_kick),
    ("nobody in the sub", ("sub-nobody",), _nobody),
    ("the owner high-passed away", ("sub-nobody",), _gone_owner),
    ("the owner ducked as a whole", ("sub-loss",), _ducked_owner),
    ("a ducking that clicks", ("duck-clicks",),
     lambda t: _ducks(t, depth_db=36, attack_ms=0.5, hold_ms=20, release_ms=100)),
    ("a ducking that never returns", ("duck-never-returns",),
     lambda t: _ducks(t, depth_db=12, hold_ms=700, release_ms=1200)),
    ("a mix over full scale", ("mix-peak", "kick-peak"), _too_loud),
    ("rumble below 28 Hz", ("rumble",), lambda t: _swap_kick(t, _rumbling)),
    ("a boxy kick", ("kick-boxy",),
     lambda t: _swap_kick(t, lambda _: _ringing(_tuned(t, -1200, 400), 380, 0.06, 0.5))),
    ("a boomy kick", ("kick-boomy",),
     lambda t: _swap_kick(t, lambda _: _ringing(_tuned(t, -1200, 400), 190, 0.1, 0.8))),
    ("a kick longer than its gap", ("too-long", "tail-spill"),
     lambda t: _swap_kick(t, lambda _: _tuned(t, 0, 2600))),
    ("bass at another tempo", ("tempo",), lambda t: _swap_bass(t, lambda x: _resampled(x, -1.1))),
    ("bass of four bars in a loop of two", ("cut-short",),
     lambda t: _swap_bass(t, lambda x: np.concatenate([x, x]))),
    ("two lines that cancel", ("lines-cancel",),
     lambda t: _second_line(t, -0.9 * np.roll(_bass_file(t), round(0.0006 * RATE)))),
    ("a stem at another tempo", ("tempo",), lambda t: _stem(t, _resampled(_bass_file(t), 1.4))),
    ("a clipped stem", ("flat-top",), lambda t: _stem(t, np.clip(3 * _bass_file(t), -0.3, 0.3))),
    ("a loop that carries the same clap", ("doubled",), lambda t: _loop_with_clap(t, 0.0)),
    ("a loop with the same clap, late", ("doubled",), lambda t: _loop_with_clap(t, 6.0)),
    ("a long kick that never arrives", ("late-sweep",),
     lambda t: _swap_kick(t, lambda _: kick(46.0, 1200, sweep=3.0, sweep_ms=260))),
    ("a long kick out of the chord", ("kick-out-of-chord",), _grating),
    ("silence in front of the snare", ("leading-silence",),
     lambda t: _swap_hit(t, 2, lambda x: _silent(x, 11))),
    ("a clipped snare", ("flat-top",), lambda t: _swap_hit(t, 2, lambda x: np.clip(3 * x, -0.5, 0.5))),
    ("two strokes in the snare's file", ("several-strokes",),
     lambda t: _swap_hit(t, 2, lambda x: np.concatenate([x, np.zeros(round(0.2 * RATE)), 0.9 * x]))),
    ("a tom 45 cents sharp", ("off-key",), lambda t: _tom(t, 45.0)),
    ("a kick that is wide below 150 Hz", ("wide-low-end",),
     lambda t: _swap_kick(t, lambda _: _two_sides(_tuned(t, -1200, 350), -0.5))),
    ("a clap with one side late", ("delayed-width",),
     lambda t: _swap_hit(t, 2, lambda x: _two_sides(x, 1.0, 12.0))),
    ("a layer that nobody hears", ("idle-layer",), lambda t: _second_layer(t, _hit_file(t, 0), -40.0)),
    ("two layers that do one job", ("same-job",), _twins),
    ("a bass against the kick", ("cancels", "collision", "sub-"), _against),
    ("a stem of four bars in a loop of two", ("cut-short",),
     lambda t: _stem(t, 0.4 * np.concatenate([_bass_file(t), _bass_file(t)]))),
    ("silence in front of a stem", ("leading-silence",),
     lambda t: _stem(t, _silent(0.5 * _long_bass(t, "saw"), 25)[: _bass_file(t).shape[0]])),
    ("a bass whose low end cancels in mono", ("mono",),
     lambda t: _swap_bass(t, lambda _: np.stack([_long_bass(t), -0.6 * _long_bass(t)], axis=1))),
)  # fmt: skip


def faulty(fault: Fault, seed: int) -> Track:
    """A clean track with one fault."""
    genre = GENRES[seed % len(GENRES)]
    track = clean(genre, 4 * (seed // 4) + (seed % 4) * 3 % 4)
    track.name = f"{fault[0]}, in {track.name}"
    fault[2](track)
    return track
