"""Tumbling box, a flat side view: keys for one step of its way down the stairs, and the accumulate rule for the rest;
the turn is even, the height falls under gravity. The world moves past, so that the box tumbles for ever."""

from __future__ import annotations

from fractions import Fraction

from attrs import evolve

from spiralis.core.colour import parse_hex
from spiralis.core.model import Composition, Layer, Rule, Track
from spiralis.demo.building import backdrop, keys, layer, rounded, stops

STEP = 24
STEPS = 4
N = STEP * STEPS
TREAD, RISE, SIDE = 210.0, 150.0, 150.0
_FALL = "cubic-bezier(.4, 0, .8, .5)"


def _stair(index: int) -> Layer:
    x, y = 400.0 + index * TREAD, 700.0 + index * RISE
    made = rounded(f"Stair {index + 6}", N, (TREAD + 2.0, 1600.0), 0.0, ("#3d8f8c", "#358380")[index % 2],
                   position=(x, y + 800.0))  # fmt: skip
    return evolve(made, parent="world")


def _tumbling() -> dict[str, Track]:
    """One step: a tread on and a rise down, with a small hop, while the box turns by a quarter."""
    x, y = 400.0, 700.0 - SIDE / 2
    return {
        "position_x": keys((0, x, "linear"), (STEP, x + TREAD), after=Rule.ACCUMULATE),
        "position_y": keys((0, y, "cubic-bezier(.2, .5, .6, 1)"), (7, y - 58.0, _FALL), (STEP, y + RISE),
                           after=Rule.ACCUMULATE),
        "rotation": keys((0, 0.0, "linear"), (STEP, 90.0), after=Rule.ACCUMULATE),
    }  # fmt: skip


def compositions() -> tuple[Composition, ...]:
    """Return the piece."""
    piece = Composition("Tumbling box", 1080, 1080, Fraction(24), N, id="tumbling-box")
    # As much back as the box goes on, so that it stays in sight.
    past = keys((0, (0.0, 0.0), "linear"), (STEP, (-TREAD, -RISE)), after=Rule.ACCUMULATE)
    world = layer("carrier", "World", N, position=past, pivot=(0.0, 0.0))
    body = evolve(
        rounded("Box", N, (SIDE, SIDE), 14.0, "#f5b23d", paint="linear",
                stops=stops((0.0, "#f8c869"), (1.0, "#e28a3c")),
                stroke=7.0, stroke_colour=parse_hex("#281e34"), separate=True, **_tumbling()),
        parent="world",
    )  # fmt: skip
    ribbon = evolve(rounded("Ribbon", N, (26.0, SIDE), 0.0, "#c8452f", position=(SIDE / 2, SIDE / 2)), parent="box")
    # Enough stairs to fill the frame at every moment of the whole way.
    stairs = tuple(_stair(index) for index in range(STEPS + 5, -6, -1))
    ground = backdrop(piece, "Sky", style="linear", angle=90.0, stops=stops((0.0, "#241f4e"), (1.0, "#7a5aa0")))
    return (evolve(piece, layers=(ribbon, body, *stairs, world, ground)),)
