"""How layers are seen on the canvas, and what a move of the pointer means for one that stands in space."""

from __future__ import annotations

import math

import numpy as np

from spiralis.app.session import Session
from spiralis.core.geometry import Affine, Map, Projection, corners_of
from spiralis.core.model import Layer
from spiralis.core.render.layers import Evaluated, parents_of
from spiralis.core.render.solids import planes_of
from spiralis.core.render.space import camera_of, is_in_depth, seen, world

#: What is seen thinner than so many px shows no face.
_THIN = 6.0
#: The map of what cannot be seen whole: everything falls on one point, and nothing can be grabbed.
NOWHERE = Affine(0.0, 0.0, 0.0, 0.0, -1e6, -1e6)


def sight(session: Session, layer: Layer) -> Map:
    """Return the map from a layer's units to the composition's pixels as the canvas shows it."""
    at = session.looked_at()
    found = at.composition.find(layer.id)
    if found is None:
        return at.matrix(layer)
    return _whole(at, found, seen(at, found))


def _whole(at: Evaluated, layer: Layer, map_: Map) -> Map:
    """Return how a layer is seen, or ``NOWHERE`` where a part of it lies behind the eye."""
    return NOWHERE if isinstance(map_, Projection) and map_.depths(at.box(layer))[0] < 1e-3 else map_


def planes_in_sight(session: Session, layer: Layer) -> list[tuple[Layer, Map]]:
    """Return the planes that a solid is made of, each with how it is seen; those that cannot be seen whole left out."""
    at = session.looked_at()
    found = at.composition.find(layer.id)
    planes = planes_of(at, found) if found is not None and is_in_depth(at, found) else []
    return [(plane, map_) for plane in planes if (map_ := _whole(at, plane, seen(at, plane))) is not NOWHERE]


def edge_on(session: Session, layer: Layer) -> tuple[tuple[float, float], tuple[float, float]] | None:
    """Return the ends of the line that a layer in space is seen as, in composition pixels, where it is seen from its
    edge; None where it shows its face or cannot be seen whole."""
    map_ = sight(session, layer)
    if map_ is NOWHERE or not in_space(session, layer):
        return None
    corners = [map_.apply(*corner) for corner in corners_of(session.looked_at().box(layer))]
    area = sum(a[0] * b[1] - b[0] * a[1] for a, b in zip(corners, (*corners[1:], corners[0]), strict=True)) / 2
    ends = max(((a, b) for a in corners for b in corners), key=lambda pair: math.dist(*pair))
    return ends if abs(area) < _THIN * max(math.dist(*ends), 1.0) else None


def distance_to(ends: tuple[tuple[float, float], tuple[float, float]], point: tuple[float, float]) -> float:
    """Return how far a point is from a line between two."""
    (ax, ay), (bx, by) = ends
    length2 = (bx - ax) ** 2 + (by - ay) ** 2
    along = ((point[0] - ax) * (bx - ax) + (point[1] - ay) * (by - ay)) / length2 if length2 > 1e-9 else 0.0
    along = min(max(along, 0.0), 1.0)
    return math.dist(point, (ax + along * (bx - ax), ay + along * (by - ay)))


def in_space(session: Session, layer: Layer) -> bool:
    """Whether a layer stands in space, so that pixels of the picture are not its parent's."""
    return is_in_depth(session.evaluated(), layer)


def positions_seen(session: Session, layer: Layer) -> np.ndarray:
    """Return the map of a layer's positions (x, y, z, 1) to (x w, y w, w) as the canvas shows them, (3, 4)."""
    at = session.looked_at()
    above = parents_of(at.composition, at.composition.layer(layer.id))
    return np.asarray(camera_of(at).matrix @ (world(at, above[0]) if above else np.eye(4)))


def way_sight(session: Session, layer: Layer) -> Map:
    """Return the map from where a layer's positions are meant, at its present depth, to the composition's pixels."""
    if not in_space(session, layer):
        return session.evaluated().parent_matrix(layer)
    matrix, values = positions_seen(session, layer), session.evaluated().values(layer)
    depth = values["position_z"] if values["depth"] else 0.0
    plane = np.column_stack([matrix[:, 0], matrix[:, 1], matrix[:, 2] * depth + matrix[:, 3]])
    places = [values["position"], *(key.value for key in layer.track("position").keys)]
    if min(float(plane[2] @ (x, y, 1.0)) for x, y in places) < 1e-3:
        return NOWHERE
    return Projection.from_array(plane)


def slopes_of(session: Session, layer: Layer) -> np.ndarray:
    """Return how far a layer is seen to move, in px, for each px that its position's x, y and z change: (2, 3)."""
    at = session.looked_at()
    values = at.values(at.composition.layer(layer.id))
    matrix = positions_seen(session, layer)
    place = matrix @ (*values["position"], values["position_z"] if values["depth"] else 0.0, 1.0)
    w = place[2] if abs(place[2]) > 1e-6 else 1e-6
    return np.asarray((matrix[:2, :3] - np.outer(place[:2] / w, matrix[2, :3])) / w)


def axes_moved(session: Session) -> tuple[int, int]:
    """Return which two of x, y and z the pointer moves: those that lie across the view."""
    return {"top": (0, 2), "side": (2, 1)}.get(session.viewpoint.name, (0, 1))


def moved_by(slopes: np.ndarray, axes: tuple[int, int], dx: float, dy: float) -> tuple[float, float, float]:
    """Return how a position changes, in x, y and z, where it is seen to move by so many px along two of its axes."""
    part = slopes[:, list(axes)]
    change = np.zeros(3)
    if abs(np.linalg.det(part)) > 1e-9:
        change[list(axes)] = np.linalg.solve(part, (dx, dy))
    return float(change[0]), float(change[1]), float(change[2])
