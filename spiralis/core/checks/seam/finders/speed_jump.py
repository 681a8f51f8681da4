"""A movement that comes to the seam with one speed and leaves it with another."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from spiralis.core.animation.drivers import values_over
from spiralis.core.animation.easing import Steps
from spiralis.core.checks.findings import Cause
from spiralis.core.checks.seam.case import KINK, Case, Finder, amount, register_finder, said, seen_at_seam
from spiralis.core.checks.seam.finders.value_jump import value_gap
from spiralis.core.model import Kind, Layer

#: How far from a key the speed is taken, in frames.
_STEP = 0.125
#: A kink counts where it is at least this part of the thread's greatest speed, and this much more than elsewhere in it.
_SHARE, _STANDS_OUT = 0.25, 1.25
#: A thread that stays for so many frames rests.
_REST = 3


def _find(case: Case) -> Iterator[Cause]:
    for layer in case.piece.layers:
        if layer.reference or not seen_at_seam(case, layer):
            continue
        for name in layer.animated():
            kink = _kink(case, layer, name)
            if kink is not None:
                size, unit = amount(layer, name, kink)
                label = layer.parameter(name).full_label
                sentence = f"{layer.name}: the speed of {label} changes by {said(size, unit)} a frame at the seam."
                yield Cause(
                    "speed-jump", KINK, case.piece.id, layer.id, name, size, f"{unit} a frame".strip(), sentence,
                    ("match-speed",),
                )  # fmt: skip


def _kink(case: Case, layer: Layer, name: str) -> float | None:
    """Return the change of speed at the seam where it stands out among the thread's keys, in units a frame."""
    parameter, track = layer.parameter(name), layer.track(name)
    if not parameter.plotted or parameter.kind is Kind.COLOUR or len(track.keys) < 3 or track.driver is not None:
        return None
    if any(isinstance(key.easing, Steps) for key in (track.keys[0], track.keys[-2])):
        return None  # What holds or steps is not meant to flow.
    begin, end = float(case.begin), float(case.end)
    if value_gap(case.piece, layer, name, begin, end) > 1e-6:
        return None
    if any(value_gap(case.piece, layer, name, at, at + _REST * side) < 1e-6 for at, side in ((begin, 1), (end, -1))):
        return None  # It rests on one side: what starts from rest or comes to rest is no kink.
    out, into = _speed(case, layer, name, begin, 1), _speed(case, layer, name, end, -1)
    inner = [key.frame for key in track.keys if case.begin < key.frame < case.end]
    speeds = [(_speed(case, layer, name, f, -1), _speed(case, layer, name, f, 1)) for f in inner]
    kinks = [float(np.linalg.norm(after - before)) for before, after in speeds]
    values = values_over(case.piece, layer, name, np.arange(case.begin, case.end + 1, dtype=np.float64))
    fastest = float(np.linalg.norm(np.diff(values, axis=0), axis=1).max())
    kink = float(np.linalg.norm(out - into))
    least = 0.5 if parameter.unit == "px" else 0.05
    if kink < max(least, _SHARE * fastest) or kink < _STANDS_OUT * max(kinks, default=0.0):
        return None
    return kink


def _speed(case: Case, layer: Layer, name: str, frame: float, side: int) -> np.ndarray:
    """Return the speed just before (-1) or after (1) a frame, in units a frame."""
    a, b = values_over(case.piece, layer, name, np.array([frame, frame + side * _STEP]))
    speed: np.ndarray = (b - a) * side / _STEP
    return speed


register_finder(Finder("speed-jump", "Kinks in speed", _find, order=200))
