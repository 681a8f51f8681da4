"""Operations of layers that depend on nothing else, kept so that an edit works out only what it touched.

What stands still is kept from frame to frame as well; of what moves, the frames that were drawn last.
"""

from __future__ import annotations

from collections.abc import Hashable

import numpy as np
from attrs import define, field, frozen

from spiralis.core.cache import Beside
from spiralis.core.geometry import Affine, Box
from spiralis.core.model import Composition, Layer, Source, layer_kind
from spiralis.core.model.blocks import effect_kind
from spiralis.core.model.references import What
from spiralis.core.render.nodes import Key
from spiralis.core.render.table import Row

#: A layer's operations, and the arrays that they point into.
Rows = tuple[list[Row | np.ndarray], list[np.ndarray]]
#: For how many places to draw to (scales, frames of the canvas) rows are kept of a layer that stands still, and of one
#: that moves: those hold on to its pictures.
_MOST_STILL, _MOST_MOVING = 6, 2
#: Of what moves, larger pictures than that are left to the caches that count their bytes.
_LARGEST_MOVING = 1 << 20


@frozen(eq=False)
class _Kept:
    sources: tuple[Source, ...]
    rows: Rows


@define(eq=False)
class _OfLayer:
    """What is kept beside a layer: whether it depends on itself alone, whether it stands still, and its rows."""

    alone: bool | None = None
    still: bool = False
    rows: dict[Hashable, _Kept] = field(factory=dict)


_kept: Beside[_OfLayer] = Beside(_OfLayer)


class RowCache:
    """Rows of a composition's layers at a frame, for one map to the output, one frame box and one set of sources."""

    def __init__(
        self, to_output: Affine, box: Box, piece: Composition, frame: float, sources: tuple[Source, ...]
    ) -> None:
        own = (piece.width, piece.height, piece.rate, piece.length, piece.span, piece.loop, piece.light,
               piece.shutter_angle, piece.shutter_phase, piece.blur_samples, piece.blur_of)  # fmt: skip
        self._place = Key(to_output, box, own)
        self._moment = Key(frame, self._place)
        self._sources = sources

    def of(self, layer: Layer) -> Rows | None:
        """Return what was kept for this very layer. Sources count by identity: new ones may change any picture."""
        kept = _known(layer)
        held = kept.rows.get(self._place if kept.still else self._moment)
        return held.rows if held is not None and held.sources is self._sources else None

    def keep(self, layer: Layer, rows: Rows) -> None:
        """Keep a layer's rows, if they depend on nothing but the layer and the frame."""
        kept = _known(layer)
        if not kept.alone or (not kept.still and sum(array.nbytes for array in rows[1]) > _LARGEST_MOVING):
            return
        # Another mapping, as other threads may be reading this one.
        most, place = (_MOST_STILL, self._place) if kept.still else (_MOST_MOVING, self._moment)
        others = list(kept.rows.items())[1 - most :]
        kept.rows = {**dict(others), place: _Kept(self._sources, rows)}


def _known(layer: Layer) -> _OfLayer:
    kept = _kept.of(layer)
    if kept.alone is None:
        kept.alone = stands_alone(layer)
        kept.still = kept.alone and stands_still(layer)
    return kept


def stands_alone(layer: Layer) -> bool:
    """Whether what a layer looks like at a frame depends on itself and on sources only, whatever other layers do."""
    kind = layer_kind(layer.kind)
    tied = any(tie.what is not What.SOURCE for tie in layer.ties)
    # What stands in space is seen through whatever camera there is.
    alone = not tied and not layer.edge_pins and "depth" not in layer.properties
    plain = kind.placements is None and kind.planes is None and not (kind.gathers or kind.nests or kind.lights)
    return alone and plain and not any(effect_kind(block.kind).inputs for block in layer.blocks)


def stands_still(layer: Layer) -> bool:
    """Whether a layer that stands alone looks the same in every frame of its span."""
    kind = layer_kind(layer.kind)
    varies = kind.moment is not None or any(effect_kind(block.kind).varies for block in layer.blocks)
    return not varies and not any(track.moving for track in layer.properties.values())
