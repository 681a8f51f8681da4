"""What art covers as polygons with outward normals: what sides are given to where shapes and words have a thickness."""

from __future__ import annotations

import math
from functools import lru_cache
from typing import Any

import numpy as np
import skia
from attrs import frozen

from spiralis.core.model.art import Bundle, Contour, Figure, Item
from spiralis.core.model.parameter import Kind, Parameter
from spiralis.core.raster.vectors import contours_of_path, skia_matrix, skia_path, stroke_pen

_DEEP = ("depth", (True,))
THICKNESS = (
    Parameter("thickness", "Thickness", Kind.NUMBER, 0.0, "How far it reaches back, with sides of its own", "px", 0,
              5000, group="Thickness", needs=_DEEP, measures="depth"),
    Parameter("side_fill", "Side", Kind.COLOUR, (0.55, 0.32, 0.2, 1.0), "Colour of the sides", group="Thickness",
              needs=_DEEP),
    Parameter("bevel", "Bevel", Kind.NUMBER, 0.0, "How far a slope behind the front goes out and back", "px", 0, 500,
              group="Thickness", needs=_DEEP),
    Parameter("bevel_fill", "Bevel colour", Kind.COLOUR, (1.0, 0.86, 0.62, 1.0), "Colour of that slope",
              group="Thickness", needs=_DEEP),
)  # fmt: skip

#: The most straight pieces that stand for one curve.
_PIECES = 16
#: So far beside a line it is looked whether that is inside, in px.
_BESIDE = 0.02
#: Corners reach no farther out than so many times what their sides do.
_MITRE = 2.0


@frozen(eq=False)
class Silhouette:
    """Polygons, one after the other: ``points`` (n, 2), the index of the point ``after`` each (n,), the outward normal
    of the line between both (n, 2), and where a point goes for each px that its lines go outwards (n, 2).
    ``outlines`` are the polygons' points again."""

    points: np.ndarray
    after: np.ndarray
    normals: np.ndarray
    outwards: np.ndarray
    outlines: tuple[np.ndarray, ...]


@lru_cache(maxsize=256)
def silhouette(art: Bundle) -> Silhouette:
    """Return what art covers by its fills and strokes, wherever it is not clear."""
    path = skia.Path()
    for part in _paths(art, skia.Matrix()):
        path = skia.Op(path, part, skia.PathOp.kUnion_PathOp) or path
    polygons = [made for contour in contours_of_path(path) if len(made := _straight(contour)) > 2]
    if not polygons:
        empty = np.zeros((0, 2))
        return Silhouette(empty, np.zeros(0, dtype=np.intp), empty, empty, ())
    parts = [_normals(polygon, path) for polygon in polygons]
    starts = np.cumsum([0, *(len(polygon) for polygon in polygons)])
    after = np.concatenate(
        [start + (np.arange(len(p)) + 1) % len(p) for start, p in zip(starts, polygons, strict=False)]
    )
    normals, outwards = (np.concatenate([part[n] for part in parts]) for n in (0, 1))
    return Silhouette(np.concatenate(polygons), after, normals, outwards, tuple(polygons))


def _paths(item: Item, outer: Any) -> list[Any]:
    """Return the paths of all fills and strokes in art."""
    matrix = skia.Matrix.Concat(outer, skia_matrix(item.matrix))
    if isinstance(item, Bundle):
        return [path for part in item.items for path in _paths(part, matrix)]
    assert isinstance(item, Figure)
    found, outline = [], skia_path(item)
    if item.fill is not None:
        found.append(skia.Path(outline))
    if item.stroke is not None and item.stroke.width > 0:
        edge = skia.Path()
        stroke_pen(item.stroke).getFillPath(outline, edge)
        found.append(edge)
    for path in found:
        path.transform(matrix)
    return found


def _straight(contour: Contour) -> np.ndarray:
    """Return a closed contour as points (n, 2), no two beside each other the same."""
    rows = np.array(contour.vertices, dtype=np.float64)
    made = []
    for start, end in zip(rows, np.roll(rows, -1, axis=0), strict=True):
        four = np.array([start[:2], start[4:], end[2:4], end[:2]])
        bent = np.abs(np.diff(four, 2, axis=0)).max() > 1e-6 and not _level(four)
        length = float(np.linalg.norm(np.diff(four, axis=0), axis=1).sum())
        pieces = min(max(math.ceil(math.sqrt(length) * 1.2), 2), _PIECES) if bent else 1
        t = np.arange(pieces)[:, None] / pieces
        u = 1 - t
        made.append(u**3 * four[0] + 3 * u * u * t * four[1] + 3 * u * t * t * four[2] + t**3 * four[3])
    points = np.concatenate(made)
    apart = np.linalg.norm(points - np.roll(points, 1, axis=0), axis=1) > 1e-4
    return points[apart]


def _level(four: np.ndarray) -> bool:
    """Whether the four control points of a curve lie on a line."""
    way = four[3] - four[0]
    return bool(np.abs((four - four[0]) @ (-way[1], way[0])).max() <= 1e-3 * max(float(np.hypot(*way)), 1e-9))


def _normals(points: np.ndarray, path: Any) -> tuple[np.ndarray, np.ndarray]:
    """Return the outward normals of a polygon's lines, and which way its points go."""
    way = np.roll(points, -1, axis=0) - points
    long = np.linalg.norm(way, axis=1, keepdims=True)
    normals = np.column_stack([way[:, 1], -way[:, 0]]) / long
    middle = (points + np.roll(points, -1, axis=0)) / 2
    # All lines of a polygon have the inside on the same hand: the longest one is asked.
    at = int(long.argmax())
    x, y = middle[at] + _BESIDE * normals[at]
    if path.contains(float(x), float(y)):
        normals = -normals
    before = np.roll(normals, 1, axis=0)
    both = before + normals
    share = np.maximum((both * normals).sum(axis=1, keepdims=True), 1 / _MITRE)
    return normals, both / share
