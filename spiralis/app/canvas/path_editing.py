"""Editing a motion path on the canvas: its keys, and the handles that bend the way between them."""

from __future__ import annotations

import math

from attrs import define, evolve, field, frozen

from spiralis.app.canvas.handles import Drag, Point
from spiralis.app.canvas.sight import way_sight
from spiralis.app.session import Session
from spiralis.core.geometry import Affine, Map
from spiralis.core.model import Key, Layer


@frozen
class PathGrip:
    """Something to grab on a motion path: a ``key``, or its handle ``in`` or ``out``; place in widget pixels."""

    kind: str
    frame: int
    place: Point


def path_layer(session: Session) -> Layer | None:
    """Return the one chosen layer if it is free and moves between keys."""
    if len(session.layers) != 1 or session.layers[0].locked:
        return None
    layer = session.layers[0]
    return layer if len(layer.track("position").keys) > 1 else None


def path_grips(session: Session, to_widget: Affine) -> list[PathGrip]:
    """Return what can be grabbed, handles before keys so that a short handle is not hidden by its key."""
    layer = path_layer(session)
    if layer is None:
        return []
    to_canvas = to_widget @ way_sight(session, layer)
    grips = []
    for key in layer.track("position").keys:
        for kind, handle in (("in", key.handle_in), ("out", key.handle_out)):
            if handle is not None:
                place = to_canvas.apply(key.value[0] + handle[0], key.value[1] + handle[1])
                grips.append(PathGrip(kind, key.frame, place))
    grips += [PathGrip("key", key.frame, to_canvas.apply(*key.value)) for key in layer.track("position").keys]
    return grips


def grip_at(session: Session, to_widget: Affine, point: Point, pulling: bool, reach: float = 7.0) -> PathGrip | None:
    """Return the grip under a point.

    The key under the playhead lies on the layer's pivot; there the layer itself is dragged, unless one is
    ``pulling`` handles out of it.
    """
    for grip in path_grips(session, to_widget):
        if grip.kind == "key" and grip.frame == session.frame and not pulling:
            continue
        if math.dist(grip.place, point) <= reach:
            return grip
    return None


@define
class PathDrag(Drag):
    """Move a key of the path, or bend the way: with ``pulling`` a key grows handles, and a handle goes alone."""

    layer: str = ""
    grip: PathGrip | None = None
    pulling: bool = False
    parent: Map = field(factory=Affine)

    @staticmethod
    def begin(session: Session, start: Point, grip: PathGrip, pulling: bool) -> PathDrag:
        """Remember the layer and the space its positions live in."""
        layer = session.layers[0]
        parent = way_sight(session, layer).inverse() or Affine()
        return PathDrag(session, start, layer=layer.id, grip=grip, pulling=pulling, parent=parent)

    def move(self, point: Point, shift: bool, control: bool, reach: float) -> None:
        layer = self.session.composition.find(self.layer)
        if layer is None or self.grip is None:
            return
        track = layer.track("position")
        index = track.index_at(self.grip.frame)
        if index is None:
            return
        key = track.keys[index]
        here = self.parent.apply(*point)
        changed = self._changed(key, (round(here[0], 2), round(here[1], 2)))
        name = f"Path of {layer.name}"
        self.session.edit_layers(
            name, lambda y: y.with_track("position", track.with_key(changed)), [layer.id], self.merge
        )

    def _changed(self, key: Key, here: Point) -> Key:
        assert self.grip is not None
        arm = (round(here[0] - key.value[0], 2), round(here[1] - key.value[1], 2))
        mirrored = (-arm[0], -arm[1])
        if self.grip.kind == "key" and not self.pulling:
            return evolve(key, value=here)
        if self.grip.kind in ("key", "out"):
            alone = self.grip.kind == "out" and (self.pulling or key.handle_in is None)
            return evolve(key, handle_out=arm, handle_in=key.handle_in if alone else mirrored)
        alone = self.pulling or key.handle_out is None
        return evolve(key, handle_in=arm, handle_out=key.handle_out if alone else mirrored)
