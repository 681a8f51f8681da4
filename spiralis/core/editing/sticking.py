"""Let a layer stick to what lies beneath it: it is looked for in every frame, and the layer's place goes along."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence

import cv2
import numpy as np
from attrs import evolve, frozen

from spiralis.core.animation.easing import LINEAR
from spiralis.core.animation.placing import PARTS, is_separate
from spiralis.core.editing.corner_pinning import pin_of
from spiralis.core.editing.effecting import with_effect
from spiralis.core.editing.locking import locked_in
from spiralis.core.editing.reparenting import decomposed, led
from spiralis.core.effects.corner_pin import CORNERS
from spiralis.core.effects.corner_pin import NAME as PIN
from spiralis.core.errors import ModelError
from spiralis.core.geometry import Affine, corners_of, percent_in, point_in
from spiralis.core.media.steps import Stops, go_on, never
from spiralis.core.media.tracing import traced
from spiralis.core.model import Composition, Key, Layer, Project, Track, Value, layer_kind
from spiralis.core.render.frame import render_rgba8
from spiralis.core.render.layers import Evaluated, parents_of, pivot_point
from spiralis.core.render.sequence import in_order

#: What may go along. It is looked for as something that may turn and grow, or lean (see ``media/tracing.py``).
PLACE, TURN, CORNERS_TOO = "place", "turn", "corners"
WAYS = {PLACE: "Its place", TURN: "Its place, turn and size", CORNERS_TOO: "Its four corners, in perspective"}

#: Pictures are looked at no larger than so many pixels, and two of them are drawn beside each other.
_LARGEST, _WORKERS = 1280, 2
#: A surface that is pinned by its corners is held on to by so much of its surroundings as well: a screen may be empty.
#: And by so many pixels at least.
_AROUND, _RIM = 0.12, 14.0
#: What moves by less, in pixels, does not move.
_STILL = 0.05


@frozen
class Stuck:
    """A layer that sticks, the frames from ``first`` to ``last`` on which it was told where, and how many of its keys
    gave way."""

    layer: Layer
    first: int
    last: int
    gone: int


def stuck(
    project: Project, piece: Composition, layer: Layer, frame: int, way: str, stops: Stops = never
) -> Stuck:  # fmt: skip
    """Return a layer with a key on each frame, so that it stays on what lies beneath it on one of them.

    What it covers there is looked for in the frames after and before, as long as the layer is shown and it is found.

    Args:
        project: where everything is.
        piece: the layer's composition.
        layer: what is to stick.
        frame: where it lies as it is to lie.
        way: a name in ``WAYS``.
        stops: asked for each frame.

    Raises:
        ModelError: nothing beneath can be held on to, it does not move, or the layer cannot take keys for its place.
        Cancelled: ``stops`` said so.
    """
    _may_stick(piece, layer, way)
    first, last = max(layer.first, 0), min(layer.last, piece.length) - 1
    if not first <= frame <= last:
        raise ModelError(f"“{layer.name}” is not shown on frame {frame}; go to a frame on which it lies as it should.")
    at = Evaluated(project, piece, float(frame))
    layer, corners = _with_corners(at, layer, way)
    maps = {frame: np.eye(3)}
    for frames in (range(frame, last + 1), range(frame, first - 1, -1)):
        share = (len(maps) - 1) / max(last - first, 1)
        for number, found in zip(frames[1:], _maps(at, layer, frames, corners, way), strict=False):
            maps[number] = found
            go_on(stops, share + abs(number - frame) / max(last - first, 1))
    _must_move(layer, maps, corners)
    columns = _corner_columns(at, layer, maps, corners) if way == CORNERS_TOO else _place_columns(at, layer, maps, way)
    return _with_keys(layer, sorted(maps), columns)


def _may_stick(piece: Composition, layer: Layer, way: str) -> None:
    """Raise ModelError where a layer's place is not its own to say."""
    if layer.id in locked_in(piece):
        raise ModelError(f"“{layer.name}” is locked.")
    if layer.placeless or (way == CORNERS_TOO and layer_kind(layer.kind).unseen):
        raise ModelError(f"“{layer.name}” shows nothing that could stick to something.")
    if any(y.has("depth") and y.track("depth").value for y in (layer, *parents_of(piece, layer))):
        raise ModelError(f"“{layer.name}” stands in depth; what lies flat on the picture can stick to it.")
    if way == CORNERS_TOO:
        return
    names = (*(PARTS if is_separate(layer) else ("position",)), *(("rotation", "scale") if way == TURN else ()))
    if layer.edge_pins or any(led(layer.track(name)) for name in names) or layer.track("along_path").value:
        raise ModelError(f"The place of “{layer.name}” goes by something else already; let go of that first.")


