"""Operations of layers that stand still, kept from frame to frame so that only what changed is worked out again."""

from __future__ import annotations

import threading
from collections import OrderedDict

import numpy as np
from attrs import define, frozen

from spiralis.core.geometry import Affine, Box
from spiralis.core.model import Layer, Source, layer_kind

_MOST_SHEETS = 6
_MOST_BYTES = 96 << 20
_MOST_LAYERS = 20_000


@frozen(eq=False)
class Rows:
    """One layer's rows of the table, with the layer itself so that its identity stays its own."""

    layer: Layer
    numbers: list[tuple[int, ...]]
    reals: list[tuple[float, ...]]
    keeps: list[np.ndarray]


@define(eq=False)
class Sheet:
    """Rows by the identity of layers, for one map to the output, one frame box and one set of sources."""

    sources: tuple[Source, ...]
    rows: dict[int, Rows]
    bytes: int = 0

    def of(self, layer: Layer) -> Rows | None:
        """Return what was kept for this very layer."""
        held = self.rows.get(id(layer))
        return held if held is not None and held.layer is layer else None

    def keep(self, rows: Rows) -> None:
        """Keep a layer's rows; a sheet that has grown too heavy begins anew."""
        if self.bytes > _MOST_BYTES or len(self.rows) > _MOST_LAYERS:
            self.rows.clear()
            self.bytes = 0
        self.rows[id(rows.layer)] = rows
        self.bytes += sum(array.nbytes for array in rows.keeps)


_sheets: OrderedDict[object, Sheet] = OrderedDict()
_lock = threading.Lock()


def sheet_for(to_output: Affine, frame: Box, size: tuple[int, int], sources: tuple[Source, ...]) -> Sheet:
    """Return the sheet of a place to draw to. Sources count by identity: a new one may change any picture or font."""
    key = (to_output, frame, size, id(sources))
    with _lock:
        sheet = _sheets.get(key)
        if sheet is None or sheet.sources is not sources:
            sheet = _sheets[key] = Sheet(sources, {})
        _sheets.move_to_end(key)
        while len(_sheets) > _MOST_SHEETS:
            _sheets.popitem(last=False)
        return sheet


def stands_still(layer: Layer) -> bool:
    """Whether a layer looks the same in every frame of its span, whatever the other layers do."""
    kind = layer_kind(layer.kind)
    still = (
        layer.parent is None
        and not layer.mattes
        and not layer.holds
        and kind.moment is None
        and kind.placements is None
    )
    return still and not any(track.moving for track in layer.properties.values())
