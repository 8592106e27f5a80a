"""From a hit's recipe to its samples: sources, layers, chains, each kept by itself."""

from collections.abc import Callable

import numpy as np
from scipy import fft

from juglant.core import RATE
from juglant.core.errors import UserError
from juglant.core.hits import chain as stages
from juglant.core.hits.chain import Array, each_channel, panned
from juglant.core.hits.making import made, softer
from juglant.core.hits.retune import retuned
from juglant.core.hits.varied import COUNT, varied
from juglant.core.kept import Kept, Named
from juglant.core.measure.envelope import amplitude_envelope
from juglant.core.measure.stereo import mono
from juglant.core.measure.takes import Cut, piece_of
from juglant.core.process import filters
from juglant.core.process.declipping import restored
from juglant.core.process.resampling import change_rate, shift_pitch
from juglant.core.recipes.chain import Stage
from juglant.core.recipes.fields import is_off
from juglant.core.recipes.fileloop import Tops
from juglant.core.recipes.hit import Hit, Imported, Layer, Made, Take, Velocity
from juglant.core.synth import envelopes

LoadAudio = Callable[[str], tuple[Array, int]]

# A stroke of no velocity at all would be this many octaves duller.
_DULLEST_OCTAVES = 7.0
# What changes nothing of a layer's samples: it is not rendered again for it.
_SAME_SOUND = {"name": "layer", "job": "body", "mute": False, "solo": False, "offset_ms": 0.0}


def nothing_imported(digest: str) -> tuple[Array, int]:
    """The audio of a session that has no studio behind it: none.

    Parameters
    ----------
    digest
        Hash of a file.

    Examples
    --------
    >>> try:
    ...     nothing_imported("0" * 64)
    ... except UserError as error:
    ...     error.message
    'There is no imported sound 00000000 here.'
    """
    raise UserError(f"There is no imported sound {digest[:8]} here.")


def take_for(source: Imported, velocity: float, turn: int) -> Imported | Take:
    """Which take of an imported sound a stroke plays: the softest that reaches, in turn.

    Parameters
    ----------
    source
        A file and its takes.
    velocity
        How hard it is struck, above 0 up to 1.
    turn
        Which stroke of those in turn, from 0.

    Returns
    -------
    Imported or Take
        What is played.

    Examples
    --------
    >>> soft = Take(audio="1" * 64, name="soft.wav", up_to=0.5)
    >>> source = Imported(audio="0" * 64, name="loud.wav", takes=(soft,))
    >>> [take_for(source, velocity, 0).name for velocity in (0.4, 0.9)]
    ['soft.wav', 'loud.wav']
    """
    takes: list[Imported | Take] = [source, *source.takes]
    reach = [1.0, *(take.up_to for take in source.takes)]
    enough = min((up_to for up_to in reach if up_to >= velocity), default=1.0)
    fitting = [take for take, up_to in zip(takes, reach, strict=True) if up_to == enough]
    return fitting[turn % len(fitting) if source.alternate == "in turn" else 0]


def varies(hit: Hit) -> bool:
    """Whether a hit's made layers differ a little from stroke to stroke.

    Parameters
    ----------
    hit
        The hit.

    Returns
    -------
    bool
        Whether they do.

    Examples
    --------
    >>> from juglant.core.recipes.hit import MadeKick
    >>> varies(Hit.of(MadeKick(), vary=0.5)), varies(Hit.of(MadeKick()))
    (True, False)
    """
    return hit.vary > 0.0 and any(not isinstance(layer.source, Imported) for layer in hit.layers)


def _alternates(hit: Hit) -> bool:
    """Whether strokes of one velocity differ: where there are takes to take in turn, or made ones vary."""
    return varies(hit) or any(
        isinstance(layer.source, Imported) and layer.source.takes and layer.source.alternate == "in turn"
        for layer in hit.layers
    )


def strokes_of(hit: Hit) -> list[tuple[str, float, int]]:
    """The strokes that a hit has sounds of its own for: name, velocity, turn.

    One for most; a sampled hit has one for every take, its round robins numbered and its softer
    strokes named by the velocity in per cent up to which they play.

    Parameters
    ----------
    hit
        The hit.

    Returns
    -------
    list of tuple
        Name, velocity and turn of each.

    Examples
    --------
    >>> from juglant.core.recipes.hit import MadeKick
    >>> strokes_of(Hit.of(MadeKick()))
    [('', 1.0, 0)]
    """
    found: list[tuple[str, float, int]] = []
    source = next(
        (one.source for one in hit.layers if isinstance(one.source, Imported) and one.source.takes), None
    )
    if source is None:
        return [("", 1.0, 0)]
    reach = [1.0, *(take.up_to for take in source.takes)]
    for up_to in sorted(set(reach), reverse=True):
        for turn in range(reach.count(up_to)):
            found.append((f"_to{100 * up_to:03.0f}_rr{turn + 1}", up_to, turn))
    return found


