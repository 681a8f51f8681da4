"""What a project holds, as plain values and as lines of text."""

from __future__ import annotations

from typing import Any

from spiralis.core.model import Composition, Layer, Project


def summary(project: Project) -> dict[str, Any]:
    """Return compositions (layers front to back) and sources as JSON values."""
    return {
        "name": project.name,
        "compositions": [_composition(composition) for composition in project.compositions],
        "sources": [
            {
                "name": source.name, "kind": source.kind, "path": source.path, "missing": source.missing,
                "width": source.width, "height": source.height,
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
    lines += [f"    {s['name']} ({s['kind']}){' MISSING' if s['missing'] else ''}" for s in data["sources"]]
    return lines
