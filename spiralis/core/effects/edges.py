"""Outlines of alpha: moved outwards, inwards or sideways, as finishes need it."""

from __future__ import annotations

import math
from collections.abc import Mapping

import cv2
import numpy as np

from spiralis.core.compositing.kernels import cover_moves
from spiralis.core.effects.job import EffectJob, Margins
from spiralis.core.model.kinds import LOCAL_MODES
from spiralis.core.model.parameter import Kind, Parameter, Value
from spiralis.core.raster.blurring import reach
from spiralis.core.raster.raster import Raster


def widened(alpha: np.ndarray, radius: float) -> np.ndarray:
    """Return float32 (h, w) alpha with its edge moved out by a radius in pixels, antialiased, by exact distances.

    What is half covered counts as the edge (Felzenszwalb and Huttenlocher, *Distance Transforms of Sampled
    Functions*, 2012; OpenCV's precise mode).
    """
    if radius <= 0:
        return alpha
    outside = (alpha < 0.5).astype(np.uint8)
    inside = cv2.boundingRect(1 - outside)
    if inside[2] == 0:
        return alpha
    # Only what is within reach of the covered part can change.
    far, (height, width) = math.ceil(radius) + 2, alpha.shape
    left, top = max(inside[0] - far, 0), max(inside[1] - far, 0)
    part = (slice(top, min(inside[1] + inside[3] + far, height)), slice(left, min(inside[0] + inside[2] + far, width)))
    distance = cv2.distanceTransform(np.ascontiguousarray(outside[part]), cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    # From the middle of the nearest covered pixel to its edge it is half a pixel.
    np.subtract(np.float32(radius + 1), distance, out=distance)
    made = np.array(alpha, dtype=np.float32)
    np.maximum(made[part], np.clip(distance, 0, 1, out=distance), out=made[part])
    return made


def narrowed(alpha: np.ndarray, radius: float) -> np.ndarray:
    """Return alpha with its edge moved in by a radius in pixels; the same of what is not covered, widened."""
    return np.asarray(1 - widened(np.ascontiguousarray(1 - alpha), radius), dtype=np.float32)


def shifted(alpha: np.ndarray, dx: float, dy: float) -> np.ndarray:
    """Return float32 (h, w) alpha moved by a way in pixels, sampled bilinearly; clear comes in at the edges."""
    x, y = math.floor(dx), math.floor(dy)
    fx, fy = np.float32(dx - x), np.float32(dy - y)
    out = np.empty_like(alpha)
    cover_moves.move_cover(alpha, x, y, fx, fy, out)
    return out


def way(angle: float, distance: float) -> tuple[float, float]:
    """Return across and down of a distance at an angle in degrees, 0 to the right, 90 down."""
    return distance * math.cos(math.radians(angle)), distance * math.sin(math.radians(angle))


def in_colour(
    job: EffectJob, cover: np.ndarray, corner: tuple[int, int], colour: tuple[float, float, float, float]
) -> Raster:
    """Return one colour over the job's region, as far as a float32 (h, w) cover says that begins at a corner."""
    left, top, right, bottom = job.region
    r, g, b, a = colour
    out = np.empty((bottom - top, right - left, 4), dtype=np.float32)
    premultiplied = np.array([r * a, g * a, b * a, a], dtype=np.float32)
    cover = np.ascontiguousarray(cover, dtype=np.float32)
    cover_moves.colour_cover(cover, left - corner[0], top - corner[1], premultiplied, out)
    return Raster(out, job.source.space, (left, top))


TURNS = Parameter(
    "turns", "Turns along", Kind.SWITCH, True,
    "Whether its angle turns with the layer, or light comes from one side of the frame",
)  # fmt: skip


def shadow_parameters(density: float, distance: float, size: float, beneath: str) -> tuple[Parameter, ...]:
    """Return the numbers of a soft shadow: where it falls, how soft and wide it is, and how it mixes."""
    return (
        Parameter("colour", "Colour", Kind.COLOUR, (0.0, 0.0, 0.0, density), "The colour, with its density"),
        Parameter("angle", "Angle", Kind.NUMBER, 60.0, "Where it falls: 0° to the right, 90° down", "°", -36_000,
                  36_000, period=360.0),
        Parameter("distance", "Distance", Kind.NUMBER, distance, "How far it falls", "px", 0, 4000),
        Parameter("size", "Size", Kind.NUMBER, size, "How soft it is: the sigma of a Gaussian", "px", 0, 500),
        Parameter("spread", "Spread", Kind.NUMBER, 0.0, "How much wider it is than what throws it", "px", 0, 500),
        TURNS,
        Parameter("blend", "Blend", Kind.CHOICE, "normal", f"How it mixes with {beneath}", choices=LOCAL_MODES),
    )  # fmt: skip


def shadow_reads(values: Mapping[str, Value], scale: tuple[float, float]) -> Margins:
    """Return how far a soft shadow lies about what throws it, in grid pixels."""
    return around(values["size"], values["spread"], *way(values["angle"], values["distance"]), scale)


def around(size: float, spread: float, dx: float, dy: float, scale: tuple[float, float]) -> Margins:
    """Return how far a softened, widened and moved alpha lies about its source, in grid pixels.

    Both sides alike: what it reads lies opposite to where it grows.
    """
    across, down = (
        reach(size * s) + math.ceil(spread * max(scale) + abs(d) * s + 2) for s, d in zip(scale, (dx, dy), strict=True)
    )
    return across, down, across, down
