"""What a project holds, as plain values; ``core/contents.py`` makes lines of them."""

from __future__ import annotations

from typing import Any

from spiralis.core.editing.uses import use_counts
from spiralis.core.model import Composition, Layer, Project


def summary(project: Project) -> dict[str, Any]:
    """Return compositions (layers front to back) and sources as JSON values: a project file's ``contents.json``."""
    counts = use_counts(project)
    return {
        "name": project.name,
        "compositions": [_composition(composition) for composition in project.compositions],
        "sources": [
            {
                "name": source.name, "kind": source.kind, "path": source.path, "missing": source.missing,
                "width": source.width, "height": source.height, "frames": source.frames, "linked": source.linked,
                "uses": counts.get(source.id, 0),
            }
            for source in project.sources
        ],
    }  # fmt: skip


def _composition(composition: Composition) -> dict[str, Any]:
    rate = composition.rate
    return {
        "name": composition.name,
        "id": composition.id,
        "width": composition.width,
        "height": composition.height,
        "rate": f"{rate.numerator}/{rate.denominator}",
        "length": composition.length,
        "seconds": float(composition.seconds),
        "loop": composition.loop,
        "layers": [_layer(layer) for layer in composition.layers],
    }


def _layer(layer: Layer) -> dict[str, Any]:
    keys = sum(len(track.keys) for track in layer.properties.values())
    return {"name": layer.name, "kind": layer.kind, "first": layer.first, "last": layer.last, "keys": keys}
