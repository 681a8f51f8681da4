"""Half-and-half: the halves of product pictures swap in a seeded random order on hold keys; a price strip flashes."""

from __future__ import annotations

from fractions import Fraction

from attrs import evolve

from spiralis.core.colour import parse_hex
from spiralis.core.editing.sequencing import in_random_turn
from spiralis.core.model import Composition, Layer
from spiralis.demo.building import backdrop, keys, layer, rounded

N = 120
_PRODUCTS = (
    ("Swift half", "picture0", 47.0, "#f6c76a"), ("Delta half", "picture1", 56.0, "#8fd8cc"),
    ("Box half", "picture2", 60.0, "#ef9a7a"), ("Ray half", "picture3", 54.0, "#b7a6e8"),
)  # fmt: skip
_SIDE = (860, 800)


def _product(name: str, picture: str, scale: float, tint: str) -> Composition:
    width, height = _SIDE
    layers = (
        layer("picture", "Kite", N, source=picture, scale=(scale, scale), position=(width / 2, height / 2)),
        rounded("Tint", N, (width, height), 0.0, tint, position=(width / 2, height / 2)),
    )
    slug = name.lower().replace(" ", "-")
    return Composition(name, width, height, Fraction(24), N, id=slug, layers=layers)


def _halves(side: str, crop: tuple[float, float], products: tuple[Composition, ...]) -> tuple[Layer, ...]:
    """Return a layer a product, of which only one half shows."""
    return tuple(
        layer("nested", f"{side} {product.name}", N, composition=product.id, crop_across=crop, position=(540.0, 470.0))
        for product in products
    )


def compositions() -> tuple[Composition, ...]:
    """Return the products and the piece."""
    products = tuple(_product(*row) for row in _PRODUCTS)
    piece = Composition("Half-and-half", 1080, 1080, Fraction(24), N, id="half-and-half")
    left, right = _halves("Left", (0.0, 50.0), products), _halves("Right", (50.0, 0.0), products)
    flash = [(frame, value, "hold") for frame, value in ((0, 100.0), (40, 0.0), (44, 100.0), (48, 0.0), (52, 100.0))]
    layers = (
        layer("text", "Price", N, text="from 38", font="League Spartan", weight=900.0, size=120.0,
              fill=parse_hex("#fcf4e4"), position=(540.0, 962.0), opacity=keys(*flash)),
        rounded("Strip", N, (1080.0, 190.0), 0.0, "#c8452f", position=(540.0, 975.0)),
        rounded("Cut", N, (6.0, 800.0), 0.0, "#281e34", position=(540.0, 470.0)),
        *left, *right,
        backdrop(piece, "Wall", style="flat", colour=parse_hex("#281e34")),
    )  # fmt: skip
    piece = evolve(piece, layers=layers)
    for side, seed in ((left, 3), (right, 8)):
        piece = in_random_turn(piece, [each.id for each in side], 5, 14, seed)
    return (*products, piece)
