"""Several items as one: a nested composition or a group, joined to the outer table where that changes nothing."""

from __future__ import annotations

import math
from collections.abc import Hashable, Sequence

import numpy as np
from attrs import frozen

from spiralis.core.cache import CacheSection
from spiralis.core.colour import Colour
from spiralis.core.compositing.blend import REACHING
from spiralis.core.geometry import Affine, Box, WholeBox, box_around, box_of, intersect, rounded_out
from spiralis.core.raster.raster import Raster
from spiralis.core.render.covers import Crop, Matting, coverage
from spiralis.core.render.effecting import Step, filled, needed, run_steps, steps_key
from spiralis.core.render.nodes import (
    PICTURES,
    Item,
    Key,
    Node,
    emit_picture,
    items_key,
    picture_of,
    region_of,
    worth_keeping,
)
from spiralis.core.render.quads import edges_of_box
from spiralis.core.render.table import Table, drawn


@frozen(eq=False)
class Changing(Node):
    """What an effect layer does to everything beneath it, where its mattes, crop and opacity let it."""

    steps: tuple[Step, ...]
    opacity: float
    mattes: tuple[Matting, ...] = ()
    crop: Crop | None = None

    def make_key(self) -> Hashable:
        crop = self.crop.key if self.crop is not None else None
        return steps_key(self.steps), self.opacity, tuple(matte.key for matte in self.mattes), crop

    @property
    def pointwise(self) -> bool:
        """Whether it changes each pixel by itself, evenly everywhere."""
        return not self.mattes and self.crop is None and all(step.pointwise is not None for step in self.steps)

    def share(self, region: WholeBox) -> np.ndarray | np.float32:
        """Return how much of the change counts, for all or float32 (h, w, 1)."""
        share: np.ndarray | np.float32 = np.float32(self.opacity)
        if self.mattes:
            share = share * coverage(self.mattes, region)[..., None]
        if self.crop is not None:
            share = share * self.crop.cover(region)[..., None]
        return share


#: Nests that were found not to join the outer table, by (key, region), so that their operations are not made in vain.
_APART: CacheSection[bool] = CacheSection(lambda _: 128)


def add_items(table: Table, items: Sequence[Item], background: Colour | None, whole: Box) -> bool:
    """Add items back to front, with what effect layers among them make of those beneath.

    Args:
        table: takes the operations; its own background is ``background``.
        items: back to front.
        background: what lies beneath all of them.
        whole: the box of the composition's frame in the grid: what effect layers read outside of it is its edge
            repeated.

    Returns:
        Whether the background is part of the operations from now on, so that it must not be drawn once more.
    """
    last = max((i for i, item in enumerate(items) if _is_change(item)), default=-1)
    if last >= 0:
        change = items[last].node
        assert isinstance(change, Changing)
        region, lower = region_of(table), items[:last]
        key = Key("beneath", items_key(lower), change.key, background, whole, table.linear)
        picture = PICTURES.get((key, region), lambda: beneath(lower, change, background, whole, region, table.linear))
        emit_picture(table, picture, 0, 1.0)
    for item in items[last + 1 :]:
        if isinstance(item.node, Changing):
            table.add_colours([s for step in item.node.steps for s in step.colour_steps()], item.node.opacity)
        else:
            add_item(table, item)
    return last >= 0


def add_item(table: Table, item: Item) -> None:
    """Add an item over what is there; one that reaches beyond its own edge is mixed with all of that."""
    if item.mode not in REACHING:
        item.node.emit(table, item.mode, item.opacity)
        return
    inner = Table(table.frame, table.linear)
    item.node.emit(inner, 0, item.opacity)
    boxes = [box for box in (table.filled, inner.box) if box is not None]
    table.add_apart(inner, item.mode, 1.0, box_around(boxes) if boxes else None)


def _is_change(item: Item) -> bool:
    """Whether an item changes what lies beneath it in a way that needs a picture of that."""
    return isinstance(item.node, Changing) and not item.node.pointwise


def beneath(
    items: Sequence[Item], change: Changing, background: Colour | None, whole: Box, region: WholeBox, linear: bool
) -> Raster | None:
    """Return a picture of items, changed by an effect layer above them, within a region."""
    frame = rounded_out(whole)
    read = needed(change.steps, region, filled(change.steps, frame))[0]
    wide = rounded_out(box_around([box_of(region), box_of(read)]))
    area = (max(wide[0], frame[0]), max(wide[1], frame[1]), min(wide[2], frame[2]), min(wide[3], frame[3]))
    inner = (max(region[0], frame[0]), max(region[1], frame[1]), min(region[2], frame[2]), min(region[3], frame[3]))
    if inner[2] <= inner[0] or inner[3] <= inner[1]:
        return None
    table = Table(box_of(area), linear)
    table.background = background
    kept = add_items(table, items, background, whole)
    before = drawn(table, area, None if kept else table.background)
    source = _edges_repeated(before, area, wide)
    after = run_steps(Raster(source, corner=wide[:2]), change.steps, inner).data
    x, y = inner[0] - area[0], inner[1] - area[1]
    was = before[y : y + inner[3] - inner[1], x : x + inner[2] - inner[0]]
    mixed = was + (after - was) * change.share(inner)
    return Raster(np.ascontiguousarray(mixed, dtype=np.float32), corner=inner[:2])


