"""Draw the copies of a layer: each different moment of it once, as a picture, then that picture wherever it is seen."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from itertools import compress
from typing import Any

import numpy as np
from attrs import frozen

from spiralis.core.cache import CacheSection
from spiralis.core.colour import mix
from spiralis.core.geometry import Affine, outward
from spiralis.core.model import Layer, Value, layer_kind
from spiralis.core.raster.kinds.copies import Copy
from spiralis.core.raster.raster import Raster, clear_rim
from spiralis.core.render.layers import Evaluated, pivot_point
from spiralis.core.render.pictures import add_many
from spiralis.core.render.table import Table, drawn

_FAR = (-float(1 << 14), -float(1 << 14), float(1 << 14), float(1 << 14))
_LARGEST = 6.0

_Moment = tuple[float, str | None, str | None, float]

#: ``draw(table, at, layer, to_output)`` adds one layer; it is the plan's own, handed in so that imports go one way.
Draw = Callable[[Table, Evaluated, Layer, Affine], None]


@frozen(eq=False)
class _Picture:
    """A moment drawn, with the layers it shows so that their identities stay theirs; None where nothing is seen."""

    layers: tuple[Any, ...]
    pixels: Raster | None


_pictures: CacheSection[_Picture] = CacheSection(lambda p: p.pixels.data.nbytes if p.pixels is not None else 64)


class Copies:
    """The copies of one layer at one moment of the composition."""

    def __init__(
        self, at: Evaluated, layer: Layer, to_output: Affine, fold: Callable[[float], float], draw: Draw
    ) -> None:
        self.at, self.layer, self.fold, self.draw = at, layer, fold, draw
        self.matrix = to_output @ at.matrix(layer)
        self.values = at.values(layer)
        source = at.composition.find(self.values["of"])
        self.source = source
        below = at.composition.hanging_on(source.id) if source is not None else []
        self.shown = ([] if source is None or source.kind == "carrier" else [source]) + below
        if source is not None:
            order = {y.id: i for i, y in enumerate(at.composition.layers)}
            self.shown.sort(key=lambda y: order[y.id])
        self.beside = self._beside()

    def add(self, table: Table) -> None:
        """Add all copies, the first in front."""
        placements = layer_kind(self.layer.kind).placements
        if self.source is None or placements is None:
            return
        copies: Sequence[Copy] = placements(self.values)
        largest = max((max(copy.matrix.stretch()) for copy in copies), default=1.0)
        scale = min(max(self.matrix.stretch()) * largest, _LARGEST)
        if scale <= 0:
            return
        home = Affine.scaling(scale, scale) @ self._home()
        back = Affine.scaling(1 / scale, 1 / scale)
        shown: dict[_Moment, int] = {}
        pictures: list[Raster | None] = []
        behind = [copy for copy in reversed(copies) if copy.opacity > 0]
        of = np.empty(len(behind), dtype=np.intp)
        for place, copy in enumerate(behind):
            moment = self._moment(copy)
            if moment not in shown:
                shown[moment] = len(pictures)
                pictures.append(self._picture(moment, home))
            of[place] = shown[moment]
        self._place(table, behind, of, pictures, back)

    def _place(
        self, table: Table, copies: Sequence[Copy], of: np.ndarray, pictures: Sequence[Raster | None], back: Affine
    ) -> None:
        """Add the copies that show anything, each with its picture."""
        drawings = [pixels for pixels in pictures if pixels is not None]
        numbers = np.cumsum([pixels is not None for pixels in pictures]) - 1
        there = [pictures[index] is not None for index in of]
        if not any(there):
            return
        wanted, kept = numbers[of[there]], list(compress(copies, there))
        inner = _rows([back @ pixels.to_layer for pixels in drawings])[wanted]
        to_output = _products(_rows([self.matrix]), _products(_rows([copy.matrix for copy in kept]), inner))
        add_many(table, drawings, wanted, to_output, np.array([copy.opacity for copy in kept]))

    def _moment(self, copy: Copy) -> _Moment:
        """Return what decides the picture of a copy: its frame, its own word, picture and share of colour."""
        words, pictures = self.values["words"], self.values["pictures"]
        lines = words.split("\n") if words.strip() else []
        word = lines[copy.index % len(lines)] if lines else None
        return (
            self.fold(self.at.frame - copy.late),
            word,
            pictures[copy.index % len(pictures)][0] if pictures else None,
            round(copy.tint, 3),
        )

    def _beside(self) -> list[Any]:
        """Return what else decides the look of a moment: carriers above the source, and everything if it is linked."""
        above: list[Any] = []
        while (parent := (above[-1] if above else self.source)) is not None and parent.parent:
            carrier = self.at.composition.find(parent.parent)
            if carrier is None:
                break
            above.append(carrier)
        parts = (*self.shown, *above)
        if any(y.holds or any(t.driver is not None for t in y.properties.values()) for y in parts):
            above.append(self.at.composition)
        if any(y.kind in ("nested", "copies") for y in parts):
            above.append(self.at.scene.project.compositions)
        return above

    def _home(self) -> Affine:
        """Return the map that brings the source's pivot, where it is on frame 0, to the origin."""
        assert self.source is not None
        first = Evaluated(self.at.scene.project, self.at.composition, 0.0)
        x, y = first.matrix(self.source).apply(*pivot_point(first.values(self.source), first.box(self.source)))
        return Affine.shift(-x, -y)

    def _picture(self, moment: _Moment, home: Affine) -> Raster | None:
        """Return the source at a moment, drawn about its place; kept for other copies and frames."""
        frame, word, picture, tint = moment
        held = (*self.shown, *self.beside, self.at.scene.project.sources)
        colour = self.values["colour_to"] if tint else None
        key = (tuple(id(part) for part in held), frame, home, word, picture, tint, colour)
        return _pictures.get(key, lambda: _Picture(held, self._drawn(frame, home, word, picture, tint))).pixels

    def _drawn(self, moment: float, home: Affine, word: str | None, picture: str | None, tint: float) -> Raster | None:
        at = Evaluated(self.at.scene.project, self.at.composition, moment)
        for layer in self.shown:
            if layer.kind in ("text", "shape", "picture"):
                at.put(layer, _own_look(at.values(layer), layer.kind, word, picture, tint, self.values["colour_to"]))
        table = Table(_FAR)
        for layer in reversed(self.shown):
            if layer.shown_at(moment):
                self.draw(table, at, layer, home)
        if table.box is None:
            return None
        left, top, right, bottom = outward(table.box)
        area = (left - 1, top - 1, right + 1, bottom + 1)
        out = drawn(table, area)
        clear_rim(out)
        return Raster(out, Affine.shift(area[0], area[1]))


