"""Product switch: slanted headline rows staggered by a few frames, a tall running tag line, two products that swing on
a bottom pivot with the same keys, and a ground whose colours change with the product."""

from __future__ import annotations

from fractions import Fraction

from attrs import evolve

from spiralis.core.colour import parse_hex
from spiralis.core.model import Composition, Layer, Rule, Track
from spiralis.demo.building import backdrop, effect, keys, layer, stops

N = 150
HALF = N // 2


def _swing(start: int) -> tuple[Track, Track]:
    """Return turn and height of a product that swings up at a frame, sways, and drops away half the piece later."""
    turn = keys((start, 96.0, "overshoot"), (start + 16, 0.0, "soft-both"), (start + 34, -5.0, "soft-both"),
                (start + 52, 4.0, "soft-both"), (start + 62, 0.0, "anticipate"), (start + 74, -96.0))  # fmt: skip
    shown = keys((start, 0.0, "hold"), (start + 1, 100.0, "hold"), (start + 74, 0.0, "hold"))
    return turn, shown


def _product(name: str, picture: str, scale: float, start: int, place: tuple[float, float]) -> Layer:
    turn, shown = _swing(start)
    return layer("picture", name, N, source=picture, scale=(scale, scale), pivot=(50.0, 100.0), position=place,
                 rotation=turn, opacity=shown, motion_blur=True)  # fmt: skip


def _row(text: str, index: int, start: int) -> Layer:
    """Return a slanted row of the headline that comes from the left and leaves to the right."""
    first = start + 3 * index
    y = 190.0 + 150.0 * index
    way = keys((first, (-700.0, y + 78.0), "snap"), (first + 14, (330.0, y), "hold"),
               (start + 58 + 3 * index, (330.0, y), "soft-start"),
               (start + 70 + 3 * index, (1500.0, y - 78.0)))  # fmt: skip
    return layer("text", f"{text} {index + 1}", N, text=text, font="League Spartan", weight=900.0, size=172.0,
                 fill=parse_hex("#fcf4e4"), position=way, rotation=-5.0, skew=(-8.0, 0.0),
                 motion_blur=True)  # fmt: skip


def _tag_line() -> Layer:
    """Return upright words that run down the right side for ever: one set of them, tiled, the tiles' offset keyed."""
    words = layer("text", "Tag line", N, text="SEWN BY HAND ·", font="League Spartan", weight=700.0, size=104.0,
                  tracking=60.0, rotation=90.0, fill=parse_hex("#fcf4e426"), position=(965.0, 675.0))  # fmt: skip
    run = keys((0, (0.0, 0.0), "linear"), (N, (200.0, 0.0)), after=Rule.ACCUMULATE)
    return effect(words, "tile", columns=9.0, rows=1.0, offset=run)


def compositions() -> tuple[Composition, ...]:
    """Return the piece."""
    piece = Composition("Product switch", 1080, 1350, Fraction(25), N, id="product-switch")
    warm = stops((0.0, "#ef6f52"), (1.0, "#8f2f4f"))
    cool = stops((0.0, "#2f8f8c"), (1.0, "#1d3a5c"))
    ground = keys((0, cool, "hold"), (2, cool, "soft-both"), (12, warm, "hold"), (HALF + 2, warm, "soft-both"),
                  (HALF + 12, cool, "hold"), (N, cool))  # fmt: skip
    layers = (
        *(_row(text, i, 0) for i, text in enumerate(("BOLD", "BOX"))),
        *(_row(text, i, HALF) for i, text in enumerate(("SOFT", "RAY"))),
        _product("Box kite", "picture2", 68.0, 0, (600.0, 1330.0)),
        _product("Ray kite", "picture3", 62.0, HALF, (590.0, 1330.0)),
        _tag_line(),
        backdrop(piece, "Ground", style="linear", angle=100.0, stops=ground),
    )  # fmt: skip
    return (evolve(piece, layers=layers),)
