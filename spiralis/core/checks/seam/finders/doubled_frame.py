"""The last frame shows the first one over again: what moves stands still for a frame."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from spiralis.core.checks.findings import Cause
from spiralis.core.checks.seam.case import DOUBLED, Case, Finder, register_finder, seen_at_seam, shows
from spiralis.core.checks.seam.finders.value_jump import value_gap
from spiralis.core.model import Layer, layer_kind

#: What counts as the same picture, and how much the pictures beside it must change for it to be a doubled one.
_STILL, _MOVES = 1.2 / 255, 3 / 255
#: A movement counts where it goes on by this part of its usual step on both sides.
_USUAL = 0.35


def _find(case: Case) -> Iterator[Cause]:
    if case.length < 4:
        return
    first, last = case.picture(case.begin), case.picture(case.end - 1)
    if float(np.abs(first - last).max()) > _STILL:
        return
    second, before = case.picture(case.begin + 1), case.picture(case.end - 2)
    if min(float(np.abs(second - first).max()), float(np.abs(last - before).max())) < _MOVES:
        return  # It rests around the seam.
    found = False
    for layer in case.piece.layers:
        if layer.reference or not seen_at_seam(case, layer):
            continue
        for name in layer.animated():
            if layer.parameter(name).plotted and _doubles(case, layer, name):
                found = True
                label = layer.parameter(name).full_label
                sentence = f"{layer.name}: {label} is on the last frame what it is on the first, which shows twice."
                yield _cause(case, layer.id, name, sentence, ("move-last-key", "drop-frame"))
        if layer_kind(layer.kind).moment is not None and _repeats(case, layer):
            found = True
            yield _cause(case, layer.id, "", f"{layer.name}: its last picture is its first one again.", ("drop-frame",))
    if not found:
        yield _cause(case, "", "", "The last frame shows the first one again.", ("drop-frame",))


def _doubles(case: Case, layer: Layer, name: str) -> bool:
    def gap(one: int, other: int) -> float:
        return value_gap(case.piece, layer, name, float(one), float(other))

    if gap(case.begin, case.end - 1) > 1e-6:
        return False
    usual = np.median([gap(frame, frame + 1) for frame in case.frames[:-1]])
    moves = min(gap(case.begin, case.begin + 1), gap(case.end - 2, case.end - 1))
    return moves > 1e-6 and moves >= _USUAL * usual


def _repeats(case: Case, layer: Layer) -> bool:
    from spiralis.core.render.layers import Evaluated

    at = [Evaluated(case.project, case.piece, frame) for frame in (case.end - 2, case.end - 1, case.begin)]
    before, last, first = (each.moment(layer) for each in at)
    return shows(at[1], layer) and last == first and before != last


def _cause(case: Case, layer: str, name: str, sentence: str, mends: tuple[str, ...]) -> Cause:
    return Cause("doubled-frame", DOUBLED, case.piece.id, layer, name, 1.0, "frame", sentence, mends)


register_finder(Finder("doubled-frame", "Doubled frames", _find, order=50))
