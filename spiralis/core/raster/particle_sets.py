"""Sets of particles to start from: what departs from the defaults, by name; regions in parts of the frame.

``gather`` pairs are keys: (part of the layer's time, %).
"""

from __future__ import annotations

from collections.abc import Mapping

from spiralis.core.model.parameter import Value

_GOLD = ((0.0, 0.98, 0.62, 0.22, 1.0), (1.0, 1.0, 0.95, 0.82, 1.0))
_EMBER = ((0.0, 1.0, 0.86, 0.46, 1.0), (0.5, 0.98, 0.45, 0.18, 1.0), (1.0, 0.55, 0.10, 0.12, 1.0))
_PARTY = (
    (0.0, 0.94, 0.36, 0.30, 1.0), (0.34, 0.98, 0.76, 0.28, 1.0), (0.67, 0.20, 0.62, 0.66, 1.0),
    (1.0, 0.56, 0.34, 0.66, 1.0),
)  # fmt: skip
_COLD = ((0.0, 0.62, 0.78, 0.95, 1.0), (1.0, 0.95, 0.98, 1.0, 1.0))
_SWELL = ((0.0, 0.2), (0.2, 1.0), (1.0, 0.3))

SETS: Mapping[str, Mapping[str, Value]] = {
    "Gather into a shape": {
        "shape": "layer", "count": 4000.0, "born": "always", "near_share": 20.0, "near_distance": 20.0,
        "far_share": 25.0, "far_distance": 170.0, "far_size": 160.0, "far_opacity": 45.0, "depth_range": 500.0,
        "turbulence": 150.0, "turbulence_size": 260.0, "size": 7.0, "stops": _GOLD, "mix": "add", "twinkle": 40.0,
        "gather_vary": 70.0,
    },
    "Dust in the light": {
        "region": (1.0, 1.0), "count": 160.0, "speed": 14.0, "turbulence": 60.0, "turbulence_size": 420.0,
        "size": 18.0, "size_vary": 80.0, "stops": _GOLD, "mix": "add", "twinkle": 85.0, "twinkle_turns": 2.0,
        "depth_range": 500.0,
    },
    "Confetti": {
        "shape": "line", "region": (1.1, 0.0), "count": 180.0, "born": "evenly", "life": 110.0, "life_vary": 20.0,
        "speed": 120.0, "direction": 90.0, "spread": 70.0, "fall": 160.0, "drag": 0.6, "turbulence": 60.0,
        "look": "square", "size": 22.0, "size_vary": 50.0, "turned": 180.0, "spin": 260.0, "stops": _PARTY,
        "opacity_life": ((0.0, 1.0), (0.85, 1.0), (1.0, 0.0)),
    },
    "Embers": {
        "shape": "line", "region": (0.7, 0.0), "count": 220.0, "born": "evenly", "life": 70.0, "life_vary": 40.0,
        "speed": 190.0, "direction": -90.0, "spread": 40.0, "turbulence": 110.0, "turbulence_size": 200.0,
        "size": 15.0, "size_life": _SWELL, "stops": _EMBER, "colour_by": "life", "mix": "add", "twinkle": 50.0,
    },
    "Rain": {
        "shape": "line", "region": (1.3, 0.0), "count": 500.0, "born": "evenly", "life": 30.0, "life_vary": 10.0,
        "speed": 1500.0, "speed_vary": 25.0, "direction": 98.0, "spread": 2.0, "look": "streak", "tail": 2.0,
        "size": 3.0, "stops": _COLD, "opacity_life": ((0.0, 0.7), (1.0, 0.7)),
    },
    "Starfield": {
        "region": (1.4, 1.4), "count": 260.0, "look": "spark", "size": 30.0, "size_vary": 85.0, "depth_range": 900.0,
        "stops": _COLD, "mix": "add", "twinkle": 90.0, "twinkle_turns": 3.0, "turned": 0.0,
    },
    "Bursts on a beat": {
        "shape": "point", "count": 480.0, "born": "bursts", "bursts": 4.0, "life": 30.0, "life_vary": 40.0,
        "speed": 620.0, "speed_vary": 60.0, "drag": 2.2, "fall": 120.0, "look": "streak", "tail": 3.0, "size": 6.0,
        "stops": _PARTY, "mix": "add", "opacity_life": ((0.0, 1.0), (0.5, 1.0), (1.0, 0.0)),
    },
    "Dissolve a shape": {
        "shape": "layer", "count": 9000.0, "born": "always", "colour_by": "source", "size": 6.0, "size_vary": 30.0,
        "turbulence": 300.0, "turbulence_size": 320.0, "near_share": 60.0, "near_distance": 90.0, "gather_vary": 90.0,
    },
}  # fmt: skip

#: Keys of Gather that come with a set: parts of the layer's time and %.
GATHERING: Mapping[str, tuple[tuple[float, float], ...]] = {
    "Gather into a shape": ((0.0, 0.0), (0.35, 100.0), (0.7, 100.0), (1.0, 0.0)),
    "Dissolve a shape": ((0.0, 100.0), (0.25, 100.0), (0.5, 0.0), (0.75, 100.0), (1.0, 100.0)),
}
