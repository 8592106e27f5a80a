"""One part of a kept version, or one of its duckings, back in the track as it is now."""

from pydantic import ValidationError

from juglant.core.errors import UserError
from juglant.core.recipes.track import TrackState


def with_part_of(state: TrackState, version: TrackState, id: str) -> TrackState:
    """A state with one part of another, in its place or, where there is none any more, behind the others;
    or with one ducking of it. UserError where it would refer to what is not there.

    Parameters
    ----------
    state, version
        The track; the one it is taken from.
    id
        Of the part or ducking.

    Returns
    -------
    TrackState
        The state with it.

    Examples
    --------
    >>> with_part_of(TrackState(), TrackState(), "kick") == TrackState()
    True
    """
    part = version.part(id)
    if part is not None:
        if state.part(id) is not None:
            return state.with_part(part)
        return _checked(state, part.name, parts=(*state.parts, part))
    ducking = next((one for one in version.duckings if one.id == id), None)
    if ducking is None:
        raise UserError("There is no such part in this version.", "part")
    there = [one.id for one in state.duckings]
    if id in there:
        duckings = tuple(ducking if one.id == id else one for one in state.duckings)
    else:
        duckings = (*state.duckings, ducking)
    return _checked(state, "this ducking", duckings=duckings)


def _checked(state: TrackState, name: str, **fields: object) -> TrackState:
    try:
        return TrackState.model_validate(
            {**{key: getattr(state, key) for key in TrackState.model_fields}, **fields}
        )
    except ValidationError as error:
        why = str(error.errors()[0]["msg"]).removeprefix("Value error, ")
        raise UserError(f"{name} cannot come back alone: {why}. Bring back the whole version.") from error
