"""A value that is not at the end what it was at the beginning."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from attrs import evolve

from spiralis.core.animation.drivers import values_over
from spiralis.core.animation.tracks import value_at
from spiralis.core.checks.findings import Cause
from spiralis.core.checks.seam.case import JUMP, Case, Finder, amount, register_finder, said, seen_at_seam
from spiralis.core.editing.looping import going_round
from spiralis.core.model import Composition, Kind, Layer, layer_kind
from spiralis.core.model.drivers import source_of

#: Differences of values that count as none.
NONE = 1e-6


def value_gap(piece: Composition, layer: Layer, name: str, begin: float, end: float) -> float:
    """Return how far a numeric property is at one frame from what it is at another; whole periods count as nothing.

    Lists of unlike length are as far apart as their range.
    """
    parameter = layer.parameter(name)
    if parameter.kind in (Kind.STOPS, Kind.CURVE):
        # Two lists need not be equally long, and then no numbers of one belong to numbers of the other.
        one, other = (value_at(layer.track(name), parameter, frame) for frame in (begin, end))
        if len(one) != len(other):
            return 1.0
    start, stop = values_over(piece, layer, name, np.array([begin, end]))
    gap = np.abs(start - stop)
    if parameter.period is not None:
        gap = np.minimum(gap % parameter.period, parameter.period - gap % parameter.period)
    # A place jumps by its distance, everything else by the number that differs most.
    return float(np.hypot(*gap)) if parameter.kind is Kind.PAIR and parameter.unit == "px" else float(np.max(gap))


def jumps(case: Case, layer: Layer, name: str) -> float | None:
    """Return by how much a property jumps at the seam; 1 for words and choices that differ, None where nothing does."""
    parameter, track = layer.parameter(name), layer.track(name)
    if parameter.numeric:
        gap = value_gap(case.piece, layer, name, float(case.begin), float(case.end))
        return gap if gap > NONE else None
    differ = value_at(track, parameter, case.begin) != value_at(track, parameter, case.end)
    return 1.0 if differ else None


def _find(case: Case) -> Iterator[Cause]:
    if case.meets:
        return  # A world that has moved on by whole steps looks the same though its values do not.
    for layer in case.piece.layers:
        tracks = layer.shown_tracks()
        if layer.reference or not tracks or not seen_at_seam(case, layer):
            continue
        for name in tracks:
            if _follows_a_jump(case, layer, name):
                continue  # It is mended where it comes from.
            gap = jumps(case, layer, name)
            if gap is not None:
                yield _cause(case, layer, name, gap)


def _follows_a_jump(case: Case, layer: Layer, name: str) -> bool:
    driver = layer.track(name).driver
    if driver is None:
        return False
    source_id, source_name = source_of(layer.id, driver)
    source = case.piece.find(source_id)
    if source is None or not source.has(source_name) or source_name not in source.shown_tracks():
        return False
    return jumps(case, source, source_name) is not None


def _goes_round(case: Case, layer: Layer, name: str) -> bool:
    """Whether nothing jumps where the keys go on before and after: it may be a wobble that does."""
    track = layer.track(name)
    made = going_round(track, layer.parameter(name), case.length) if track.driver is None else None
    if made is None:
        return False
    round_ = layer.with_track(name, made)
    return jumps(evolve(case, piece=case.piece.with_layer(round_)), round_, name) is None


def _can_fade(piece: Composition, layer: Layer) -> bool:
    """Whether a copy of a layer can fade in over it: it shows something by itself, and nothing moves along with it."""
    alone = not layer_kind(layer.kind).unseen and not layer.control and not layer.gathers
    return alone and not any(other.parent == layer.id for other in piece.layers)


def _cause(case: Case, layer: Layer, name: str, gap: float) -> Cause:
    parameter, track = layer.parameter(name), layer.track(name)
    size, unit = amount(layer, name, gap)
    if parameter.numeric:
        sentence = f"{layer.name}: {parameter.full_label} ends {said(size, unit)} away from where it begins."
    else:
        size, unit = 0.0, ""
        sentence = f"{layer.name}: {parameter.full_label} ends otherwise than it begins."
    mends = ["set-last-to-first", "ping-pong"] if len(track.keys) > 1 and track.driver is None else []
    if parameter.period is not None and mends:
        mends.insert(0, "make-it-loop")
    if _goes_round(case, layer, name):
        mends.insert(0, "go-round")
    if parameter.family in ("place", "size", "turn", "look", "content") and _can_fade(case.piece, layer):
        mends.append("cross-fade")
    return Cause("value-jump", JUMP, case.piece.id, layer.id, name, size, unit, sentence, tuple(mends))


register_finder(Finder("value-jump", "Values that end elsewhere", _find, order=100))