def _rows(matrices: Sequence[Affine]) -> np.ndarray:
    """Return maps as rows of six numbers, float64 (n, 6)."""
    return np.array([(m.a, m.b, m.c, m.d, m.e, m.f) for m in matrices])


def _products(outer: np.ndarray, inner: np.ndarray) -> np.ndarray:
    """Return ``outer @ inner`` of each pair of maps as rows of six numbers; one row serves for all."""
    a, b, c, d, e, f = outer.T
    u, v, w, x, y, z = inner.T
    parts = (a * u + c * v, b * u + d * v, a * w + c * x, b * w + d * x, a * y + c * z + e, b * y + d * z + f)
    return np.column_stack(parts)


def _own_look(
    values: Mapping[str, Value], kind: str, word: str | None, picture: str | None, tint: float, colour: Value
) -> Mapping[str, Value]:
    """Return a source layer's values with what is a copy's own: its word, its picture, its shade of the fill."""
    changed = dict(values)
    if kind == "text" and word is not None:
        changed["text"] = word
    if kind == "picture" and picture is not None:
        changed["source"] = picture
    if tint and "fill" in changed:
        fill = np.array([changed["fill"]])
        goal = np.array([(*colour[:3], changed["fill"][3])])
        changed["fill"] = tuple(mix(fill, goal, np.array([tint]))[0].tolist())
    return changed
