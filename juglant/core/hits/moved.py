"""A hit at another note."""

from juglant.core.recipes.hit import Hit, Imported, Layer

# The field that is the note of a made sound.
PITCHES = ("end_hz", "tone_hz", "tune_hz")


def resampled(hit: Hit) -> bool:
    """Whether tuning the hit changes its length: anything but one made source, or a file whose
    length is kept.
    """
    source = hit.only_source
    return source is None or (isinstance(source, Imported) and source.keep_length == "no")


def shifted(hit: Hit, semitones: float) -> Hit:
    """The same hit higher by `semitones`; the limits of its controls still hold.

    Of a single layer the source is retuned: a made one by its recipe, a file by resampling.
    Several layers are all moved by their tuning, so that they stay together.
    """
    if hit.heard_hz is not None:
        hit = hit.model_copy(update={"heard_hz": round(hit.heard_hz * 2 ** (semitones / 12), 4)})
    source = hit.only_source
    if isinstance(source, Imported):
        values = source.model_dump()
        values["shift_semitones"] = round(source.shift_semitones + semitones, 5)
        return hit.with_source(0, Imported(**values))
    if source is not None:
        name = next((name for name in PITCHES if name in type(source.recipe).model_fields), None)
        if name is not None:
            values = source.recipe.model_dump()
            values[name] = round(values[name] * 2 ** (semitones / 12), 3)
            return hit.with_source(0, type(source)(recipe=values))
    layers = [
        Layer(**{**layer.model_dump(), "tune_semitones": round(layer.tune_semitones + semitones, 5)})
        for layer in hit.layers
    ]
    return hit.model_copy(update={"layers": tuple(layers)})
