"""Layers in space: where they stand, the camera they are seen through, and the plane map that comes of both.

x points right, y down, z away from the viewer; the frame lies in z = 0. A layer is moved by T(position) Rz Ry Rx S
T(-pivot), then as its parents are. The camera at C with the turn R sees v = R^T (P - C) at (W/2 + D vx / vz,
H/2 + D vy / vz), with D = W f / 36 for a focal length of f mm on a film 36 mm wide (Hartley and Zisserman, *Multiple
View Geometry*, 6.1). The default camera stands at (W/2, H/2, -D), so that z = 0 is shown as it is.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Mapping, Sequence
from functools import cached_property
from itertools import groupby

import numpy as np
from attrs import frozen

from spiralis.core.cache import Beside
from spiralis.core.geometry import Map, Projection, placement
from spiralis.core.model import Layer, Value, layer_kind
from spiralis.core.model.kinds import LayerKind
from spiralis.core.raster.lens import reach
from spiralis.core.render.layers import Evaluated, own_matrix, parents_of, pivot_point
from spiralis.core.render.maps_in_space import (
    NOTHING,
    Rows,
    after,
    as_array,
    as_rows,
    embedded,
    moved_in,
    plane_under,
    point_under,
    turned_in_space,
)


@frozen(eq=False)
class Camera:
    """``place`` (3,) in the composition's space, ``turn`` (3, 3) from the camera's axes to it, how far off (``reach``,
    px) the plane lies that is shown 1:1, and the frame's middle."""

    place: np.ndarray
    turn: np.ndarray
    reach: float
    middle: tuple[float, float]
    aperture: float = 0.0
    focus: float = 1.0
    fade: tuple[float, float] = (0.0, 0.0)

    def spread(self, distance: float) -> float:
        """Return how wide a point of light at a distance is spread, in px, by a thin lens that is focused at another:
        the aperture's share of how far it is off (Potmesil and Chakravarty, 1981)."""
        return self.aperture * abs(distance - self.focus) / distance if distance > 0 else 0.0

    def left(self, distance: float) -> float:
        """Return how much is left of what fades by its distance, 0 to 1."""
        low, high = self.fade
        return 1.0 if high <= 0 else min(max((high - distance) / max(high - low, 1e-6), 0.0), 1.0)

    @cached_property
    def matrix(self) -> np.ndarray:
        """The map of space to (x w, y w, w), float64 (3, 4), with w 1 where things are shown 1:1."""
        view = np.column_stack([self.turn.T, -self.turn.T @ self.place])
        (x, y), reach = self.middle, self.reach
        return np.asarray(np.array([[1, 0, x / reach], [0, 1, y / reach], [0, 0, 1 / reach]]) @ view)

    @cached_property
    def rows(self) -> Rows:
        """The same map in plain numbers."""
        return as_rows(self.matrix)

    @cached_property
    def eye(self) -> tuple[float, float, float]:
        """The camera's place in plain numbers."""
        x, y, z = self.place.tolist()
        return x, y, z

    @cached_property
    def ahead(self) -> tuple[float, float, float]:
        """Where it looks, in plain numbers."""
        x, y, z = self.turn[:, 2].tolist()
        return x, y, z

    def sees(self, points: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        """Return where points (..., 3) are seen in the composition's pixels, (..., 2), and how far off they are, (...):
        1 where things are shown 1:1. What is not before the camera is seen as if it were hardly before it."""
        x, y, w = np.moveaxis(points @ self.matrix[:, :3].T + self.matrix[:, 3], -1, 0)
        return np.stack([x, y], axis=-1) / np.maximum(w, NEAREST)[..., None], w

    def distance(self, point: tuple[float, float, float]) -> float:
        """Return how far in front of the camera's plane a point lies."""
        (x, y, z), (u, v, w) = self.eye, self.ahead
        return (point[0] - x) * u + (point[1] - y) * v + (point[2] - z) * w


class _Sight:
    """What was found for one moment: its camera, where layers stand, and how they are seen."""

    def __init__(self) -> None:
        self.camera: Camera | None = None
        self.maps: dict[str, Map] = {}
        self.standings: dict[str, Rows] = {}
        self.worlds: dict[str, np.ndarray] = {}


#: What is nearer to the camera than this share of where things are shown 1:1 counts as not before it.
NEAREST = 1e-3
_sights: Beside[_Sight] = Beside(_Sight)


def turned(x: float, y: float, z: float) -> np.ndarray:
    """Return the turn Rz Ry Rx of three angles in degrees, float64 (3, 3)."""
    return np.array(_turn(x, y, z))


def _turn(x: float, y: float, z: float) -> tuple[tuple[float, float, float], ...]:
    """Return the rows of a turn, in plain numbers."""
    (a, b), (c, d), (e, f) = ((math.cos(math.radians(v)), math.sin(math.radians(v))) for v in (x, y, z))
    return (
        (e * c, e * d * b - f * a, e * d * a + f * b), (f * c, f * d * b + e * a, f * d * a - e * b),
        (-d, c * b, c * a),
    )  # fmt: skip


def is_in_depth(at: Evaluated, layer: Layer) -> bool:
    """Whether a layer stands in space, by itself or by what it hangs on."""
    piece = at.composition
    if at.outer is not None:
        return True
    return piece.has_depth and any(y.track("depth").value for y in (layer, *parents_of(piece, layer)))


def stands_in_space(at: Evaluated, layer: Layer) -> bool:
    """Whether a layer is seen in space as one thing; of a group each layer is by itself."""
    return is_in_depth(at, layer) and not layer.gathers


def world(at: Evaluated, layer: Layer) -> np.ndarray:
    """Return the map as ``standing``, float64 (4, 4), not to be written to."""
    known = _sights.of(at).worlds
    if layer.id not in known:
        known[layer.id] = as_array(standing(at, layer))
    return known[layer.id]


def standing(at: Evaluated, layer: Layer) -> Rows:
    """Return the map from a layer's units, with z, to the composition's space."""
    known = _sights.of(at).standings
    if layer.id in known:
        return known[layer.id]
    whole: Rows = at.outer.base if at.outer is not None else NOTHING
    above = parents_of(at.composition, layer)
    if at.outer is not None and not any(at.values(y)["depth"] for y in (layer, *above)):
        # Flat there, it lies in its composition's plane, wherever edges hold it.
        found = known[layer.id] = after(whole, embedded(at.matrix(layer)))
        return found
    for each, outer in zip(reversed([layer, *above]), reversed([*above, None]), strict=True):
        held = known.get(each.id)
        if held is None:
            if outer is not None and outer.has("stack"):
                whole = moved_in(whole, _stacked(at, each, outer))
            held = known[each.id] = after(whole, _own(at, each))
        whole = held
    return whole


def _stacked(at: Evaluated, layer: Layer, carrier: Layer) -> float:
    """Return how far behind a layer stands that hangs on a carrier that spreads its own: the front one stays."""
    step: float = at.values(carrier)["stack"]
    if not step:
        return 0.0
    hung = [y.id for y in at.composition.layers if y.parent == carrier.id]
    return step * hung.index(layer.id)


def _own(at: Evaluated, layer: Layer) -> Rows:
    values = at.values(layer)
    if not values["depth"]:
        return embedded(own_matrix(layer, values, at.scene))
    flat = placement((0.0, 0.0), values["scale"], 0.0, values["skew"], pivot_point(values, at.box(layer)))
    return turned_in_space(_own_turn(values), flat, (*values["position"], values["position_z"]))


def _own_turn(values: Mapping[str, Value]) -> tuple[tuple[float, float, float], ...]:
    return _turn(values["turn_x"], values["turn_y"], values["rotation"] + values.get("heading", 0.0))


def pivot_shift(values: Mapping[str, Value], dx: float, dy: float) -> tuple[float, float, float]:
    """Return how the position changes in x, y and z where the pivot of a layer in depth moves over it by so many units
    and nothing is to be seen of it."""
    flat = placement((0.0, 0.0), values["scale"], 0.0, values["skew"], (0.0, 0.0))
    along = np.array([*flat.apply_direction(dx, dy), 0.0])
    x, y, z = (np.array(_own_turn(values)) @ along).tolist()
    return x, y, z


def camera_of(at: Evaluated) -> Camera:
    """Return the camera of a moment: of the camera layers that are on the one in front, else the default one."""
    if at.outer is not None:
        camera: Camera = at.outer.camera
        return camera
    sight = _sights.of(at)
    if sight.camera is None:
        sight.camera = _camera_of(at)
    return sight.camera


def first_on(at: Evaluated, wanted: Callable[[LayerKind], bool]) -> Layer | None:
    """Return of the layers of some kind that are on the one in front."""
    on = (y for y in at.composition.layers if wanted(layer_kind(y.kind)) and y.shown_at(at.frame))
    return next((y for y in on if at.values(y)["visible"]), None)


def _camera_of(at: Evaluated) -> Camera:
    piece, layer = at.composition, first_on(at, lambda kind: kind.sees)
    if layer is not None:
        return _camera(at, layer)
    middle, away = (piece.width / 2, piece.height / 2), reach(piece.width)
    return Camera(np.array([*middle, -away]), np.eye(3), away, middle)


def _camera(at: Evaluated, layer: Layer) -> Camera:
    values, piece = at.values(layer), at.composition
    stands = world(at, layer)
    # What it hangs on may be scaled; a camera only stands and turns.
    turn, place = _only_turned(stands[:3, :3]), stands[:3, 3]
    if values["aims"]:
        turn = _looking(np.array([*values["looks_at"], values["looks_at_z"]]) - place, turn, values["rotation"])
    return Camera(
        place, turn, reach(piece.width, values["lens"]), (piece.width / 2, piece.height / 2), values["aperture"],
        values["focus"], (values["fade_from"], values["fade_to"]),
    )  # fmt: skip


def _only_turned(matrix: np.ndarray) -> np.ndarray:
    """Return the turn that is nearest to a matrix (Higham, polar decomposition by singular values)."""
    left, _, right = np.linalg.svd(matrix)
    turn = left @ right
    return np.asarray(turn if np.linalg.det(turn) > 0 else left @ np.diag([1.0, 1.0, -1.0]) @ right)


def _looking(way: np.ndarray, otherwise: np.ndarray, roll: float) -> np.ndarray:
    """Return the turn that looks along a way, with the frame's upright as upright as it can be, then rolled."""
    length = float(np.linalg.norm(way))
    if length < 1e-6:
        return otherwise
    ahead = way / length
    across = np.cross([0.0, 1.0, 0.0], ahead)
    if np.linalg.norm(across) < 1e-6:
        across = np.array([1.0, 0.0, 0.0])
    across = across / np.linalg.norm(across)
    return np.column_stack([across, np.cross(ahead, across), ahead]) @ turned(0.0, 0.0, roll)


def seen(at: Evaluated, layer: Layer) -> Map:
    """Return the map from a layer's units to the composition's pixels as it is seen; ``Affine`` where it lies flat."""
    known = _sights.of(at).maps
    if layer.id not in known:
        known[layer.id] = _seen(at, layer) if is_in_depth(at, layer) else at.matrix(layer)
    return known[layer.id]


def _seen(at: Evaluated, layer: Layer) -> Map:
    plane = plane_under(camera_of(at).rows, standing(at, layer))
    a, b, c, d, e, f, g, h, i = plane
    if abs(g) < 1e-12 and abs(h) < 1e-12 and abs(i - 1.0) < 1e-12 and not layer.edge_pins:
        # Where nothing is nearer nor farther it is the very map that it has without depth.
        flat = at.matrix(layer)
        if max(abs(one - other) for one, other in zip(flat, (a, d, b, e, c, f), strict=True)) < 1e-7:
            return flat
    return Projection(*plane)


def seen_behind(at: Evaluated, layer: Layer, z: float) -> Projection:
    """Return the map as ``seen``, of a plane so far behind the layer's own, in its units."""
    return Projection(*plane_under(camera_of(at).rows, standing_behind(at, layer, z)))


def standing_behind(at: Evaluated, layer: Layer, z: float) -> Rows:
    """Return the map as ``standing``, of a plane so far behind the layer's own, in its units."""
    return moved_in(standing(at, layer), z)


def middle_of(at: Evaluated, layer: Layer) -> tuple[float, float, float]:
    """Return where the middle of a layer's box is."""
    left, top, right, bottom = at.box(layer)
    return point_under(standing(at, layer), (left + right) / 2, (top + bottom) / 2)


def distance(at: Evaluated, layer: Layer) -> float:
    """Return how far in front of the camera's plane the middle of a layer's box lies."""
    return camera_of(at).distance(middle_of(at, layer))


def by_distance(at: Evaluated, layers: Sequence[Layer]) -> list[Layer]:
    """Return layers, back to front, with those that stand in space side by side ordered by how far away they are.

    Flat ones keep their places among them, and of two that are equally far away the order stays.
    """
    if not at.composition.has_depth and at.outer is None:
        return list(layers)
    ordered: list[Layer] = []
    for stands, run in runs_in_space(at, layers):
        ordered += sorted(run, key=lambda y: -distance(at, y)) if stands and len(run) > 1 else run
    return ordered


def runs_in_space(at: Evaluated, layers: Sequence[Layer]) -> Iterator[tuple[bool, list[Layer]]]:
    """Yield layers that follow each other and all stand in space, or all lie flat, and which of both it is.

    Those that show nothing, as carriers, part nothing; they come first.
    """
    unseen = [layer for layer in layers if _shows_nothing(layer)]
    if unseen:
        yield False, unseen
    shown = layers if not unseen else [layer for layer in layers if not _shows_nothing(layer)]
    for stands, run in groupby(shown, lambda layer: stands_in_space(at, layer)):
        yield stands, list(run)


def _shows_nothing(layer: Layer) -> bool:
    kind = layer_kind(layer.kind)
    # Of a light its shadows are seen.
    return kind.unseen and not kind.lights
