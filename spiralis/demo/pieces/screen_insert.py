"""Screen insert: a long page, then footage, scrolled behind the edge of a screen and set in perspective into its four
corners, as it stands at an angle in a picture."""

from __future__ import annotations

from fractions import Fraction

from attrs import evolve

from spiralis.core.colour import parse_hex
from spiralis.core.editing.corner_pinning import pinned_to
from spiralis.core.effects.corner_pin import NAME
from spiralis.core.model import Composition, Layer, Project
from spiralis.core.model.blocks import Block
from spiralis.core.render.layers import Evaluated
from spiralis.demo.building import backdrop, keys, layer, rounded, stops

N = 200
Corners = tuple[tuple[float, float], ...]
_SCREEN = (1000, 640)
#: The corners of the glass in the picture: top left, top right, bottom right, bottom left.
_CORNERS = ((520.0, 214.0), (1376.0, 120.0), (1412.0, 806.0), (548.0, 726.0))


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


def _screen(page: Composition) -> Composition:
    """What the screen shows: the page scrolled, then the clip that comes from below."""
    width, height = _SCREEN
    x, y = width / 2, height / 2
    top, low = page.height / 2, height - page.height / 2
    way = keys((10, (x, top), "soft-both"), (50, (x, top - 560.0), "hold"), (60, (x, top - 560.0), "soft-both"),
               (100, (x, low), "hold"), (118, (x, low), "heavy-both"), (134, (x, low - height - 60.0), "hold"),
               (184, (x, top + height + 900.0), "soft-stop"), (N, (x, top)))  # fmt: skip
    clip = keys((118, (x, y + height + 20.0), "heavy-both"), (134, (x, y), "hold"), (184, (x, y), "soft-start"),
                (N - 1, (x, y - height - 20.0), "hold"), (N, (x, y + height + 20.0)))  # fmt: skip
    layers = (
        layer("footage", "Ribbon", N, source="ribbon", position=clip, scale=(142.0, 142.0)),
        layer("nested", "Page", N, composition=page.id, position=way),
    )
    return Composition("Screen", width, height, Fraction(25), N, id="screen", background=parse_hex("#1a1430"),
                       layers=layers)  # fmt: skip


def pinned(piece: Composition, made: Layer, corners: Corners, *shown: Composition) -> Layer:
    """Return a layer set into four corners of the picture."""
    at = Evaluated(Project("pin", (piece, *shown)), evolve(piece, layers=(made,)), 0)
    pinned = pinned_to(at, made, corners)
    # An id that is the same every time, as all of the demo's are.
    old = pinned.blocks[-1].id
    tracks = {name.replace(old, "pin"): track for name, track in pinned.properties.items()}
    return evolve(pinned, blocks=(Block(NAME, "pin"),), properties=tracks)


def compositions() -> tuple[Composition, ...]:
    """Return the page, what the screen shows, and the piece."""
    page = _page()
    screen = _screen(page)
    piece = Composition("Screen insert", 1920, 1080, Fraction(25), N, id="screen-insert")
    glass = layer("nested", "Screen", N, composition=screen.id, position=(960.0, 470.0))
    rim = tuple((x + dx, y + dy) for (x, y), (dx, dy) in
                zip(_CORNERS, ((-34.0, -30.0), (32.0, -34.0), (34.0, 34.0), (-32.0, 32.0)), strict=True))  # fmt: skip
    side = tuple((x + 22.0, y + 10.0) for x, y in rim)
    bezel = rounded("Bezel", N, (1060.0, 706.0), 34.0, "#2b2438", position=(960.0, 472.0))
    edge = rounded("Edge", N, (1060.0, 706.0), 34.0, "#191422", position=(960.0, 472.0))
    layers = (
        pinned(piece, glass, _CORNERS, screen),
        pinned(piece, bezel, rim),
        pinned(piece, edge, side),
        rounded("Neck", N, (120.0, 170.0), 8.0, "#3a3148", position=(990.0, 880.0)),
        rounded("Base", N, (420.0, 40.0), 20.0, "#2b2438", position=(990.0, 950.0)),
        rounded("Mug", N, (110.0, 130.0), 20.0, "#ef6f52", position=(1640.0, 890.0)),
        rounded("Notebook", N, (330.0, 44.0), 10.0, "#7bd0c1", position=(300.0, 934.0)),
        rounded("Desk", N, (1920.0, 140.0), 0.0, "#8a5a3c", position=(960.0, 1020.0)),
        layer("clouds", "Wall shade", N, position=(960.0, 540.0), blend="soft-light", opacity=60.0,
              scale_px=(900.0, 700.0), detail=2.0, stops=stops((0.0, "#000000"), (1.0, "#ffffff"))),
        backdrop(piece, "Wall", style="radial", centre=(50.0, 34.0), reach=120.0,
                 stops=stops((0.0, "#f3d7b4"), (1.0, "#b98a6e"))),
    )  # fmt: skip
    return page, screen, evolve(piece, layers=layers)
