"""Edits of outlines: points and handles moved, inserted, taken out, made smooth or corners; outlines in their layer."""

from __future__ import annotations

import math
from collections.abc import Mapping

from attrs import evolve

from spiralis.core.editing.edits import set_value, shifted
from spiralis.core.model import Layer, Track, Value
from spiralis.core.model.art import Bundle, Contour, Figure, Vertex
from spiralis.core.raster.kinds.shape import art_of
from spiralis.core.raster.vectors import art_box, drawing_box
from spiralis.core.render.layers import Evaluated, own_matrix

Point = tuple[float, float]
#: Where a figure stands in a bundle: an index a level.
Path = tuple[int, ...]
_SAMPLES = 24


def segment_count(contour: Contour) -> int:
    """Return how many curves a contour has."""
    return len(contour.vertices) if contour.closed else len(contour.vertices) - 1


def controls(contour: Contour, segment: int) -> tuple[Point, Point, Point, Point]:
    """Return the four control points of a curve."""
    start = contour.vertices[segment]
    end = contour.vertices[(segment + 1) % len(contour.vertices)]
    return start[:2], start[4:], end[2:4], end[:2]


def point_on(points: tuple[Point, Point, Point, Point], t: float) -> Point:
    """Return the point of a cubic Bézier curve at a parameter from 0 to 1."""
    u = 1 - t
    weights = (u * u * u, 3 * u * u * t, 3 * u * t * t, t * t * t)
    return (
        sum(w * p[0] for w, p in zip(weights, points, strict=True)),
        sum(w * p[1] for w, p in zip(weights, points, strict=True)),
    )


def nearest(contour: Contour, x: float, y: float) -> tuple[int, float, float]:
    """Return (curve, parameter, distance) of the place on a contour nearest to a point."""
    best = (0, 0.0, math.inf)
    for segment in range(segment_count(contour)):
        points = controls(contour, segment)
        low, high = 0.0, 1.0
        for _ in range(3):
            steps = [low + (high - low) * i / _SAMPLES for i in range(_SAMPLES + 1)]
            t = min(steps, key=lambda t: math.dist(point_on(points, t), (x, y)))
            width = (high - low) / _SAMPLES
            low, high = max(t - width, 0.0), min(t + width, 1.0)
        distance = math.dist(point_on(points, t), (x, y))
        if distance < best[2]:
            best = (segment, t, distance)
    return best


def inserted(contour: Contour, segment: int, t: float) -> Contour:
    """Return the contour with one more vertex on a curve, its shape unchanged (de Casteljau)."""
    p0, p1, p2, p3 = controls(contour, segment)

    def between(a: Point, b: Point) -> Point:
        return a[0] + (b[0] - a[0]) * t, a[1] + (b[1] - a[1]) * t

    a, b, c = between(p0, p1), between(p1, p2), between(p2, p3)
    d, e = between(a, b), between(b, c)
    middle = between(d, e)
    vertices = list(contour.vertices)
    following = (segment + 1) % len(vertices)
    first, last = vertices[segment], vertices[following]
    vertices[segment] = (*first[:4], *a)
    vertices[following] = (*last[:2], *c, *last[4:])
    vertices.insert(segment + 1, (*middle, *d, *e))
    return evolve(contour, vertices=tuple(vertices))


def without(contour: Contour, index: int) -> Contour:
    """Return the contour without a vertex."""
    return evolve(contour, vertices=contour.vertices[:index] + contour.vertices[index + 1 :])


def moved(contour: Contour, index: int, dx: float, dy: float) -> Contour:
    """Return the contour with a vertex and its handles moved."""
    x, y, ix, iy, ox, oy = contour.vertices[index]
    return _with(contour, index, (x + dx, y + dy, ix + dx, iy + dy, ox + dx, oy + dy))


def with_handle(contour: Contour, index: int, out: bool, place: Point, mirrored: bool) -> Contour:
    """Return the contour with one handle moved; where ``mirrored`` the other one points the opposite way."""
    x, y, ix, iy, ox, oy = contour.vertices[index]
    opposite = (2 * x - place[0], 2 * y - place[1]) if mirrored else ((ix, iy) if out else (ox, oy))
    vertex: Vertex = (x, y, *opposite, *place) if out else (x, y, *place, *opposite)
    return _with(contour, index, vertex)


def is_corner(vertex: Vertex) -> bool:
    """Whether a vertex has no handles."""
    return vertex[2:4] == vertex[:2] and vertex[4:] == vertex[:2]


