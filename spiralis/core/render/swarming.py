"""Draw particles: find where they may be born, ask how they are at the moment, and draw them one by one."""

from __future__ import annotations

from collections.abc import Hashable
from concurrent.futures import ThreadPoolExecutor
from functools import cache
from typing import TYPE_CHECKING

import cv2
import numpy as np

from spiralis.core.cache import CacheSection
from spiralis.core.geometry import Affine, WholeBox, intersect_whole, rounded_out
from spiralis.core.model import Layer, layer_kind
from spiralis.core.raster.kernels import particles as kernels
from spiralis.core.raster.kinds.particles import course_of
from spiralis.core.raster.raster import Raster
from spiralis.core.raster.swarm import Clock, Eye, Ground, Sown
from spiralis.core.render.nodes import Node, emit_picture, region_of, worth_keeping
from spiralis.core.render.space import camera_of, world
from spiralis.core.render.table import Table

if TYPE_CHECKING:
    from spiralis.core.render.building import Builder

#: Shapes are looked at this large at most, in pixels of their longer side; pictures of particles are this large.
_SHAPE, _PICTURE = 640, 256
#: What is fainter than this is no part of a shape.
_FAINT = 0.02
#: Nothing nearer to the camera than this share of where things are shown 1:1 is seen.
_NEAREST = 0.02

@cache
def _looks() -> dict[str, int]:
    """Return the kernel's numbers of looks. They are asked for late: the kernels must not be loaded with the window."""
    return {"dot": kernels.DOT, "soft": kernels.SOFT, "square": kernels.SQUARE, "spark": kernels.SPARK,
            "streak": kernels.STREAK, "picture": kernels.PICTURE}  # fmt: skip


_grounds: CacheSection[Ground | None] = CacheSection(
    lambda ground: 256 + (ground.places.nbytes + ground.colours.nbytes if ground is not None else 0)
)
#: From so many particles on two threads draw them, one the upper rows, one the lower.
_MANY = 8000
_NO_PICTURE = np.zeros((1, 1, 4), dtype=np.float32)


@cache
def _helpers() -> ThreadPoolExecutor:
    return ThreadPoolExecutor(max_workers=2, thread_name_prefix="particles")


