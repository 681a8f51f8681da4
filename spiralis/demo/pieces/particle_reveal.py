"""Particle reveal: a cloud of points turns from its side to the front, gathers into a word, drifts and whips away."""

from __future__ import annotations

from fractions import Fraction

from attrs import evolve

from spiralis.core.colour import parse_hex
from spiralis.core.model import Composition, Layer
from spiralis.demo.building import backdrop, effect, keys, layer

N = 150
_GOLD = tuple((place, *parse_hex(colour)) for place, colour in ((0.0, "#f0a03c"), (0.6, "#ffd98a"), (1.0, "#fff6e2")))


def _cloud() -> Layer:
    """Return the particles: on the word, near it and far from it, thinned by clouds, spread in depth."""
    cloud = layer(
        "particles", "Cloud", N, shape="layer", of="reveal-word", count=7000.0, born="always",
        near_share=24.0, near_distance=16.0, near_size=90.0, near_opacity=80.0,
        far_share=20.0, far_distance=190.0, far_size=230.0, far_opacity=34.0,
        thin=24.0, thin_size=90.0, depth_range=900.0, depth_by="normal", lens=40.0,
        turbulence=170.0, turbulence_size=330.0, turbulence_turns=1.0, gather_vary=75.0, gather_bands=False,
        look="soft", size=8.0, size_vary=65.0, stops=_GOLD, mix="add", twinkle=55.0, twinkle_turns=4.0,
        sway=keys((0, 88.0), (54, 0.0), (94, 0.0), (110, 9.0), (N, 88.0)),
        tilt=keys((0, -16.0), (54, 0.0), (94, 0.0), (110, -5.0), (N, -16.0)),
        gather=keys((0, 0.0), (60, 100.0), (106, 100.0), (N, 0.0)),
        position=keys((0, (-380.0, 430.0)), (46, (540.0, 540.0)), (98, (540.0, 540.0)), (112, (590.0, 534.0)),
                      (N, (-380.0, 430.0))),
        motion_blur=True,
    )  # fmt: skip
    return effect(cloud, "bloom", radius=34.0, strength=90.0, threshold=40.0)


def compositions() -> tuple[Composition, ...]:
    """Return the piece."""
    piece = Composition("Particle reveal", 1080, 1080, Fraction(25), N, id="particle-reveal")
    word = evolve(layer(
        "text", "Word", N, text="tolvane", font="League Spartan", weight=800.0, size=236.0, alignment="centre",
        fill=parse_hex("#ffe9bd"), position=(540.0, 540.0),
        opacity=keys((54, 0.0), (72, 60.0), (84, 60.0), (94, 0.0)),
    ), id="reveal-word")  # fmt: skip
    words = layer(
        "text", "Line", N, text="something is in the air", font="Inter", weight=500.0, size=44.0, alignment="centre",
        fill=parse_hex("#cfc7dd"), position=(540.0, 730.0),
        opacity=keys((60, 0.0), (74, 100.0), (96, 100.0), (106, 0.0)),
    )  # fmt: skip
    night = backdrop(piece, "Night", style="radial", centre=(50.0, 46.0), reach=92.0,
                     stops=tuple((place, *parse_hex(colour)) for place, colour in ((0.0, "#2b2344"), (1.0, "#0d0b18"))))
    return (evolve(piece, layers=(_cloud(), words, word, night)),)
