"""A layer that goes along an open line, and is at its other end when the loop begins anew."""

from __future__ import annotations

import math
from collections.abc import Iterator

from spiralis.core.checks.findings import Cause
from spiralis.core.checks.seam.case import JUMP, Case, Finder, register_finder, said, seen_at_seam
from spiralis.core.checks.seam.finders.value_jump import jumps
from spiralis.core.model import Layer
from spiralis.core.render.along_lines import MOVED, line_end

#: Distances in px that count as none.
_NONE = 0.01


def _find(case: Case) -> Iterator[Cause]:
    if case.meets:
        return
    for layer in case.piece.layers:
        shape = _line_of(case, layer)
        if layer.reference or shape is None or not seen_at_seam(case, layer):
            continue
        if any(jumps(case, shape, name) is not None for name in shape.shown_tracks()):
            continue  # It is mended where it comes from.
        gap = _gap(case, layer, shape)
        if gap > _NONE:
            sentence = f"{layer.name}: it ends {said(gap, 'px')} away from where it begins, along “{shape.name}”."
            track = shape.track(MOVED)
            mends = ("ping-pong",) if len(track.keys) > 1 and track.driver is None else ()
            yield Cause("line-jump", JUMP, case.piece.id, shape.id, MOVED, gap, "px", sentence, mends)


def _line_of(case: Case, layer: Layer) -> Layer | None:
    """Return the shape along whose outline a layer goes, if any."""
    return next((case.piece.find(pin.layer) for pin in layer.edge_pins if pin.on_line), None)


def _gap(case: Case, layer: Layer, shape: Layer) -> float:
    """Return how far apart the layer is pinned at the beginning and after the end, in px, both ways taken together."""
    ways = [0.0, 0.0]
    for pin in layer.edge_pins:
        if pin.on_line and pin.layer == shape.id:
            ends = [line_end(at, shape, pin) for at in (case.first, case.after)]
            if ends[0] is not None and ends[1] is not None:
                ways[pin.axis] = ends[1].place[pin.axis] - ends[0].place[pin.axis]
    return math.hypot(*ways)


register_finder(Finder("line-jump", "Layers that jump along a line", _find, order=110))
