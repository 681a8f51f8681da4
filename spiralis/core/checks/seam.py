"""Does the end meet the beginning? Which threads jump at the seam of a loop."""

from __future__ import annotations

import numpy as np
from attrs import evolve

from spiralis.core.animation.drivers import values_over
from spiralis.core.animation.tracks import value_at
from spiralis.core.geometry import intersect
from spiralis.core.model import Composition, Layer, Project, layer_kind, new_id
from spiralis.core.render.frame import render_frame
from spiralis.core.render.layers import Evaluated


def loop_jumps(project: Project, composition: Composition) -> list[str]:
    """Return “layer: property” for each thread whose value after the last frame differs from that at frame 0.

    Footage, flipbooks and nested compositions jump where they do not come round to the frame they began with.

    A thread counts only where its layer is seen on both sides of the seam; what is clear, scaled to nothing
    or outside the frame may jump.
    """
    length = composition.length
    if not any(_may_change(layer) for layer in composition.layers):
        return []
    ends = [Evaluated(project, composition, frame) for frame in (0, length)]
    jumps = []
    for layer in composition.layers:
        if not _may_change(layer) or not (layer.shown_at(0) and layer.shown_at(length - 1)):
            continue
        if not any(_shows(at, layer) for at in ends):
            continue
        if layer.shown_at(0) and ends[0].moment(layer) != ends[1].moment(layer):
            jumps.append(f"{layer.name}: does not come round")
        for name in layer.shown_tracks():
            track, parameter = layer.track(name), layer.parameter(name)
            if parameter.numeric:
                start, end = values_over(composition, layer, name, np.array([0.0, float(length)]))
                gap = np.abs(start - end)
                if parameter.period is not None:
                    # Whole turns bring a layer back to where it was.
                    gap = np.minimum(gap % parameter.period, parameter.period - gap % parameter.period)
                jump = bool(np.max(gap) > 1e-6)
            else:
                jump = value_at(track, parameter, 0) != value_at(track, parameter, length)
            if jump:
                jumps.append(f"{layer.name}: {parameter.full_label}")
    return [] if jumps and meets(project, composition) else jumps


def _may_change(layer: Layer) -> bool:
    """Whether a layer itself may look otherwise at the end than at the start."""
    return bool(layer.shown_tracks()) or layer_kind(layer.kind).moment is not None


def meets(project: Project, composition: Composition) -> bool:
    """Whether the picture after the last frame, were there one, is that of frame 0, looked at small.

    A world that has moved on by whole steps looks the same though its values do not.
    """
    length = composition.length
    layers = tuple(evolve(y, last=y.last + 1) if y.last == length else y for y in composition.layers)
    longer = evolve(composition, length=length + 1, layers=layers, loop=False, id=new_id())
    scale = _SMALL / max(composition.width, composition.height)
    grown = project.with_composition(longer)
    first, after = (render_frame(grown, longer.id, frame, scale) for frame in (0, length))
    return float(np.abs(first - after).max()) < _SAME


_SMALL, _SAME = 200, 3 / 255


def _shows(at: Evaluated, layer: Layer) -> bool:
    values = at.values(layer)
    if values["opacity"] <= 0 or not values["visible"]:
        return False
    frame = (0.0, 0.0, float(at.scene.width), float(at.scene.height))
    return intersect(at.matrix(layer).box(at.box(layer)), frame) is not None
