"""What every control and every starting point is, literally: neither moves unseen.

Where one is to move, python -m tests.core.test_controls writes them anew.
"""

import json
from pathlib import Path
from typing import Any

from juglant.api.brief import controls
from juglant.core.recipes.starts import STARTS

LITERALLY = Path(__file__).with_name("controls.json")


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
    return {"controls": sheets, "starts": starts}


def test_controls_and_starting_points_are_what_they_are_written_down_to_be() -> None:
    written, now = json.loads(LITERALLY.read_text()), json.loads(json.dumps(_now()))
    for part in ("controls", "starts"):
        assert written[part].keys() == now[part].keys()
        for name, inside in now[part].items():
            assert inside == written[part][name], name


if __name__ == "__main__":
    lines = [
        f'"{part}": {{\n'
        + ",\n".join(
            f' "{name}": {{\n'
            + ",\n".join(f'  "{key}": {json.dumps(value)}' for key, value in inside.items())
            + "\n }"
            for name, inside in found.items()
        )
        + "\n}"
        for part, found in _now().items()
    ]
    LITERALLY.write_text("{\n" + ",\n".join(lines) + "\n}\n")
