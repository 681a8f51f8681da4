"""The way between two positions: a straight line or a cubic Bezier, travelled at even speed."""

from __future__ import annotations

from functools import cache, lru_cache

import numpy as np

from spiralis.core.animation.kernels import ways

Point = tuple[float, float]

_PIECES = 64


@cache
def _quadrature() -> tuple[np.ndarray, np.ndarray]:
    """Return nodes and weights of eight-point Gauss-Legendre quadrature; what works them out is loaded for no start."""
    return np.polynomial.legendre.leggauss(8)


def bezier_point(points: np.ndarray, s: np.ndarray) -> np.ndarray:
    """Return the points (n, 2) of the cubic with control points (4, 2) at parameters (n,)."""
    u = 1.0 - s
    return (
        np.outer(u**3, points[0])
        + np.outer(3 * u**2 * s, points[1])
        + np.outer(3 * u * s**2, points[2])
        + np.outer(s**3, points[3])
    )


def bezier_tangent(points: np.ndarray, s: np.ndarray) -> np.ndarray:
    """Return the derivatives (n, 2) of the cubic with control points (4, 2) at parameters (n,)."""
    u = 1.0 - s
    return (
        np.outer(3 * u**2, points[1] - points[0])
        + np.outer(6 * u * s, points[2] - points[1])
        + np.outer(3 * s**2, points[3] - points[2])
    )


@lru_cache(maxsize=4096)
def _length_table(flat: tuple[float, ...]) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Return control points, parameters and arc lengths at the piece ends.

    Lengths come from eight-point Gauss-Legendre quadrature of the speed on each of 64 pieces.
    """
    points = np.array(flat).reshape(4, 2)
    ends = np.linspace(0.0, 1.0, _PIECES + 1)
    half = 0.5 / _PIECES
    nodes, weights = _quadrature()
    s = (ends[:-1, None] + half * (nodes[None, :] + 1.0)).reshape(-1)
    speed = np.hypot(*bezier_tangent(points, s).T).reshape(_PIECES, -1)
    lengths = np.concatenate([[0.0], np.cumsum(speed @ weights * half)])
    return points, ends, lengths


def travel(
    start: Point, end: Point, handle_out: Point | None, handle_in: Point | None, progress: np.ndarray
) -> np.ndarray:
    """Return positions (n, 2) at shares (n,) of the path's length.

    ``handle_out`` is relative to ``start``, ``handle_in`` to ``end``. Shares outside [0, 1] go on along
    the end tangents, so that an overshooting ease leaves the path smoothly.
    """
    a, b = np.array(start, dtype=np.float64), np.array(end, dtype=np.float64)
    if not any(handle_out or ()) and not any(handle_in or ()):
        return a + np.outer(progress, b - a)
    first = (start[0] + (handle_out or (0, 0))[0], start[1] + (handle_out or (0, 0))[1])
    second = (end[0] + (handle_in or (0, 0))[0], end[1] + (handle_in or (0, 0))[1])
    points, ends, lengths = _length_table((*start, *first, *second, *end))
    total = lengths[-1]
    if total <= 0.0:
        return np.repeat(a[None, :], len(progress), axis=0)
    wanted = progress * total
    inside = np.clip(wanted, 0.0, total)
    result = bezier_point(points, _parameters_at(points, ends, lengths, inside))
    beyond = (wanted - inside)[:, None]
    directions = np.where(beyond < 0, _end_direction(points, 0.0), _end_direction(points, 1.0))
    return result + beyond * directions


def _parameters_at(points: np.ndarray, ends: np.ndarray, lengths: np.ndarray, wanted: np.ndarray) -> np.ndarray:
    """Invert arc length."""
    found: np.ndarray = ways.parameters_at(points, ends, lengths, *_quadrature(), wanted)
    return found


def _end_direction(points: np.ndarray, at: float) -> np.ndarray:
    order = (1, 2, 3) if at == 0.0 else (2, 1, 0)
    base = points[0] if at == 0.0 else points[3]
    for index in order:
        step = points[index] - base if at == 0.0 else base - points[index]
        size = np.hypot(*step)
        if size > 1e-9:
            return step / size
    return np.zeros(2)


def cut_at(
    start: Point, end: Point, handle_out: Point | None, handle_in: Point | None, share: float
) -> tuple[Point, Point, Point, Point]:
    """Return the handles of a way that is cut at a share of its length: out of the start, into and out of the cut
    (relative to it), into the end. The way stays where it was (de Casteljau)."""
    a, b = np.asarray(start, float), np.asarray(end, float)
    points = np.array([a, a + (handle_out or (0.0, 0.0)), b + (handle_in or (0.0, 0.0)), b])
    _, ends, lengths = _length_table(tuple(points.ravel()))
    s = float(_parameters_at(points, ends, lengths, np.array([share * lengths[-1]]))[0])
    p, q, r = (points[i] + s * (points[i + 1] - points[i]) for i in range(3))
    u, v = p + s * (q - p), q + s * (r - q)
    middle = u + s * (v - u)
    first, second, third, last = (tuple(float(n) for n in way) for way in (p - a, u - middle, v - middle, r - b))
    return first, second, third, last  # type: ignore[return-value]
