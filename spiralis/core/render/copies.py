"""Draw the copies of a layer: each different moment of it once, as a picture, then that picture wherever it is seen."""

from __future__ import annotations

from collections.abc import Hashable, Mapping, Sequence
from functools import lru_cache
from typing import TYPE_CHECKING

import numpy as np

from spiralis.core.cache import Beside
from spiralis.core.colour import mix
from spiralis.core.geometry import Affine, WholeBox, box_around, products, rounded_out
from spiralis.core.model import Layer, Value, layer_kind
from spiralis.core.raster.kinds.copies import Copies as Placed
from spiralis.core.raster.raster import Raster
from spiralis.core.render.layers import Evaluated, pivot_point
from spiralis.core.render.nodes import PICTURES, Key, Node, emit_picture, picture_of, region_of, ringed, snapped
from spiralis.core.render.pictures import add_many
from spiralis.core.render.table import Table

if TYPE_CHECKING:
    from spiralis.core.render.building import Builder

_FAR: WholeBox = (-(1 << 14), -(1 << 14), 1 << 14, 1 << 14)
_LARGEST = 6.0

_Moment = tuple[float, str | None, str | None, float]

#: Keys of moments' pictures beside their project, so that what was worked out once is found without evaluating.
_known: Beside[dict[Hashable, Key]] = Beside(dict)


class Copies(Node):
    """The copies of one layer at one moment of the composition."""

    def __init__(self, builder: Builder, layer: Layer) -> None:
        self.builder, self.layer = builder, layer
        self.at = builder.at
        self.piece = builder.at.composition
        self.linear = self.piece.linear
        self.matrix = builder.matrix(layer)
        self.values = self.at.values(layer)
        source = self.piece.find(self.values["of"])
        self.source = source
        self.set_dials = self._set_dials()
        below = self.piece.shown_on(source.id) if source is not None else []
        self.shown = ([] if source is None or layer_kind(source.kind).unseen else [source]) + below
        if source is not None:
            order = {y.id: i for i, y in enumerate(self.piece.layers)}
            self.shown.sort(key=lambda y: order[y.id])

    def _set_dials(self) -> Hashable:
        """Return the dials of a composition that the layer showing it has set otherwise."""
        if self.at.scene.project.find(self.piece.id) is self.piece:
            return ()
        return tuple((y.id, y.track("value")) for y in self.piece.layers if y.has("value"))

    def make_key(self) -> Hashable:
        copies = self._copies()
        if copies is None:
            return None
        scale, home = self._home(copies)
        moments, of = self._moments(copies)
        return scale, self.linear, self.matrix, copies.key, tuple(self._key(m, home) for m in moments), of.tobytes()

    def _copies(self) -> Placed | None:
        """Return where the copies are; None where there is nothing to copy."""
        placements = layer_kind(self.layer.kind).placements
        copies: Placed | None = placements(self.values) if placements is not None and self.source is not None else None
        return copies

    def emit(self, table: Table, mode: int, opacity: float) -> None:
        if mode == 0 and opacity >= 1:
            self.add(table)
            return
        content = Table(table.frame, table.linear)
        self.add(content)
        emit_picture(table, picture_of(content, region_of(table)), mode, opacity)

    def add(self, table: Table) -> None:
        """Add all copies, the first in front."""
        copies = self._copies()
        if copies is None:
            return
        scale, home = self._home(copies)
        if scale <= 0:
            return
        back = Affine.scaling(1 / scale, 1 / scale)
        behind = np.flatnonzero(copies.opacity > 0)[::-1]
        moments, of = self._moments(copies)
        maps = products(_rows([self.matrix]), copies.matrices[behind])
        region = self._seen(table, maps, back)
        used = np.unique(of[behind])
        pictures: list[Raster | None] = [None] * len(moments)
        for index in used.tolist():
            pictures[index] = self._picture(moments[index], home, region)
        self._place(table, maps, of[behind], copies.opacity[behind], pictures, back)

    def _home(self, copies: Placed) -> tuple[float, Affine]:
        """Return how finely moments are drawn, and the map from the composition to their grid.

        It brings the source's pivot, where it is on frame 0, to the origin.
        """
        rows = copies.matrices
        largest = float(np.hypot(rows[:, 0:4:2], rows[:, 1:4:2]).max()) if len(copies) else 1.0
        scale = min(max(self.matrix.stretch()) * largest, _LARGEST)
        if self.source is None:
            return scale, Affine()
        first = Evaluated(self.at.scene.project, self.piece, 0.0)
        x, y = first.matrix(self.source).apply(*pivot_point(first.values(self.source), first.box(self.source)))
        return scale, Affine.scaling(scale, scale) @ Affine.shift(-x, -y)

    def _seen(self, table: Table, maps: np.ndarray, back: Affine) -> WholeBox:
        """Return the part of the moments' grid of which anything is seen, rounded out so that it seldom changes."""
        rows = products(maps, _rows([back]))
        boxes = [
            inverse.box(table.frame) for row in rows.tolist() if (inverse := Affine(*row).inverse()) is not None
        ] if len(rows) <= 64 else []  # fmt: skip
        if not boxes:
            return _FAR
        around = box_around(boxes)
        left, top, right, bottom = _FAR
        inside = (max(around[0], left), max(around[1], top), min(around[2], right), min(around[3], bottom))
        return snapped(rounded_out(inside)) if inside[2] > inside[0] and inside[3] > inside[1] else (0, 0, 1, 1)

    def _place(
        self, table: Table, maps: np.ndarray, of: np.ndarray, opacity: np.ndarray, pictures: Sequence[Raster | None],
        back: Affine,
    ) -> None:  # fmt: skip
        """Add the copies that show anything, each with its picture."""
        drawings = [ringed(picture) for picture in pictures if picture is not None]
        if not drawings:
            return
        shown = np.array([picture is not None for picture in pictures])
        numbers, there = np.cumsum(shown) - 1, shown[of]
        wanted = numbers[of[there]]
        inner = _rows([back @ picture.to_layer for picture in drawings])
        if len(inner) > 1:
            inner = inner[wanted]
        add_many(table, drawings, wanted, products(maps[there], inner), opacity[there])

    def _moments(self, copies: Placed) -> tuple[list[_Moment], np.ndarray]:
        """Return what pictures the copies have, each once: a frame, an own word, picture and share of colour; and
        which of them each copy has, int (n,)."""
        words, pictures = self.values["words"], self.values["pictures"]
        lines = words.split("\n") if words.strip() else []
        length, loops = self.piece.length, self.piece.loop
        frames = self.at.frame - copies.late
        frames = frames % length if loops else np.clip(frames, 0, length - 1)
        index = np.arange(len(copies))
        tints = np.round(copies.tint, 3)
        own = [index % len(several) for several in (lines, pictures) if several]
        first, of = _alike([frames, tints, *own], len(copies))
        found: list[_Moment] = []
        for at in first.tolist():
            frame = float(frames[at])
            found.append((
                int(frame) if frame.is_integer() else frame,
                lines[at % len(lines)] if lines else None,
                pictures[at % len(pictures)][0] if pictures else None,
                float(tints[at]),
            ))  # fmt: skip
        return found, of

    def _picture(self, moment: _Moment, home: Affine, region: WholeBox) -> Raster | None:
        """Return the source at a moment, drawn about its place; kept for other copies, frames and versions."""
        known, own = self._known(), self._own(moment, home)
        key = known.get(own)
        if key is not None:
            found = PICTURES.peek((key, region))
            if found is not None:
                return found
        node = self._node(moment, home)
        known[own] = node.key
        return node.picture(region)

    def _key(self, moment: _Moment, home: Affine) -> Key:
        known, own = self._known(), self._own(moment, home)
        if own not in known:
            known[own] = self._node(moment, home).key
        return known[own]

    def _known(self) -> dict[Hashable, Key]:
        known = _known.of(self.at.scene.project)
        if len(known) > 100_000:
            known.clear()
        return known

    def _own(self, moment: _Moment, home: Affine) -> Hashable:
        """Return what tells moments of one project apart."""
        colour = self.values["colour_to"] if moment[3] else None
        return self.piece.id, self.set_dials, self.layer.id, moment, home, colour

    def _node(self, moment: _Moment, home: Affine) -> Node:
        frame, word, picture, tint = moment
        at = Evaluated(self.at.scene.project, self.piece, frame)
        for layer in self.shown:
            own = _own_look(at.values(layer), layer, word, picture, tint, self.values["colour_to"])
            if own is not None:
                at.put(layer, own)
        return self.builder.standing(at, home, self.shown)


