"""Align, distribute, fit and flip layers by what is seen of their boxes at a frame."""

from __future__ import annotations

from collections.abc import Sequence

from spiralis.core.editing.linking import is_led, set_seen_value, settable
from spiralis.core.errors import ModelError
from spiralis.core.geometry import Box, box_around
from spiralis.core.model import Composition, Layer, Project
from spiralis.core.render.extent import shown_box
from spiralis.core.render.layers import Evaluated, parents_of

#: Edge by name: axis (0 is x) and the part of the box that is aligned.
EDGES: dict[str, tuple[int, float]] = {
    "left": (0, 0.0), "middle": (0, 0.5), "right": (0, 1.0), "top": (1, 0.0), "centre": (1, 0.5), "bottom": (1, 1.0),
}  # fmt: skip
FITS = ("contain", "cover", "width", "height")
#: A side shorter than this is none, in px: lines have boxes of some thousandths.
_SIDE = 0.01


def seen_box(at: Evaluated, layer: Layer) -> Box:
    """Return the upright box of a layer in the composition's pixels, of what its crop leaves."""
    return at.matrix(layer).box(shown_box(at, layer))


def roots(piece: Composition, ids: Sequence[str]) -> list[Layer]:
    """Return the chosen layers that may move by themselves: not locked, and not hanging on another chosen one."""
    chosen = set(ids)

    def follows(layer: Layer) -> bool:
        return any(parent.id in chosen for parent in parents_of(piece, layer))

    return [layer for layer in piece.layers if layer.id in chosen and not layer.locked and not follows(layer)]


def _movable(piece: Composition, ids: Sequence[str]) -> list[Layer]:
    """Return those of the chosen layers whose place is their own; raises ModelError where all follow something else."""
    layers = settable(piece, roots(piece, ids), "position")
    if layers and is_led(piece, layers[0], "position"):
        name = layers[0].name
        raise ModelError(f"The place of “{name}” follows something else; bake it to keys, or drive it no more.")
    return layers


def _moved(at: Evaluated, layer: Layer, dx: float, dy: float) -> Layer:
    """Return the layer moved by so much in the composition's pixels, at the frame (a key where there are keys)."""
    inverse = at.parent_matrix(layer).inverse()
    if inverse is None or (abs(dx) < 1e-9 and abs(dy) < 1e-9):
        return layer
    x, y = at.values(layer)["position"]
    sx, sy = inverse.apply_direction(dx, dy)
    return set_seen_value(at.composition, layer, "position", (x + sx, y + sy), int(at.frame))


def aligned(
    project: Project, piece: Composition, ids: Sequence[str], edge: str, frame: int, to: str = "frame"
) -> Composition:
    """Return the composition with layers aligned by an edge of EDGES.

    Args:
        project: the version at hand.
        piece: the composition.
        ids: which layers.
        edge: left, middle, right, top, centre or bottom.
        frame: the moment.
        to: ``frame`` for the composition's, ``choice`` for the box around all of them, or the id of a layer.
    """
    at = Evaluated(project, piece, frame)
    axis, share = EDGES[edge]
    layers = [layer for layer in _movable(piece, ids) if layer.id != to]
    if not layers:
        return piece
    target: Box = (0.0, 0.0, float(piece.width), float(piece.height))
    if to == "choice":
        target = box_around([seen_box(at, layer) for layer in layers])
    elif to != "frame":
        target = seen_box(at, piece.layer(to))
    goal = target[axis] + share * (target[axis + 2] - target[axis])
    for layer in layers:
        box = seen_box(at, layer)
        by = goal - (box[axis] + share * (box[axis + 2] - box[axis]))
        piece = piece.with_layer(_moved(at, layer, by if axis == 0 else 0.0, by if axis == 1 else 0.0))
    return piece


def distributed(project: Project, piece: Composition, ids: Sequence[str], axis: int, frame: int) -> Composition:
    """Return the composition with equal gaps between layers along x (0) or y (1); the outer two stay."""
    at = Evaluated(project, piece, frame)
    layers = sorted(_movable(piece, ids), key=lambda layer: sum(seen_box(at, layer)[axis::2]))
    if len(layers) < 3:
        return piece
    boxes = [seen_box(at, layer) for layer in layers]
    sizes = [box[axis + 2] - box[axis] for box in boxes]
    gap = (boxes[-1][axis + 2] - boxes[0][axis] - sum(sizes)) / (len(layers) - 1)
    place = boxes[0][axis]
    for layer, box, size in zip(layers, boxes, sizes, strict=True):
        by = place - box[axis]
        piece = piece.with_layer(_moved(at, layer, by if axis == 0 else 0.0, by if axis == 1 else 0.0))
        place += size + gap
    return piece


def fitted(project: Project, piece: Composition, ids: Sequence[str], how: str, frame: int) -> Composition:
    """Return the composition with each layer scaled to the frame and put into its middle.

    ``contain`` shows all of it, ``cover`` leaves no gap, ``width`` and ``height`` meet one side. A side that a layer
    does not have, as a straight line has no height, is not heeded.

    Raises:
        ModelError: no layer has a side that could be fitted, or all follow something else.
    """
    layers, before = _movable(piece, ids), piece
    for layer in layers:
        at = Evaluated(project, piece, frame)
        box = seen_box(at, layer)
        sides = {"width": (piece.width, box[2] - box[0]), "height": (piece.height, box[3] - box[1])}
        shares = {name: frame_side / side for name, (frame_side, side) in sides.items() if side >= _SIDE}
        if not shares or (how in sides and how not in shares):
            continue
        by = {"contain": min(shares.values()), "cover": max(shares.values()), **shares}[how]
        x, y = at.values(layer)["scale"]
        # What arithmetic leaves beside a plain number is that number.
        scale = (round(x * by, 6), round(y * by, 6))
        piece = piece.with_layer(set_seen_value(piece, layer, "scale", scale, frame))
        at = Evaluated(project, piece, frame)
        layer = piece.layer(layer.id)
        box = seen_box(at, layer)
        dx, dy = piece.width / 2 - (box[0] + box[2]) / 2, piece.height / 2 - (box[1] + box[3]) / 2
        piece = piece.with_layer(_moved(at, layer, dx, dy))
    if layers and piece is before:
        side = how if how in ("width", "height") else "size"
        raise ModelError(f"“{layers[0].name}” has no {side} that could be fitted to the frame.")
    return piece


def flipped(layer: Layer, axis: int) -> Layer:
    """Return the layer mirrored about its pivot along x (0) or y (1), keys included."""
    track = layer.track("scale")

    def by(value: tuple[float, float]) -> tuple[float, float]:
        return (-value[0], value[1]) if axis == 0 else (value[0], -value[1])

    return layer.with_track("scale", track.mapped(by))
