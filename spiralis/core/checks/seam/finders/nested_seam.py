"""A nested composition that goes round within the piece, and does not close itself."""

from __future__ import annotations

from collections.abc import Iterator

from attrs import evolve

from spiralis.core.checks.findings import NOTE, Cause
from spiralis.core.checks.seam.case import Case, Finder, finders, register_finder, shows
from spiralis.core.model import layer_kind

_DEEPEST = 3


def _find(case: Case) -> Iterator[Cause]:
    if case.depth >= _DEEPEST:
        return
    seen: set[str] = set()
    for layer in case.piece.layers:
        if layer.reference or not layer_kind(layer.kind).nests:
            continue
        inner = case.project.find(case.first.values(layer)["composition"])
        if inner is None or inner.id in seen or not inner.loop or not _wraps(case, layer, inner.length):
            continue
        seen.add(inner.id)
        within = Case(case.project, evolve(inner, play_span=None), case.depth + 1, stops=case.stops)
        for finder in finders():
            if finder.name == "edge-in-view":
                continue  # Within a nest a bare edge may be meant: it is seen through.
            for cause in finder.find(within):
                if cause.sort != NOTE:
                    yield evolve(cause, sentence=f"Within {layer.name}, {cause.sentence}")


def _wraps(case: Case, layer, length: int) -> bool:  # type: ignore[no-untyped-def]
    """Whether the nest comes to its own end and begins again while it is seen."""
    moments = [at.moment(layer) for at in case.moments if shows(at, layer)]
    frames = [float(m) for m in moments if m is not None]  # type: ignore[arg-type]
    falls = any(b < a and a - b > length / 2 for a, b in zip(frames, frames[1:], strict=False))
    return falls or (case.length == length and bool(frames))


register_finder(Finder("nested-seam", "Nests that do not close", _find, order=400))