def _alike(columns: Sequence[np.ndarray], count: int) -> tuple[np.ndarray, np.ndarray]:
    """Return where each different row of columns (n,) is first, and which of those each row is like."""
    of = np.zeros(count, dtype=np.intp)
    for column in columns:
        if count and (column != column[0]).any():
            values, own = np.unique(column, return_inverse=True)
            of = np.unique(of * len(values) + own, return_inverse=True)[1]
    first = np.full(int(of.max(initial=-1)) + 1, count, dtype=np.intp)
    np.minimum.at(first, of, np.arange(count))
    return first, of


def _rows(matrices: Sequence[Affine]) -> np.ndarray:
    """Return maps as rows of six numbers, float64 (n, 6)."""
    return np.array([(m.a, m.b, m.c, m.d, m.e, m.f) for m in matrices])


def _own_look(
    values: Mapping[str, Value], layer: Layer, word: str | None, picture: str | None, tint: float, colour: Value
) -> Mapping[str, Value] | None:
    """Return a source layer's values with what is a copy's own: its word, its picture, its shade of the fill."""
    changed = dict(values)
    if word is not None and layer.has("text"):
        changed["text"] = word
    if picture is not None and layer.has("source") and layer_kind(layer.kind).moment is None:
        changed["source"] = picture
    if tint and "fill" in changed:
        changed["fill"] = _shade(changed["fill"], colour, tint)
    return changed if changed != values else None


@lru_cache(maxsize=4096)
def _shade(fill: tuple[float, ...], colour: tuple[float, ...], tint: float) -> tuple[float, ...]:
    """Return a fill on its way to another colour, as opaque as it was."""
    goal = np.array([(*colour[:3], fill[3])])
    return tuple(mix(np.array([fill]), goal, np.array([tint]))[0].tolist())
