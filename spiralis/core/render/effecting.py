"""Effects and finishes of a layer: how far they read, and one after another on pictures of regions."""

from __future__ import annotations

import math
from collections.abc import Callable, Hashable, Mapping, Sequence
from functools import cached_property
from typing import Any

import numpy as np
from attrs import frozen

from spiralis.core.compositing.blend import mode_number
from spiralis.core.effects.colour_steps import coloured
from spiralis.core.effects.job import EffectJob, Finish, Margins, grown
from spiralis.core.geometry import Affine, Box, WholeBox, box_around, box_of, intersect_whole, rounded_out
from spiralis.core.model import Layer
from spiralis.core.model.blocks import BOX, NEAR, EffectKind, effect_kind
from spiralis.core.model.source import Source
from spiralis.core.raster.raster import Raster
from spiralis.core.render.layers import Evaluated
from spiralis.core.render.nodes import PICTURES, Key, Node, Pictured, emit_picture, region_of
from spiralis.core.render.table import Table

#: A region of so many pixels was said by an effect whose result may lie anywhere.
_BOUNDLESS = 5e4
#: No content is looked for in a larger region than of so many pixels.
_ROOMY = 3e7
#: A kind of effect and its values at the moment.
Acting = tuple[EffectKind, Mapping[str, Any]]


@frozen(eq=False)
class Step:
    """One effect as it is at a moment: its kind, values, scale, and the layers that it reads.

    One that is ``held`` reads nothing beyond the box, whose edge goes on outside.
    """

    kind: EffectKind
    values: Mapping[str, Any]
    scale: tuple[float, float]
    inputs: Mapping[str, Node] = {}
    frame: float = 0.0
    origin: tuple[float, float] = (0.0, 0.0)
    box: Box = (0.0, 0.0, 1.0, 1.0)
    files: Mapping[str, Source] = {}
    held: bool = False

    @property
    def key(self) -> Hashable:
        """What its result depends on beside its source."""
        numbers = tuple(self.values[p.name] for p in self.kind.own_parameters if p.name not in self.kind.inputs)
        read = tuple((name, node.key) for name, node in self.inputs.items())
        time = self.frame if self.kind.varies else None
        place = (self.origin, self.box) if self.kind.placed or self.kind.takes != NEAR else None
        files = tuple((name, source.digest, source.data is None) for name, source in self.files.items())
        return self.kind.name, numbers, self.scale, read, time, place, files

    @property
    def pointwise(self) -> Callable[..., Any] | None:
        """The kind's colour steps, where it has such."""
        return self.kind.pointwise

    def colour_steps(self) -> list[np.ndarray]:
        """Return its colour steps."""
        return list(self.kind.pointwise(self.values)) if self.kind.pointwise is not None else []

    def reads(self) -> Margins:
        """Return how far around a pixel it looks, in grid pixels."""
        return self.kind.reads(self.values, self.scale)

    def grows(self) -> Margins:
        """Return how much larger than its source its result may be, in grid pixels."""
        return self.kind.grows(self.values, self.scale)

    def fills(self, source: WholeBox) -> WholeBox:
        """Return the region that its result fills at most, of a source that fills one."""
        if self.kind.fills is None:
            return grown(source, self.grows())
        back = self._to_grid.inverse()
        if back is None:
            return source
        return rounded_out(self._to_grid.box(self.kind.fills(self.values, back.box(box_of(source)), self.box)), 2.0)

    def needs(self, region: WholeBox, source: WholeBox) -> WholeBox:
        """Return the region of its source that it reads for one of its result; ``source`` is what that may fill."""
        own = self.area
        if self.kind.takes == NEAR:
            around = grown(region, self.reads())
            return intersect_whole(around, own) or own if self.held else around
        if self.kind.takes == BOX:
            return own
        if max(source[2] - source[0], source[3] - source[1]) < _BOUNDLESS:
            return source
        return rounded_out(box_around([box_of(own), box_of(region)]))

    @property
    def area(self) -> WholeBox:
        """The layer's content box in the grid."""
        return rounded_out(self._to_grid.box(self.box), 1.0)

    @property
    def _to_grid(self) -> Affine:
        return Affine(self.scale[0], 0.0, 0.0, self.scale[1], *self.origin)

    def run(self, source: Raster, region: WholeBox) -> Any:
        """Return its result over a region."""

        def read(name: str, wanted: WholeBox) -> Raster | None:
            node = self.inputs.get(name)
            return node.picture(wanted) if node is not None else None

        return self.kind.run(
            EffectJob(source, region, self.values, self.scale, self.frame, read, self.origin, self.box, self.files)
        )


