"""Evaluate layers at a frame: values, boxes and matrices through parents."""

from __future__ import annotations

from collections.abc import Mapping
from fractions import Fraction
from typing import Any

import numpy as np
from attrs import evolve, frozen

from spiralis.core.animation.drivers import dialled_at, places, values_over
from spiralis.core.animation.placing import headings, is_separate
from spiralis.core.animation.source_time import Span
from spiralis.core.animation.tracks import value_at
from spiralis.core.cache import Beside
from spiralis.core.geometry import Affine, Box, placement, point_in
from spiralis.core.model import Composition, Kind, Layer, Parameter, Project, Track, Value, layer_kind
from spiralis.core.model.edge_pins import OWN_ACROSS, OWN_DOWN, EdgePin, edge_place
from spiralis.core.model.kinds import PLACE
from spiralis.core.model.layer import join_place
from spiralis.core.model.references import What, Why
from spiralis.core.raster.layer_image import LayerImage, Scene
from spiralis.core.raster.vectors import drawing_box
from spiralis.core.render.along_lines import heading_on, line_end
from spiralis.core.render.live_paths import LIVE, with_live_path
from spiralis.core.render.maps_in_space import Rows


def scene_of(project: Project, composition: Composition) -> Scene:
    """Return what layers of a composition may draw from."""
    return Scene(project, composition.width, composition.height)


def layer_values(layer: Layer, frame: float, piece: Composition | None = None) -> Mapping[str, Value]:
    """Return every property of a layer at a frame, by name; without its composition nothing drives it."""
    if layer.resting is not None:
        return layer.resting
    values = dict(layer.defaults)
    for name, track in layer.properties.items():
        if not track.moving:
            values[name] = track.value
            continue
        parameter = layer.parameter(name)
        if piece is not None and parameter.numeric and (track.driver is not None or track.wobble is not None):
            single = dialled_at(piece, layer, name, float(frame))
            over = values_over(piece, layer, name, np.array([float(frame)]))[0] if single is None else single
            values[name] = parameter.from_array(over)
        else:
            values[name] = value_at(track, parameter, frame)
            if parameter.kind is Kind.ART and track.keys:
                values[f"{name}_box"] = _held_box(track)
    join_place(values)
    if values["along_path"]:
        values["heading"] = float(headings_in(piece, layer, np.array([float(frame)]))[0])
    return values


def headings_in(piece: Composition | None, layer: Layer, frames: np.ndarray) -> np.ndarray:
    """Return the way a layer travels at frames (n,), in degrees, also where its place follows something or wobbles."""
    driven = any(
        (track := layer.properties.get(name)) is not None and (track.driver is not None or track.wobble is not None)
        for name in ("position", "position_x", "position_y")
    )
    if piece is None or not driven:
        return headings(layer, frames)
    return headings(layer, frames, lambda times: places(piece, layer, times))


def content_box(layer: Layer, values: Mapping[str, Value], scene: Scene) -> Box:
    """Return the layer's content box in its own units."""
    return layer_kind(layer.kind).box(values, scene)


def pivot_point(values: Mapping[str, Value], box: Box) -> tuple[float, float]:
    """Return the pivot in the layer's own units."""
    return point_in(box, values["pivot"])


def own_matrix(layer: Layer, values: Mapping[str, Value], scene: Scene) -> Affine:
    """Return the map from the layer's units to its parent's (the composition's where it has none).

    That of a layer at rest whose box depends on nothing but files is kept beside it.
    """
    rests = values is layer.resting
    held = _own_matrices.of(layer) if rests else []
    if held and held[0] is scene.project.sources and held[1] == (scene.width, scene.height):
        return held[2]
    pivot = pivot_point(values, content_box(layer, values, scene))
    turn = values["rotation"] + values.get("heading", 0.0)
    made = placement(values["position"], values["scale"], turn, values["skew"], pivot)
    if rests and _has_own_box(layer):
        held[:] = scene.project.sources, (scene.width, scene.height), made
    return made


#: The sources, the frame's size and the map of layers at rest.
_own_matrices: Beside[list[Any]] = Beside(list)


def _has_own_box(layer: Layer) -> bool:
    """Whether the box of what a layer shows hangs on no other layer and no other composition."""
    kind = layer_kind(layer.kind)
    shows_others = kind.nests or kind.gathers or kind.placements is not None or kind.swarm or kind.moment is not None
    return not shows_others and all(tie.what is What.SOURCE for tie in layer.ties)


#: Boxes of animated drawings, one beside each track.
_boxes: Beside[list[Box | None]] = Beside(list)


def _held_box(track: Track) -> Box | None:
    """Return the box of an animated drawing, worked out once a track."""
    held = _boxes.of(track)
    if not held:
        held.append(drawing_box(track))
    return held[0]