def _with_corners(at: Evaluated, layer: Layer, way: str) -> tuple[Layer, np.ndarray]:
    """Return the layer, with a corner pin where its corners are to stick, and where its corners are seen, (4, 2)."""
    box, values, matrix = at.box(layer), at.values(layer), at.matrix(layer)
    if min(box[2] - box[0], box[3] - box[1]) < 1e-3 or matrix.inverse() is None:
        raise ModelError(f"“{layer.name}” has no size on this frame, so nothing lies beneath it.")
    block = pin_of(layer)
    own: Sequence[tuple[float, float]] = corners_of(box)
    if block is not None:
        own = [point_in(box, values[block.named(name)]) for name, _, _ in CORNERS]
    elif way == CORNERS_TOO:
        layer = with_effect(layer, PIN)
    return layer, np.array([matrix.apply(*point) for point in own])


def _beneath(piece: Composition, layer: Layer) -> Composition:
    """Return the piece without a layer, what hangs on it and what lies in front of it."""
    place, carriers = piece.place_of[layer.id], {y.id for y in parents_of(piece, layer)}
    hanging = {y.id for y in piece.descendants(layer.id)}
    layers = []
    for number, other in enumerate(piece.layers):
        kind = layer_kind(other.kind)
        draws = other.has("visible") and not (kind.unseen or kind.sees or kind.lights)
        if draws and (other.id in hanging or (number <= place and other.id not in carriers)):
            other = other.with_track("visible", Track(False))
        layers.append(evolve(other, solo=False))
    return evolve(piece, layers=tuple(layers))


def _maps(
    at: Evaluated, layer: Layer, frames: Sequence[int], corners: np.ndarray, way: str
) -> Iterator[np.ndarray]:  # fmt: skip
    """Give for each frame after the first the map of where something lies in the first to where it does there, in the
    piece's pixels, as long as it is seen."""
    piece = at.composition
    beneath = _beneath(piece, layer)
    shown = at.scene.project.with_composition(beneath)
    scale = min(1.0, _LARGEST / max(piece.width, piece.height))
    # Pixels of pictures are counted by their middles.
    into = np.array([[scale, 0, -0.5], [0, scale, -0.5], [0, 0, 1]])

    def grey(frame: float) -> np.ndarray:
        return cv2.cvtColor(render_rgba8(shown, piece.id, frame, scale), cv2.COLOR_RGBA2GRAY)

    area = corners if way != CORNERS_TOO else _with_rim(corners)
    pictures = in_order(grey, [float(frame) for frame in frames], _WORKERS)
    for found in traced(pictures, area * scale - 0.5, "corners" if way == CORNERS_TOO else "turn"):
        yield np.linalg.inv(into) @ found @ into


def _with_rim(corners: np.ndarray) -> np.ndarray:
    """Return the corners of a surface moved outwards, so that what stands close around it belongs to it."""
    away = corners - corners.mean(axis=0)
    sides = np.hypot(*(np.roll(corners, -1, axis=0) - corners).T)
    return corners + max(_AROUND, 2 * _RIM / max(float(sides.min()), 1.0)) * away


