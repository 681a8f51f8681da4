"""Bulb chase: bulbs round a sign go on and off in turn and change their colours; each bulb's halo is switched by hold
keys while its glass fades apart from it. Square, for a GIF."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

from attrs import evolve

from spiralis.core.colour import parse_hex
from spiralis.core.model import Composition, Layer, Track
from spiralis.demo.building import backdrop, effect, keys, layer, rounded

#: Three bulbs to a turn; a turn of the light takes twelve frames, a round of the colours twice that.
N, _TURN, _PHASES = 48, 12, 3
_COLOURS = ("#ffd36b", "#ff8f6b", "#7bd0c1")
_SIDE, _COUNT = 860.0, 7


def _places() -> list[tuple[float, float]]:
    """Return where the bulbs are, clockwise round the sign from its top left corner."""
    low, high, step = 540.0 - _SIDE / 2, 540.0 + _SIDE / 2, _SIDE / (_COUNT - 1)
    along = [low + step * i for i in range(_COUNT - 1)]
    back = [high - step * i for i in range(_COUNT - 1)]
    return [*((x, low) for x in along), *((high, y) for y in along), *((x, high) for x in back),
            *((low, y) for y in back)]  # fmt: skip


def _held(changes: dict[int, Any], at_first: Any) -> Track:
    """Return hold keys of changes by frame, beginning with what the loop ends with."""
    return keys((0, at_first, "hold"), *((frame, changes[frame], "hold") for frame in sorted(changes)))


def _bulb(index: int, place: tuple[float, float]) -> Layer:
    """Return a bulb that is lit for a third of each turn; nothing changes at the seam itself."""
    phase, lit = index % _PHASES, _TURN // _PHASES
    on: dict[int, bool] = {}
    colours: dict[int, Any] = {}
    for turn in range(N // _TURN):
        first = turn * _TURN + phase * lit + lit // 2
        on |= {first % N: True, (first + lit) % N: False}
        colours[turn * _TURN + _TURN // 2] = parse_hex(_COLOURS[(turn // 2 + index) % len(_COLOURS)])
    over_seam = phase == _PHASES - 1
    glass = {frame: 100.0 if lights else 26.0 for frame, lights in on.items()}
    tint = _held(colours, colours[max(colours)])
    bulb = layer("shape", f"Bulb {index + 1}", N, form="ellipse", size=(52.0, 52.0), position=place, fill=tint,
                 content_opacity=_held(glass, 100.0 if over_seam else 26.0))  # fmt: skip
    return effect(bulb, "halo", on=_held(on, over_seam), colour=tint, size=22.0, spread=6.0)


def compositions() -> tuple[Composition, ...]:
    """Return the piece."""
    piece = Composition("Bulb chase", 1080, 1080, Fraction(12), N, id="bulb-chase")
    words = layer("text", "Words", N, text="OPEN\nTODAY", font="League Spartan", weight=900.0, size=210.0,
                  leading=92.0, alignment="centre", fill=parse_hex("#fcf4e4"), position=(540.0, 545.0))  # fmt: skip
    words = effect(words, "halo", colour=parse_hex("#ff8f6b"), size=26.0, spread=2.0,
                   on=keys((0, True, "hold"), (24, False, "hold"), (30, True, "hold")))  # fmt: skip
    board = effect(rounded("Board", N, (980.0, 980.0), 60.0, "#402a3f", position=(540.0, 540.0)), "inset-shadow",
                   size=26.0, distance=10.0, angle=90.0)  # fmt: skip
    bulbs = tuple(_bulb(index, place) for index, place in enumerate(_places()))
    layers = (*bulbs, words, board, backdrop(piece, "Wall", style="flat", colour=parse_hex("#241726")))
    return (evolve(piece, layers=layers),)
