"""Mix two drawings: their outlines vertex by vertex, their colours, widths and dashes."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np
from attrs import evolve

from spiralis.core.colour import mix
from spiralis.core.geometry import Affine
from spiralis.core.model.art import Bundle, Contour, Figure, Item, Paint, Ramp, Stroke, Vertex

_REFINED = 16


def mixed_art(start: Bundle, end: Bundle, progress: float) -> Bundle:
    """Return the drawing between two; where their structure differs (other figures, open or closed) the first holds.

    Outlines with as many vertices mix vertex by vertex; of others the one with fewer is divided at equal lengths.
    ``progress`` may leave 0 to 1.
    """
    if progress == 0:
        return start
    if progress == 1:
        return end
    mixed = _item(start, end, progress)
    return mixed if isinstance(mixed, Bundle) else start


def alike(start: Item, end: Item) -> bool:
    """Whether two drawings can be mixed."""
    if isinstance(start, Bundle) and isinstance(end, Bundle):
        return len(start.items) == len(end.items) and all(
            alike(a, b) for a, b in zip(start.items, end.items, strict=True)
        )
    if isinstance(start, Figure) and isinstance(end, Figure):
        return len(start.contours) == len(end.contours) and all(
            a.closed == b.closed for a, b in zip(start.contours, end.contours, strict=True)
        )
    return False


def _item(start: Item, end: Item, progress: float) -> Item | None:
    if not alike(start, end):
        return None
    if isinstance(start, Bundle) and isinstance(end, Bundle):
        items = [_item(a, b, progress) for a, b in zip(start.items, end.items, strict=True)]
        opacity = min(max(_number(start.opacity, end.opacity, progress), 0.0), 1.0)
        kept = tuple(item for item in items if item is not None)
        return evolve(start, items=kept, opacity=opacity, matrix=_matrix(start.matrix, end.matrix, progress))
    assert isinstance(start, Figure) and isinstance(end, Figure)
    contours = tuple(mixed_contour(a, b, progress) for a, b in zip(start.contours, end.contours, strict=True))
    return evolve(
        start, contours=contours, fill=_paint(start.fill, end.fill, progress),
        stroke=_stroke(start.stroke, end.stroke, progress), matrix=_matrix(start.matrix, end.matrix, progress),
    )  # fmt: skip


def _number(a: float, b: float, progress: float) -> float:
    return a + progress * (b - a)


def _numbers(a: Iterable[float], b: Iterable[float], progress: float) -> tuple[float, ...]:
    return tuple(_number(x, y, progress) for x, y in zip(a, b, strict=True))


def _matrix(a: Affine, b: Affine, progress: float) -> Affine:
    if a == b:
        return a
    return Affine(*_numbers((a.a, a.b, a.c, a.d, a.e, a.f), (b.a, b.b, b.c, b.d, b.e, b.f), progress))


def _paint(a: Paint | None, b: Paint | None, progress: float) -> Paint | None:
    if a is None or b is None or a == b:
        return a
    if isinstance(a, Ramp) or isinstance(b, Ramp):
        return _ramp(a, b, progress) if isinstance(a, Ramp) and isinstance(b, Ramp) else a
    r, g, b_, alpha = mix(np.array([a]), np.array([b]), np.array([progress]))[0].tolist()
    return r, g, b_, alpha


def _ramp(a: Ramp, b: Ramp, progress: float) -> Ramp:
    if a.radial != b.radial or len(a.stops) != len(b.stops):
        return a
    colours = mix(np.array(a.stops)[:, 1:], np.array(b.stops)[:, 1:], np.full(len(a.stops), progress)).tolist()
    stops = tuple(
        (_number(x[0], y[0], progress), *colour) for x, y, colour in zip(a.stops, b.stops, colours, strict=True)
    )
    return evolve(
        a, points=_numbers(a.points, b.points, progress), stops=stops, matrix=_matrix(a.matrix, b.matrix, progress)
    )


def _stroke(a: Stroke | None, b: Stroke | None, progress: float) -> Stroke | None:
    if a is None or b is None or a == b:
        return a
    dash = _numbers(a.dash, b.dash, progress) if len(a.dash) == len(b.dash) else a.dash
    paint = _paint(a.paint, b.paint, progress)
    return evolve(
        a, paint=paint if paint is not None else a.paint, width=max(_number(a.width, b.width, progress), 0.0),
        dash=tuple(max(part, 0.0) for part in dash), dash_offset=_number(a.dash_offset, b.dash_offset, progress),
    )  # fmt: skip


def mixed_contour(start: Contour, end: Contour, progress: float) -> Contour:
    """Return the outline between two that are both open or both closed."""
    first, second = np.array(start.vertices), np.array(end.vertices)
    if len(first) == 0 or len(second) == 0:
        return start
    if len(first) < len(second):
        first = refined(first, start.closed, len(second))
    elif len(second) < len(first):
        second = refined(second, end.closed, len(first))
    vertices = first + progress * (second - first)
    rows: list[Vertex] = [tuple(row) for row in vertices.tolist()]
    return evolve(start, vertices=tuple(rows))


def refined(vertices: np.ndarray, closed: bool, count: int) -> np.ndarray:
    """Return an outline's vertices (n, 6) divided into ``count`` of them; what it looks like stays the same.

    Each time the longest curve is halved, by de Casteljau.
    """
    rows = [row.copy() for row in vertices]
    while len(rows) < count and len(rows) > 1:
        pairs = list(range(len(rows) if closed else len(rows) - 1))
        index = max(pairs, key=lambda i: _length(rows[i], rows[(i + 1) % len(rows)]))
        following = (index + 1) % len(rows)
        rows.insert(index + 1, _halve(rows[index], rows[following]))
    while len(rows) < count:
        rows.append(rows[-1].copy())
    return np.array(rows)


def _length(start: np.ndarray, end: np.ndarray) -> float:
    s = np.linspace(0, 1, _REFINED)[:, None]
    u = 1 - s
    points = u**3 * start[:2] + 3 * u**2 * s * start[4:] + 3 * u * s**2 * end[2:4] + s**3 * end[:2]
    return float(np.hypot(*np.diff(points, axis=0).T).sum())


def _halve(start: np.ndarray, end: np.ndarray) -> np.ndarray:
    """Put a vertex into the middle of a curve; the neighbours' handles shorten in place."""
    ab, bc, cd = (start[:2] + start[4:]) / 2, (start[4:] + end[2:4]) / 2, (end[2:4] + end[:2]) / 2
    abc, bcd = (ab + bc) / 2, (bc + cd) / 2
    start[4:], end[2:4] = ab, cd
    return np.concatenate([(abc + bcd) / 2, abc, bcd])
