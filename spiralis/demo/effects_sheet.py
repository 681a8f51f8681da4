"""The page of all effects and finishes: ``python -m spiralis.demo.effects_sheet FOLDER`` writes it and its picture."""

from __future__ import annotations

import math
import sys
from fractions import Fraction
from pathlib import Path

import numpy as np
from PIL import Image, ImageDraw, ImageFont

from spiralis.core.model import Composition, Kind, Layer, Parameter, Project
from spiralis.core.model.blocks import EFFECT, FINISH, PURPOSES, EffectKind
from spiralis.core.raster.fonts import FONT_FOLDER
from spiralis.core.render.frame import render_straight8
from spiralis.demo.artwork import pictures
from spiralis.demo.building import effect, keys
from spiralis.demo.effect_values import dusk_table, in_order, values_for

_WIDTH, _HEIGHT, _COLUMNS, _GAP, _LABEL = 200, 160, 6, 10, 22
#: The frame that is shown: something can have moved until then.
_FRAME = 10
def _sample(kind: EffectKind | None) -> Project:
    """Return a small piece of a kite and a word over a ground, with an effect on both as a group."""
    source = pictures()["kite-swift.png"]
    size = 0.62 * _HEIGHT / max(source.height, 1) * 100
    kite = Layer("Kite", "picture", 0, _FRAME + 1, id="kite", parent="group").with_values(
        source=source.id, position=(70.0, 74.0), scale=(size, size)
    )
    word = Layer("Word", "text", 0, _FRAME + 1, id="word", parent="group").with_values(
        text="Tolvane", size=34.0, position=(118.0, 122.0), fill=(1.0, 0.86, 0.55, 1.0), weight=800.0
    )
    group = Layer("Group", "group", 0, _FRAME + 1, id="group").with_values(
        size=(float(_WIDTH), float(_HEIGHT)), position=(_WIDTH / 2, _HEIGHT / 2)
    )
    if kind is not None and kind.moments is not None:
        # What looks back in time needs something that has moved.
        way = keys((0, (30.0, 52.0), "linear"), (_FRAME, (_WIDTH / 2 + 14, _HEIGHT / 2)))
        group = group.with_track("position", way)
    if kind is not None:
        group = effect(group, kind.name, **values_for(kind))
    clouds = Layer("Clouds", "clouds", 0, _FRAME + 1, id="clouds", reference=True).with_values(
        position=(_WIDTH / 2, _HEIGHT / 2), scale_px=(60.0, 60.0), visible=True
    )
    ground = Layer("Ground", "backdrop", 0, _FRAME + 1, id="ground").with_values(
        position=(_WIDTH / 2, _HEIGHT / 2), style="linear", angle=60.0,
        stops=((0.0, 0.13, 0.20, 0.36, 1.0), (1.0, 0.36, 0.30, 0.50, 1.0)),
    )  # fmt: skip
    piece = Composition("Sample", _WIDTH, _HEIGHT, Fraction(25), _FRAME + 1, id="sample", loop=False,
                        layers=(group, kite, word, ground, clouds))  # fmt: skip
    return Project("Effects", (piece,), (source, dusk_table()))


def sheet() -> np.ndarray:
    """Return the picture: uint8 (h, w, 4), the sample as it is and under each effect and finish, with their names."""
    kinds: list[EffectKind | None] = [None, *in_order()]
    rows = math.ceil(len(kinds) / _COLUMNS)
    made = Image.new("RGBA", (_COLUMNS * (_WIDTH + _GAP) + _GAP, rows * (_HEIGHT + _LABEL + _GAP) + _GAP), (30, 27, 34))
    draw = ImageDraw.Draw(made)
    font = ImageFont.truetype(str(FONT_FOLDER / "Karla-variable.ttf"), 15)
    for index, kind in enumerate(kinds):
        x = _GAP + index % _COLUMNS * (_WIDTH + _GAP)
        y = _GAP + index // _COLUMNS * (_HEIGHT + _LABEL + _GAP)
        made.paste(Image.fromarray(render_straight8(_sample(kind), "sample", _FRAME)), (x, y))
        draw.text((x + 2, y + _HEIGHT + 2), kind.label if kind is not None else "As it is", font=font,
                  fill=(236, 230, 240))  # fmt: skip
    return np.asarray(made)


def _range(parameter: Parameter) -> str:
    if parameter.kind is Kind.CHOICE:
        return ", ".join(parameter.choices)
    if parameter.kind is Kind.NUMBER:
        return f"{parameter.default:g} {parameter.unit}".strip()
    return ""


def page() -> str:
    """Return the text: every effect by purpose, with its numbers."""
    lines = [
        "# Effects and finishes", "",
        "Written from their declarations by `python -m spiralis.demo.effects_sheet docs`.",
        "Every number carries keys, may follow another or join a dial.", "", "![All of them](effects.png)",
    ]  # fmt: skip
    for purpose in PURPOSES:
        kinds = [kind for kind in in_order() if kind.purpose == purpose]
        role = {EFFECT: "", FINISH: " (around the layer, or inside of its edge)"}[kinds[0].role] if kinds else ""
        lines += (
            ["", f"## {purpose}{role}", "", "| | what it does | numbers, as they begin |", "|---|---|---|"]
            if kinds
            else []
        )
        for kind in kinds:
            numbers = "; ".join(f"{p.label} {_range(p)}".strip() for p in kind.own_parameters)
            lines.append(f"| {kind.label} | {kind.help} | {numbers} |")
    return "\n".join(lines) + "\n"


def main(folder: Path) -> None:
    """Write both into a folder."""
    (folder / "effects.md").write_text(page(), encoding="utf-8")
    Image.fromarray(sheet()).convert("RGB").save(folder / "effects.png", optimize=True)


if __name__ == "__main__":
    main(Path(sys.argv[1]))