def delayed_by(x: Array, frames: float) -> Array:
    """`x`, shape (frames,) or (frames, channels), later by a fraction of a frame as well.

    The fraction is a turn of the spectrum's phase: exact for what lies below half the rate.

    Parameters
    ----------
    x
        Samples, shape (frames,) or (frames, channels).
    frames
        By how many; any fraction.

    Returns
    -------
    ndarray
        Later, with the channels of `x`.

    Examples
    --------
    >>> delayed_by(np.array([1.0, 0.5]), 2.0)
    array([0. , 0. , 1. , 0.5])
    """
    whole = int(np.floor(frames + 1e-6))
    part = frames - whole
    if part > 1e-6:
        size = fft.next_fast_len(x.shape[0] + 256, real=True)
        turn = np.exp(-2j * np.pi * np.arange(size // 2 + 1) / size * part)
        x = each_channel(x, lambda c: fft.irfft(fft.rfft(c, size) * turn, size)[: c.size + 1])
    return np.concatenate([np.zeros((whole, *x.shape[1:])), x])


def added(sounds: list[Array]) -> Array:
    """The sum of sounds that all start together; stereo as soon as one of them is.

    Parameters
    ----------
    sounds
        Samples of each, shape (frames,) or (frames, 2).

    Returns
    -------
    ndarray
        As long as the longest.

    Examples
    --------
    >>> added([np.ones(1), np.ones(2)])
    array([2., 1.])
    """
    frames = max(x.shape[0] for x in sounds)
    wide = any(x.ndim == 2 for x in sounds)
    out = np.zeros((frames, 2) if wide else frames)
    for x in sounds:
        out[: x.shape[0]] += x[:, None] if wide and x.ndim == 1 else x
    return out


def placed(x: Array, layer: Layer) -> Array:
    """A layer's sound after its chain: its range, fades, gain, polarity and pan.

    Parameters
    ----------
    x
        Samples, shape (frames,) or (frames, channels).
    layer
        Where it lies.

    Returns
    -------
    ndarray
        Samples, stereo where it is off the middle.

    Examples
    --------
    >>> from juglant.core.recipes.hit import MadeKick
    >>> round(float(placed(np.ones(4), Layer(source=MadeKick(), gain_db=-20.0))[0]), 2)
    0.1
    """
    for kind, hz in (("highpass", layer.highpass_hz), ("lowpass", layer.lowpass_hz)):
        if not is_off(layer, f"{kind}_hz"):
            x = each_channel(x, lambda c, k=kind, f=hz: filters.filtered(c, filters.steep(k, f, 24, RATE)))  # type: ignore[misc]
    if not is_off(layer, "fade_in_ms", "fade_out_ms") or layer.part == "only the tail":
        time = np.arange(x.shape[0]) / RATE
        begins_s = 0.0
        if layer.part == "only the tail":
            # Past the attack: from the highest point of the envelope on.
            begins_s = float(np.argmax(amplitude_envelope(mono(x), RATE))) / RATE
        fade = envelopes.rise(np.maximum(time - begins_s, 0.0), max(layer.fade_in_ms / 1000, 0.001))
        if is_off(layer, "fade_in_ms") and begins_s == 0.0:
            fade = np.ones(x.shape[0])
        fade = fade * envelopes.release(time, x.shape[0] / RATE, layer.fade_out_ms / 1000)
        x = x * (fade if x.ndim == 1 else fade[:, None])
    gain = 10 ** (layer.gain_db / 20) * (-1.0 if layer.polarity == "inverted" else 1.0)
    return panned(x * gain if gain != 1.0 else x, layer.pan)


def audible(hit: Hit) -> list[int]:
    """Indices of the layers that are heard: the soloed ones, or all that are not muted.

    Parameters
    ----------
    hit
        The hit.

    Returns
    -------
    list of int
        Indices.

    Examples
    --------
    >>> from juglant.core.recipes.hit import MadeKick
    >>> layer = Layer(source=MadeKick())
    >>> audible(Hit(layers=(layer, layer.model_copy(update={"mute": True}))))
    [0]
    """
    soloed = [index for index, layer in enumerate(hit.layers) if layer.solo]
    return soloed or [index for index, layer in enumerate(hit.layers) if not layer.mute]


def with_tone(x: Array, hz: float, rate: int) -> Array:
    """`x` over a steady sine that is as loud as it on the whole, to be judged against by ear.

    What is lower than a small loudspeaker plays is judged by its octaves: the sine has some.

    Parameters
    ----------
    x
        Samples, shape (frames,) or (frames, channels).
    hz
        Of the sine.
    rate
        Frames a second.

    Returns
    -------
    ndarray
        At least 1.2 s long.

    Examples
    --------
    >>> with_tone(np.ones(4800), 55.0, 48000).size
    57600
    """
    frames = max(x.shape[0], round(1.2 * rate))
    time = np.arange(frames) / rate
    tone = sum(np.sin(2 * np.pi * hz * part * time) / part for part in (1, 2, 4))
    ease = np.minimum(1.0, np.minimum(time, time[::-1]) / 0.02)
    peak = float(np.max(np.abs(x), initial=0.0))
    tone = 0.25 * peak * ease * tone
    out = np.zeros((frames, *x.shape[1:]))
    out[: x.shape[0]] = x
    return out + (tone if x.ndim == 1 else tone[:, None])


class HitRenderer:
    """Renders hits, keeping every source, layer and chain stage that did not change."""

    # What it renders follows from what it is asked for: a file is known by the hash of its content.
    key = "hits"

    def __init__(self, kept: Kept, load_audio: LoadAudio) -> None:
        self._kept = kept
        self.load_audio = load_audio

    def audio(self, digest: str) -> Array:
        """An imported file at the engine's rate, with the channels it has."""
        return self._kept.once(_loaded, self, digest)

    def file(self, digest: str, tops: Tops) -> Array:
        """An imported file as it is used: with its clipped tops restored where that is asked for."""
        return self.audio(digest) if tops == "as they are" else self._kept.once(_restored, self, digest)

    def source(
        self, source: Made | Imported, bpm: float, touch: Velocity, velocity: float, turn: int,
        vary: float = 0.0,
    ) -> Named:  # fmt: skip
        """A layer's source, before anything is done to it; a made one as its `turn` varies it."""
        if isinstance(source, Imported):
            return self._kept.sound(_imported, self, source, velocity, turn)
        if vary == 0.0 or turn % COUNT == 0:
            return self._kept.sound(_made, source, bpm, touch, velocity)
        return self._kept.sound(_varied, self, source, bpm, touch, velocity, turn % COUNT, vary)

    def _through(self, x: Named, chain: tuple[Stage, ...], bpm: float) -> list[Named]:
        """A sound, then what comes out of each stage of a chain, one after another."""
        out = [x]
        for stage in chain:
            out.append(self._kept.sound(_staged, out[-1], stage, bpm))
        return out

    def layer_chain(
        self, hit: Hit, index: int, bpm: float, velocity: float = 1.0, turn: int = 0
    ) -> list[Array]:
        """One layer's tuned source, then what comes out of each stage of its chain."""
        found = self.chained(hit.layers[index], hit.velocity, hit.vary, bpm, velocity, turn)
        return [one.samples for one in found]

    def chained(
        self, layer: Layer, touch: Velocity, vary: float, bpm: float, velocity: float, turn: int
    ) -> list[Named]:
        """`layer_chain`, of a layer by itself."""
        x = self.source(layer.source, bpm, touch, velocity, turn, vary)
        if not is_off(layer, "tune_semitones"):
            x = self._kept.sound(_tuned, x, layer.tune_semitones)
        return self._through(x, layer.chain, bpm)

    def layer(self, hit: Hit, index: int, bpm: float, velocity: float = 1.0, turn: int = 0) -> Array:
        """One layer as it is heard in the hit, without its offset."""
        return self._layer(hit, index, bpm, velocity, turn).samples

    def _layer(self, hit: Hit, index: int, bpm: float, velocity: float, turn: int) -> Named:
        same = hit.layers[index].model_copy(update=_SAME_SOUND)
        return self._kept.sound(_laid, self, same, hit.velocity, hit.vary, bpm, velocity, turn)

    def layers(self, hit: Hit, bpm: float, velocity: float = 1.0, turn: int = 0) -> dict[int, Array]:
        """Every audible layer with its offset; the earliest one begins at the first frame."""
        return {index: one.samples for index, one in self._layers(hit, bpm, velocity, turn).items()}

    def _layers(self, hit: Hit, bpm: float, velocity: float, turn: int) -> dict[int, Named]:
        heard = audible(hit)
        first_ms = min([0.0, *(hit.layers[index].offset_ms for index in heard)])

        def late(index: int) -> Named:
            frames = (hit.layers[index].offset_ms - first_ms) / 1000 * RATE
            one = self._layer(hit, index, bpm, velocity, turn)
            return one if frames == 0 else self._kept.sound(_late, one, frames)

        return {index: late(index) for index in heard}

    def hit_chain(self, hit: Hit, bpm: float, velocity: float = 1.0, turn: int = 0) -> list[Array]:
        """The layers together, then what comes out of each stage of the hit's own chain.

        Two frames of silence where no layer is heard.
        """
        layers = list(self._layers(hit, bpm, velocity, turn).values())
        x = layers[0] if len(layers) == 1 else self._kept.sound(_together, layers)
        return [one.samples for one in self._through(x, hit.chain, bpm)]

    def hit(self, hit: Hit, bpm: float, velocity: float = 1.0, turn: int = 0) -> Array:
        """The whole hit, shape (frames,) or, where anything in it is wide, (frames, 2).

        `velocity` (0, 1] is how hard it is struck, `turn` which of its round robins sounds.
        """
        turn = turn if _alternates(hit) else 0
        return self._kept.once(_struck, self, hit.sounding, bpm, velocity, turn)


def _loaded(hits: HitRenderer, digest: str) -> Array:
    samples, rate = hits.load_audio(digest)
    return change_rate(samples, rate, RATE)


def _restored(hits: HitRenderer, digest: str) -> Array:
    return restored(hits.audio(digest))


def _imported(hits: HitRenderer, source: Imported, velocity: float, turn: int) -> Array:
    take = take_for(source, velocity, turn)
    x = hits.file(take.audio, source.tops)
    if take.start_ms > 0 or take.end_ms is not None:
        end_ms = take.end_ms or x.shape[0] / RATE * 1000
        x = piece_of(x, RATE, Cut(take.start_ms, take.start_ms, end_ms))
    x = retuned(
        x,
        RATE,
        source.shift_semitones,
        keep_length=source.keep_length == "yes",
        straighten=source.straighten == "yes",
        spare_ms=source.spare_ms,
    )
    return x * 10 ** (source.level_db / 20)


def _softer(source: Made, touch: Velocity, velocity: float) -> Made:
    return source.model_copy(update={"recipe": softer(source.recipe, touch, velocity)})


def _made(source: Made, bpm: float, touch: Velocity, velocity: float) -> Array:
    return made(_softer(source, touch, velocity), bpm, velocity)


def _varied(
    hits: HitRenderer, source: Made, bpm: float, touch: Velocity, velocity: float, turn: int, vary: float
) -> Array:
    plain = hits.source(source, bpm, touch, velocity, 0).samples
    return varied(plain, _softer(source, touch, velocity), vary, turn, bpm, velocity)


def _tuned(x: Named, semitones: float) -> Array:
    return shift_pitch(x.samples, semitones)


def _staged(x: Named, stage: Stage, bpm: float) -> Array:
    return stages.apply_stage(x.samples, stage, RATE, bpm)


def _laid(
    hits: HitRenderer, layer: Layer, touch: Velocity, vary: float, bpm: float, velocity: float, turn: int
) -> Array:
    return placed(hits.chained(layer, touch, vary, bpm, velocity, turn)[-1].samples, layer)


def _late(x: Named, frames: float) -> Array:
    return delayed_by(x.samples, frames)


def _together(layers: list[Named]) -> Array:
    return added([one.samples for one in layers]) if layers else np.zeros(2)


def _struck(hits: HitRenderer, hit: Hit, bpm: float, velocity: float, turn: int) -> Array:
    x = hits.hit_chain(hit, bpm, velocity, turn)[-1]
    if velocity < 1.0:
        octaves = _DULLEST_OCTAVES * hit.velocity.brightness * (1 - velocity)
        if octaves > 0:
            sections = filters.steep("lowpass", 20000.0 * 2**-octaves, 12, RATE)
            x = each_channel(x, lambda channel: filters.filtered(channel, sections))
        x = x * velocity ** (2 * hit.velocity.level)
    return x * 10 ** (hit.level_db / 20) if hit.level_db else x
