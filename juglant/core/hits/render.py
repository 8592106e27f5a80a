"""From a hit's recipe to its samples: sources, layers, chains, each kept by itself."""

from collections.abc import Callable

import numpy as np

from juglant.core import RATE
from juglant.core.errors import UserError
from juglant.core.hits import chain as stages
from juglant.core.hits.chain import Array, each_channel
from juglant.core.hits.making import made, softer
from juglant.core.hits.mixing import added, delayed_by, placed
from juglant.core.hits.retune import retuned
from juglant.core.hits.varied import COUNT, varied
from juglant.core.kept import Kept, Named
from juglant.core.measure.takes import Cut, piece_of
from juglant.core.process import filters
from juglant.core.process.declipping import restored
from juglant.core.process.resampling import change_rate, shift_pitch
from juglant.core.recipes.chain import Stage
from juglant.core.recipes.fields import is_off
from juglant.core.recipes.fileloop import Tops
from juglant.core.recipes.hit import Hit, Imported, Layer, Made, Take, Velocity

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
