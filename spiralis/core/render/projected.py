"""A layer's picture seen in perspective: drawn upright as fine as it is seen at its nearest, and sampled once."""

from __future__ import annotations

import math
from collections.abc import Hashable, Sequence
from functools import cached_property

import numpy as np

from spiralis.core.colour import Shade
from spiralis.core.compositing.kernels import light, pinning, smear
from spiralis.core.compositing.motion_blur import half_in_linear_light, in_linear_light
from spiralis.core.geometry import (
    Affine,
    Box,
    Projection,
    WholeBox,
    box_around,
    box_of,
    intersect,
    intersect_whole,
    rounded_out,
)
from spiralis.core.model import Layer, layer_kind
from spiralis.core.raster.raster import Raster
from spiralis.core.raster.stamps import Prospect
from spiralis.core.render.contents import Leaf, content_key
from spiralis.core.render.layers import Evaluated
from spiralis.core.render.nodes import PICTURES, Node, emit_picture, region_of, ringed, snapped, worth_keeping
from spiralis.core.render.pictures import add_pixels
from spiralis.core.render.quads import add_quad, edges_of
from spiralis.core.render.table import Table
from spiralis.core.rows import by_rows

#: So many samples a pixel and axis at the most, where a picture is made much smaller.
_FINEST = 8
#: The finest that a layer is drawn beside its own size, and the most pixels of the upright picture.
_LARGEST, _MOST = 8.0, 24_000_000
#: How much finer than it is seen: up to where the sampler takes two samples a pixel and axis, and one.
_FINER, _JUST = 4 / 3, 1.09
#: Made so many times smaller, one sample a pixel is enough: as much as of flat layers.
_ONE_WILL_DO = 1.75
_FAR = float(1 << 14)
#: Where a box is looked at across and down.
_FIFTHS = (0.0, 0.25, 0.5, 0.75, 1.0)
#: Of so many numbers two threads take a half each.
_WORTH_TWO = 100_000


class Drawn(Node):
    """A layer of outlines drawn straight where the camera sees it, in this grid, its colours ``shaded``."""

    quick = True

    def __init__(
        self, at: Evaluated, layer: Layer, to_grid: Projection, shade: Shade | None = None
    ) -> None:
        self.at, self.layer, self.to_grid, self.shade = at, layer, to_grid, shade

    @property
    def thing(self) -> Hashable:
        """What is seen, wherever that is."""
        return content_key(self.at, self.layer), self.shade

    def make_key(self) -> Hashable:
        return self.thing, self.to_grid

    def emit(self, table: Table, mode: int, opacity: float) -> None:
        if self._edges is None or self._prospect is None:
            emit_picture(table, self._raster(table.frame), mode, opacity)
        else:
            add_quad(table, self._prospect.corners, self._edges, self._prospect.colour, mode, opacity)

    @cached_property
    def _edges(self) -> np.ndarray | None:
        corners = self._prospect.corners if self._prospect is not None else ()
        return edges_of(corners) if corners else None

    def drawn_in(self, region: WholeBox) -> Raster | None:
        if self._edges is not None:
            return super().drawn_in(region)
        raster = self._raster(box_of(region))
        picture = raster.cut(region) if raster is not None else None
        return Raster(picture.as_float, picture.space, picture.corner) if picture is not None else None

    def _raster(self, clip: Box) -> Raster | None:
        assert self._prospect is not None
        seen = intersect(box_of(self._prospect.area), clip) is not None
        return self._prospect.drawn() if seen else None

    @cached_property
    def _prospect(self) -> Prospect | None:
        look = layer_kind(self.layer.kind).in_perspective
        if look is None:
            return None
        values, scene = self.at.values(self.layer), self.at.scene_for(self.layer)
        made: Prospect | None = look(values, scene, self.to_grid, self.shade)
        return made

    @property
    def can(self) -> bool:
        """Whether the layer can be drawn so."""
        return self._prospect is not None