class Swarming(Node):
    """The particles of one layer at one moment, under a map from the layer's units to the grid."""

    def __init__(self, builder: Builder, layer: Layer) -> None:
        self.builder, self.layer, self.at = builder, layer, builder.at
        self.values = self.at.values(layer)
        #: Where it stands in space, its particles are seen by the camera, each by itself.
        self.standing = world(self.at, layer) if builder.stands(layer) else None
        self.matrix = builder.matrix(layer) if self.standing is None else builder.to_grid
        #: Which of the layer's own frames it is; one that goes round is at its first again after its course.
        self.now = float(self.at.moment(layer))  # type: ignore[arg-type]
        piece = self.at.composition
        course = course_of(self.values["course"], layer.first, layer.last)
        self.clock = Clock(course, float(piece.rate), float(piece.width))
        # Within the shutter of a whole layer somebody else takes the mean.
        blurred = self.values["motion_blur"] and piece.shutter_angle > 0 and not builder.within_shutter
        opens = piece.shutter_phase / 360
        self.open = (opens, opens + piece.shutter_angle / 360) if blurred else (0.0, 0.0)

    # -- what it depends on ----------------------------------------------------------------------------------

    def make_key(self) -> Hashable:
        own = tuple(self.values[parameter.name] for parameter in self.at.own_parameters(self.layer))
        source, picture = self._named("shape", "layer", "of"), self._named("look", "picture", "drawn_as")
        born = self._ground_key(source) if source is not None else None
        shown = (picture.kind, self._picture_node(picture)[0].key) if picture is not None else None
        space = (self.standing.tobytes(), camera_of(self.at).matrix.tobytes()) if self.standing is not None else None
        return own, born, shown, self.now, self.clock, self.open, self.matrix, space, self._carried(source)

    def _named(self, name: str, value: str, of: str) -> Layer | None:
        """Return the layer that a property names, where another is set so that it matters."""
        if self.values[name] != value:
            return None
        found = self.at.composition.find(self.values[of])
        unfit = found is None or found.id == self.layer.id or layer_kind(found.kind).beneath is not None
        return None if unfit else found

    def _carried(self, source: Layer | None) -> Affine | None:
        """Return the map from a source's units to this layer's: where the frame's middle is, this layer's is."""
        if source is None:
            return None
        piece = self.at.composition
        return Affine.shift(-piece.width / 2, -piece.height / 2) @ self.at.matrix(source)

    # -- what they are born from -----------------------------------------------------------------------------

    def _shape_node(self, source: Layer) -> tuple[Node, float, WholeBox]:
        box = self.at.box(source)
        scale = min(_SHAPE / max(box[2] - box[0], box[3] - box[1], 1.0), 2.0)
        region = rounded_out(Affine.scaling(scale, scale).box(box), 4.0)
        return self.builder.drawn_alone(source, self.values["shape_at"], scale), scale, region

    def _ground_key(self, source: Layer) -> Hashable:
        node, scale, region = self._shape_node(source)
        return node.key, scale, region, self.values["where"], self.values["brightness"]

    def _ground(self) -> Ground | None:
        """Return the places that particles are born at, in this layer's units."""
        source = self._named("shape", "layer", "of")
        carried = self._carried(source)
        if source is None or carried is None:
            return None
        ground = _grounds.get(self._ground_key(source), lambda: self._looked_at(source))
        if ground is None:
            return None
        places = carried.apply_all(ground.places)
        size = ground.cell[0]
        cell = (carried.a * size, carried.b * size, carried.c * size, carried.d * size)
        return Ground(places, ground.weights, cell, ground.colours)

    def _looked_at(self, source: Layer) -> Ground | None:
        """Return the places of a shape in its own units, each with how much it weighs."""
        node, scale, region = self._shape_node(source)
        picture = node.picture(region)
        if picture is None:
            return None
        pixels = picture.as_float
        alpha = np.ascontiguousarray(pixels[..., 3])
        weight = alpha
        if self.values["where"] == "edge":
            # The edge is where the eroded shape lacks what the shape has.
            weight = np.maximum(alpha - cv2.erode(np.pad(alpha, 1), np.ones((3, 3), np.uint8))[1:-1, 1:-1], 0)
        if self.values["brightness"]:
            weight = weight * (pixels[..., :3] @ np.array([0.2126, 0.7152, 0.0722], dtype=np.float32))
        rows, columns = np.nonzero(weight > _FAINT)
        if not len(rows):
            return None
        left, top = picture.corner
        places = np.column_stack([columns + left + 0.5, rows + top + 0.5]) / scale
        colours = pixels[rows, columns].astype(np.float64)
        colours[:, :3] /= np.maximum(colours[:, 3:], 1e-6)
        colours[:, 3] = 1.0
        return Ground(places, np.cumsum(weight[rows, columns], dtype=np.float64), (1 / scale, 0.0, 0.0, 1 / scale),
                      np.clip(colours, 0, None))  # fmt: skip

    # -- what each shows -------------------------------------------------------------------------------------

    def _picture_node(self, source: Layer) -> tuple[Node, WholeBox]:
        box = self.at.box(source)
        scale = min(_PICTURE / max(box[2] - box[0], box[3] - box[1], 1.0), 4.0)
        region = rounded_out(Affine.scaling(scale, scale).box(box))
        return self.builder.drawn_alone(source, self.at.frame, scale), region

    def _picture(self, largest: float) -> np.ndarray:
        """Return what each shows, premultiplied float32, about as fine as the largest is seen."""
        source = self._named("look", "picture", "drawn_as")
        if source is None:
            return _NO_PICTURE
        node, region = self._picture_node(source)
        picture = node.picture(region)
        if picture is None:
            return _NO_PICTURE
        pixels = picture.spread_over(region).as_float
        height, width = pixels.shape[:2]
        share = min(2 * largest / max(width, height), 1.0)
        size = max(round(width * share), 1), max(round(height * share), 1)
        return np.ascontiguousarray(cv2.resize(pixels, size, interpolation=cv2.INTER_AREA)) if share < 1 else pixels

    # -- drawing ---------------------------------------------------------------------------------------------

    def emit(self, table: Table, mode: int, opacity: float) -> None:
        region = region_of(table)
        picture = self.picture(region) if worth_keeping(self, region) else self.drawn_in(region)
        emit_picture(table, picture, mode, opacity)

    def drawn_in(self, region: WholeBox) -> Raster | None:
        values = self.values
        sown = Sown(values, self.clock, self._ground())
        streak = values["look"] == "streak"
        opens, shuts = self.open
        tail = values["tail"] if streak else 0.0
        until = self.now - tail if tail else (self.now + shuts if shuts > opens else None)
        swarm, ends = sown.at(self.now + (0.0 if tail else opens), until, self._eye())
        if not swarm.count:
            return None
        size = abs(self.matrix.a * self.matrix.d - self.matrix.b * self.matrix.c) ** 0.5
        first, last, radii = self._on_grid(swarm.places), self._on_grid(ends), swarm.radii * size
        reach = float(radii.max()) * 1.5 + 3
        low, high = np.minimum(first, last).min(axis=0) - reach, np.maximum(first, last).max(axis=0) + reach
        far = float(1 << 20)
        around = rounded_out((*np.maximum(low, -far).tolist(), *np.minimum(high, far).tolist()))
        area = intersect_whole(around, region)
        if area is None:
            return None
        out = np.zeros((area[3] - area[1], area[2] - area[0], 4), dtype=np.float32)
        look = _looks()[values["look"]]
        picture = self._picture(float(radii.max())) if look == kernels.PICTURE else _NO_PICTURE
        if streak:
            # The bright end is where it is now.
            first, last = last, first
        colours = np.ascontiguousarray(swarm.colours)
        adds = values["mix"] == "add"

        def draw(rows: tuple[int, int]) -> None:
            part, top = out[rows[0] : rows[1]], area[1] + rows[0]
            kernels.splat(part, area[0], top, first, last, radii, swarm.turns, colours, look, adds, picture)

        height = len(out)
        if swarm.count < _MANY or height < 2:
            draw((0, height))
        else:
            list(_helpers().map(draw, ((0, height // 2), (height // 2, height))))
        return Raster(out, corner=(area[0], area[1]))

    def _eye(self) -> Eye | None:
        """Return the camera's eye on places in the layer's units; None where the layer lies flat."""
        standing = self.standing
        if standing is None:
            return None
        matrix = camera_of(self.at).matrix @ standing
        # As wide as a circle in the layer's plane stands in space, whichever way that is turned.
        size = float(np.linalg.norm(np.cross(standing[:3, 0], standing[:3, 1]))) ** 0.5

        def see(places: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
            x, y, w = (places @ matrix[:, :3].T + matrix[:, 3]).T
            there = w > _NEAREST
            nearness = np.where(there, 1 / np.where(there, w, 1.0), 0.0)
            return np.column_stack([x * nearness, y * nearness]), nearness * size

        return see

    def _on_grid(self, places: np.ndarray) -> np.ndarray:
        return np.ascontiguousarray(self.matrix.apply_all(places))
