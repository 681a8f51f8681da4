"""Layers to which nothing is done but placing, fading and blending: most of a large piece, and soon told apart."""

from __future__ import annotations

from spiralis.core.cache import Beside
from spiralis.core.model import Layer, layer_kind

#: What takes more than drawing the content where it stands, once it is set at all.
_MORE = frozenset({
    "depth", "content_opacity", "crop_across", "crop_down", "motion_blur"
})  # fmt: skip

_known: Beside[list[bool]] = Beside(list)


def is_plain(layer: Layer) -> bool:
    """Whether a layer hangs on none and shows its content as it is, wherever that stands."""
    known = _known.of(layer)
    if not known:
        known.append(_found(layer))
    return known[0]


def _found(layer: Layer) -> bool:
    kind = layer_kind(layer.kind)
    if layer.blocks or layer.mattes or layer.parent is not None or not _MORE.isdisjoint(layer.properties):
        return False
    made_of_others = kind.gathers or kind.nests or kind.swarm or kind.placements is not None
    return not (made_of_others or kind.beneath is not None or kind.planes is not None or kind.lights or kind.sees)
