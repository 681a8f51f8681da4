"""Where the ends of what is drawn of a shape's outline are, so that layers can go along it."""

from __future__ import annotations

import math

import numpy as np
from attrs import frozen

from spiralis.core.animation.drivers import values_over
from spiralis.core.geometry import Affine
from spiralis.core.model import Layer
from spiralis.core.model.edge_pins import LINE_ENDS, EdgePin
from spiralis.core.raster.curves import path_track
from spiralis.core.render.live_paths import Moment, own_outline

#: A curve is cut into so many straight pieces: what turns along it turns without a jolt.
_STEPS = 480
#: How far before and after a moment the way that something goes along a line is looked for, in frames.
_LOOK = 0.02
#: What part of a line is drawn, and how far that is moved along it.
DRAWN, MOVED = ("drawn_from", "drawn_to"), "drawn_offset"


@frozen
class LineEnd:
    """A place in the composition, and the direction of the line there (x, y), forwards as it is drawn."""

    place: tuple[float, float]
    way: tuple[float, float]


def has_line(shape: Layer) -> bool:
    """Whether a layer is a shape, of whose outline a part can be drawn."""
    return all(shape.has(name) for name in DRAWN)


def share_of(values: tuple[float, float, float], pin: EdgePin) -> float:
    """Return how far along a line a pin is, 1 for its length, as what is drawn of it begins, ends and is moved, in %.

    What is drawn from 60 to 20 % is drawn from 20 to 60 % (see ``vectors``).
    """
    first, last, offset = values
    end = max(first, last) if pin.to == LINE_ENDS[0] else min(first, last)
    return (end + offset + pin.along) / 100


def line_end(at: Moment, shape: Layer, pin: EdgePin) -> LineEnd | None:
    """Return where an end of what is drawn of a shape's first outline is; None where it has none.

    An open line begins anew beyond its end, as what is drawn of it does.
    """
    found = own_outline(at, shape) if has_line(shape) else None
    if found is None:
        return None
    contour, matrix = found
    track, values = path_track(contour, 0.0, _STEPS), at.values(shape)
    share = share_of((values[DRAWN[0]], values[DRAWN[1]], values[MOVED]), pin)
    share = share if 0 <= share <= 1 else share % 1.0
    here: Affine = matrix @ track.at(share * float(track.lengths[-1]))
    return LineEnd((here.e, here.f), (here.a, here.b))


def heading_on(at: Moment, layer: Layer, frame: float) -> float | None:
    """Return the direction in degrees in which a layer goes that is pinned to a line, as its parent sees it; None where
    it is pinned to none."""
    pin = next((pin for pin in layer.edge_pins if pin.on_line), None)
    shape = at.composition.find(pin.layer) if pin is not None else None
    end = line_end(at, shape, pin) if shape is not None and pin is not None else None
    if shape is None or pin is None or end is None:
        return None
    frames = np.array([frame - _LOOK, frame + _LOOK])
    rows = np.column_stack([values_over(at.composition, shape, name, frames) for name in (*DRAWN, MOVED)])
    before, after = (share_of(tuple(row), pin) for row in rows.tolist())
    x, y = (at.parent_matrix(layer).inverse() or Affine()).apply_direction(*end.way)
    turn = math.degrees(math.atan2(y, x))
    return turn + 180.0 if after < before - 1e-9 else turn
