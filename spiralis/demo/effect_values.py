"""Values that show what each effect and finish does on a small card, and what some of them read."""

from __future__ import annotations

import hashlib
from typing import Any

from spiralis.core.model import Source
from spiralis.core.model.blocks import PURPOSES, EffectKind, effect_kinds

#: Values that suit a picture of 200 by 160, where the defaults are meant for larger ones.
VALUES: dict[str, dict[str, Any]] = {
    "gaussian-blur": {"across": 4.0, "down": 4.0}, "directional-blur": {"length": 24.0, "angle": 30.0},
    "bloom": {"threshold": 45.0, "radius": 14.0}, "churn": {"strength": 14.0, "grain": 60.0},
    "wave": {"height": 7.0, "length": 60.0, "direction": 90.0}, "twirl": {"radius": 80.0},
    "bulge": {"radius": 80.0}, "ripple": {"height": 6.0, "length": 26.0, "radius": 110.0}, "pixelate": {"size": 8.0},
    "channel-split": {"red": (-4.0, 0.0), "blue": (4.0, 0.0)}, "strips": {"size": 12.0, "shift": 16.0},
    "checker-dissolve": {"size": 12.0}, "wipe": {"angle": 30.0, "grain": 40.0}, "tile": {"size": 40.0},
    "displace": {"map": "clouds", "across": 40.0, "down": 40.0}, "halo": {"size": 8.0, "spread": 3.0},
    "drop-shadow": {"distance": 8.0, "size": 4.0, "colour": (0.0, 0.0, 0.0, 0.7)}, "outline": {"width": 4.0},
    "inner-halo": {"size": 7.0}, "inset-shadow": {"distance": 5.0, "size": 4.0},
    "long-shadow": {"length": 60.0}, "sharpen": {"amount": 200.0}, "grain": {"amount": 30.0},
    "hue": {"hue": 120.0}, "levels": {"in_black": 20.0, "in_white": 75.0}, "grade": {"contrast": 180.0},
    "replace-colour": {"old": (0.93, 0.42, 0.30, 1.0), "new": (0.25, 0.55, 0.95, 1.0), "tolerance": 30.0},
    "temperature": {"warmth": 70.0}, "round": {"hole": 20.0}, "mirror-wheel": {"turn": 190.0},
    "corner-pin": {"top_left": (14.0, 6.0), "top_right": (88.0, 24.0), "bottom_right": (96.0, 84.0)},
    "zoom-blur": {"first": 80.0, "last": 120.0}, "blur-by-layer": {"map": "clouds", "softness": 16.0},
    "flow-together": {"reach": 9.0},
    "wipe-by-layer": {"map": "clouds", "shown": 52.0}, "grow-shrink": {"by": 5.0}, "outline-only": {"width": 2.0},
    "tone-curve": {"all": ((0.0, 0.1), (0.35, 0.2), (0.6, 0.85), (1.0, 0.95))},
    "colour-lookup": {"lookup": "table"}, "trail": {"count": 5.0, "apart": 2.0},
    "glint": {"width": 70.0, "strength": 100.0, "colour": (1.0, 1.0, 1.0, 1.0)},
    "print-dots": {"size": 6.0}, "reflection": {"length": 60.0, "gap": -42.0},
    "clear-colour": {"colour": (0.93, 0.42, 0.30, 1.0), "tolerance": 12.0, "softness": 4.0, "cast": 0.0},
}  # fmt: skip


def values_for(kind: EffectKind) -> dict[str, Any]:
    """Return the values that suit a card, by the names of the kind's own numbers."""
    known = {parameter.name for parameter in kind.parameters}
    return {name: value for name, value in VALUES.get(kind.name, {}).items() if name in known}


def in_order() -> list[EffectKind]:
    """Return all kinds as the page has them: by purpose, then by name."""
    return sorted(effect_kinds(), key=lambda kind: (PURPOSES.index(kind.purpose), kind.label))


def dusk_table() -> Source:
    """Return a small colour lookup: shadows towards green, lights towards pink."""
    levels = (0.0, 0.5, 1.0)
    places = ((r, g, b) for b in levels for g in levels for r in levels)
    rows = [f"{0.75 * r + 0.25 * g:g} {0.15 + 0.7 * g:g} {0.25 + 0.6 * b:g}" for r, g, b in places]
    data = "\n".join(["LUT_3D_SIZE 3", *rows]).encode()
    return Source("Dusk.cube", hashlib.sha256(data).hexdigest(), ".cube", 0, 0, kind="lookup", id="table", data=data)
