"""A hit at another note."""

from juglant.core.recipes.fields import of_role
from juglant.core.recipes.hit import Hit, Imported, Layer


def resampled(hit: Hit) -> bool:
    """Whether tuning the hit changes its length: anything but one made source, or a file whose
    length is kept.

    Parameters
    ----------
    hit
        The hit.

    Returns
    -------
    bool
        Whether it does.

    Examples
    --------
    >>> from juglant.core.recipes.hit import MadeKick
    >>> resampled(Hit.of(MadeKick()))
    False
    """
    source = hit.only_source
    return source is None or (isinstance(source, Imported) and source.keep_length == "no")


def shifted(hit: Hit, semitones: float) -> Hit:
    """The same hit higher by `semitones`; the limits of its controls still hold.

    Of a single layer the source is retuned: a made one by its recipe, a file by resampling.
    Several layers are all moved by their tuning, so that they stay together.

    Parameters
    ----------
    hit, semitones
        The hit; by how many.

    Returns
    -------
    Hit
        The same hit, higher.

    Examples
    --------
    >>> from juglant.core.recipes.hit import MadeKick
    >>> hit = Hit.of(MadeKick())
    >>> round(shifted(hit, 12.0).layers[0].source.recipe.end_hz / hit.layers[0].source.recipe.end_hz)
    2
    """
    if hit.heard_hz is not None:
        hit = hit.model_copy(update={"heard_hz": round(hit.heard_hz * 2 ** (semitones / 12), 4)})
    source = hit.only_source
    if isinstance(source, Imported):
        values = source.model_dump()
        values["shift_semitones"] = round(source.shift_semitones + semitones, 5)
        return hit.with_source(0, Imported(**values))
    if source is not None:
        pitches = of_role(type(source.recipe), "note", "tone")
        if pitches:
            values = source.recipe.model_dump()
            values[pitches[0]] = round(values[pitches[0]] * 2 ** (semitones / 12), 3)
            return hit.with_source(0, type(source)(recipe=values))
    layers = [
        Layer(**{**layer.model_dump(), "tune_semitones": round(layer.tune_semitones + semitones, 5)})
        for layer in hit.layers
    ]
    return hit.model_copy(update={"layers": tuple(layers)})
