"""Curves that a line of words can run along: by the way travelled on them to a place and a direction."""

from __future__ import annotations

import math
from functools import lru_cache

import numpy as np
from attrs import field, frozen

from spiralis.core.animation.motion_path import bezier_point
from spiralis.core.geometry import Affine, Box
from spiralis.core.model.art import Contour

_STEPS = 48


@frozen(eq=False)
class Track:
    """A run of points (n, 2) and the length travelled at each, (n,); ``start`` is where words begin on it.

    ``closed_in`` is the box that words on it count as filling, whatever they say; None where that is their own.
    """

    points: np.ndarray = field(repr=False)
    lengths: np.ndarray = field(repr=False)
    start: float = 0.0
    closed: bool = False
    closed_in: Box | None = None

    def at(self, x: float) -> Affine:
        """Return the map from a frame that stands at a length on the curve; past open ends it goes on straight."""
        return Affine(*self.at_many(np.array([x]))[0].tolist())

    def at_many(self, xs: np.ndarray) -> np.ndarray:
        """Return the maps at lengths (n,) as rows of ``Affine`` numbers a to f, float64 (n, 6)."""
        total = float(self.lengths[-1])
        way = self.start + xs
        if self.closed and total > 0:
            way = way % total
        index = np.clip(np.searchsorted(self.lengths, way, side="right") - 1, 0, len(self.lengths) - 2)
        start = self.points[index]
        step = self.points[index + 1] - start
        size = np.hypot(step[:, 0], step[:, 1])
        size[size == 0] = 1.0
        cosine, sine = (step / size[:, None]).T
        x, y = (start + ((way - self.lengths[index]) / size)[:, None] * step).T
        return np.column_stack([cosine, sine, -sine, cosine, x, y])


def arc_track(degrees: float, width: float, baseline: float) -> Track:
    """Return an arc of ``width`` px that turns by ``degrees`` in all; above 0 the middle rises.

    It begins at x = 0 of the straight line and its top (or bottom) lies on the line's own baseline.
    """
    turn = math.radians(min(max(degrees, -1080.0), 1080.0))
    radius = width / turn
    angles = np.linspace(-turn / 2, turn / 2, max(64, int(abs(degrees)) * 2))
    x = width / 2 + radius * np.sin(angles)
    y = baseline + radius * (1 - np.cos(angles))
    return _measured(np.stack([x, y], axis=1), 0.0, False)


@lru_cache(maxsize=64)
def path_track(contour: Contour, along: float, steps: int = _STEPS) -> Track:
    """Return a contour as a track on which words begin at a part of its length, each curve in so many steps."""
    vertices = contour.vertices
    pairs = list(zip(vertices, vertices[1:], strict=False))
    if contour.closed and len(vertices) > 1:
        pairs.append((vertices[-1], vertices[0]))
    shares = np.linspace(0.0, 1.0, steps + 1)
    runs = [np.array([[vertices[0][0], vertices[0][1]]])]
    for start, end in pairs:
        points = np.array([start[:2], start[4:], end[2:4], end[:2]], dtype=np.float64)
        runs.append(bezier_point(points, shares)[1:])
    points = np.concatenate(runs)
    if len(points) < 2:
        points = np.concatenate([points, points + np.array([1.0, 0.0])])
    track = _measured(points, 0.0, contour.closed)
    low, high = track.points.min(axis=0).tolist(), track.points.max(axis=0).tolist()
    # A path keeps its place when its words change, so it is the path that counts as the layer's box.
    box = (low[0], low[1], max(high[0], low[0] + 1e-3), max(high[1], low[1] + 1e-3))
    return Track(track.points, track.lengths, along * float(track.lengths[-1]), contour.closed, box)


def _measured(points: np.ndarray, start: float, closed: bool) -> Track:
    steps = np.hypot(*np.diff(points, axis=0).T)
    keep = np.concatenate([[True], steps > 1e-9])
    points = points[keep] if keep.sum() > 1 else points
    lengths = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))])
    return Track(points, lengths, start, closed)