def steps_key(steps: Sequence[Step]) -> Hashable:
    """Return what steps depend on beside their source."""
    return tuple(step.key for step in steps)


def filled(steps: Sequence[Step], source: WholeBox) -> list[WholeBox]:
    """Return the region that a source fills, and what each of some steps, one after another, may fill of it."""
    regions = [source]
    for step in steps:
        regions.append(step.fills(regions[-1]))
    return regions


def needed(steps: Sequence[Step], region: WholeBox, fills: Sequence[WholeBox]) -> list[WholeBox]:
    """Return the regions that steps, one after another, need of what comes before each, and at last ``region``;
    ``fills`` is what that may fill, see ``filled``."""
    regions = [region]
    for step, source in zip(reversed(steps), reversed(fills[:-1]), strict=True):
        regions.append(step.needs(regions[-1], source))
    return regions[::-1]


def room_of(steps: Sequence[Step], frame: Box | None) -> WholeBox:
    """Return the region in which a layer's content is looked for: its box, and as much around it as that is large, for
    strokes and letters on their way; and a frame in which it may be anywhere, unless that is too large."""
    left, top, right, bottom = steps[0].area
    beside = max(right - left, bottom - top)
    room = left - beside, top - beside, right + beside, bottom + beside
    if frame is None or (frame[2] - frame[0]) * (frame[3] - frame[1]) > _ROOMY:
        return room
    return rounded_out(box_around([box_of(room), frame]))


def run_steps(source: Raster, steps: Sequence[Step], region: WholeBox) -> Raster:
    """Return a picture changed by steps in order, over all of a region; see ``stepped``."""
    return (stepped(source, steps, region) or source).spread_over(region)


def stepped(source: Raster, steps: Sequence[Step], region: WholeBox) -> Raster | None:
    """Return what of a region a picture fills that is changed by steps in order; None for nothing.

    Colour steps beside each other become one pass. ``source`` covers as much around the region as the steps read.
    """
    fills = filled(steps, source.box)
    # No more than what the source can have become.
    wanted = intersect_whole(fills[-1], region)
    if wanted is None:
        return None
    regions = needed(steps, wanted, fills)
    picture = source.cut(regions[0])
    if picture is None:
        return source.cut(wanted)
    if picture.data.dtype != np.float32:
        picture = Raster(picture.as_float, picture.space, picture.corner)
    index = 0
    while index < len(steps):
        colours: list[np.ndarray] = []
        while index < len(steps) and steps[index].pointwise is not None:
            colours += steps[index].colour_steps()
            index += 1
        if colours:
            picture = Raster(coloured(picture.data, colours), picture.space, picture.corner)
        elif index < len(steps):
            # Where nothing can be, a later effect that reads far would only have clear pixels made for it.
            area = intersect_whole(regions[index + 1], fills[index + 1])
            if area is None:
                return source.cut(wanted)
            picture = steps[index].run(picture, area)
            index += 1
    return picture.cut(wanted)


class Effected(Pictured):
    """A node changed by effects in order, in its own grid; ``frame`` where it may show something far from its box."""

    def __init__(self, inner: Node, steps: Sequence[Step], frame: Box | None = None) -> None:
        self.inner, self.steps, self.frame = inner, tuple(steps), frame

    def make_key(self) -> Hashable:
        return self.inner.key, steps_key(self.steps), self.frame

    def drawn_in(self, region: WholeBox) -> Raster | None:
        source = self.inner.picture(needed(self.steps, region, filled(self.steps, room_of(self.steps, self.frame)))[0])
        return stepped(source, self.steps, region) if source is not None else None


