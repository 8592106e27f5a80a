"""What a file that runs as a loop has, whatever it is used as."""

from typing import Annotated, Literal, Protocol

from pydantic import AfterValidator, Field

from juglant.core.recipes.fields import choice, control
from juglant.core.recipes.notes import MOST_BARS

Fit = Literal["as it is", "by slices", "by resampling"]
Tops = Literal["as they are", "restored"]
# Sixteenths of the longest loop.
MOST_SILENT = 16 * MOST_BARS


def _in_order(places: tuple[int, ...]) -> tuple[int, ...]:
    if list(places) != sorted(set(places)):
        raise ValueError("silenced sixteenths are named once, in their order")
    return places


Silent = Annotated[
    tuple[Annotated[int, Field(ge=0, lt=MOST_SILENT)], ...],
    Field(max_length=MOST_SILENT), AfterValidator(_in_order),
]  # fmt: skip


LoopSwing = Literal["as it is", "the track’s", "its own"]


def loop_swing() -> LoopSwing:
    """By which swing a loop that is cut at its strokes is played.

    Returns
    -------
    Any
        A field.

    Examples
    --------
    >>> loop_swing().default
    'as it is'
    """
    return choice(  # type: ignore[no-any-return]
        "as it is", "Swing",
        "Slices on second sixteenths are moved together, to the track’s swing or to one of its own; what "
        "was played early or late among them stays so. Only where it is fitted by slices.",
        "Tempo",
    )  # fmt: skip


# What of it decides how it sounds in the loop, beside the tempo.
LOOPED = ("audio", "tops", "begin_ms", "fit", "own_bpm", "silent", "swing", "swing_percent")


class FileLoop(Protocol):
    """What runs as a loop."""

    @property
    def fit(self) -> Fit: ...  # noqa: D102
    @property
    def swing(self) -> LoopSwing: ...  # noqa: D102


def swings_by_slices(file: FileLoop) -> None:
    """ValueError where a file that is not cut is to swing otherwise than it does.

    Parameters
    ----------
    file
        What runs as a loop.

    Examples
    --------
    >>> from types import SimpleNamespace
    >>> swings_by_slices(SimpleNamespace(swing="as it is", fit="as it is"))
    """
    if file.swing != "as it is" and file.fit != "by slices":
        raise ValueError("a loop swings otherwise by its slices alone: fit it by slices")


def begin_control() -> float:
    """Where in the file the loop begins.

    Returns
    -------
    Any
        A field.

    Examples
    --------
    >>> begin_control().default
    0.0
    """
    return control(  # type: ignore[no-any-return]
        0.0, 0.0, 500.0, 0.1, "ms", "Start",
        "Where in the file the loop begins: what a bounce has in front goes to its end.", "File", main=True,
        off=0.0,
    )  # fmt: skip


def fit_choice() -> Fit:
    """How a loop at another tempo is brought to the track's.

    Returns
    -------
    Any
        A field.

    Examples
    --------
    >>> fit_choice().default
    'as it is'
    """
    return choice(  # type: ignore[no-any-return]
        "as it is", "Fit",
        "As it is: its tempo is the track's. By slices: cut at its strokes, which keep their pitch. By "
        "resampling: whole, as a turntable does, higher where it is sped up.",
        "Tempo",
    )  # fmt: skip


def tops_choice() -> Tops:
    """What becomes of tops that a file was clipped to.

    Returns
    -------
    Any
        A field.

    Examples
    --------
    >>> tops_choice().default
    'as they are'
    """
    return choice(  # type: ignore[no-any-return]
        "as they are", "Clipped tops",
        "Restored: every top that is cut flat is rounded by the slopes beside it. Listen for less "
        "harshness, and mind the higher peak.",
        "Level",
    )  # fmt: skip


def own_tempo() -> float:
    """The tempo of the file itself.

    Returns
    -------
    Any
        A field.

    Examples
    --------
    >>> own_tempo().default
    120.0
    """
    return control(  # type: ignore[no-any-return]
        120.0, 40.0, 240.0, 0.01, "BPM", "Its tempo", "Of the file, where it is fitted to the track's.",
        "Tempo",
    )  # fmt: skip