def _must_move(layer: Layer, maps: Mapping[int, np.ndarray], corners: np.ndarray) -> None:
    """Raise ModelError where nothing was found, or nothing that moves."""
    if len(maps) < 2:
        raise ModelError(
            f"Nothing beneath “{layer.name}” can be held on to here; let it cover something with edges or a texture."
        )
    moved = (np.abs(_mapped(found, corners) - corners).max() for found in maps.values())
    if max(moved) < _STILL:
        raise ModelError(f"What lies beneath “{layer.name}” stands still.")


def _mapped(matrix: np.ndarray, points: np.ndarray) -> np.ndarray:
    there = np.column_stack([points, np.ones(len(points))]) @ matrix.T
    return there[:, :2] / there[:, 2:]


def _corner_columns(
    here: Evaluated, layer: Layer, maps: Mapping[int, np.ndarray], corners: np.ndarray
) -> dict[str, list[Value]]:  # fmt: skip
    """Return where the corners of the pin are on each frame, in percent of the layer's box there."""
    block = pin_of(layer)
    assert block is not None
    rows = []
    for number in sorted(maps):
        at = here.at_frame(float(number))
        box, inverse = at.box(layer), at.matrix(layer).inverse() or Affine()
        rows.append([percent_in(box, inverse.apply(*point), 3) for point in _mapped(maps[number], corners).tolist()])
    return {block.named(name): [row[index] for row in rows] for index, (name, _, _) in enumerate(CORNERS)}


def _place_columns(
    here: Evaluated, layer: Layer, maps: Mapping[int, np.ndarray], way: str
) -> dict[str, list[Value]]:  # fmt: skip
    """Return the layer's place on each frame in its parent's units; its turn, size and slant where they go along."""
    pivot, seen = pivot_point(here.values(layer), here.box(layer)), here.matrix(layer)
    rows: list[tuple[tuple[float, float], tuple[float, float], float, tuple[float, float]]] = []
    for number in sorted(maps):
        inverse = here.at_frame(float(number)).parent_matrix(layer).inverse() or Affine()
        (a, c, e), (b, d, f), _ = (maps[number] / maps[number][2, 2]).tolist()
        own = inverse @ Affine(a, b, c, d, e, f) @ seen
        x, y = own.apply(*pivot)
        rows.append(((round(x, 3), round(y, 3)), *decomposed(own)))
    places = [row[0] for row in rows]
    columns: dict[str, list[Value]] = {"position": list(places)}
    if is_separate(layer):
        columns = {name: [place[axis] for place in places] for axis, name in enumerate(PARTS)}
    if way == TURN:
        values = here.values(layer)
        turns = np.degrees(np.unwrap(np.radians([row[2] for row in rows])))
        whole = 360 * round((values["rotation"] - turns[sorted(maps).index(round(here.frame))]) / 360)
        columns |= {"scale": [row[1] for row in rows], "rotation": (turns + whole).round(3).tolist()}
        if any(abs(row[3][0] - values["skew"][0]) > 1e-3 for row in rows):
            columns["skew"] = [row[3] for row in rows]
    return columns


def _with_keys(layer: Layer, frames: Sequence[int], columns: Mapping[str, Sequence[Value]]) -> Stuck:
    """Return the layer with a key for each frame and value; what other keys those threads have there give way."""
    gone = 0
    for name, values in columns.items():
        track = layer.track(name)
        kept = [key for key in track.keys if not frames[0] <= key.frame <= frames[-1]]
        gone += len(track.keys) - len(kept)
        keys = [*kept, *(Key(f, v, LINEAR) for f, v in zip(frames, values, strict=True))]
        layer = layer.with_track(name, evolve(track, keys=tuple(sorted(keys, key=lambda key: key.frame))))
    return Stuck(layer, frames[0], frames[-1], gone)
