"""Outlines as arrays of curves, which a kernel fills with colours without the interpreter's lock."""

from __future__ import annotations

import threading
from collections.abc import Sequence
from functools import cached_property

import numpy as np
from attrs import frozen

from spiralis.core.geometry import Affine
from spiralis.core.raster.kernels import filling
from spiralis.core.raster.stamps import MOST_WHOLE


@frozen(eq=False)
class Outline:
    """Curves (m, 8) of two, three or four points each, by their ``degrees`` (m,); nothing is left open."""

    curves: np.ndarray
    degrees: np.ndarray

    @property
    def size(self) -> int:
        """How many bytes it takes."""
        return self.curves.nbytes + self.degrees.nbytes


class OutlinePen:
    """Collects curves, and closes what is open; the method names are those of the pen protocol (fontTools ``pens``)."""

    def __init__(self) -> None:
        self._curves: list[tuple[float, ...]] = []
        self._first = self._last = (0.0, 0.0)

    def moveTo(self, point: tuple[float, float]) -> None:
        self.endPath()
        self._first = self._last = point

    def lineTo(self, point: tuple[float, float]) -> None:
        self._add(point)

    def qCurveTo(self, *points: tuple[float, float]) -> None:
        self._add(*points)

    def curveTo(self, *points: tuple[float, float]) -> None:
        self._add(*points)

    def closePath(self) -> None:
        self.endPath()

    def endPath(self) -> None:
        """Lead an open contour back to where it began, as what is filled is."""
        if self._last != self._first:
            self._add(self._first)

    def _add(self, *points: tuple[float, float]) -> None:
        self._curves.append(tuple(number for point in (self._last, *points) for number in point))
        self._last = points[-1]

    def done(self) -> Outline:
        """Return what was drawn."""
        self.endPath()
        curves = np.zeros((len(self._curves), 8))
        for row, curve in zip(curves, self._curves, strict=True):
            row[: len(curve)] = curve
        degrees = np.array([len(curve) // 2 - 1 for curve in self._curves], dtype=np.uint8)
        return Outline(curves, degrees)


@frozen(eq=False)
class Outlines:
    """Many outlines one after another: the curves of outline k are ``begins[k]`` to ``begins[k + 1]``, and lie within
    ``boxes[k]``."""

    curves: np.ndarray
    degrees: np.ndarray
    begins: np.ndarray
    boxes: np.ndarray

    @staticmethod
    def of(outlines: Sequence[Outline]) -> Outlines:
        """Return outlines one after another."""
        begins = np.cumsum([0, *(len(outline.curves) for outline in outlines)])
        curves = np.concatenate([np.empty((0, 8)), *(outline.curves for outline in outlines)])
        degrees = np.concatenate([np.empty(0, np.uint8), *(outline.degrees for outline in outlines)])
        return Outlines(curves, degrees, begins, np.array([_box(y) for y in outlines]).reshape(-1, 4))


def _box(outline: Outline) -> tuple[float, float, float, float]:
    """Return the box around the points of an outline, (0, 0, 0, 0) where it has none."""
    if not len(outline.curves):
        return 0.0, 0.0, 0.0, 0.0
    there = np.arange(4) <= outline.degrees[:, None]
    points = outline.curves.reshape(-1, 4, 2)[there]
    (left, top), (right, bottom) = points.min(axis=0).tolist(), points.max(axis=0).tolist()
    return left, top, right, bottom


@frozen(eq=False)
class Filling:
    """Outlines under maps, (n, 6), in groups of one colour each: items of a group, ``groups[g]`` to ``groups[g + 1]``,
    count once where they overlap, and lie over those of the groups before. Colours are straight, 0 to 1, (g, 4)."""

    outlines: Outlines
    which: np.ndarray
    maps: np.ndarray
    groups: np.ndarray
    colours: np.ndarray

    @property
    def size(self) -> int:
        """How many bytes it takes, but for the outlines, which others share."""
        return self.which.nbytes + self.maps.nbytes + self.groups.nbytes + self.colours.nbytes

    @cached_property
    def _inks(self) -> np.ndarray:
        """The colours premultiplied, 0 to 255."""
        straight = np.clip(self.colours, 0.0, 1.0)
        straight[:, :3] *= straight[:, 3:]
        return np.asarray(straight * 255, dtype=np.float32)

    def draw(self, data: np.ndarray, matrix: Affine) -> None:
        """Lay it over premultiplied pixels, uint8 (h, w, 4), under a map to the first one's corner; their outermost
        ring stays as it is."""
        known, pixels = self.outlines, data.view(np.uint32)[..., 0]
        filling.fill(pixels, _cover(*pixels.shape), np.array(matrix), known.curves, known.degrees, known.begins,
                     known.boxes, self.which, self.maps, self._inks, self.groups)  # fmt: skip


_held = threading.local()


def _cover(height: int, width: int) -> np.ndarray:
    """Return this thread's clear bytes, (h, w); whoever takes them leaves them clear."""
    held: np.ndarray | None = _held.__dict__.get("cover")
    if held is None or held.size < height * width:
        held = np.zeros(height * width, dtype=np.uint8)
        if held.size <= MOST_WHOLE:
            _held.cover = held
    return held[: height * width].reshape(height, width)
