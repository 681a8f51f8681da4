"""What a project holds, as plain values and as lines of text."""

from __future__ import annotations

from typing import Any

from spiralis.core.editing.sources import use_counts
from spiralis.core.model import Composition, Layer, Project


def summary(project: Project) -> dict[str, Any]:
    """Return compositions (layers front to back) and sources as JSON values."""
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


def summary_lines(project: Project) -> list[str]:
    """Return the same for people."""
    data = summary(project)
    lines = [project.name]
    for piece in data["compositions"]:
        loops = "loops" if piece["loop"] else "plays once"
        lines.append(
            f"  {piece['name']}: {piece['width']} × {piece['height']}, {piece['rate']} fps, "
            f"{piece['length']} frames, {piece['seconds']:.2f} s, {loops}"
        )
        lines += [
            f"    {layer['name']} ({layer['kind']}): frames {layer['first']} to {layer['last'] - 1}, "
            f"{layer['keys']} keys"
            for layer in piece["layers"]
        ]
    lines.append("  Sources")
    for source in data["sources"]:
        size = f", {source['width']} × {source['height']}" if source["width"] else ""
        frames = f", {source['frames']} frames" if source["frames"] else ""
        marks = (" linked" if source["linked"] else "") + (" MISSING" if source["missing"] else "")
        lines.append(f"    {source['name']} ({source['kind']}{size}{frames}, used {source['uses']} ×){marks}")
    return lines
