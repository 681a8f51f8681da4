"""Poster in motion: a flat flyer taken apart; its sky slides in by mirrored tiles, the headline stands between the kite
and the sky, and all flies in from the depth."""

from __future__ import annotations

from fractions import Fraction

from attrs import evolve

from spiralis.core.colour import parse_hex
from spiralis.core.model import Composition
from spiralis.demo.building import backdrop, effect, keys, layer

N = 150


def compositions() -> tuple[Composition, ...]:
    """Return the piece."""
    piece = Composition("Poster in motion", 1080, 1350, Fraction(25), N, id="poster-in-motion")
    middle, shown = (540.0, 675.0), {"scale": (150.0, 150.0), "depth": True}
    fade = keys((0, 0.0), (12, 100.0, "hold"), (136, 100.0), (N, 0.0))
    kite = layer(
        "picture", "Kite", N, source="flyer-kite", position=middle, **shown, opacity=fade, motion_blur=True,
        position_z=keys((4, -900.0, "soft-stop"), (38, -40.0, "soft-both"), (84, 30.0, "soft-both"),
                        (126, -40.0, "heavy-both"), (N, -900.0)),
        turn_y=keys((4, -32.0, "soft-stop"), (40, 6.0, "soft-both"), (84, -6.0, "soft-both"), (126, 6.0, "heavy-both"),
                    (N, 32.0)),
    )  # fmt: skip
    words = layer(
        "text", "Headline", N, text="ABOVE\nTHE SAND", font="League Spartan", weight=900.0, size=196.0, leading=86.0,
        fill=parse_hex("#3a1c4a"), position=(540.0, 470.0), depth=True, motion_blur=True, opacity=fade,
        position_z=keys((8, 1500.0, "soft-stop"), (46, 60.0, "soft-both"), (126, 60.0, "heavy-both"), (N, 1500.0)),
    )  # fmt: skip
    words = effect(words, "drop-shadow", colour=parse_hex("#fcf4e490"), distance=8.0, size=14.0)
    line = layer(
        "text", "Line", N, text="Flying lessons every Saturday", font="Karla", weight=700.0, size=50.0,
        fill=parse_hex("#281408"), pivot=(50.0, 50.0),
        position=keys((30, (540.0, 1400.0), "soft-stop"), (52, (540.0, 1236.0), "hold"),
                      (128, (540.0, 1236.0), "soft-start"), (N, (540.0, 1400.0))),
    )  # fmt: skip
    sky = layer(
        "picture", "Sand and sky", N, source="flyer-behind", scale=(156.0, 156.0), motion_blur=True,
        position=keys((0, (-500.0, 675.0), "heavy-both"), (36, middle, "soft-both"),
                      (126, (560.0, 675.0), "heavy-both"), (N, (-500.0, 675.0))),
    )  # fmt: skip
    sky = effect(sky, "tile", mirrored=True)
    ground = backdrop(piece, "Ground", style="flat", colour=parse_hex("#2c6f8c"))
    return (evolve(piece, layers=(kite, line, words, sky, ground)),)
