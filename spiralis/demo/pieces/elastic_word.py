"""Elastic word: a word whose height, taper and bend are keyed at even steps, in its own nest that is outlined and
looped without a doubled frame on a flat backdrop."""

from __future__ import annotations

from fractions import Fraction

from attrs import evolve

from spiralis.core.colour import parse_hex
from spiralis.core.model import Composition
from spiralis.demo.building import backdrop, effect, keys, layer

N = 48
_STEP = 8
_HEIGHTS = (100.0, 168.0, 84.0, 150.0, 72.0, 128.0, 100.0)
_TOPS = (100.0, 74.0, 122.0, 80.0, 128.0, 90.0, 100.0)
_BENDS = (0.0, 26.0, -22.0, 18.0, -26.0, 12.0, 0.0)
_WIDTHS = (100.0, 88.0, 108.0, 92.0, 112.0, 96.0, 100.0)


def compositions() -> tuple[Composition, ...]:
    """Return the nest and the piece."""
    nest = Composition("Elastic nest", 1080, 1080, Fraction(24), N, id="elastic-nest")
    marks = [(i * _STEP, (_WIDTHS[i], _HEIGHTS[i]), "soft-both") for i in range(len(_HEIGHTS))]
    # The smaller lean of the letters goes half a step ahead of the stretch, so that the two do not move as one.
    lean = [(i * _STEP, (0.0 if i in (0, 6) else (-1) ** i * 5.0, 0.0), "soft-both") for i in range(7)]
    word = layer(
        "text", "Word", N, text="WIND", font="League Spartan", weight=900.0, size=272.0, pivot=(50.0, 100.0),
        position=(540.0, 770.0), scale=keys(*marks), skew=keys(*lean), tracking=-8.0, fill=parse_hex("#fcf4e4"),
    )  # fmt: skip
    narrow = [(i * _STEP, _TOPS[i], "soft-both") for i in range(7)]
    curved = [(i * _STEP, _BENDS[i], "soft-both") for i in range(7)]
    word = effect(word, "taper", first=keys(*narrow), last=100.0)
    word = effect(word, "bend", angle=keys(*curved))
    layers = (word,)
    nest = evolve(nest, layers=layers)
    piece = Composition("Elastic word", 1080, 1080, Fraction(24), N, id="elastic-word")
    shown = layer("nested", "Elastic nest", N, composition=nest.id, position=(540.0, 540.0))
    shown = effect(shown, "outline", width=22.0, colour=parse_hex("#2a1f4a"))
    ground = backdrop(piece, "Ground", style="flat", colour=parse_hex("#ef6f52"))
    return nest, evolve(piece, layers=(shown, ground))
