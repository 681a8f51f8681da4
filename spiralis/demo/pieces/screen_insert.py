"""Screen insert: a long page, then footage, scrolled behind the edge of a screen that stands in a picture."""

from __future__ import annotations

from fractions import Fraction

from attrs import evolve

from spiralis.core.colour import parse_hex
from spiralis.core.model import Composition, Matte
from spiralis.demo.building import backdrop, keys, layer, rounded, stops

N = 200
_SCREEN = (1000.0, 640.0)
_PLACE = (960.0, 470.0)


def _page() -> Composition:
    """A long page of the workshop: a heading, three kites, lines of text."""
    n, width = N, 1000
    lines = "Every kite is cut, sewn and flown\nonce before it leaves the shed."
    left = {"alignment": "left", "pivot": (0.0, 50.0)}
    layers = [
        layer("text", "Heading", n, text="The shed", font="Lobster Two", weight=700.0, size=130.0,
              fill=parse_hex("#281e34"), position=(70.0, 140.0), **left),
        layer("text", "Lines", n, text=lines, font="Karla", weight=500.0, size=44.0, leading=130.0,
              fill=parse_hex("#4a3a58"), position=(70.0, 300.0), **left),
    ]  # fmt: skip
    for index, (picture, scale, tint) in enumerate((("picture0", 26.0, "#f6c76a"), ("picture2", 34.0, "#ef9a7a"),
                                                    ("picture3", 30.0, "#b7a6e8"))):  # fmt: skip
        y = 640.0 + 500.0 * index
        shown = layer("picture", f"Picture {index + 1}", n, source=picture, scale=(scale, scale), position=(500.0, y))
        layers.append(shown)
        layers.append(rounded(f"Tint {index + 1}", n, (860.0, 450.0), 30.0, tint, position=(500.0, y)))
    paper = rounded("Paper", n, (float(width), 1960.0), 0.0, "#fcf4e4", position=(500.0, 980.0))
    return Composition("Long page", width, 1960, Fraction(25), n, id="long-page", layers=(*layers, paper))


def compositions() -> tuple[Composition, ...]:
    """Return the page and the piece."""
    page = _page()
    piece = Composition("Screen insert", 1920, 1080, Fraction(25), N, id="screen-insert")
    x, y = _PLACE
    top, low = y - _SCREEN[1] / 2 + page.height / 2, y + _SCREEN[1] / 2 - page.height / 2
    way = keys((10, (x, top), "soft-both"), (50, (x, top - 560.0), "hold"), (60, (x, top - 560.0), "soft-both"),
               (100, (x, low), "hold"), (118, (x, low), "heavy-both"), (134, (x, low - _SCREEN[1] - 60.0), "hold"),
               (184, (x, top + _SCREEN[1] + 900.0), "soft-stop"), (N, (x, top)))  # fmt: skip
    clip = keys((118, (x, y + _SCREEN[1] + 20.0), "heavy-both"), (134, (x, y), "hold"), (184, (x, y), "soft-start"),
                (N - 1, (x, y - _SCREEN[1] - 20.0), "hold"), (N, (x, y + _SCREEN[1] + 20.0)))  # fmt: skip
    window = rounded("Screen", N, _SCREEN, 18.0, "#ffffff", position=_PLACE)
    behind = (Matte("screen"),)
    layers = (
        window,
        evolve(layer("footage", "Ribbon", N, source="ribbon", position=clip, scale=(142.0, 142.0)), mattes=behind),
        evolve(layer("nested", "Page", N, composition=page.id, position=way), mattes=behind),
        rounded("Glass", N, _SCREEN, 18.0, "#1a1430", position=_PLACE),
        rounded("Bezel", N, (1060.0, 706.0), 34.0, "#2b2438", position=(960.0, 472.0)),
        rounded("Neck", N, (120.0, 150.0), 8.0, "#3a3148", position=(960.0, 880.0)),
        rounded("Base", N, (420.0, 40.0), 20.0, "#2b2438", position=(960.0, 950.0)),
        rounded("Mug", N, (110.0, 130.0), 20.0, "#ef6f52", position=(1640.0, 890.0)),
        rounded("Notebook", N, (330.0, 44.0), 10.0, "#7bd0c1", position=(300.0, 934.0)),
        rounded("Desk", N, (1920.0, 140.0), 0.0, "#8a5a3c", position=(960.0, 1020.0)),
        layer("clouds", "Wall shade", N, position=(960.0, 540.0), blend="soft-light", opacity=60.0,
              scale_px=(900.0, 700.0), detail=2.0, stops=stops((0.0, "#000000"), (1.0, "#ffffff"))),
        backdrop(piece, "Wall", style="radial", centre=(50.0, 34.0), reach=120.0,
                 stops=stops((0.0, "#f3d7b4"), (1.0, "#b98a6e"))),
    )  # fmt: skip
    return page, evolve(piece, layers=layers)
