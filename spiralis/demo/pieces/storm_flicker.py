"""Storm flicker: a night builds up by layers that are added one after the other, then beams fall, each bent by several
waves of its own seed; few colours, for a small GIF."""

from __future__ import annotations

from fractions import Fraction

from attrs import evolve

from spiralis.core.colour import parse_hex
from spiralis.core.model import Composition, Layer
from spiralis.demo.building import backdrop, effect, keys, layer, rounded

N = 48
_NIGHT, _SLATE, _MIST, _LIGHT = "#141a33", "#3b4c80", "#4f69a0", "#f4e7b0"
#: Each beam: where it falls, when it shows, and the seed of its waves.
_BEAMS = (
    (300.0, (22, 24, 30, 32), 3.0), (560.0, (24, 26, 34, 36), 11.0), (800.0, (26, 28, 38, 41), 5.0),
    (430.0, (30, 32, 41, 43), 8.0), (690.0, (34, 36, 43, 45), 14.0),
)  # fmt: skip


def _from(made: Layer, first: int) -> Layer:
    """Return a layer that joins the picture at a frame and goes with all the others at the end."""
    return made.with_track("visible", keys((0, False, "hold"), (first, True, "hold"), (N - 2, False, "hold")))


def _cloud(name: str, place: tuple[float, float], seed: float, first: int) -> Layer:
    shape = rounded(name, N, (520.0, 150.0), 75.0, _SLATE, position=place)
    drift = keys((0, 0.0, "linear"), (N, 100.0))
    return _from(effect(shape, "wave", height=16.0, length=150.0 + 30 * seed, phase=drift, pinned="none"), first)


def _beam(index: int, x: float, shows: tuple[int, ...], seed: float) -> Layer:
    """Return a bolt from the clouds to the ground, bent by its own waves, and lit for two short whiles."""
    beam = rounded(f"Beam {index + 1}", N, (16.0, 620.0), 8.0, _LIGHT, position=(x, 610.0))
    beam = effect(beam, "wave", height=110.0, length=260.0, direction=90.0, form="triangle", generators=5.0, seed=seed,
                  pinned="top")  # fmt: skip
    beam = effect(beam, "halo", colour=parse_hex("#f4e7b0a0"), size=14.0, spread=2.0)
    marks = [(0, False, "hold"), *((frame, turn % 2 == 0, "hold") for turn, frame in enumerate(shows))]
    return beam.with_track("visible", keys(*marks))


def compositions() -> tuple[Composition, ...]:
    """Return the piece."""
    piece = Composition("Storm flicker", 1080, 1080, Fraction(12), N, id="storm-flicker")
    hill = layer("shape", "Hill", N, form="ellipse", size=(1500.0, 560.0), fill=parse_hex("#0d1124"),
                 position=(540.0, 1130.0))  # fmt: skip
    words = layer("text", "Words", N, text="wind is up", font="Lobster Two", weight=700.0, size=150.0,
                  fill=parse_hex(_LIGHT), position=(540.0, 972.0))  # fmt: skip
    layers = (
        _from(words, 16),
        _cloud("Near cloud", (430.0, 300.0), 2.0, 10),
        _cloud("Far cloud", (720.0, 230.0), 1.0, 7),
        *(_beam(index, *row) for index, row in enumerate(_BEAMS)),
        _from(hill, 4),
        _from(layer("pattern", "Rain", N, pattern="stripes", spacing=(46.0, 46.0), share=5.0, angle=74.0,
                    fill=parse_hex(_MIST), position=(540.0, 540.0),
                    shift=keys((0, (0.0, 0.0), "linear"), (N, (1200.0, 0.0)))), 13),
        backdrop(piece, "Night", style="flat", colour=parse_hex(_NIGHT)),
    )  # fmt: skip
    return (evolve(piece, layers=layers),)
