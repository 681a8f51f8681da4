"""Tumbling box: a parcel in depth rolls down stairs of boxes, lit from one side, its shadow on the step beneath it.

Keys hold one step of the way, and the accumulate rule the rest: the turn is even, the height falls under gravity. The
world moves past, so that it goes on for ever.
"""

from __future__ import annotations

from fractions import Fraction

from attrs import evolve

from spiralis.core.colour import parse_hex
from spiralis.core.model import Composition, Layer, Rule, Track
from spiralis.core.raster.lens import reach
from spiralis.demo.building import backdrop, keys, layer, rounded, stops

STEP = 24
STEPS = 4
N = STEP * STEPS
TREAD, RISE, SIDE, BROAD = 210.0, 150.0, 150.0, 330.0
#: Where the first step lies, and how far a step reaches down, in px.
_LEFT, _TOP, _TALL = 400.0, 700.0, 1500.0
#: How far the parcel rises as it rolls over the edge; on its corner its middle is farther from the step.
_HOP = 58.0
_FALL = "cubic-bezier(.4, 0, .8, .5)"


def _stair(index: int) -> Layer:
    made = layer(
        "box", f"Stair {index + 5}", N, depth=True, size=(TREAD, _TALL), deep=BROAD, casts=False,
        fill=parse_hex(("#4fa6a2", "#43938f")[index % 2]),
        position=(_LEFT + index * TREAD, _TOP + index * RISE + _TALL / 2),
    )  # fmt: skip
    return evolve(made, parent="world")


def _tumbling() -> dict[str, Track]:
    """One step: a tread on and a rise down, with a small hop, while the parcel turns by a quarter."""
    x, y = _LEFT, _TOP - SIDE / 2
    return {
        "position_x": keys((0, x, "linear"), (STEP, x + TREAD), after=Rule.ACCUMULATE),
        "position_y": keys((0, y, "cubic-bezier(.2, .5, .6, 1)"), (7, y - _HOP, _FALL), (STEP, y + RISE),
                           after=Rule.ACCUMULATE),
        "rotation": keys((0, 0.0, "linear"), (STEP, 90.0), after=Rule.ACCUMULATE),
    }  # fmt: skip


def _light() -> Layer:
    """The light; its ground is the step beneath the parcel, whose shadow is faint while that is in the air."""
    over, past = STEP // 2 - 1, RISE / STEP
    return layer(
        "light", "Light", N, position=(150.0, 150.0), angle=79.0, steepness=20.0, strength=62.0, ambient=50.0,
        ground="floor", softness=11.0, shadow=(*parse_hex("#1a1038")[:3], 0.62),
        ground_y=keys((0, _TOP, "linear"), (over, _TOP - past * over, "hold"),
                      (over + 1, _TOP + RISE - past * (over + 1), "linear"), (STEP, _TOP), after=Rule.REPEAT),
        opacity=keys((0, 100.0), (over, 0.0, "hold"), (over + 1, 0.0), (STEP, 100.0), after=Rule.REPEAT),
    )  # fmt: skip


def _side() -> Composition:
    """What every side of the parcel shows: its ribbon, crossed, and a knot."""
    piece = Composition("Parcel side", 300, 300, Fraction(24), N, id="parcel-side")
    ribbon = parse_hex("#c8452f")
    layers = (
        rounded("Knot", N, (64.0, 64.0), 14.0, "#e8785e", position=(150.0, 150.0), rotation=45.0),
        rounded("Across", N, (300.0, 44.0), 0.0, "#c8452f", position=(150.0, 150.0)),
        rounded("Down", N, (44.0, 300.0), 0.0, "#c8452f", position=(150.0, 150.0)),
    )
    return evolve(piece, layers=tuple(y.with_values(stroke_colour=ribbon) for y in layers))


def compositions() -> tuple[Composition, ...]:
    """Return the piece, and what the parcel's sides show."""
    piece = Composition("Tumbling box", 1080, 1080, Fraction(24), N, id="tumbling-box")
    # As much back as the parcel goes on, so that it stays in sight.
    past = keys((0, (0.0, 0.0), "linear"), (STEP, (-TREAD, -RISE)), after=Rule.ACCUMULATE)
    world = layer("carrier", "World", N, position=past, pivot=(0.0, 0.0))
    side = _side()
    parcel = evolve(
        layer("box", "Box", N, depth=True, size=(SIDE, SIDE), deep=SIDE, fill=parse_hex("#f5b23d"), shows=side.id,
              edge=3.0, edge_colour=parse_hex("#d99532"), separate=True, **_tumbling()),
        parent="world",
    )  # fmt: skip
    # Enough stairs to fill the frame at every moment of the whole way.
    stairs = tuple(_stair(index) for index in range(STEPS + 3, -5, -1))
    camera = layer(
        "camera", "Camera", N, depth=True, lens=60.0, aims=True, looks_at=(430.0, 640.0), looks_at_z=0.0,
        position=(1130.0, 60.0), position_z=-reach(1080, 60.0) * 0.86,
    )  # fmt: skip
    ground = backdrop(piece, "Sky", style="linear", angle=90.0, stops=stops((0.0, "#241f4e"), (1.0, "#7a5aa0")))
    return evolve(piece, layers=(camera, parcel, _light(), *stairs, world, ground)), side
