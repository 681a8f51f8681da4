"""Layers in depth shaded by a light from afar: by the cosine of the angle between it and the face that is seen.

Source: Lambert, *Photometria* (1760); ambient light as in Phong, *Illumination for Computer Generated Pictures* (1975).
"""

from __future__ import annotations

import math
from collections.abc import Hashable

import numpy as np
from attrs import frozen

from spiralis.core.cache import Beside
from spiralis.core.colour import Shade
from spiralis.core.effects.colour_steps import coloured, step
from spiralis.core.geometry import WholeBox
from spiralis.core.model import Layer
from spiralis.core.raster.raster import Raster
from spiralis.core.render.layers import Evaluated
from spiralis.core.render.maps_in_space import Rows
from spiralis.core.render.nodes import Node, Pictured
from spiralis.core.render.space import camera_of, first_on, middle_of, standing


@frozen(eq=False)
class Light:
    """``way`` (3,) of unit length is where it shines to; ``colour`` of what it adds to what is there ``all_around``."""

    way: np.ndarray
    colour: Shade
    all_around: float

    def shade(self, normal: np.ndarray) -> Shade:
        """Return how bright a face is whose outward normal (3,) has unit length."""
        turned = max(float(-normal @ self.way), 0.0)
        red, green, blue = (round(self.all_around + turned * part, 4) for part in self.colour)
        return red, green, blue


class _Lit:
    def __init__(self) -> None:
        self.known = False
        self.light: Light | None = None


_lit: Beside[_Lit] = Beside(_Lit)


def light_of(at: Evaluated) -> Light | None:
    """Return the light of a moment; None where there is none, and layers look as they are."""
    if at.outer is not None:
        outer: Light | None = at.outer.light
        return outer
    held = _lit.of(at)
    if not held.known:
        layer = first_on(at, lambda kind: kind.lights)
        held.light, held.known = _light(at, layer) if layer is not None else None, True
    return held.light


def _light(at: Evaluated, layer: Layer) -> Light:
    values = at.values(layer)
    turn, steep = math.radians(values["angle"]), math.radians(values["steepness"])
    way = np.array([math.cos(steep) * math.cos(turn), math.cos(steep) * math.sin(turn), math.sin(steep)])
    strength = values["strength"] / 100
    red, green, blue, _ = values["colour"]
    return Light(way, (strength * red, strength * green, strength * blue), values["ambient"] / 100)


def normal_of(at: Evaluated, layer: Layer) -> np.ndarray:
    """Return the normal (3,) of the face that a layer shows unturned, towards the viewer; zeros where it has none."""
    x, y, z = _normal(standing(at, layer))
    return np.array([x, y, z])


def _normal(rows: Rows) -> tuple[float, float, float]:
    """Return the cross product of the ways down and across, of unit length, of a map's rows; zeros for a thin one."""
    (a, d, _, _), (b, e, _, _), (c, f, _, _) = rows
    x, y, z = e * c - f * b, f * a - d * c, d * b - e * a
    length = math.sqrt(x * x + y * y + z * z)
    return (x / length, y / length, z / length) if length > 1e-12 else (0.0, 0.0, 0.0)


def turned_to_viewer(at: Evaluated, layer: Layer) -> float:
    """Return how far the camera lies before the face that a layer shows unturned, in px; below 0 it sees the back."""
    (x, y, z), (across, down, ahead) = middle_of(at, layer), _normal(standing(at, layer))
    eye_x, eye_y, eye_z = camera_of(at).eye
    return (eye_x - x) * across + (eye_y - y) * down + (eye_z - z) * ahead


def shade_of(at: Evaluated, layer: Layer) -> Shade | None:
    """Return how the light shades the side of a layer in depth that is seen; None where its colours stay."""
    light = light_of(at)
    if light is None or not at.values(layer)["lit"]:
        return None
    normal = normal_of(at, layer)
    shade = light.shade(normal if turned_to_viewer(at, layer) >= 0 else -normal)
    return shade if shade != (1.0, 1.0, 1.0) else None


class Shaded(Pictured):
    """A node with its colours multiplied."""

    def __init__(self, inner: Node, shade: Shade) -> None:
        self.inner, self.shade = inner, shade

    def make_key(self) -> Hashable:
        return self.inner.key, self.shade

    def drawn_in(self, region: WholeBox) -> Raster | None:
        picture = self.inner.picture(region)
        if picture is None:
            return None
        pixels = coloured(picture.as_float, [step(np.diag(self.shade))])
        return Raster(pixels, picture.space, picture.corner)
