"""Vector art: filled and stroked outlines, and bundles of them that share opacity, clip and mask.

Every outline is a list of cubic Bézier contours. Art is frozen and hashable, so drawings of it can be kept.
"""

from __future__ import annotations

import math
import re
from collections.abc import Callable, Iterator

from attrs import evolve, frozen

from spiralis.core.colour import Colour
from spiralis.core.errors import ModelError
from spiralis.core.geometry import IDENTITY, Affine

CAPS = ("butt", "round", "square")
JOINS = ("miter", "round", "bevel")
RULES = ("nonzero", "evenodd")
SPREADS = ("pad", "reflect", "repeat")
DEEPEST = 64

#: x, y, then the absolute control points of the curve that comes in and of the one that goes out.
Vertex = tuple[float, float, float, float, float, float]


@frozen(cache_hash=True)
class Contour:
    """One run of cubic curves through its vertices; where ``closed`` a last curve leads back to the first."""

    vertices: tuple[Vertex, ...]
    closed: bool = False

    def mapped(self, matrix: Affine) -> Contour:
        """Return the contour after an affine map."""
        m = matrix.apply
        return Contour(tuple((*m(v[0], v[1]), *m(v[2], v[3]), *m(v[4], v[5])) for v in self.vertices), self.closed)

    def rounded(self) -> Contour:
        """Return the contour without the digits that only rounding brought in."""
        return Contour(tuple(tuple(round(v, 6) for v in vertex) for vertex in self.vertices), self.closed)  # type: ignore[misc]


@frozen(cache_hash=True)
class Ramp:
    """A gradient in the units of what it paints.

    ``points`` holds x1, y1, x2, y2 of a linear ramp, or cx, cy, r, fx, fy, fr of a radial one (SVG 2, section
    14.2); ``stops`` rows of offset, red, green, blue, alpha; ``matrix`` comes after the points.
    """

    radial: bool
    points: tuple[float, ...]
    stops: tuple[tuple[float, float, float, float, float], ...]
    spread: str = "pad"
    matrix: Affine = IDENTITY

    def __attrs_post_init__(self) -> None:
        _require(len(self.points) == (6 if self.radial else 4), "a gradient has 4 points, a radial one 6 numbers")
        _require(len(self.stops) >= 1 and all(len(stop) == 5 for stop in self.stops), "a gradient has stops")
        _require(self.spread in SPREADS, f"a gradient's spread is one of {', '.join(SPREADS)}")


Paint = Colour | Ramp


@frozen(cache_hash=True)
class Stroke:
    """How an outline is stroked; widths and dashes in the units of the outline."""

    paint: Paint
    width: float = 1.0
    cap: str = "butt"
    join: str = "miter"
    miter_limit: float = 4.0
    dash: tuple[float, ...] = ()
    dash_offset: float = 0.0

    def __attrs_post_init__(self) -> None:
        _require(self.cap in CAPS and self.join in JOINS, "a stroke's cap or join is unknown")
        _require(self.width >= 0 and math.isfinite(self.width), "a stroke's width is a number from 0")

    @property
    def dash_period(self) -> float:
        """How long the pattern of dashes is until it repeats, 0 for a whole line; one of an odd number of lengths is
        taken twice (SVG 2, section 13.5.6)."""
        return sum(self.dash) * (1 + len(self.dash) % 2)


@frozen(cache_hash=True)
class Figure:
    """One outline with its fill and stroke, placed by ``matrix``."""

    contours: tuple[Contour, ...]
    fill: Paint | None = None
    rule: str = "nonzero"
    stroke: Stroke | None = None
    stroke_first: bool = False
    matrix: Affine = IDENTITY

    def __attrs_post_init__(self) -> None:
        _require(self.rule in RULES, f"a fill rule is one of {', '.join(RULES)}")


@frozen(cache_hash=True)
class Bundle:
    """Items drawn back to front as one picture, then clipped, masked and mixed in.

    Each of ``clips`` keeps what lies in the union of its figures' fills; ``mask`` multiplies by the luminance (or
    the alpha) of other items. Both are in the units of the items, inside ``matrix``.
    """

    items: tuple[Item, ...] = ()
    opacity: float = 1.0
    blend: str = "normal"
    clips: tuple[tuple[Figure, ...], ...] = ()
    mask: Bundle | None = None
    mask_by_alpha: bool = False
    matrix: Affine = IDENTITY

    @property
    def plain(self) -> bool:
        """Whether it only groups."""
        return self.opacity == 1 and self.blend == "normal" and not self.clips and self.mask is None


Item = Figure | Bundle
EMPTY_ART = Bundle()


def _require(holds: bool, sentence: str) -> None:
    if not holds:
        raise ModelError(sentence[0].upper() + sentence[1:] + ".")


def check_art(value: object, depth: int = 0) -> Bundle:
    """Return the art; raises ModelError where it is none or nested too deep."""
    if not isinstance(value, Bundle):
        raise ModelError("Shapes are outlines with fills and strokes, and this is not that.")
    if depth > DEEPEST:
        raise ModelError(f"Shapes are nested over {DEEPEST} deep.")
    for item in value.items:
        if isinstance(item, Bundle):
            check_art(item, depth + 1)
    return value


