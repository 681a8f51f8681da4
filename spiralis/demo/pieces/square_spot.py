"""Square spot, 29.97 frames a second: stripes in thirds, a reel that rolls along all four edges, a picture that lands
with one soft bounce, one that leaves on a curve, a cart whose wheels turn about their own hubs, a faint pattern, and a
tune as long as the loop."""

from __future__ import annotations

import math
from fractions import Fraction

from attrs import evolve

from spiralis.core.colour import parse_hex
from spiralis.core.model import Composition, Layer, Track
from spiralis.core.model.art import Bundle, Figure, Stroke
from spiralis.core.model.drivers import Roll
from spiralis.core.model.forms import ellipse, polygon
from spiralis.demo.building import backdrop, keys, layer, rounded

N, RATE = 180, Fraction(30000, 1001)
SECONDS = N / RATE
_SIDE = 1080.0
#: The reel turns ten times on its way round: 4 (side - 2 r) = 10 · 2 π r.
_TURNS = 10
RADIUS = 4 * _SIDE / (8 + 2 * math.pi * _TURNS)


def _wheel(radius: float, rim: str, hub: str, spokes: int) -> Bundle:
    pen = Stroke(parse_hex(hub), radius * 0.12, "round", "round")
    lines = tuple(
        polygon([(0.0, 0.0), (0.78 * radius * math.cos(a), 0.78 * radius * math.sin(a))], closed=False)
        for a in (2 * math.pi * i / spokes for i in range(spokes))
    )
    return Bundle((
        Figure((ellipse(0, 0, radius, radius),), parse_hex(rim)),
        Figure((ellipse(0, 0, radius * 0.8, radius * 0.8),), parse_hex("#fcf4e4")),
        Figure(lines, stroke=pen),
        Figure((ellipse(0, 0, radius * 0.24, radius * 0.24),), parse_hex(hub)),
    ))  # fmt: skip


def _reel() -> Layer:
    near, far = RADIUS, _SIDE - RADIUS
    corners = ((near, near), (far, near), (far, far), (near, far), (near, near))
    way = keys(*((N // 4 * i, corner, "linear") for i, corner in enumerate(corners)))
    return layer("shape", "Reel", N, art=_wheel(RADIUS, "#c8452f", "#281e34", 5), position=way,
                 rotation=Track(0.0, driver=Roll(RADIUS)))  # fmt: skip


def _cart() -> tuple[Layer, ...]:
    """A cart that crosses from left to right; each wheel turns as far as its rim has rolled."""
    wheel, start, end = 46.0, -260.0, 1340.0
    way = keys((30, (start, 820.0), "soft-both"), (150, (end, 820.0)))
    turn = Track(0.0, driver=Roll(wheel, "cart"))
    carrier = layer("carrier", "Cart", N, position=way, size=(100.0, 100.0))

    def part(made: Layer) -> Layer:
        return evolve(made, parent="cart")

    drawn = _wheel(wheel, "#281e34", "#f5b23d", 6)
    wheels = [
        part(layer("shape", name, N, art=drawn, position=(50.0 + x, 150.0), rotation=turn))
        for name, x in (("Front wheel", 100.0), ("Back wheel", -100.0))
    ]
    body = part(rounded("Body", N, (330.0, 120.0), 22.0, "#2f7f86", position=(50.0, 90.0)))
    words = part(layer("text", "Cart words", N, text="tolvane", font="Comfortaa", weight=700.0, size=64.0,
                       fill=parse_hex("#fcf4e4"), position=(50.0, 88.0)))  # fmt: skip
    load = part(layer("picture", "Load", N, source="picture1", scale=(22.0, 22.0), position=(50.0, -40.0)))
    return (*wheels, words, body, load, carrier)


def _stripe(index: int, tint: str) -> Layer:
    """Return a third of the frame that opens from the left by crop, and closes again to the right."""
    first = 4 * index
    crop = keys((first, (0.0, 100.0), "soft-both"), (first + 18, (0.0, 0.0), "hold"),
                (148 + first, (0.0, 0.0), "soft-both"), (166 + first, (100.0, 0.0), "hold"),
                (N, (0.0, 100.0)))  # fmt: skip
    third = _SIDE / 3
    return rounded(f"Stripe {index + 1}", N, (_SIDE, third), 0.0, tint, position=(540.0, third * (index + 0.5)),
                   crop_across=crop)  # fmt: skip


def compositions() -> tuple[Composition, ...]:
    """Return the piece."""
    piece = Composition("Square spot", 1080, 1080, RATE, N, id="square-spot")
    landing = keys((24, (330.0, -420.0), "cubic-bezier(.55, 0, 1, .6)"),
                   (40, (330.0, 470.0), "cubic-bezier(0, .5, .5, 1)"),
                   (47, (330.0, 428.0), "cubic-bezier(.5, 0, 1, .5)"), (54, (330.0, 470.0), "hold"),
                   (138, (330.0, 470.0), "soft-start"), (152, (330.0, -420.0)))  # fmt: skip
    leaving = keys((34, (1400.0, 560.0), "soft-stop", None, (-120.0, -20.0)),
                   (58, (760.0, 400.0), "hold", (120.0, 60.0), (-60.0, -160.0)),
                   (116, (760.0, 400.0), "soft-start", (60.0, 160.0), (60.0, -260.0)),
                   (146, (1420.0, -320.0), "linear", (-320.0, 40.0)))  # fmt: skip
    lean = keys((58, 0.0, "soft-both"), (88, -8.0, "soft-both"), (116, 0.0, "soft-start"), (146, 38.0))
    layers = (
        layer("sound", "Reel tune", N, source="reel-tune", ends="loop", volume=80.0),
        _reel(),
        *_cart(),
        layer("picture", "Box kite", N, source="picture2", scale=(46.0, 46.0), position=landing, motion_blur=True),
        layer("picture", "Swift kite", N, source="picture0", scale=(38.0, 38.0), position=leaving, rotation=lean,
              motion_blur=True),
        layer("pattern", "Faint words", N, pattern="word", word="tolvane", font="Comfortaa", spacing=(250.0, 76.0),
              share=56.0, stagger=50.0, angle=-14.0, fill=parse_hex("#281e3412"), position=(540.0, 540.0)),
        *(_stripe(i, tint) for i, tint in enumerate(("#f6c76a", "#f3a86a", "#ef8a6a"))),
        backdrop(piece, "Paper", style="flat", colour=parse_hex("#fcf4e4")),
    )  # fmt: skip
    return (evolve(piece, layers=layers),)