@frozen(eq=False)
class Outer:
    """The space that a nested composition keeps its depth in: ``base`` maps its own space to that (see
    ``maps_in_space.py``); the ``camera`` and the ``light`` there, and the ``size`` of the frame."""

    base: Rows
    camera: Any
    light: Any
    size: tuple[int, int]


class Evaluated:
    """A composition at one frame: values and matrices of its layers, each worked out once when asked for.

    Where it is nested and keeps its depth, its layers stand in an ``outer`` space.
    """

    def __init__(
        self, project: Project, composition: Composition, frame: float, outer: Outer | None = None
    ) -> None:
        self.outer = outer
        self.scene = scene_of(project, composition)
        self.composition = composition
        self.frame = frame
        self._values: dict[str, Mapping[str, Value]] = {}
        self._matrices: dict[str, Affine] = {}
        self._others: dict[float, Evaluated] = {}

    @property
    def seen_size(self) -> tuple[int, int]:
        """The width and height, in px, of the frame that the layers are seen in."""
        return self.outer.size if self.outer is not None else (self.composition.width, self.composition.height)

    def at_frame(self, frame: float) -> Evaluated:
        """Return the same composition at another frame: the very same whoever asks, as several layers are blurred."""
        if frame not in self._others:
            self._others[frame] = Evaluated(self.scene.project, self.composition, frame, self.outer)
        return self._others[frame]

    def values(self, layer: Layer) -> Mapping[str, Value]:
        """Return the layer's properties at this frame."""
        known = self._values.get(layer.id)
        if known is not None:
            return known
        values = layer_values(layer, self.frame, self.composition)
        own = self.composition.find(layer.id)
        if own is not None and own.kind != layer.kind:
            # It became of another kind since, or was before: whoever asks for what it is here needs all its values.
            return values
        self._values[layer.id] = values
        if layer.edge_pins and values["along_path"] and (turn := heading_on(self, layer, self.frame)) is not None:
            self._values[layer.id] = values = {**values, "heading": turn}
        if values.get(LIVE):
            values = self._values[layer.id] = with_live_path(self, layer, values)
        return values

    def put(self, layer: Layer, values: Mapping[str, Value]) -> None:
        """Let a layer have other values at this moment, as a copy of it does."""
        self._values[layer.id] = values

    def scene_for(self, layer: Layer) -> Scene:
        """Return what the layer is drawn from, with the moment and its span where its kind asks for them."""
        if layer_kind(layer.kind).moment is None:
            return self.scene
        piece = self.composition
        moment = Fraction(self.frame).limit_denominator(1_000_000)
        return evolve(self.scene, span=Span(moment, piece.rate, layer.first, layer.last))

    def moment(self, layer: Layer) -> object:
        """Return which of its own frames or drawings the layer shows; None for kinds without any."""
        moment = layer_kind(layer.kind).moment
        return moment(self.values(layer), self.scene_for(layer)) if moment is not None else None

    def own_frame(self, layer: Layer) -> Fraction | int | None:
        """Return the number of its own frame or drawing that the layer shows, None for none and for kinds without."""
        own_frame = layer_kind(layer.kind).own_frame
        return own_frame(self.values(layer), self.scene_for(layer)) if own_frame is not None else None

    def drawing(self, layer: Layer, matrix: Affine, clip: Box) -> LayerImage | None:
        """Return what the layer draws for a matrix from its units to the output, cut to a box there."""
        return layer_kind(layer.kind).draw(self.values(layer), self.scene_for(layer), matrix, clip)

    def own_parameters(self, layer: Layer) -> tuple[Parameter, ...]:
        """Return the declarations of what decides a layer's content."""
        return layer_kind(layer.kind).own_parameters

    def box(self, layer: Layer) -> Box:
        """Return the layer's content box in its own units."""
        return content_box(layer, self.values(layer), self.scene)

    def parent_matrix(self, layer: Layer) -> Affine:
        """Return the map from the layer's parent space to the composition."""
        parent = self.composition.find(layer.parent) if layer.parent else None
        return self.matrix(parent) if parent is not None else Affine()

    def matrix(self, layer: Layer) -> Affine:
        """Return the map from the layer's units to the composition's pixels."""
        known = self._matrices
        if layer.parent is None and not layer.edge_pins:
            if layer.id not in known:
                known[layer.id] = own_matrix(layer, self.values(layer), self.scene)
            return known[layer.id]
        waiting = [layer]
        # What the place hangs on comes first; a stack instead of calls within calls, for chains of any length.
        while waiting:
            at = waiting[-1]
            if at.id in known:
                waiting.pop()
                continue
            needed = [y for i in _place_ties(at) if i not in known and (y := self.composition.find(i)) is not None]
            if needed:
                waiting += needed
                continue
            waiting.pop()
            own = own_matrix(at, self.values(at), self.scene)
            free = self.parent_matrix(at) @ own if at.parent else own
            known[at.id] = self._held(at, free) if at.edge_pins else free
        return known[layer.id]

    def _held(self, layer: Layer, free: Affine) -> Affine:
        """Return a layer's map shifted so that its edges are where they are pinned; what is gone pins nothing."""
        shift = [0.0, 0.0]
        for pin in layer.edge_pins:
            there = self.pinned_to(pin)
            if there is not None:
                shift[pin.axis] = there + pin.gap - self.own_place(layer, free, pin)
        return Affine.shift(*shift) @ free

    def own_place(self, layer: Layer, matrix: Affine, pin: EdgePin) -> float:
        """Return where that is of a layer, under its map, which a pin holds."""
        if pin.edge in (OWN_ACROSS[-1], OWN_DOWN[-1]):
            return matrix.apply(*pivot_point(self.values(layer), self.box(layer)))[pin.axis]
        return edge_place(matrix.box(self.box(layer)), pin.edge)

    def pinned_to(self, pin: EdgePin) -> float | None:
        """Return where that is which a pin is measured from; None where its layer is gone, or has no outline."""
        if not pin.layer:
            return edge_place((0.0, 0.0, float(self.composition.width), float(self.composition.height)), pin.to)
        other = self.composition.find(pin.layer)
        if other is None:
            return None
        if pin.on_line:
            end = line_end(self, other, pin)
            return end.place[pin.axis] if end is not None else None
        return edge_place(self.matrix(other).box(self.box(other)), pin.to)


