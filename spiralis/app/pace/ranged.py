"""Threads as curves: one component of each, with the range of values that it is drawn in."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial

import numpy as np
from attrs import evolve, frozen

from spiralis.app.pace.segment import chosen_tracks
from spiralis.app.session import Session
from spiralis.app.style import FAMILY_COLOURS
from spiralis.app.work.cached import Cached
from spiralis.core.animation.tracks import evaluate
from spiralis.core.model import Layer, Parameter, Track

MOST = 8
_MOST_SHOWN = 40


@frozen
class ShownTrack:
    """A thread to draw: one component of a numeric property, with the range that it is drawn in."""

    layer: Layer
    parameter: Parameter
    track: Track
    component: int
    low: float
    high: float
    tint: str


def tracks_of(session: Session, common: bool) -> list[ShownTrack]:
    """Return the chosen threads, each in its own range, or all in ``common`` for those of one unit."""
    found = _ranged(chosen_tracks(session)[:MOST])
    if common:
        for unit in {shown.parameter.unit for shown in found}:
            same = [shown for shown in found if shown.parameter.unit == unit]
            low, high = min(t.low for t in same), max(t.high for t in same)
            found = [evolve(t, low=low, high=high) if t.parameter.unit == unit else t for t in found]
    return found


def all_tracks(session: Session) -> list[ShownTrack]:
    """Return the threads of the whole piece, at most so many that they can still be told apart."""
    named = [(layer, name) for layer in session.composition.layers for name in layer.animated()]
    return _ranged([(layer, name) for layer, name in named if layer.parameter(name).plotted][:_MOST_SHOWN])


#: The component of a thread that changes most, and the range of its values.
_ranges: Cached[tuple[int, float, float]] = Cached()


def _ranged(named: Sequence[tuple[Layer, str]]) -> list[ShownTrack]:
    """Return threads with the range of values that each is drawn in; those that an edit left alone are known."""
    found = []
    for layer, name in named:
        parameter, track = layer.parameter(name), layer.track(name)
        if parameter.plotted and track.keys:
            ranged = _ranges.of(track, (layer.kind, name), partial(_range, track, parameter))
            found.append(ShownTrack(layer, parameter, track, *ranged, FAMILY_COLOURS[parameter.family]))
    return found


def _range(track: Track, parameter: Parameter) -> tuple[int, float, float]:
    at_keys = np.array([parameter.to_array(key.value) for key in track.keys])
    component = int(np.argmax(np.ptp(at_keys, axis=0)))
    frames = np.linspace(track.keys[0].frame, track.keys[-1].frame, 200)
    values = evaluate(track, parameter, frames)[:, component]
    low, high = float(values.min()), float(values.max())
    pad = 0.08 * (high - low) or 1.0
    return component, low - pad, high + pad