class Finished(Node):
    """A node with what finishes lay behind and in front of it; its own opacity counts apart from theirs."""

    def __init__(self, inner: Node, finishes: Sequence[Step], content: float = 1.0) -> None:
        self.inner, self.finishes, self.content = inner, tuple(finishes), content

    def make_key(self) -> Hashable:
        return self.inner.key, steps_key(self.finishes), self.content

    @cached_property
    def _reads(self) -> Margins:
        margins = [step.reads() for step in self.finishes]
        return tuple(max(column) for column in zip(*margins, strict=True))

    def parts(self, region: WholeBox) -> list[Finish]:
        """Return what each finish gives within a region, the first one nearest to the content."""
        if not self.finishes:
            return []
        source = self.inner.picture(grown(region, self._reads))
        if source is None:
            if all(step.kind.moments is None for step in self.finishes):
                return []
            # What it was may be seen here where what it is now is not.
            source = Raster(np.zeros((1, 1, 4), dtype=np.float32), corner=region[:2])
        return [self._part(step, source, region) for step in self.finishes]

    def _part(self, step: Step, source: Raster, region: WholeBox) -> Finish:
        reach = grown(source.box, step.grows())
        area = intersect_whole(reach, region)
        if area is None:
            return Finish()
        made: list[Finish] = []

        def run() -> Raster | None:
            made.append(step.run(source, area))
            return made[0].behind

        key = Key(self.inner.key, step.key)
        behind = PICTURES.get((key, area, "behind"), run)
        front = PICTURES.get((key, area, "front"), lambda: (made[0] if made else step.run(source, area)).front)
        return Finish(behind, front, str(step.values.get("blend", "normal")))

    def emit(self, table: Table, mode: int, opacity: float) -> None:
        parts = self.parts(region_of(table))
        for part in reversed(parts):
            emit_picture(table, part.behind, mode_number(part.blend), opacity)
        if self.content > 0 and isinstance(self.inner, Effected) and self.finishes:
            # The finishes read it already, over a larger region: effects need not run again for this one.
            region = region_of(table)
            whole = self.inner.picture(grown(region, self._reads))
            emit_picture(table, whole.cut(region) if whole is not None else None, mode, opacity * self.content)
        elif self.content > 0:
            self.inner.emit(table, mode, opacity * self.content)
        for part in parts:
            emit_picture(table, part.front, mode_number(part.blend), opacity)

    def apart(self) -> list[tuple[Node, int | None]]:
        """Return the pictures that this is made of, back to front, and the blend mode of each that has one of its own;
        none where all of it is one picture that mixes as the layer does."""
        modes = [mode_number(str(step.values.get("blend", "normal"))) for step in self.finishes]
        # What a finish lays on the content mixes with that; only what reaches over it meets what lies beneath.
        if not any(mode and max(step.grows()) > 0 for mode, step in zip(modes, self.finishes, strict=True)):
            return []
        behind, front = (
            [(FinishPart(self, index, side), mode) for index, mode in enumerate(modes)] for side in ("behind", "front")
        )
        return [*reversed(behind), (Finished(self.inner, (), self.content), None), *front]


class FinishPart(Pictured):
    """What one finish lays behind a layer, or in front of it."""

    def __init__(self, whole: Finished, index: int, side: str) -> None:
        self.whole, self.index, self.side = whole, index, side

    def make_key(self) -> Hashable:
        return self.whole.key, self.index, self.side

    def picture(self, region: WholeBox) -> Raster | None:
        """As of all nodes; it is kept with its finish already."""
        return self.drawn_in(region)

    def drawn_in(self, region: WholeBox) -> Raster | None:
        parts = self.whole.parts(region)
        return getattr(parts[self.index], self.side) if parts else None


class Apart(Node):
    """Pictures of one layer, back to front, each of which mixes with what lies beneath in its own way or (None) as the
    layer does."""

    def __init__(self, parts: Sequence[tuple[Node, int | None]]) -> None:
        self.parts = tuple(parts)

    def make_key(self) -> Hashable:
        return tuple((node.key, mode) for node, mode in self.parts)

    def emit(self, table: Table, mode: int, opacity: float) -> None:
        for node, own in self.parts:
            node.emit(table, mode if own is None else own, opacity)


def each_part(node: Node, change: Callable[[Node], Node]) -> Node:
    """Return a node with something done to it; to each of its pictures where these mix in ways of their own."""
    parts = parts_of(node)
    return Apart([(change(part), mode) for part, mode in parts]) if parts else change(node)


def parts_of(node: Node) -> Sequence[tuple[Node, int | None]]:
    """Return the pictures of a node that mix in ways of their own, as :class:`Apart` has them; none where it is one."""
    if isinstance(node, Finished):
        return node.apart()
    return node.parts if isinstance(node, Apart) else ()


def acting_on(at: Evaluated, layer: Layer) -> list[Acting]:
    """Return a layer's effects and finishes that are on and change anything, with their values."""
    made: list[Acting] = []
    for block in layer.blocks:
        kind = effect_kind(block.kind)
        values = {p.name: at.values(layer)[block.named(p.name)] for p in kind.parameters}
        if values["on"] and not kind.neutral(values):
            made.append((kind, values))
    return made


def own_angle(at: Evaluated, layer: Layer, angle: float) -> float:
    """Return the angle in a layer's own units of a direction in the frame, both in degrees."""
    inverse = at.matrix(layer).inverse()
    if inverse is None:
        return angle
    x, y = inverse.apply_direction(math.cos(math.radians(angle)), math.sin(math.radians(angle)))
    return math.degrees(math.atan2(y, x))