def _edges_repeated(pixels: np.ndarray, area: WholeBox, wide: WholeBox) -> np.ndarray:
    """Return pixels of an area over a wider box, the edges going on outside."""
    if area == wide:
        return pixels
    across = (area[0] - wide[0], wide[2] - area[2])
    down = (area[1] - wide[1], wide[3] - area[3])
    return np.pad(pixels, (down, across, (0, 0)), mode="edge")


class Layered(Node):
    """Items drawn together. ``size`` is that of a composition's frame, which cuts them; a group has none.

    ``matrix`` maps the frame to the grid. Its items mix in ``linear`` light or, as a rule, encoded.
    """

    def __init__(
        self, items: Sequence[Item], matrix: Affine, size: tuple[int, int] | None = None,
        background: Colour | None = None, whole: Box | None = None, linear: bool = False,
    ) -> None:  # fmt: skip
        self.linear = linear
        self.items, self.matrix, self.size, self.background = tuple(items), matrix, size, background
        self.whole = whole if whole is not None else self._frame()

    def _frame(self) -> Box:
        if self.size is None:
            return -math.inf, -math.inf, math.inf, math.inf
        return self.matrix.box((0.0, 0.0, float(self.size[0]), float(self.size[1])))

    def make_key(self) -> Hashable:
        return items_key(self.items), self.matrix, self.size, self.background, self.linear

    def emit(self, table: Table, mode: int, opacity: float) -> None:
        region = region_of(table)
        content = None
        may_join = self.why_not_joined(mode, opacity) is None and table.linear == self.linear
        if may_join and (self.size is None or _APART.peek((self.key, region)) is None):
            content = self._content(box_of(region), table.filled if self.size is None else None)
            if content is None:
                return
            if self._joins(*content):
                table.extend(content[0])
                return
            _APART.put((self.key, region), True)
        if self.background is None and not worth_keeping(self, region):
            content = content or self._content(box_of(region))
            if content is not None:
                if not self._stays_within(content[0]):
                    self._cut(content[0])
                table.add_apart(content[0], mode, opacity)
                return
        # What has to be drawn into pixels of its own in any case is kept at once.
        picture = PICTURES.get(
            (self.key, region), lambda: self._pictured(region, content or self._content(box_of(region)))
        )
        emit_picture(table, picture, mode, opacity)

    def _joins(self, rows: Table, kept: bool) -> bool:
        """Whether operations may join the outer table: normal over normal is associative (W3C Compositing, 5.1)."""
        if self.size is None:
            return True
        return rows.all_normal and not kept and self._stays_within(rows)

    def why_not_joined(self, mode: int, opacity: float) -> str | None:
        """Return why it has to be a picture of its own; None where its operations may join the outer table."""
        if mode != 0:
            return "it is blended as one"
        if opacity < 1:
            return "it fades as one"
        if self.background is not None:
            return "it has a background"
        if any(isinstance(item.node, Changing) for item in self.items):
            return "an effect layer in it must not reach what lies outside"
        return None

    def _content(self, clip: Box, ground: Box | None = None) -> tuple[Table, bool] | None:
        """Return the operations within a clip, and whether the background is among them; None where nothing is seen.

        Something else lies beneath all of them in the box ``ground``.
        """
        seen = intersect(self._frame(), clip) if self.size is not None else clip
        if seen is None:
            return None
        table = Table(box_of(rounded_out(seen)), self.linear)
        table.background, table.ground = self.background, ground
        return table, add_items(table, self.items, self.background, self.whole)

    def _stays_within(self, content: Table) -> bool:
        """Whether no operation leaves the frame."""
        box, inverse = content.box, self.matrix.inverse()
        if box is None or inverse is None or self.size is None:
            return True
        left, top, right, bottom = inverse.box(box)
        slack = 1e-6 * max(self.size)
        return left >= -slack and top >= -slack and right <= self.size[0] + slack and bottom <= self.size[1] + slack

    def drawn_in(self, region: WholeBox) -> Raster | None:
        return self._pictured(region, self._content(box_of(region)))

    def _cut(self, content: Table) -> None:
        """Leave what lies within the frame, with smooth edges."""
        inverse = self.matrix.inverse()
        if inverse is not None and self.size is not None:
            content.add_cut(edges_of_box(inverse, (0.0, 0.0, *self.size)))

    def _pictured(self, region: WholeBox, content: tuple[Table, bool] | None) -> Raster | None:
        if content is None:
            return None
        table, kept = content
        if self.background is not None or not self._stays_within(table):
            self._cut(table)
        if self.background is None or kept:
            return picture_of(table, region)
        area = rounded_out(table.frame)
        return Raster(drawn(table, area, self.background), corner=area[:2])
