"""Basic shapes and path data as contours (SVG 2, chapters 9 and 10)."""

from __future__ import annotations

import math

from spiralis.core.media.svg.document import Element, local_name
from spiralis.core.media.svg.style import Style
from spiralis.core.media.svg.values import length, numbers_in
from spiralis.core.model.art import Contour, ContourPen
from spiralis.core.model.forms import ellipse, polygon, rectangle

SHAPES = frozenset(("path", "rect", "circle", "ellipse", "line", "polyline", "polygon"))


def outline_of(element: Element, style: Style, port: tuple[float, float]) -> tuple[Contour, ...]:
    """Return the contours of a basic shape; none where it has no extent or is broken from its start."""
    em = length(style.get("font-size"), 16.0)
    diagonal = math.hypot(*port) / math.sqrt(2)

    def get(name: str, whole: float, default: float = 0.0) -> float:
        return length(style.get(name) or element.get(name), default, whole, em)

    kind = local_name(element)
    if kind == "path":
        return path_contours(style.get("d") or element.get("d") or "")
    if kind == "rect":
        width, height = get("width", port[0]), get("height", port[1])
        rx, ry = get("rx", port[0], -1.0), get("ry", port[1], -1.0)
        rx, ry = (ry if rx < 0 else rx), (rx if ry < 0 else ry)
        if width <= 0 or height <= 0:
            return ()
        return (rectangle(get("x", port[0]), get("y", port[1]), width, height, max(rx, 0.0), max(ry, 0.0)),)
    if kind == "circle":
        radius = get("r", diagonal)
        return (ellipse(get("cx", port[0]), get("cy", port[1]), radius, radius),) if radius > 0 else ()
    if kind == "ellipse":
        rx, ry = get("rx", port[0], -1.0), get("ry", port[1], -1.0)
        rx, ry = (ry if rx < 0 else rx), (rx if ry < 0 else ry)
        return (ellipse(get("cx", port[0]), get("cy", port[1]), rx, ry),) if rx > 0 and ry > 0 else ()
    if kind == "line":
        start, end = (get("x1", port[0]), get("y1", port[1])), (get("x2", port[0]), get("y2", port[1]))
        return (polygon([start, end], closed=False),)
    numbers = numbers_in(element.get("points") or "")
    points = list(zip(numbers[0::2], numbers[1::2], strict=False))
    return (polygon(points, closed=kind == "polygon"),) if len(points) > 1 else ()


def path_contours(data: str) -> tuple[Contour, ...]:
    """Return path data as contours; where it is broken, what stands before the break counts (section 9.5.4)."""
    pen = ContourPen()
    try:
        # Here, as it brings an XML reader that nothing else at the start needs.
        from fontTools.svgLib.path import parse_path

        parse_path(data, pen)
    except (ValueError, IndexError, TypeError, AssertionError, OverflowError, ZeroDivisionError, AttributeError):
        pass
    try:
        contours = pen.done()
    except IndexError:
        return ()
    return tuple(c.rounded() for c in contours if _finite(c))


def _finite(contour: Contour) -> bool:
    return all(math.isfinite(v) and abs(v) < 1e9 for vertex in contour.vertices for v in vertex)
