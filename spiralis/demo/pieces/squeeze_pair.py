"""Squeeze pair: two words share a row by one dial; a column of delayed copies follows; texture over all."""

from __future__ import annotations

from fractions import Fraction

from attrs import evolve

from spiralis.core.colour import parse_hex
from spiralis.core.model import Composition, Layer, Track
from spiralis.core.model.drivers import DialJoin
from spiralis.core.model.slots import Slot, Variant
from spiralis.demo.building import backdrop, keys, layer

N = 100
_LEFT, _RIGHT, _GAP, _HEIGHT = 70.0, 1010.0, 26.0, 124.0
_NARROW, _ROWS, _STEP, _TOP = 130.0, 8, 154.0, 136.0


def _word(name: str, text: str, at_left: bool, fill: str) -> Layer:
    """Return a word that fills its share of the row: its height stays, its width hangs on the dial."""
    wide = _RIGHT - _LEFT - _GAP - _NARROW
    widths = (_NARROW, wide) if at_left else (wide, _NARROW)
    stops = tuple((place, (width, _HEIGHT)) for place, width in zip((0.0, 100.0), widths, strict=True))
    made = layer(
        "text", name, N, text=text, font="League Spartan", weight=900.0, flow="stretch", fill=parse_hex(fill),
        pivot=(0.0 if at_left else 100.0, 50.0),
        # In the units of the carrier, whose pivot is at 50, 50.
        position=((_LEFT if at_left else _RIGHT) - 490.0, 50.0),
    )  # fmt: skip
    return evolve(made.with_track("frame", Track(stops[0][1], driver=DialJoin("width", stops))), parent="row")


def compositions() -> tuple[Composition, ...]:
    """Return the piece."""
    piece = Composition("Squeeze pair", 1080, 1350, Fraction(25), N, id="squeeze-pair")
    width = layer("dial", "Width", N, value=keys((0, 0.0, "heavy-both"), (N // 2, 100.0, "heavy-both"), (N, 0.0)))
    row = layer("carrier", "Row", N, position=(540.0, _TOP))
    copies = layer(
        "copies", "Rows", N, of="row", position=(540.0, 675.0), count=float(_ROWS), spacing=(0.0, _STEP),
        delay=5.0, delay_from="centre", colour_to=(*parse_hex("#e4573d")[:3], 0.55),
    )  # fmt: skip
    texture = layer(
        "clouds", "Texture", N, position=(540.0, 675.0), blend="soft-light", opacity=28.0,
        scale_px=(9.0, 9.0), detail=3.0, contrast=220.0,
        stops=((0.0, 0.0, 0.0, 0.0, 1.0), (1.0, 1.0, 1.0, 1.0, 1.0)),
    )  # fmt: skip
    ground = backdrop(piece, "Ground", style="flat", colour=parse_hex("#1f1b3c"))
    ground = evolve(ground, slots=(Slot("Ground", "colour", "Dark enough for both words"),))
    words = (_word("Left word", "LIFT", True, "#fbe9c6"), _word("Right word", "GLIDE", False, "#f5b23d"))
    filled = (evolve(word, slots=(Slot(word.name, "text", longest=10),)) for word in words)
    return (evolve(piece, layers=(texture, copies, width, row, *filled, ground), variants=_variants()),)


def _variants() -> tuple[Variant, ...]:
    """Return five versions of the piece."""
    rows = (("LIFT", "GLIDE", "#1f1b3c"), ("TUG", "SOAR", "#1b3a33"), ("WINDS", "STAY", "#3a1b2b"),
            ("SEW", "SAIL", "#152b45"), ("RISE", "FALL", "#2c2036"))  # fmt: skip
    names = ("Left word", "Right word", "Ground")
    return tuple(Variant(tuple(zip(names, row, strict=True))) for row in rows)
