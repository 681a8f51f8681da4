"""Findings as plain values and as lines of text."""

from __future__ import annotations

from typing import Any

from spiralis.core.checks.findings import Cause
from spiralis.core.checks.piece.verdict import Findings
from spiralis.core.model import Composition, Project


def findings_data(project: Project, piece: Composition, findings: Findings) -> dict[str, Any]:
    """Return the findings as JSON values: each with layer, frames, size, sentence and mends."""

    def cause(found: Cause) -> dict[str, Any]:
        owner = project.composition(found.piece)
        layer = owner.find(found.layer)
        return {
            "check": found.finder, "sort": found.sort, "composition": owner.name,
            "layer": layer.name if layer is not None else None,
            "frames": list(found.frames) if found.frames is not None else None,
            "size": round(found.size, 4), "unit": found.unit, "sentence": found.sentence, "mends": list(found.mends),
        }  # fmt: skip

    return {
        "composition": piece.name,
        "clean": findings.clean,
        "findings": [cause(found) for found in findings.causes],
        "notes": [cause(found) for found in findings.notes],
        "ignored": [{**cause(found), "reason": reason} for found, reason in findings.ignored],
    }


def findings_lines(piece: Composition, findings: Findings) -> list[str]:
    """Return the same for people."""
    lines = [f"{piece.name}, frames {piece.span[0]} to {piece.span[1] - 1}: {findings.words}"]
    lines += [f"  {cause.sentence}" for cause in findings.causes]
    lines += [f"  (worth knowing) {cause.sentence}" for cause in findings.notes]
    return lines + [f"  (left alone: {reason}) {cause.sentence}" for cause, reason in findings.ignored]
