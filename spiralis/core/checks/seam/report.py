"""A verdict as plain values and as lines of text."""

from __future__ import annotations

from typing import Any

from spiralis.core.checks.findings import Cause
from spiralis.core.checks.seam.verdict import Verdict
from spiralis.core.model import Composition, Project


def as_data(project: Project, piece: Composition, verdict: Verdict) -> dict[str, Any]:
    """Return JSON values: the verdict, causes with layer, property, size and mends, notes, what is left alone."""
    return {
        "composition": piece.name,
        "first": piece.span[0],
        "last": piece.span[1] - 1,
        "verdict": verdict.sort,
        "clean": verdict.clean,
        "causes": [_cause(project, cause) for cause in verdict.causes],
        "notes": [_cause(project, cause) for cause in verdict.notes],
        "ignored": [{**_cause(project, cause), "reason": reason} for cause, reason in verdict.ignored],
    }


def _cause(project: Project, cause: Cause) -> dict[str, Any]:
    piece = project.composition(cause.piece)
    layer = piece.find(cause.layer)
    return {
        "sort": cause.sort,
        "composition": piece.name,
        "layer": layer.name if layer is not None else None,
        "property": layer.parameter(cause.name).full_label if layer is not None and cause.name else None,
        "size": cause.size,
        "unit": cause.unit,
        "sentence": cause.sentence,
        "mends": list(cause.mends),
    }


def as_lines(piece: Composition, verdict: Verdict) -> list[str]:
    """Return the same for people."""
    lines = [f"{piece.name}, frames {piece.span[0]} to {piece.span[1] - 1}: {verdict.words}"]
    lines += [f"  {cause.sentence}" for cause in verdict.causes]
    lines += [f"  (worth knowing) {cause.sentence}" for cause in verdict.notes]
    return lines + [f"  (left alone: {reason}) {cause.sentence}" for cause, reason in verdict.ignored]