class Projected(Node):
    """A node in an upright grid of its own, seen under a projective map of the layer's units to this grid.

    ``space`` maps the upright grid to the layer's units, of which a pixel here ``spans`` so many at most.
    """

    def __init__(self, inner: Node, space: Affine, to_grid: Projection, spans: float) -> None:
        self.inner, self.space, self.to_grid, self.spans = inner, space, to_grid, spans

    @property
    def thing(self) -> Hashable:
        """What is seen, wherever that is."""
        return self.inner.key, self.space

    def make_key(self) -> Hashable:
        return self.thing, self.to_grid

    def emit(self, table: Table, mode: int, opacity: float) -> None:
        region = region_of(table)
        upright = self._seen_from(region)
        if upright is not None and self.spans * max(_fine(upright)) <= _ONE_WILL_DO:
            # Hardly made smaller, so it is sampled as it is mixed, like a layer that lies flat.
            whole = upright if isinstance(self.inner, Leaf) else ringed(upright)
            add_pixels(table, whole, self.to_grid @ whole.to_layer, mode, opacity)
            return
        if worth_keeping(self, region):
            picture = PICTURES.get((self.key, region), lambda: self._sampled(upright, region))
        else:
            picture = self._sampled(upright, region)
        emit_picture(table, picture, mode, opacity)

    def drawn_in(self, region: WholeBox) -> Raster | None:
        return self._sampled(self._seen_from(region), region)

    def _seen_from(self, region: WholeBox) -> Raster | None:
        """Return the upright picture of what is seen in a region, its space being the layer's units."""
        inside = self.reads(region)
        return self.upright(snapped(rounded_out(inside, 2.0))) if inside is not None else None

    def reads(self, region: WholeBox) -> Box | None:
        """Return what of the upright grid is seen in a region."""
        back, to_upright = self.to_grid.inverse(), self.space.inverse()
        if back is None or to_upright is None:
            return None
        return intersect(to_upright.box(back.box(box_of(region))), (-_FAR, -_FAR, _FAR, _FAR))

    def _sampled(self, picture: Raster | None, region: WholeBox) -> Raster | None:
        """Return what a region shows of an upright picture, with as many samples a pixel as it is made smaller."""
        back = self.to_grid.inverse()
        to_pixels = picture.to_layer.inverse() if picture is not None else None
        if picture is None or to_pixels is None or back is None:
            return None
        area = self.covers(picture, region)
        if area is None:
            return None
        out = np.zeros((area[3] - area[1], area[2] - area[0], 4), dtype=np.float32)
        pixels = np.ascontiguousarray(picture.as_float).reshape(-1)
        self.add_samples(pixels, picture, 1.0, out, (area[0], area[1]))
        return Raster(out, corner=area[:2])

    def covers(self, picture: Raster, region: WholeBox) -> WholeBox | None:
        """Return what of a region an upright picture may cover."""
        height, width = picture.data.shape[:2]
        around = self.to_grid.box(picture.to_layer.box((0.0, 0.0, float(width), float(height))))
        seen = intersect(around, box_of(region))
        return intersect_whole(rounded_out(seen, 1.0), region) if seen is not None else None

    def add_samples(
        self, pixels: np.ndarray, picture: Raster, weight: float, out: np.ndarray, corner: tuple[int, int]
    ) -> None:
        """Add what is seen of a picture's ``pixels`` (flat) times a weight to float32 (h, w, 4) that begins at a
        corner of the grid, with as many samples a pixel as it is made smaller."""
        places = self.to_pixels_of(picture)
        if places is None:
            return
        height, width = picture.data.shape[:2]

        def sample(first: int, last: int) -> None:
            part = out[first:last]
            pinning.pin_pixels(pixels, width, height, places, corner[0], corner[1] + first, _FINEST, weight, part)

        by_rows(out.shape[0], sample, worth=out.size > _WORTH_TWO)

    def to_pixels_of(self, picture: Raster) -> np.ndarray | None:
        """Return the map from this grid to a picture's pixels, (9,), as samplers take it: whole numbers are middles."""
        back, to_pixels = self.to_grid.inverse(), picture.to_layer.inverse()
        if back is None or to_pixels is None:
            return None
        here = Projection.of(Affine.shift(0.5, 0.5)).array
        there = Projection.of(Affine.shift(-0.5, -0.5) @ to_pixels).array
        return np.ascontiguousarray((there @ back.array @ here).reshape(-1))

    def upright(self, region: WholeBox) -> Raster | None:
        """Return what is to be sampled, its space being the layer's units: of a picture its very pixels."""
        if isinstance(self.inner, Leaf):
            return self.inner.raster(region)
        picture = self.inner.picture(region)
        return Raster(picture.data, self.space, picture.corner) if picture is not None else None


