"""Let something that goes round come to a whole number of rounds in the loop."""

from __future__ import annotations

import numpy as np
from attrs import evolve

from spiralis.core.animation.tracks import value_at
from spiralis.core.checks.findings import Cause, Mend, register_mend
from spiralis.core.checks.seam.timing import own_length
from spiralis.core.editing.looping import loop_closed
from spiralis.core.errors import ModelError
from spiralis.core.model import Composition, Key, Layer, Project, Track, layer_kind
from spiralis.core.raster.kinds.particles import course_of


def _apply(project: Project, cause: Cause) -> Project:
    piece = project.composition(cause.piece)
    layer = piece.layer(cause.layer)
    if cause.name:
        return project.with_composition(piece.with_layer(_whole_turns(piece, layer, cause.name)))
    if layer.has("goes_round"):
        return project.with_composition(piece.with_layer(_round(piece, layer)))
    if layer_kind(layer.kind).nests:
        return project.with_composition(piece.with_layer(_nest(project, piece, layer)))
    return project.with_composition(piece.with_layer(at_whole_rounds(project, piece, layer, "loop")))


def _whole_turns(piece: Composition, layer: Layer, name: str) -> Layer:
    """Return the layer where a turn ends on the nearest whole number of rounds."""
    parameter = layer.parameter(name)
    period = parameter.period
    begin, end = piece.span
    before = layer.track(name)
    first = parameter.to_array(value_at(before, parameter, begin))
    way = parameter.to_array(before.keys[-1].value) - first
    closed = loop_closed(piece, [(layer.id, name)]).layer(layer.id)
    track = closed.track(name)
    place = track.index_at(end)
    if period is None or place is None:
        raise ModelError(f"{parameter.label} has no rounds that it could complete.")
    rounds = np.round(way / period)
    if not rounds.any():
        most = int(np.abs(way).argmax())
        rounds[most] = 1.0 if way[most] > 0 else -1.0
    value = parameter.from_array(first + rounds * period)
    return closed.with_track(name, track.with_key(evolve(track.keys[place], value=value)))


def _round(piece: Composition, layer: Layer) -> Layer:
    """Return a layer that goes round by itself over the play span: its own time is what it goes round in."""
    begin, end = piece.span
    layer = layer.with_values(goes_round=True)
    course = course_of(layer.track("course").value, layer.first, layer.last)
    return layer if (end - begin) % course == 0 else evolve(layer.with_values(course=0.0), first=begin, last=end)


def _nest(project: Project, piece: Composition, layer: Layer) -> Layer:
    """Return a nest whose inner frame runs over whole rounds of what it shows."""
    inner = project.composition(layer.track("composition").value)
    begin, end = piece.span
    start = layer.track("start").value
    first = (begin - start) / float(piece.rate) * float(inner.rate)
    taken = (end - begin) / float(piece.rate) * float(inner.rate)
    rounds = max(round(taken / inner.length), 1)
    keys = (Key(begin, float(first)), Key(end, float(first + rounds * inner.length)))
    return layer.with_values(retime=True).with_track("own_frame", Track(float(first), keys))


def at_whole_rounds(project: Project, piece: Composition, layer: Layer, ends: str) -> Layer:
    """Return footage or a flipbook as fast as it takes to come round a whole number of times in the loop."""
    length = own_length(project, piece, layer, ends)
    begin, end = piece.span
    if length is None:
        raise ModelError(f"“{layer.name}” has no file, so it cannot be made to loop.")
    rounds = max(round((end - begin) * layer.track("speed").value / 100 / float(length)), 1)
    speed = 100.0 * rounds * float(length) / (end - begin)
    return layer.with_values(speed=speed, ends=ends, fit=False)


register_mend(Mend("make-it-loop", "Make it loop", "It comes to whole rounds in the time there is", _apply))
