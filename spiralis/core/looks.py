"""The look sets that come with Spiralis."""

from __future__ import annotations

from functools import cache
from typing import Any

from spiralis.core.editing.look_sets import LookSet, look_set

_GOLD = ((0.0, 0.98, 0.90, 0.55, 1.0), (0.45, 0.80, 0.52, 0.16, 1.0), (0.55, 1.0, 0.93, 0.66, 1.0),
         (1.0, 0.62, 0.34, 0.08, 1.0))  # fmt: skip
_ICE = ((0.0, 0.90, 0.98, 1.0, 0.85), (1.0, 0.45, 0.70, 0.95, 0.55))
_DUSK = ((0.0, 0.05, 0.04, 0.18, 1.0), (0.5, 0.56, 0.20, 0.47, 1.0), (0.8, 0.99, 0.62, 0.36, 1.0),
         (1.0, 1.0, 0.93, 0.75, 1.0))  # fmt: skip


#: Name, help, and the kinds with their numbers, in the order in which they are shown.
_LOOKS: tuple[tuple[Any, ...], ...] = (
    (
        "Warm window", "A wide warm glow, and a tighter one in it",
        ("halo", {"colour": (1.0, 0.62, 0.25, 0.9), "size": 60.0, "spread": 6.0, "strength": 90.0}),
        ("halo", {"colour": (1.0, 0.88, 0.6, 1.0), "size": 14.0, "spread": 1.0}),
    ),
    (
        "Neon tube", "A bright line along the edge that glows, and nothing inside",
        ("outline-only", {"colour": (1.0, 0.86, 0.96, 1.0), "width": 5.0}),
        ("halo", {"colour": (1.0, 0.2, 0.62, 1.0), "size": 9.0, "spread": 2.0}),
        ("halo", {"colour": (0.85, 0.1, 0.8, 0.8), "size": 40.0, "spread": 4.0}),
    ),
    (
        "Lifted", "A soft shadow straight below",
        ("drop-shadow", {"colour": (0.05, 0.03, 0.12, 0.55), "angle": 90.0, "distance": 18.0, "size": 22.0}),
    ),
    (
        "Cut paper", "A crisp shadow close by, and a lighter edge",
        ("drop-shadow", {"colour": (0.08, 0.05, 0.12, 0.5), "angle": 55.0, "distance": 8.0, "size": 3.0}),
        ("inner-halo", {"colour": (1.0, 1.0, 1.0, 0.6), "size": 2.0, "spread": 0.0}),
    ),
    (
        "Late afternoon", "A long shadow that fades as it goes",
        ("long-shadow", {"colour": (0.1, 0.05, 0.2, 0.5), "angle": 35.0, "length": 180.0, "fade": 90.0}),
    ),
    (
        "Pressed in", "As if pushed into the paper",
        ("inset-shadow", {"colour": (0.0, 0.0, 0.05, 0.65), "angle": 90.0, "distance": 6.0, "size": 7.0}),
        ("drop-shadow", {"colour": (1.0, 1.0, 1.0, 0.35), "angle": 90.0, "distance": 2.0, "size": 1.0}),
    ),
    (
        "Sticker", "A broad white edge with a soft shadow under it",
        ("outline", {"colour": (1.0, 1.0, 1.0, 1.0), "width": 12.0}),
        ("drop-shadow", {"colour": (0.0, 0.0, 0.0, 0.45), "angle": 75.0, "distance": 10.0, "size": 12.0,
                         "spread": 12.0}),
    ),
    (
        "Twice around", "Two lines with a gap between them",
        ("outline", {"colour": (1.0, 0.74, 0.24, 1.0), "width": 5.0, "gap": 4.0}),
        ("outline", {"colour": (0.98, 0.35, 0.40, 1.0), "width": 5.0, "gap": 13.0}),
    ),
    (
        "Wire", "The edge as a thin line, twice drawn a little apart",
        ("outline-only", {"colour": (0.92, 0.95, 1.0, 1.0), "width": 2.5}),
        ("channel-split", {"red": (-3.0, 0.0), "blue": (3.0, 0.0)}),
    ),
    (
        "Gilded", "Filled with gold, with a bevelled edge",
        ("fill", {"stops": _GOLD, "angle": 75.0}),
        ("inset-shadow", {"colour": (0.35, 0.16, 0.0, 0.7), "angle": 250.0, "distance": 3.0, "size": 3.0}),
        ("drop-shadow", {"colour": (0.1, 0.04, 0.0, 0.5), "angle": 80.0, "distance": 7.0, "size": 6.0}),
    ),
    (
        "Ice", "Pale, half clear, bright along the edge",
        ("fill", {"stops": _ICE, "angle": 80.0}),
        ("inner-halo", {"colour": (1.0, 1.0, 1.0, 0.9), "size": 7.0, "spread": 1.0}),
        ("halo", {"colour": (0.55, 0.85, 1.0, 0.7), "size": 24.0, "spread": 0.0}),
    ),
    (
        "Dusk", "Dark violet to warm light, by brightness",
        ("gradient-map", {"stops": _DUSK, "amount": 85.0}),
        ("grain", {"amount": 7.0}),
    ),
    (
        "Old print", "Two inks on cream, a little grain",
        ("two-tone-map", {"dark": (0.13, 0.16, 0.30, 1.0), "light": (0.97, 0.92, 0.80, 1.0), "amount": 92.0}),
        ("grain", {"amount": 12.0, "size": 2.0}),
    ),
    (
        "Washed out", "Pale and soft, as if long in the sun",
        ("tone-curve", {"all": ((0.0, 0.16), (0.5, 0.57), (1.0, 0.93))}),
        ("hue", {"saturation": 70.0}),
        ("temperature", {"warmth": 12.0}),
    ),
    (
        "Deep", "Darker shadows, brighter lights, fuller colours",
        ("tone-curve", {"all": ((0.0, 0.0), (0.28, 0.18), (0.72, 0.83), (1.0, 1.0))}),
        ("hue", {"saturation": 122.0}),
    ),
    (
        "Film", "A gentle curve, warm lights, cool shadows, grain",
        ("tone-curve", {"all": ((0.0, 0.04), (0.3, 0.26), (0.75, 0.82), (1.0, 0.97)),
                        "red": ((0.0, 0.0), (0.7, 0.74), (1.0, 1.0)),
                        "blue": ((0.0, 0.06), (0.7, 0.66), (1.0, 0.94))}),
        ("grain", {"amount": 9.0}),
    ),
    (
        "Broken signal", "Torn into strips, the colours drawn apart",
        ("strips", {"size": 14.0, "shift": 26.0}),
        ("channel-split", {"red": (-7.0, 0.0), "blue": (7.0, 0.0)}),
        ("grain", {"amount": 14.0}),
    ),
    (
        "Dreaming", "The light parts bloom and everything is a little soft",
        ("gaussian-blur", {"across": 1.5, "down": 1.5}),
        ("bloom", {"threshold": 45.0, "strength": 90.0, "radius": 18.0}),
    ),
    (
        "Under water", "Slow waves in clear churning",
        ("churn", {"strength": 14.0, "grain": 170.0, "evolution": 30.0}),
        ("wave", {"height": 5.0, "length": 130.0}),
    ),
    (
        "Comet", "A trail of light behind whatever moves",
        ("halo", {"colour": (1.0, 0.8, 0.45, 0.9), "size": 16.0, "spread": 1.0}),
        ("trail", {"count": 10.0, "apart": 1.0, "decay": 78.0, "strength": 75.0}),
    ),
    (
        "Poster ink", "Few flat colours with a dark line around",
        ("posterise", {"steps": 4.0}),
        ("outline", {"colour": (0.08, 0.06, 0.14, 1.0), "width": 4.0}),
    ),
)  # fmt: skip


@cache
def shipped_looks() -> tuple[LookSet, ...]:
    """Return the sets in the order in which they are shown."""
    return tuple(look_set(*row) for row in _LOOKS)
