"""What every control and every starting point is, literally: neither moves unseen.

Where one is to move, python -m tests.core.test_controls writes them anew.
"""

import json
from pathlib import Path
from typing import Any

from juglant.api.brief import controls
from juglant.core.recipes.starts import STARTS

FOLDER = Path(__file__).parent


def _now() -> dict[str, Any]:
    sheets = {
        name: {
            one.name: [one.low, one.default, one.high, one.step, one.unit, one.scale, one.off]
            for one in sheet.controls
        } | {one.name: [one.default, *one.options] for one in sheet.choices}
        for name, sheet in controls().items()
    }  # fmt: skip
    starts = {
        kind: {name: made.recipe.model_dump(exclude_defaults=True) for name, made in named.items()}
        for kind, named in STARTS.items()
    }
    made = {name: sheet for name, sheet in sheets.items() if name.startswith("source:")}
    rest = {name: sheet for name, sheet in sheets.items() if name not in made}
    return {"controls": rest, "sources": {**made, **starts}}


def test_controls_and_starting_points_are_what_they_are_written_down_to_be() -> None:
    for file, now in json.loads(json.dumps(_now())).items():
        written = json.loads((FOLDER / f"{file}.json").read_text())
        assert written.keys() == now.keys()
        for name, inside in now.items():
            assert inside == written[name], name


if __name__ == "__main__":
    for file, found in _now().items():
        lines = [
            f'"{name}": {{\n'
            + ",\n".join(f' "{key}": {json.dumps(one)}' for key, one in inside.items())
            + "\n}"
            for name, inside in found.items()
        ]
        (FOLDER / f"{file}.json").write_text("{\n" + ",\n".join(lines) + "\n}\n")