def seen_over_time(
    moments: Sequence[tuple[Projected, float]], region: WholeBox
) -> Raster | None:
    """Return the weighted mean, in linear light, of one picture that is seen in perspective from several places."""
    first = moments[0][0]
    boxes = [box for node, _ in moments if (box := node.reads(region)) is not None]
    upright = first.upright(snapped(rounded_out(box_around(boxes), 2.0))) if boxes else None
    if upright is None:
        return None
    areas = [area for node, _ in moments if (area := node.covers(upright, region)) is not None]
    if not areas:
        return None
    area = rounded_out(box_around([box_of(area) for area in areas]))
    smaller = max(node.spans for node, _ in moments) * max(_fine(upright))
    if smaller <= _ONE_WILL_DO:
        whole = upright if isinstance(first.inner, Leaf) else ringed(upright)
        return _by_one_sample(moments, whole, in_linear_light(whole), area)
    if smaller <= 2 * _ONE_WILL_DO:
        half = half_in_linear_light(upright)
        return _by_one_sample(moments, half, half.data.reshape(-1), area)
    left, top, right, bottom = area
    out, pixels = np.zeros((bottom - top, right - left, 4), dtype=np.float32), in_linear_light(upright)
    for node, weight in moments:
        part = node.covers(upright, region)
        if part is not None:
            # Its own rows of all columns.
            rows = out[part[1] - top : part[3] - top]
            node.add_samples(pixels, upright, weight, rows, (left, part[1]))
    light.encode_premultiplied(out.reshape(-1))
    return Raster(out, corner=(left, top))


def _by_one_sample(
    moments: Sequence[tuple[Projected, float]], upright: Raster, pixels: np.ndarray, area: WholeBox
) -> Raster:
    """Return the same of a picture with a clear ring and its ``pixels`` in linear light, by one sample a moment."""
    left, top, right, bottom = area
    backs = [(back, weight) for node, weight in moments if (back := node.to_pixels_of(upright)) is not None]
    places, weights = np.array([back for back, _ in backs]).reshape(-1, 9), np.array([weight for _, weight in backs])
    out = np.zeros((bottom - top, right - left, 4), dtype=np.float32)
    height, width = upright.data.shape[:2]

    def sample(first: int, last: int) -> None:
        smear.smear_projected(pixels, width, height, places, weights, left, top + first, out[first:last])

    by_rows(out.shape[0], sample, worth=out.size * len(places) > _WORTH_TWO)
    return Raster(out, corner=(left, top))


def _fine(picture: Raster) -> tuple[float, float]:
    """Return how many pixels of a picture a unit of its space gets, across and down."""
    back = picture.to_layer.inverse()
    return back.stretch() if back is not None else (1e9, 1e9)


def _enlarged(to_grid: Projection, x: float, y: float) -> tuple[float, float, float, float] | None:
    """Return where a point is seen, and how much it is enlarged there at most and at least; None behind the eye.

    These are the singular values of the map's derivative there.
    """
    m = to_grid
    w = m.g * x + m.h * y + m.i
    if w <= 1e-6:
        return None
    u, v = (m.a * x + m.b * y + m.c) / w, (m.d * x + m.e * y + m.f) / w
    a, b, c, d = (m.a - m.g * u) / w, (m.b - m.h * u) / w, (m.d - m.g * v) / w, (m.e - m.h * v) / w
    whole, area = a * a + b * b + c * c + d * d, a * d - b * c
    apart = math.sqrt(max(whole * whole - 4 * area * area, 0.0))
    return u, v, math.sqrt(0.5 * (whole + apart)), math.sqrt(max(0.5 * (whole - apart), 1e-18))


def fineness(to_grid: Projection, box: Box, frame: Box, blurred: bool = False) -> tuple[float, float]:
    """Return how many pixels of an upright grid a unit of a layer gets, so that its nearest part is sharp, and how many
    units a pixel of this grid spans at most.

    It follows the largest enlargement in any direction at points of the box that are seen, within what is worth
    drawing: a little finer than that, where the sampler takes four samples a pixel, so that little is lost by sampling
    twice; just as fine, with one sample, where what is drawn is ``blurred``.
    """
    seen = [
        found for across in _FIFTHS for down in _FIFTHS
        if (found := _enlarged(to_grid, box[0] + across * (box[2] - box[0]), box[1] + down * (box[3] - box[1])))
    ]  # fmt: skip
    if not seen:
        return 1 / 64, 1e9
    near = [
        (large, small) for x, y, large, small in seen
        if frame[0] - 64 <= x <= frame[2] + 64 and frame[1] - 64 <= y <= frame[3] + 64
    ] or [min((large, small) for _, _, large, small in seen)]  # fmt: skip
    most, spans = max(large for large, _ in near), 1 / min(small for _, small in near)
    finest = min(_LARGEST, (_MOST / max((box[2] - box[0]) * (box[3] - box[1]), 1.0)) ** 0.5)
    # What is nearly as large everywhere is sampled once a pixel, so it must not be finer than that.
    just = blurred or spans * most * _JUST <= _ONE_WILL_DO
    wanted = min(max(most * (_JUST if just else _FINER), 1 / 64), finest)
    # Steps, so that a layer that moves slowly is drawn once and sampled again and again.
    return float(2 ** (math.floor(8 * math.log2(wanted)) / 8)), spans
