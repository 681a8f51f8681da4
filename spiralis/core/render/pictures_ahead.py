"""Decode side by side what the layers of a frame need and that is not kept."""

from __future__ import annotations

from collections.abc import Sequence

from spiralis.core.model import Layer, layer_kind
from spiralis.core.raster.pyramid import prepare
from spiralis.core.render.building import Builder


def prepare_pictures(builder: Builder, layers: Sequence[Layer]) -> None:
    """Decode the still pictures of layers that are about to be drawn, several at a time."""
    needed = []
    for layer in layers:
        kind = layer_kind(layer.kind)
        if not layer.has("source") or kind.moment is not None or kind.unseen:
            continue
        values = builder.at.values(layer)
        source = builder.at.scene.project.source(values["source"])
        if source is not None and values["opacity"] > 0 and values["visible"]:
            needed.append((source, max((builder.to_grid @ builder.at.matrix(layer)).stretch())))
    if len(needed) > 1:
        prepare(needed)
