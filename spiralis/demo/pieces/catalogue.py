"""Catalogue scroll: cards in a tall nested page seen through a kiosk's window; three swipes of different pace; a
pointer whose hand closes by path keys; ends where it began."""

from __future__ import annotations

from fractions import Fraction

from attrs import evolve

from spiralis.core.colour import parse_hex
from spiralis.core.model import Composition, Key, Layer, Matte, Track
from spiralis.core.model.art import Bundle, Contour, Figure, Stroke
from spiralis.demo.building import ease, keys, layer, rounded, stops

N = 200
_CARDS = (
    ("Swift", "light wind, two lines", "64", "picture0", 15.5, "#f6c76a"),
    ("Delta", "first flights", "38", "picture1", 15.0, "#8fd8cc"),
    ("Box", "strong wind", "92", "picture2", 19.0, "#ef9a7a"),
    ("Ray", "quiet evenings", "78", "picture3", 17.5, "#b7a6e8"),
    ("Tail set", "six bows, one cord", "12", "picture5", 50.0, "#f3a0b4"),
)  # fmt: skip
_CARD = (640, 300)
_GAP = 24


def _card(name: str, line: str, price: str, picture: str, scale: float, tint: str) -> Composition:
    n, (width, height) = N, _CARD
    words = {"alignment": "left", "pivot": (0.0, 50.0)}
    layers = (
        layer("text", "Name", n, text=name, font="League Spartan", weight=900.0, size=62.0, fill=parse_hex("#281e34"),
              position=(290.0, 92.0), **words),
        layer("text", "Line", n, text=line, font="Karla", weight=500.0, size=32.0, fill=parse_hex("#5a4a68"),
              position=(290.0, 150.0), **words),
        layer("text", "Price", n, text=price, font="League Spartan", weight=700.0, size=74.0,
              fill=parse_hex("#c8452f"), position=(290.0, 230.0), **words),
        layer("picture", "Kite", n, source=picture, scale=(scale, scale), position=(150.0, height / 2)),
        rounded("Tint", n, (268.0, height - 32.0), 26.0, tint, position=(150.0, height / 2)),
        rounded("Paper", n, (width, height), 36.0, "#fcf4e4", position=(width / 2, height / 2)),
    )  # fmt: skip
    slug = name.lower().replace(" ", "-")
    return Composition(f"Card {name}", width, height, Fraction(25), n, id=f"card-{slug}", layers=layers)


def _page(cards: tuple[Composition, ...]) -> Composition:
    step = _CARD[1] + _GAP
    height = 150 + len(cards) * step
    made = [
        layer("nested", card.name, N, composition=card.id, position=(360.0, 130.0 + _CARD[1] / 2 + index * step))
        for index, card in enumerate(cards)
    ]
    title = layer("text", "Title", N, text="This season", font="Lobster Two", weight=700.0, size=76.0,
                  fill=parse_hex("#fcf4e4"), position=(360.0, 66.0))  # fmt: skip
    return Composition("Catalogue page", 720, height, Fraction(25), N, id="catalogue-page", layers=(title, *made))


def _hand(pressed: float) -> Bundle:
    """A pointing hand in one outline; ``pressed`` 1 bends its finger."""
    p = pressed
    points = [
        (0, 0 + 26 * p), (16, -16 + 34 * p), (34, 0 + 26 * p), (36, 74), (58, 62), (78, 74), (98, 70), (116, 86),
        (134, 84), (146, 104), (148, 160), (124, 214), (58, 214), (26, 176), (-24 + 6 * p, 122),
        (-16, 100), (6, 108), (2, 60),
    ]  # fmt: skip
    vertices = []
    for index, (x, y) in enumerate(points):
        (ax, ay), (bx, by) = points[index - 1], points[(index + 1) % len(points)]
        dx, dy = (bx - ax) / 6, (by - ay) / 6
        vertices.append((x, y, x - dx, y - dy, x + dx, y + dy))
    contour = Contour(tuple(tuple(float(v) for v in vertex) for vertex in vertices), True)  # type: ignore[misc]
    line = Stroke(parse_hex("#281e34"), 7.0, "round", "round")
    return Bundle((Figure((contour,), parse_hex("#fcf4e4"), stroke=line),))


def _pointer() -> Layer:
    open_, shut = _hand(0.0), _hand(1.0)
    presses = ((14, 22, 46, 54), (62, 70, 92, 100), (118, 126, 166, 174))
    marks = [Key(0, open_)]
    for down, held, up, free in presses:
        marks += [Key(down, open_, ease("soft-both")), Key(held, shut, ease("hold")), Key(up, shut, ease("soft-both")),
                  Key(free, open_)]  # fmt: skip
    marks.append(Key(N, open_))
    low, high = (690.0, 1010.0), (650.0, 560.0)
    way = keys((0, low), (20, low, "soft-both"), (44, high, "hold"), (50, high, "soft-both"), (66, low, "snap"),
               (88, (664.0, 520.0), "hold"), (96, (664.0, 520.0), "soft-both"), (122, (640.0, 470.0), "heavy-both"),
               (168, (700.0, 1060.0), "soft-both"), (N, low))  # fmt: skip
    return layer("shape", "Pointer", N, art=Track(open_, tuple(marks)), position=way, pivot=(0.0, 0.0))


def compositions() -> tuple[Composition, ...]:
    """Return the cards, the page and the piece."""
    cards = tuple(_card(*row) for row in _CARDS)
    page = _page(cards)
    piece = Composition("Catalogue scroll", 1080, 1350, Fraction(25), N, id="catalogue-scroll")
    top = 250.0 + page.height / 2
    first, second, last = top - 330.0, top - 760.0, top - 900.0
    scroll = keys((20, (540.0, top), "soft-both"), (46, (540.0, first), "hold"), (68, (540.0, first), "snap"),
                  (94, (540.0, second), "soft-stop"), (110, (540.0, last), "hold"), (124, (540.0, last), "heavy-both"),
                  (172, (540.0, top)))  # fmt: skip
    window = rounded("Screen", N, (760.0, 900.0), 44.0, "#ffffff", position=(540.0, 640.0))
    shown = evolve(layer("nested", "Page", N, composition=page.id, position=scroll), mattes=(Matte("screen"),))
    layers = (
        _pointer(),
        window,
        shown,
        rounded("Glass", N, (760.0, 900.0), 44.0, "#3a2a52", position=(540.0, 640.0)),
        rounded("Body", N, (880.0, 1040.0), 96.0, "#f5b23d", position=(540.0, 640.0)),
        rounded("Edge", N, (908.0, 1070.0), 108.0, "#c27f22", position=(540.0, 652.0)),
        rounded("Foot", N, (240.0, 190.0), 18.0, "#c27f22", position=(540.0, 1230.0)),
        rounded("Plinth", N, (520.0, 54.0), 27.0, "#8f5a1c", position=(540.0, 1308.0)),
        layer("backdrop", "Shop wall", N, style="linear", angle=90.0, position=(540.0, 675.0),
              stops=stops((0.0, "#2f7f86"), (0.86, "#3d8f8c"), (0.861, "#1d4f58"), (1.0, "#245f66"))),
    )  # fmt: skip
    return (*cards, page, evolve(piece, layers=layers))
