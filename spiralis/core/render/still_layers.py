"""Operations of layers that stand still, kept from frame to frame so that only what changed is worked out again."""

from __future__ import annotations

import numpy as np
from attrs import frozen

from spiralis.core.cache import Beside
from spiralis.core.geometry import Affine, Box
from spiralis.core.model import Composition, Layer, Source, layer_kind
from spiralis.core.model.blocks import effect_kind
from spiralis.core.model.references import What
from spiralis.core.render.table import Row

#: A layer's operations, and the arrays that they point into.
Rows = tuple[list[Row | np.ndarray], list[np.ndarray]]
#: For how many places to draw to (scales, frames) a layer's rows are kept.
_MOST_PLACES = 6


@frozen(eq=False)
class _Kept:
    sources: tuple[Source, ...]
    rows: Rows


#: Rows by the place to draw to, beside their layer: they go with it.
_kept: Beside[dict[object, _Kept]] = Beside(dict)


class StillLayerCache:
    """Rows of layers for one map to the output, one frame box and one set of sources."""

    def __init__(self, to_output: Affine, frame: Box, piece: Composition, sources: tuple[Source, ...]) -> None:
        self._place = (to_output, frame, piece.width, piece.height, piece.linear)
        self._sources = sources

    def of(self, layer: Layer) -> Rows | None:
        """Return what was kept for this very layer. Sources count by identity: new ones may change any picture."""
        held = _kept.of(layer).get(self._place)
        return held.rows if held is not None and held.sources is self._sources else None

    def keep(self, layer: Layer, rows: Rows) -> None:
        """Keep a layer's rows."""
        places = _kept.of(layer)
        if len(places) >= _MOST_PLACES:
            places.pop(next(iter(places)))
        places[self._place] = _Kept(self._sources, rows)


def stands_still(layer: Layer) -> bool:
    """Whether a layer looks the same in every frame of its span, whatever the other layers do."""
    kind = layer_kind(layer.kind)
    tied = any(tie.what is What.LAYER for tie in layer.ties)
    alone = layer.parent is None and not layer.mattes and not layer.edge_pins and not tied
    still = kind.moment is None and kind.placements is None and not kind.gathers
    blocks = [effect_kind(block.kind) for block in layer.blocks]
    return (
        alone and still and not any(block.inputs or block.varies for block in blocks)
        and not any(track.moving for track in layer.properties.values())
    )  # fmt: skip
