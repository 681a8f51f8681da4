"""Hang a layer on another one without moving it, its keys included."""

from __future__ import annotations

import math
from collections.abc import Iterable

import numpy as np
from attrs import evolve

from spiralis.core.animation.easing import LINEAR
from spiralis.core.animation.placing import is_separate
from spiralis.core.editing.edits import shifted
from spiralis.core.editing.placed_by import track_mapped, with_place
from spiralis.core.editing.posing import poses_mapped
from spiralis.core.geometry import Affine
from spiralis.core.model import Composition, Key, Layer, Project, Track
from spiralis.core.model.drivers import DialJoin
from spiralis.core.model.poses import PoseStrip
from spiralis.core.render.layers import Evaluated, parents_of, pivot_point, place_moves

_EXACT = 1e-9
#: What of a layer's place is set anew under another parent.
_PLACE = ("position", "scale", "rotation", "skew")


def with_parent(at: Evaluated, layer: Layer, parent_id: str | None) -> Layer:
    """Return the layer with another parent, placed so that it looks the same at ``at``'s frame.

    Keys go along where the difference between the parents is a shift, an even scale or a turn; else they keep their
    numbers, which from then on count in the new parent's space. A parent that is stretched unevenly and turned can
    only be matched up to a skew, which is set too.
    """
    if parent_id == layer.parent:
        return layer
    inverse = _into(at, parent_id)
    if inverse is None:
        return evolve(layer, parent=parent_id)
    placed = mapped_place(layer, inverse @ at.parent_matrix(layer))
    if placed is not None:
        return evolve(placed, parent=parent_id)
    at = _still(at, layer)
    still = at.composition.layer(layer.id)
    own = inverse @ at.matrix(still)
    pivot = pivot_point(at.values(still), at.box(still))
    position = own.apply(*pivot)
    scale, rotation, skew = decomposed(own)
    values = {"position": position, "scale": scale, "rotation": rotation, "skew": skew}
    free = {name: value for name, value in values.items() if not layer.track(name).animated}
    return evolve(layer, parent=parent_id).with_values(**free)


def _still(at: Evaluated, layer: Layer) -> Evaluated:
    """Return the same moment with a layer's place where it wobbles about, as that is added to what is set."""
    still = layer
    for name in _PLACE:
        if layer.track(name).wobble is not None:
            still = still.with_track(name, evolve(layer.track(name), wobble=None))
    return Evaluated(at.scene.project, at.composition.with_layer(still), at.frame) if still is not layer else at


def _into(at: Evaluated, parent_id: str | None) -> Affine | None:
    """Return the map from the composition into a layer's units, its own where there is none; None for a flat one."""
    parent = at.composition.find(parent_id)
    return (at.matrix(parent) if parent is not None else Affine()).inverse()


def with_hung(at: Evaluated, piece: Composition, layer_id: str, parent_id: str | None) -> Composition:
    """Return the piece with a layer on another parent, as ``with_parent`` does, and the poses that it has along."""
    layer = piece.layer(layer_id)
    inverse = _into(at, parent_id)
    by = inverse @ at.parent_matrix(layer) if inverse is not None else Affine()
    poses = poses_mapped(piece, lambda posed: mapped_place(posed, by) or posed, {layer_id})
    return evolve(piece.with_layer(with_parent(at, layer, parent_id)), poses=poses)


def mapped_place(layer: Layer, by: Affine) -> Layer | None:
    """Return the layer with its whole way, resting place and keys, mapped in its parent's space.

    None where the map or what drives the layer allows no exact one.
    """
    if _is_identity(by):
        return layer
    names = ("position_x", "position_y") if is_separate(layer) else ("position",)
    if any(led(layer.track(name)) for name in names):
        return None
    if abs(by.a - 1) + abs(by.d - 1) + abs(by.b) + abs(by.c) < _EXACT:
        return shifted(layer, by.e, by.f)
    grows = math.hypot(by.a, by.b)
    even = abs(by.a - by.d) + abs(by.b + by.c) < _EXACT * max(grows, 1.0) and grows > _EXACT
    turns = abs(by.b) > _EXACT
    if not even or (turns and is_separate(layer)) or any(led(layer.track(n)) for n in ("scale", "rotation")):
        return None
    # A wobble wanders along the axes, and cannot be turned.
    if layer.track("along_path").value or (turns and layer.track("position").wobble is not None):
        return None
    placed = with_place(layer, (by.a, by.d), (by.e, by.f)) if is_separate(layer) else _along(layer, by)
    scale, rotation = placed.track("scale"), placed.track("rotation")
    placed = placed.with_track("scale", track_mapped(scale, lambda v: (v[0] * grows, v[1] * grows), grows))
    degrees = math.degrees(math.atan2(by.b, by.a))
    return placed.with_track("rotation", track_mapped(rotation, lambda v: v + degrees, 1.0)) if turns else placed


