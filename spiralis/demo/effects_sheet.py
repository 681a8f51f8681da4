"""The page of all effects and finishes: ``python -m spiralis.demo.effects_sheet FOLDER`` writes it and its picture."""

from __future__ import annotations

import hashlib
import math
import sys
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np
from PIL import Image, ImageDraw, ImageFont

from spiralis.core.model import Composition, Kind, Layer, Parameter, Project, Source
from spiralis.core.model.blocks import EFFECT, FINISH, PURPOSES, Block, EffectKind, effect_kinds
from spiralis.core.raster.fonts import FONT_FOLDER
from spiralis.core.render.frame import render_straight8
from spiralis.demo.artwork import pictures
from spiralis.demo.building import keys

_WIDTH, _HEIGHT, _COLUMNS, _GAP, _LABEL = 200, 160, 6, 10, 22
#: The frame that is shown: something can have moved until then.
_FRAME = 10
#: Values that suit a picture of that size, where the defaults are meant for larger ones.
_VALUES: dict[str, dict[str, Any]] = {
    "gaussian-blur": {"across": 4.0, "down": 4.0}, "directional-blur": {"length": 24.0, "angle": 30.0},
    "bloom": {"threshold": 45.0, "radius": 14.0}, "churn": {"strength": 14.0, "grain": 60.0},
    "wave": {"height": 7.0, "length": 60.0, "direction": 90.0}, "twirl": {"radius": 80.0},
    "bulge": {"radius": 80.0}, "ripple": {"height": 6.0, "length": 26.0, "radius": 110.0}, "pixelate": {"size": 8.0},
    "channel-split": {"red": (-4.0, 0.0), "blue": (4.0, 0.0)}, "strips": {"size": 12.0, "shift": 16.0},
    "checker-dissolve": {"size": 12.0}, "wipe": {"angle": 30.0, "grain": 40.0}, "tile": {"size": 40.0},
    "displace": {"map": "clouds", "across": 40.0, "down": 40.0}, "halo": {"size": 8.0, "spread": 3.0},
    "drop-shadow": {"distance": 8.0, "size": 4.0, "colour": (0.0, 0.0, 0.0, 0.7)}, "outline": {"width": 4.0},
    "inner-halo": {"size": 7.0}, "inset-shadow": {"distance": 5.0, "size": 4.0},
    "long-shadow": {"length": 60.0}, "sharpen": {"amount": 200.0}, "grain": {"amount": 30.0},
    "hue": {"hue": 120.0}, "levels": {"in_black": 20.0, "in_white": 75.0}, "grade": {"contrast": 180.0},
    "replace-colour": {"old": (0.93, 0.42, 0.30, 1.0), "new": (0.25, 0.55, 0.95, 1.0), "tolerance": 30.0},
    "temperature": {"warmth": 70.0}, "round": {"hole": 20.0}, "mirror-wheel": {"turn": 190.0},
    "corner-pin": {"top_left": (14.0, 6.0), "top_right": (88.0, 24.0), "bottom_right": (96.0, 84.0)},
    "zoom-blur": {"first": 80.0, "last": 120.0}, "blur-by-layer": {"map": "clouds", "softness": 16.0},
    "wipe-by-layer": {"map": "clouds", "shown": 52.0}, "grow-shrink": {"by": 5.0}, "outline-only": {"width": 2.0},
    "tone-curve": {"all": ((0.0, 0.1), (0.35, 0.2), (0.6, 0.85), (1.0, 0.95))},
    "colour-lookup": {"lookup": "table"}, "trail": {"count": 5.0, "apart": 2.0},
}  # fmt: skip


def _table() -> Source:
    """Return a small colour lookup: shadows towards green, lights towards pink."""
    levels = (0.0, 0.5, 1.0)
    places = ((r, g, b) for b in levels for g in levels for r in levels)
    rows = [f"{0.75 * r + 0.25 * g:g} {0.15 + 0.7 * g:g} {0.25 + 0.6 * b:g}" for r, g, b in places]
    data = "\n".join(["LUT_3D_SIZE 3", *rows]).encode()
    return Source("Dusk.cube", hashlib.sha256(data).hexdigest(), ".cube", 0, 0, kind="lookup", id="table", data=data)


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
        block = Block(kind.name, "b")
        known = {parameter.name for parameter in kind.parameters}
        values = {name: value for name, value in _VALUES.get(kind.name, {}).items() if name in known}
        group = group.with_block(block).with_values(**{block.named(name): value for name, value in values.items()})
    clouds = Layer("Clouds", "clouds", 0, _FRAME + 1, id="clouds", reference=True).with_values(
        position=(_WIDTH / 2, _HEIGHT / 2), scale_px=(60.0, 60.0), visible=True
    )
    ground = Layer("Ground", "backdrop", 0, _FRAME + 1, id="ground").with_values(
        position=(_WIDTH / 2, _HEIGHT / 2), style="linear", angle=60.0,
        stops=((0.0, 0.13, 0.20, 0.36, 1.0), (1.0, 0.36, 0.30, 0.50, 1.0)),
    )  # fmt: skip
    piece = Composition("Sample", _WIDTH, _HEIGHT, Fraction(25), _FRAME + 1, id="sample", loop=False,
                        layers=(group, kite, word, ground, clouds))  # fmt: skip
    return Project("Effects", (piece,), (source, _table()))


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


def in_order() -> list[EffectKind]:
    """Return all kinds as the page has them: by purpose, then by name."""
    return sorted(effect_kinds(), key=lambda kind: (PURPOSES.index(kind.purpose), kind.label))


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
