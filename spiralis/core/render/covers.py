"""Covers: where mattes and crops let a layer show, one channel each, shared by all who use them."""

from __future__ import annotations

from collections.abc import Hashable, Sequence

import numpy as np
from attrs import frozen

from spiralis.core.geometry import Affine, Box, WholeBox, box_of, cropped, rounded_out
from spiralis.core.model import layer_kind
from spiralis.core.raster.layer_image import Scene
from spiralis.core.raster.raster import Raster
from spiralis.core.render.nodes import COVERS, Item, Key, Node, emit_picture, region_of, worth_keeping
from spiralis.core.render.pictures import add_pixels
from spiralis.core.render.table import Table, drawn

_LUMA = np.array([0.2126, 0.7152, 0.0722], dtype=np.float32)


@frozen(eq=False)
class Matting:
    """One matte: what it shows (None where it is not seen at all), and how it counts beside those before it."""

    item: Item | None
    by: str
    inverted: bool
    mode: str

    @property
    def key(self) -> Hashable:
        """What its cover depends on."""
        shown = (self.item.node.key, self.item.mode, self.item.opacity) if self.item is not None else None
        return shown, self.by, self.inverted, self.mode

    def cover(self, region: WholeBox) -> np.ndarray:
        """Return float32 (h, w) from 0 to 1."""
        return COVERS.get((Key(self.key), region), lambda: self._drawn(region))

    def _drawn(self, region: WholeBox) -> np.ndarray:
        table = Table(box_of(region))
        if self.item is not None:
            self.item.node.emit(table, self.item.mode, self.item.opacity)
        pixels = drawn(table, region)
        cover: np.ndarray = pixels[..., 3]
        if self.by == "brightness":
            # Relative to nothing behind it, so that what is clear counts as black (ITU-R BT.709 weights).
            cover = pixels[..., :3] @ _LUMA
        # What is no number covers nothing: it must not get into the layers that the cover cuts.
        cover = np.fmin(np.fmax(cover, np.float32(0)), np.float32(1))
        return 1 - cover if self.inverted else cover


def coverage(mattes: Sequence[Matting], region: WholeBox) -> np.ndarray:
    """Return float32 (h, w): what mattes taken in order let through."""
    total: np.ndarray | None = None
    for matte in mattes:
        cover = matte.cover(region)
        if total is None:
            total = 1 - cover if matte.mode == "subtract" else cover
        elif matte.mode == "add":
            total = total + cover - total * cover
        else:
            total = total * (1 - cover if matte.mode == "subtract" else cover)
    if total is None:
        return np.ones((region[3] - region[1], region[2] - region[0]), dtype=np.float32)
    return total


@frozen(eq=False)
class Crop:
    """What a crop leaves of a layer's box; ``matrix`` maps the layer's units to the grid."""

    box: Box
    across: tuple[float, float]
    down: tuple[float, float]
    softness: float
    matrix: Affine
    scene: Scene

    @property
    def key(self) -> Hashable:
        """What its cover depends on."""
        return self.box, self.across, self.down, self.softness, self.matrix

    def cover(self, region: WholeBox) -> np.ndarray:
        """Return float32 (h, w) from 0 to 1."""
        return COVERS.get((Key("crop", self.key), region), lambda: self._drawn(region))

    def _drawn(self, region: WholeBox) -> np.ndarray:
        x0, y0, x1, y1 = cropped(self.box, self.across, self.down)
        nothing = np.zeros((region[3] - region[1], region[2] - region[0]), dtype=np.float32)
        if x1 <= x0 or y1 <= y0:
            return nothing
        # Only cut edges are soft: the others lie so far out that they leave no trace.
        far = 4 * self.softness + 4
        x0, x1 = x0 - far * (self.across[0] <= 0), x1 + far * (self.across[1] <= 0)
        y0, y1 = y0 - far * (self.down[0] <= 0), y1 + far * (self.down[1] <= 0)
        form = {parameter.name: parameter.default for parameter in layer_kind("shape").parameters}
        form |= {"form": "rectangle", "size": (x1 - x0, y1 - y0), "fill": (1.0, 1.0, 1.0, 1.0)}
        form["feather"] = (self.softness, self.softness)
        matrix = self.matrix @ Affine.shift(x0, y0)
        table = Table(box_of(region))
        drawing = layer_kind("shape").draw(form, self.scene, matrix, table.frame)
        if not isinstance(drawing, Raster):
            return nothing
        add_pixels(table, drawing, matrix @ drawing.to_layer, 0, 1.0)
        cover: np.ndarray = drawn(table, region)[..., 3]
        return np.ascontiguousarray(cover)


class Covered(Node):
    """A node where mattes and a crop let it show."""

    def __init__(self, inner: Node, mattes: Sequence[Matting] = (), crop: Crop | None = None) -> None:
        self.inner, self.mattes, self.crop = inner, tuple(mattes), crop

    def make_key(self) -> Hashable:
        crop = self.crop.key if self.crop is not None else None
        return self.inner.key, tuple(matte.key for matte in self.mattes), crop

    def emit(self, table: Table, mode: int, opacity: float) -> None:
        region = region_of(table)
        if worth_keeping(self, region):
            emit_picture(table, self.picture(region), mode, opacity)
            return
        apart = Table(table.frame, table.linear)
        self.inner.emit(apart, 0, 1.0)
        if apart.box is not None:
            box = rounded_out(apart.box)
            if self.mattes:
                apart.add_cover(coverage(self.mattes, box), box)
            if self.crop is not None:
                apart.add_cover(self.crop.cover(box), box)
            table.add_apart(apart, mode, opacity)

    def drawn_in(self, region: WholeBox) -> Raster | None:
        # What is quickly drawn again is not kept apart from its covered picture.
        picture = self.inner.drawn_in(region) if self.inner.quick else self.inner.picture(region)
        if picture is None:
            return None
        pixels = picture.as_float
        if pixels is picture.data and not self.inner.quick:
            pixels = pixels.copy()
        if self.mattes:
            pixels *= coverage(self.mattes, picture.box)[..., None]
        if self.crop is not None:
            pixels *= self.crop.cover(picture.box)[..., None]
        return Raster(pixels, picture.space, picture.corner)