def _is_identity(by: Affine) -> bool:
    return by.is_shift and abs(by.e) + abs(by.f) < _EXACT


def led(track: Track) -> bool:
    """Whether something other than a dial says a thread's value."""
    return track.driver is not None and not isinstance(track.driver, DialJoin)


def _along(layer: Layer, by: Affine) -> Layer:
    track = track_mapped(layer.track("position"), lambda v: by.apply(*v), math.hypot(by.a, by.b))
    keys = tuple(
        evolve(
            key, handle_in=by.apply_direction(*key.handle_in) if key.handle_in else None,
            handle_out=by.apply_direction(*key.handle_out) if key.handle_out else None,
        )
        for key in track.keys
    )  # fmt: skip
    return layer.with_track("position", evolve(track, keys=keys))


def rehung(project: Project, piece: Composition, layer: Layer, parent_id: str | None, frame: int) -> tuple[Layer, bool]:
    """Return a layer on another parent (one that it hangs on already, or none) that moves as before.

    Also return whether its place had to be written as a key a frame, because something between the two moves.
    """
    at = Evaluated(project, piece, frame)
    between = []
    for parent in parents_of(piece, layer):
        if parent.id == parent_id:
            break
        between.append(parent)
    if not any(place_moves(parent) for parent in between):
        inverse = _into(at, parent_id)
        mapped = mapped_place(layer, inverse @ at.parent_matrix(layer)) if inverse is not None else None
        if mapped is not None:
            return evolve(mapped, parent=parent_id), False
        if not place_moves(layer):
            return with_parent(at, layer, parent_id), False
    return baked_place(project, piece, layer, parent_id), True


def poses_rehung(project: Project, piece: Composition, layer_id: str, parent_id: str | None, frame: int) -> PoseStrip:
    """Return the piece's poses with what they hold of a layer as it is on another parent."""
    return poses_mapped(piece, lambda posed: rehung(project, piece, posed, parent_id, frame)[0], {layer_id})


def baked_place(project: Project, piece: Composition, layer: Layer, parent_id: str | None) -> Layer:
    """Return a layer on another parent with its place as one key a frame, where it is seen now."""
    rows: list[tuple[tuple[float, float], tuple[float, float], float, tuple[float, float]]] = []
    frames = range(piece.length + 1)
    for frame in frames:
        at = Evaluated(project, piece, float(frame))
        outer = at.matrix(piece.layer(parent_id)) if parent_id is not None else Affine()
        own = (outer.inverse() or Affine()) @ at.matrix(layer)
        scale, rotation, skew = decomposed(own)
        rows.append((own.apply(*pivot_point(at.values(layer), at.box(layer))), scale, rotation, skew))
    turns = np.degrees(np.unwrap(np.radians([row[2] for row in rows]))).tolist()
    columns = {
        "position": [row[0] for row in rows], "scale": [row[1] for row in rows], "rotation": turns,
        "skew": [row[3] for row in rows],
    }  # fmt: skip
    placed = evolve(layer, parent=parent_id, edge_pins=()).with_values(separate=False, along_path=False)
    for name, values in columns.items():
        keys = tuple(Key(f, v, LINEAR) for f, v in zip(frames, values, strict=True)) if _differ(values) else ()
        placed = placed.with_track(name, Track(values[0], keys))
    return placed


def _differ(values: Iterable[object]) -> bool:
    rows = np.array(list(values), dtype=np.float64).reshape(len(list(values)), -1) if values else np.zeros((1, 1))
    return bool(np.abs(rows - rows[0]).max() > 1e-7)


def decomposed(matrix: Affine) -> tuple[tuple[float, float], float, tuple[float, float]]:
    """Return scale in percent, rotation and skew (x, 0) in degrees of a map's linear part (QR decomposition)."""
    width = math.hypot(matrix.a, matrix.b)
    if width < 1e-12:
        return (0.0, 0.0), 0.0, (0.0, 0.0)
    rotation = math.degrees(math.atan2(matrix.b, matrix.a))
    height = matrix.determinant / width
    slant = (matrix.a * matrix.c + matrix.b * matrix.d) / width
    skew = math.degrees(math.atan(slant / height)) if abs(height) > 1e-12 else 0.0
    rounded = (round(100 * width, 6), round(100 * height, 6))
    return rounded, round(rotation, 6), (round(min(max(skew, -89), 89), 6), 0.0)
