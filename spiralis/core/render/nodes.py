"""The nodes of a frame: what is to be drawn into one grid of whole pixels, and the pictures of them that are kept.

A node is built without drawing anything (``building.py``). It is drawn when a table asks for its operations, or when
another node asks for a picture of a region of it; then it asks its own inputs for as much as it reads around that.
Its ``key`` holds everything that its picture depends on, never the frame's number nor any part of a project, so that a
kept picture serves every frame, version and user that would look the same.
"""

from __future__ import annotations

from collections.abc import Hashable, Sequence
from functools import cached_property
from typing import Any

import numpy as np
from attrs import frozen

from spiralis.core.cache import CacheSection
from spiralis.core.geometry import Map, WholeBox, box_of, intersect_whole, rounded_out
from spiralis.core.raster.raster import Raster
from spiralis.core.render.pictures import add_pixels
from spiralis.core.render.table import Table, drawn


class Key:
    """A tuple whose hash is worked out once; keys hold keys, and a frame's holds thousands."""

    __slots__ = ("_hash", "parts")

    def __init__(self, *parts: Hashable) -> None:
        self.parts = parts
        self._hash = hash(parts)

    def __hash__(self) -> int:
        return self._hash

    def __eq__(self, other: object) -> bool:
        return self is other or (isinstance(other, Key) and self._hash == other._hash and self.parts == other.parts)


def _weight(picture: Any) -> int:
    return 256 + (picture.data.nbytes if isinstance(picture, Raster) else 0)


#: Pictures of nodes by (key, region); None where nothing is seen.
PICTURES: CacheSection[Raster | None] = CacheSection(_weight)
#: Covers, float32 (h, w), by (key, region): what mattes and crops let through.
COVERS: CacheSection[np.ndarray] = CacheSection(lambda cover: 256 + cover.nbytes)


class Node:
    """Something that can be drawn into the pixels of a grid."""

    #: Whether drawing it again costs little beside keeping it; ``drawn_in`` then gives pixels that may be written to.
    quick = False
    #: Whether its parts mix in linear light.
    linear = False

    def make_key(self) -> Hashable:
        """Return everything the picture depends on."""
        raise NotImplementedError

    @cached_property
    def key(self) -> Key:
        """The key, made when it is first asked for."""
        return Key(type(self).__name__, self.make_key())

    def emit(self, table: Table, mode: int, opacity: float) -> None:
        """Add what is seen within the table's frame to the table."""
        raise NotImplementedError

    def picture(self, region: WholeBox) -> Raster | None:
        """Return what it shows within a region of the grid; None for nothing. It is kept, so nobody writes to it."""
        return PICTURES.get((self.key, region), lambda: self.drawn_in(region))

    def drawn_in(self, region: WholeBox) -> Raster | None:
        """Draw what ``picture`` keeps."""
        table = Table(box_of(region), self.linear)
        self.emit(table, 0, 1.0)
        return picture_of(table, region)


def picture_of(table: Table, region: WholeBox) -> Raster | None:
    """Return a picture of what a table's operations fill within a region; None for nothing."""
    box = table.box
    if box is None:
        return None
    area = intersect_whole(rounded_out(box), region)
    return Raster(drawn(table, area), corner=area[:2]) if area is not None else None


#: Pictures by (key, region) that were drawn once without being kept.
_DRAWN_ONCE: CacheSection[bool] = CacheSection(lambda _: 128)


def worth_keeping(node: Node, region: WholeBox) -> bool:
    """Whether a picture was asked for before. What changes from frame to frame is better drawn among the others'
    operations than into pixels of its own that nobody asks for again."""
    place = (node.key, region)
    if place in PICTURES or _DRAWN_ONCE.peek(place):
        return True
    _DRAWN_ONCE.put(place, True)
    return False


def emit_picture(table: Table, picture: Raster | None, mode: int, opacity: float) -> None:
    """Add a picture that lies in the table's own grid."""
    if picture is not None:
        add_pixels(table, picture, picture.to_layer, mode, opacity)


def region_of(table: Table) -> WholeBox:
    """Return the whole pixels that a table draws."""
    return rounded_out(table.frame)


class Pictured(Node):
    """A node that is drawn into a picture of its own in any case, which ``drawn_in`` makes."""

    def emit(self, table: Table, mode: int, opacity: float) -> None:
        emit_picture(table, self.picture(region_of(table)), mode, opacity)


@frozen(eq=False)
class Item:
    """A node with how it mixes with what lies beneath it: the number of a blend mode, and an opacity from 0 to 1."""

    node: Node
    mode: int = 0
    opacity: float = 1.0


def items_key(items: Sequence[Item]) -> Hashable:
    """Return what a picture of items depends on."""
    return tuple((item.node.key, item.mode, item.opacity) for item in items)


class Placed(Node):
    """A node drawn in an upright grid of its own, and sampled once from there."""

    def __init__(self, inner: Node, to_grid: Map) -> None:
        self.inner, self.to_grid = inner, to_grid

    def make_key(self) -> Hashable:
        return self.inner.key, self.to_grid

    def emit(self, table: Table, mode: int, opacity: float) -> None:
        inverse = self.to_grid.inverse()
        if inverse is None:
            return
        # A whole small picture is worth keeping; of a large one only what is seen, rounded out.
        seen = rounded_out(inverse.box(table.frame), 2.0)
        picture = self.inner.picture(snapped(seen))
        if picture is None:
            return
        if intersect_whole(seen, picture.box) != seen:
            # Its edges are in sight, and fade out.
            picture = ringed(picture)
        add_pixels(table, picture, self.to_grid @ picture.to_layer, mode, opacity)


#: Regions of grids that move are rounded out to so many pixels, so that a small move finds the same picture.
_SNAP = 64


def snapped(box: WholeBox) -> WholeBox:
    """Return a box rounded out to a coarse grid."""
    return (
        box[0] // _SNAP * _SNAP, box[1] // _SNAP * _SNAP, -(-box[2] // _SNAP) * _SNAP, -(-box[3] // _SNAP) * _SNAP
    )  # fmt: skip


_ringed: CacheSection[Raster] = CacheSection(_weight)


def ringed(picture: Raster) -> Raster:
    """Return a picture whose outermost ring is clear, kept beside it: itself where it is so already."""
    # The entry holds on to the picture by the ring's key, so its identity stays its own while it is kept.
    return _ringed.get(_Same(picture), lambda: picture if _rim_is_clear(picture.data) else picture.with_clear_ring())


def _rim_is_clear(pixels: np.ndarray) -> bool:
    edges = (pixels[0], pixels[-1], pixels[:, 0], pixels[:, -1])
    return min(pixels.shape[:2]) > 2 and not any(edge.any() for edge in edges)


class _Same:
    """A key that is equal to itself only, and keeps its thing alive."""

    __slots__ = ("thing",)

    def __init__(self, thing: object) -> None:
        self.thing = thing

    def __hash__(self) -> int:
        return id(self.thing)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Same) and other.thing is self.thing