def toggled(contour: Contour, index: int) -> Contour:
    """Return the contour with a vertex made a corner, or made smooth by handles along its neighbours."""
    vertex = contour.vertices[index]
    if not is_corner(vertex):
        return _with(contour, index, (*vertex[:2],) * 3)
    count = len(contour.vertices)
    before = contour.vertices[(index - 1) % count if contour.closed else max(index - 1, 0)]
    after = contour.vertices[(index + 1) % count if contour.closed else min(index + 1, count - 1)]
    # A sixth of the way between the neighbours on each side: the curve of Catmull and Rom.
    dx, dy = (after[0] - before[0]) / 6, (after[1] - before[1]) / 6
    x, y = vertex[:2]
    return _with(contour, index, (x, y, x - dx, y - dy, x + dx, y + dy))


def reshaped(contour: Contour, segment: int, t: float, dx: float, dy: float) -> Contour:
    """Return the contour with a curve pulled so that its point at ``t`` moves by so much; its ends stay."""
    count = len(contour.vertices)
    t = min(max(t, 0.1), 0.9)
    first, second = 3 * (1 - t) ** 2 * t, 3 * (1 - t) * t * t
    # The least change of both inner control points that moves the point there.
    size = first * first + second * second
    vertices = list(contour.vertices)
    following = (segment + 1) % count
    a, b = vertices[segment], vertices[following]
    vertices[segment] = (*a[:4], a[4] + dx * first / size, a[5] + dy * first / size)
    b = vertices[following]
    vertices[following] = (b[0], b[1], b[2] + dx * second / size, b[3] + dy * second / size, b[4], b[5])
    return evolve(contour, vertices=tuple(vertices))


def _with(contour: Contour, index: int, vertex: Vertex) -> Contour:
    vertices = list(contour.vertices)
    vertices[index] = vertex
    return evolve(contour, vertices=tuple(vertices))


def with_figure(bundle: Bundle, path: Path, figure: Figure) -> Bundle:
    """Return the bundle with the figure at a place replaced."""
    items = list(bundle.items)
    item = items[path[0]]
    items[path[0]] = figure if isinstance(item, Figure) else with_figure(item, path[1:], figure)
    return evolve(bundle, items=tuple(items))


def form_names(layer: Layer) -> set[str]:
    """Return the names of the properties that a plain form of a shape hangs on."""
    return {p.name for p in layer.parameters if p.needs is not None and p.needs[0] in ("form", "paint")}


def as_drawing(at: Evaluated, layer: Layer) -> Layer:
    """Return a plain form as a drawing of its outline, where it is seen."""
    art = art_of(at.values(layer))
    drawn = layer.with_track("form", Track("drawing")).with_track("art", Track(art))
    return shifted(drawn, *_from_form_to_drawing(at, layer, at.values(layer)))


def as_form(at: Evaluated, layer: Layer, form: str) -> Layer:
    """Return a drawing, or another form, as a plain form about the same pivot; one that has no size takes over that of
    the drawing."""
    values, sized = at.values(layer), layer
    box = art_box(art_of(values))
    if "size" not in layer.properties and box is not None:
        sized = layer.with_values(size=(round(box[2] - box[0], 3), round(box[3] - box[1], 3)))
    formed = sized.with_values(form=form)
    if values["form"] != "drawing":
        return formed
    x, y = _from_form_to_drawing(at, layer, {**values, "form": form, "size": sized.track("size").value})
    return shifted(formed, -x, -y)


def _from_form_to_drawing(at: Evaluated, layer: Layer, values: Mapping[str, Value]) -> Point:
    """Return by how much a layer is to move when its plain form becomes a drawing: their pivots are parts of different
    boxes."""
    box = art_box(art_of(values))
    if box is None:
        return (0.0, 0.0)
    (width, height), (px, py) = values["size"], (part / 100 for part in values["pivot"])
    dx = box[0] + (box[2] - box[0]) * px - max(width, 1e-3) * px
    dy = box[1] + (box[3] - box[1]) * py - max(height, 1e-3) * py
    return own_matrix(layer, at.values(layer), at.scene).apply_direction(dx, dy)


def with_art_in_place(at: Evaluated, layer: Layer, art: Bundle) -> Layer:
    """Return the shape layer with other outlines, so that what did not change stays where it is seen.

    The pivot keeps its part of the box, and the box may grow; so the layer's whole way moves by what the pivot moved.
    """
    changed = set_value(layer, "art", art, int(at.frame))
    old = drawing_box(layer.track("art")) or (0.0, 0.0, 1.0, 1.0)
    new = drawing_box(changed.track("art")) or old
    px, py = (part / 100 for part in at.values(layer)["pivot"])
    before = (old[0] + (old[2] - old[0]) * px, old[1] + (old[3] - old[1]) * py)
    after = (new[0] + (new[2] - new[0]) * px, new[1] + (new[3] - new[1]) * py)
    own = own_matrix(layer, at.values(layer), at.scene)
    dx, dy = own.apply_direction(after[0] - before[0], after[1] - before[1])
    return shifted(changed, dx, dy) if dx or dy else changed
