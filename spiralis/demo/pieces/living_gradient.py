"""Living gradient: four moving colours on an upright ground, churned into one another, softened and with a
bloom on what is bright; two lines of words slide and
fade in, one after the other, and mix with what lies beneath by difference and overlay."""

from __future__ import annotations

from fractions import Fraction

from attrs import evolve

from spiralis.core.colour import parse_hex
from spiralis.core.model import Composition, Layer
from spiralis.demo.building import effect, keys, layer

N = 180


def _line(name: str, text: str, y: float, start: int, side: float, blend: str) -> Layer:
    """Return a line that slides in from one side and leaves to the other, fading, blurred by its motion."""
    way = keys((start, (540.0 + side, y), "snap"), (start + 16, (540.0, y), "hold"),
               (150 + start // 4, (540.0, y), "late"),
               (164 + start // 4, (540.0 - side, y)))  # fmt: skip
    shown = keys((start, 0.0, "soft-stop"), (start + 10, 100.0, "hold"), (154 + start // 4, 100.0, "soft-start"),
                 (164 + start // 4, 0.0))  # fmt: skip
    return layer("text", name, N, text=text, font="League Spartan", weight=900.0, size=214.0, leading=88.0,
                 fill=parse_hex("#fcf4e4"), position=way, opacity=shown, blend=blend, motion_blur=True)  # fmt: skip


def compositions() -> tuple[Composition, ...]:
    """Return the piece."""
    piece = Composition("Living gradient", 1080, 1920, Fraction(30), N, id="living-gradient")

    def way(*places: tuple[float, float]) -> object:
        step = N // len(places)
        return keys(*((i * step, place, "soft-both") for i, place in enumerate(places)), (N, places[0]))

    layers = (
        _line("Second line", "THE\nWIND", 1180.0, 24, -900.0, "overlay"),
        _line("First line", "MADE\nOF", 700.0, 8, 900.0, "difference"),
        effect(effect(effect(layer("field", "Colours", N, position=(540.0, 960.0), points=4.0, softness=62.0,
              colour_1=parse_hex("#ef6f52"), colour_2=parse_hex("#f5b23d"), colour_3=parse_hex("#2f8f8c"),
              colour_4=parse_hex("#4a2f8a"), place_1=way((16.0, 16.0), (60.0, 34.0), (30.0, 60.0)),
              place_2=way((84.0, 20.0), (48.0, 12.0), (90.0, 52.0)),
              place_3=way((22.0, 84.0), (54.0, 62.0), (10.0, 48.0)),
              place_4=way((82.0, 82.0), (88.0, 50.0), (48.0, 90.0))),
               "churn", strength=150.0, grain=620.0, detail=2.0, edge="mirror",
               evolution=keys((0, 0.0, "straight"), (N, 100.0))),
               "gaussian-blur", across=18.0, down=18.0, edge="repeat"),
               "bloom", threshold=62.0, radius=160.0, octaves=3.0, strength=70.0),
    )  # fmt: skip
    return (evolve(piece, layers=layers),)