def _place_ties(layer: Layer) -> tuple[str, ...]:
    """Return the ids of the layers that a layer's place depends on."""
    if not layer.edge_pins:
        return (layer.parent,) if layer.parent else ()
    return tuple(tie.target for tie in layer.ties if tie.why is Why.PLACE)


_PLACE_NAMES = ("position", "scale", "rotation", "skew", "pivot")


_PLACES = tuple(parameter.name for parameter in PLACE)


def place_moves(layer: Layer) -> bool:
    """Whether a layer's own place may change over time, by its keys and links or by what it holds to."""
    return bool(layer.edge_pins) or any(name in layer.properties and layer.properties[name].moving for name in _PLACES)


def carried(piece: Composition, layer: Layer) -> bool:
    """Whether a layer is only moved by what it hangs on: itself it stands still and looks the same all the time."""
    if layer.parent is None or layer.edge_pins or layer.shown_tracks():
        return False
    return any(place_moves(parent) for parent in parents_of(piece, layer))


def parents_of(composition: Composition, layer: Layer) -> list[Layer]:
    """Return the layers that a layer hangs on, the nearest first."""
    found = []
    above = composition.find(layer.parent) if layer.parent else None
    while above is not None:
        found.append(above)
        above = composition.find(above.parent) if above.parent else None
    return found


def matrices_over(at: Evaluated, layer: Layer, times: np.ndarray) -> list[Affine]:
    """Return the layer's matrices at times (n,) close to ``at.frame``, parents included.

    The content box is that of ``at.frame``: over an open shutter only the place moves.
    """
    above = parents_of(at.composition, layer)
    if any(y.edge_pins for y in (layer, *above)):
        return [Evaluated(at.scene.project, at.composition, float(time)).matrix(layer) for time in times]
    rows = _own_over(at, layer, times)
    for parent in above:
        rows = [outer @ inner for outer, inner in zip(_own_over(at, parent, times), rows, strict=True)]
    return rows


def _own_over(at: Evaluated, layer: Layer, times: np.ndarray) -> list[Affine]:
    """Return a layer's maps to its parent's space at times."""
    box, values = at.box(layer), at.values(layer)
    columns = []
    for name in _PLACE_NAMES:
        track = layer.properties.get(name)
        if name == "position" and is_separate(layer):
            columns.append(places(at.composition, layer, times))
        elif name == "rotation" and values["along_path"]:
            turns = headings_in(at.composition, layer, times)
            columns.append(values_over(at.composition, layer, name, times) + turns[:, None])
        elif track is not None and track.moving:
            columns.append(values_over(at.composition, layer, name, times))
        else:
            columns.append(np.repeat(np.reshape(values[name], (1, -1)), len(times), axis=0))
    width, height = box[2] - box[0], box[3] - box[1]
    own = []
    for position, scale, rotation, skew, pivot in zip(*(column.tolist() for column in columns), strict=True):
        point = (box[0] + width * pivot[0] / 100, box[1] + height * pivot[1] / 100)
        own.append(placement(position, scale, rotation[0], skew, point))
    return own
