"""What the commands share: files, tables, common options."""

import json
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Annotated, Any, TypeVar

import numpy as np
import typer
from numpy.typing import NDArray
from pydantic import BaseModel, Field, TypeAdapter, ValidationError

from juglant.core.errors import UserError
from juglant.core.recipes.notes import Beat
from juglant.files.audio import Audio, decode

Array = NDArray[np.float64]

AsJson = Annotated[bool, typer.Option("--json", help="Print JSON.")]
A4 = Annotated[float, typer.Option("--a4", min=400, max=480, help="Tuning reference in Hz.")]
Bpm = Annotated[float, typer.Option("--bpm", min=40, max=220, help="Tempo.")]
_BEATS = TypeAdapter(Annotated[tuple[Beat, ...], Field(min_length=1, max_length=16)])


class Refused:
    """What went wrong with some of many files: the others go on, and at the end it is said."""

    def __init__(self) -> None:
        self._said: list[str] = []

    @contextmanager
    def here(self) -> Iterator[None]:
        """One file's work; a user's mistake in it is kept for the end."""
        try:
            yield
        except UserError as error:
            self._said.append(error.message)

    def tell(self) -> None:
        """UserError with everything that was refused, where anything was."""
        if self._said:
            raise UserError(" ".join(self._said))


def read(path: Path) -> Audio:
    """A sound file. UserError where it cannot be read."""
    try:
        data = path.read_bytes()
    except OSError as error:
        raise UserError(f"{path} cannot be read: {error.strerror}.") from error
    return decode(data, path.name)


def write(path: Path, data: bytes | str) -> None:
    """A file, with the folders that lead to it. UserError where it cannot be written."""
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(data.encode() if isinstance(data, str) else data)
    except OSError as error:
        raise UserError(f"{path} cannot be written: {error.strerror}.") from error


def read_json(path: Path) -> dict[str, Any]:
    """A JSON object. UserError where it is none."""
    try:
        data = json.loads(path.read_text("utf-8"))
    except OSError as error:
        raise UserError(f"{path} cannot be read: {error.strerror}.") from error
    except ValueError as error:
        raise UserError(f"{path} is not JSON: {error}.") from error
    if not isinstance(data, dict):
        raise UserError(f"{path} does not hold a recipe: it must be a JSON object.")
    return data


def below_full_scale(x: Array) -> tuple[Array, float]:
    """`x` turned down where it would clip, and by how many dB."""
    peak = float(np.max(np.abs(x)))
    gain = min(1.0, 0.999 / peak) if peak > 0 else 1.0
    return x * gain, 20 * float(np.log10(gain))


def beats(text: str) -> tuple[float, ...]:
    """Beats of the bar from 1, as 1,2.5,4. UserError where they are none."""
    try:
        return _BEATS.validate_python([float(part) for part in text.split(",")])
    except (ValueError, ValidationError) as error:
        raise UserError(
            f"“{text}” does not name beats of the bar: numbers from 1 to 4.75 in sixteenths, as 1,2.5,4."
        ) from error


def print_json(value: Any) -> None:
    """JSON for programs."""
    print(json.dumps(value, indent=2, ensure_ascii=False))


def print_table(rows: list[tuple[str, str]]) -> None:
    """Rows for people."""
    width = max(22, *(len(name) + 2 for name, _ in rows)) if rows else 0
    for name, value in rows:
        print(f"  {name:<{width}}{value}")


def shown(value: float | None, unit: str, digits: int = 1) -> str:
    """A number that may not exist."""
    return "–" if value is None else f"{value:.{digits}f} {unit}"


M = TypeVar("M", bound=BaseModel)


def checked(model: type[M], data: Any, who: str) -> M:
    """`data` as a recipe; a user's mistake is a sentence that names its place."""
    try:
        return model.model_validate(data)
    except ValidationError as error:
        first = error.errors()[0]
        place = ".".join(str(part) for part in first["loc"]) or "the recipe"
        raise UserError(f"{who}: {place}: {first['msg']}.") from error