def figures_of(bundle: Bundle) -> Iterator[Figure]:
    """Yield all figures, back to front."""
    for item in bundle.items:
        if isinstance(item, Figure):
            yield item
        else:
            yield from figures_of(item)


def with_figures(art: Bundle, change: Callable[[Figure], Figure]) -> Bundle:
    """Return art with each of its figures changed, whatever bundles they are in."""
    items = (change(item) if isinstance(item, Figure) else with_figures(item, change) for item in art.items)
    return evolve(art, items=tuple(items))


def path_data(contours: tuple[Contour, ...]) -> str:
    """Return contours as SVG path data of absolute M, L, C and Z."""
    parts: list[str] = []

    def curve(start: Vertex, end: Vertex) -> None:
        if start[4:] == start[:2] and end[2:4] == end[:2]:
            parts.append(f"L{_number(end[0])} {_number(end[1])}")
        else:
            numbers = (*start[4:], *end[2:4], *end[:2])
            parts.append("C" + " ".join(_number(v) for v in numbers))

    for contour in contours:
        vertices = contour.vertices
        if not vertices:
            continue
        parts.append(f"M{_number(vertices[0][0])} {_number(vertices[0][1])}")
        for start, end in zip(vertices, vertices[1:], strict=False):
            curve(start, end)
        if contour.closed:
            curve(vertices[-1], vertices[0])
            parts.append("Z")
    return "".join(parts)


def _number(value: float) -> str:
    return str(int(value)) if value == int(value) else repr(value)


_COMMAND = re.compile(r"([MLCZ])([^MLCZ]*)")


def contours_of(data: str) -> tuple[Contour, ...]:
    """Read path data as ``path_data`` writes it.

    Raises:
        ModelError: anything else.
    """
    contours: list[Contour] = []
    vertices: list[list[float]] = []

    def finish(closed: bool) -> None:
        if closed and len(vertices) > 1:
            last = vertices.pop()
            vertices[0][2:4] = last[2:4]
        if vertices:
            contours.append(Contour(tuple(tuple(v) for v in vertices), closed))  # type: ignore[misc]
        vertices.clear()

    position = 0
    for match in _COMMAND.finditer(data):
        _require(match.start() == position, "path data is broken")
        position = match.end()
        try:
            numbers = [float(text) for text in match[2].split()]
        except ValueError as error:
            raise ModelError("Path data holds something that is no number.") from error
        _require(all(math.isfinite(n) and abs(n) <= 1e9 for n in numbers), "path data holds endless numbers")
        command = match[1]
        wanted = {"M": 2, "L": 2, "C": 6, "Z": 0}[command]
        _require(len(numbers) == wanted and (command == "M" or bool(vertices)), "path data is broken")
        if command == "Z":
            finish(True)
        elif command == "M":
            finish(False)
            vertices.append([*numbers] * 3)
        elif command == "L":
            vertices.append([*numbers] * 3)
        else:
            vertices[-1][4:] = numbers[:2]
            vertices.append([numbers[4], numbers[5], numbers[2], numbers[3], numbers[4], numbers[5]])
    _require(position == len(data), "path data is broken")
    finish(False)
    return tuple(contours)


class ContourPen:
    """Collects contours; the method names are those of the pen protocol (fontTools ``pens``)."""

    def __init__(self) -> None:
        self.contours: list[Contour] = []
        self._vertices: list[list[float]] = []

    def moveTo(self, point: tuple[float, float]) -> None:
        self._finish(False)
        self._vertices = [[*point] * 3]

    def lineTo(self, point: tuple[float, float]) -> None:
        self._vertices.append([*point] * 3)

    def curveTo(self, *points: tuple[float, float]) -> None:
        first, second, end = points
        self._vertices[-1][4:] = first
        self._vertices.append([*end, *second, *end])

    def qCurveTo(self, *points: tuple[float, float]) -> None:
        control, end = points
        x, y = self._vertices[-1][:2]
        first = (x + 2 / 3 * (control[0] - x), y + 2 / 3 * (control[1] - y))
        second = (end[0] + 2 / 3 * (control[0] - end[0]), end[1] + 2 / 3 * (control[1] - end[1]))
        self.curveTo(first, second, end)

    def closePath(self) -> None:
        vertices = self._vertices
        if len(vertices) > 1 and math.dist(vertices[0][:2], vertices[-1][:2]) < 1e-9:
            vertices[0][2:4] = vertices.pop()[2:4]
        self._finish(True)

    def endPath(self) -> None:
        self._finish(False)

    def _finish(self, closed: bool) -> None:
        if self._vertices:
            self.contours.append(Contour(tuple(tuple(v) for v in self._vertices), closed))  # type: ignore[misc]
        self._vertices = []

    def done(self) -> tuple[Contour, ...]:
        """Return what was drawn."""
        self._finish(False)
        return tuple(self.contours)


def figures_in(
    bundle: Bundle, path: tuple[int, ...] = (), outer: Affine = IDENTITY
) -> Iterator[tuple[tuple[int, ...], Figure, Affine]]:
    """Yield every figure with its place and the map from its units to the bundle's, front to back."""
    matrix = outer @ bundle.matrix
    for index in reversed(range(len(bundle.items))):
        item = bundle.items[index]
        if isinstance(item, Figure):
            yield (*path, index), item, matrix @ item.matrix
        else:
            yield from figures_in(item, (*path, index), matrix)
