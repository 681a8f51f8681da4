"""From evaluated layers to nodes: which layers are seen, in what order, and what is done to each. No pixels here."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial

from attrs import evolve

from spiralis.core.compositing.blend import mode_number
from spiralis.core.geometry import Affine, Box, intersect
from spiralis.core.model import Composition, Layer, Project, Track, layer_kind
from spiralis.core.model.blocks import EFFECT, FINISH, earlier_name, effect_kind
from spiralis.core.model.kinds import REACHING_MODES
from spiralis.core.raster.layer_image import Inner
from spiralis.core.render.contents import Leaf, Smeared, finer
from spiralis.core.render.copies import Copies
from spiralis.core.render.covers import Covered, Crop, Matting
from spiralis.core.render.crossing import Cut, may_cross, parted
from spiralis.core.render.effecting import Acting, Effected, Finished, Step, acting_on, each_part
from spiralis.core.render.in_sight import seen_in
from spiralis.core.render.layered import Changing, Layered
from spiralis.core.render.layers import Evaluated, Outer, carried, parents_of
from spiralis.core.render.nodes import Item, Node, Placed
from spiralis.core.render.plain import is_plain
from spiralis.core.render.shutter import maps_over_the_shutter, over_the_shutter
from spiralis.core.render.space import by_distance, is_in_depth, stands_in_space
from spiralis.core.render.standing import by_the_lens, in_space, parts_in_space, shadows
from spiralis.core.render.steps import steps_of
from spiralis.core.render.swarming import Swarming

#: Of a drawing that is carried about: how fine it is drawn beside how it is seen, the most pixels of it, and how soft
#: (the sigma in output pixels) it has to be to be sampled without motion blur.
_FINER, _MOST_LASTING, _SOFT = 2.0, 4_000_000, 1.5
_FAR: Box = (-float(1 << 24), -float(1 << 24), float(1 << 24), float(1 << 24))


def wrapped(composition: Composition, frame: float) -> float:
    """Return the frame folded into a looping composition: frame N + length is frame N."""
    if composition.loop:
        return frame % composition.length
    return min(max(frame, 0), composition.length - 1)


class Builder:
    """Builds nodes of a composition's layers at one moment, for one grid.

    ``to_grid`` maps the composition's pixels to the grid; what lies outside of ``clip`` there is not needed.
    ``within_shutter`` says that it is one of the moments of an open shutter, whose mean somebody takes;
    ``in_the_past`` that somebody at another moment looks back at this one; ``flat`` that layers lie in a plane here, as
    somebody else sees to where that stands in space; ``rounds`` that this grid is a layer's own, whose map to it must
    not differ from moment to moment by what rounding leaves. ``fine`` remembers how finely layers in perspective are
    drawn, by their ids: the moments of one shutter share it, so that they all sample one picture.
    """

    def __init__(
        self, at: Evaluated, to_grid: Affine, clip: Box = _FAR, within_shutter: bool = False, in_the_past: bool = False,
        flat: bool = False, rounds: bool = False, fine: dict[str, float] | None = None,
    ) -> None:
        self.rounds, self.fine = rounds, fine if fine is not None else {}
        self.at, self.to_grid, self.clip, self.flat = at, to_grid, clip, flat
        self.piece = at.composition
        self.within_shutter, self.in_the_past = within_shutter, in_the_past

    # -- layers ------------------------------------------------------------------------------------------

    def shown(self, group: str | None = None) -> list[Layer]:
        """Return the layers that are seen at this moment in a group, or in none, back to front."""
        shown = seen_in(self.piece, self.at.frame, group)
        return shown if self.flat else by_distance(self.at, shown)

    def items(self, group: str | None = None) -> list[Item]:
        """Return the items of all layers that are seen, back to front."""
        shown = self.shown(group)
        if self.flat or not may_cross(shown):
            return [item for layer in shown if (item := self.item(layer)) is not None]
        made, items = [], {layer.id: self.item(layer) for layer in shown}
        for layer, outline in parted(self.at, shown):
            item = items[layer.id]
            if item is not None and outline is not None:
                cut = partial(Cut, outline=outline, to_grid=self.to_grid)
                item = evolve(item, node=each_part(item.node, cut))
            made += [item] if item is not None else []
        return made

    def item(self, layer: Layer) -> Item | None:
        """Return a layer with everything that is done to it, or None where nothing of it can be seen."""
        changes = layer_kind(layer.kind).beneath is not None  # It has no picture that could be blurred.
        if self.within_shutter or changes or not self.at.values(layer)["motion_blur"]:
            return self.at_once(layer)
        everything = self.piece.blur_of == "everything" or (not self.flat and is_in_depth(self.at, layer))
        return over_the_shutter(self, layer) if everything else self.at_once(layer)

    def at_moment(self, time: float, fine: dict[str, float]) -> Builder:
        """Return a builder of a moment within the open shutter."""
        at = self.at.at_frame(wrapped(self.piece, time))
        return Builder(at, self.to_grid, self.clip, True, self.in_the_past, self.flat, fine=fine)

    def at_once(self, layer: Layer) -> Item | None:
        """Return a layer as it is at this very moment."""
        values = self.at.values(layer)
        opacity = values["opacity"] / 100
        reaches = values["blend"] in REACHING_MODES
        if (opacity <= 0 and not reaches) or not values["visible"]:
            return None
        if is_plain(layer) and self.at.outer is None:
            return Item(Leaf(self.at, layer, self.matrix(layer)), mode_number(values["blend"]), opacity)
        kind = layer_kind(layer.kind)
        if kind.beneath is not None:
            return self._changing(layer, opacity)
        if kind.lights:
            node = shadows(self, layer)
            return Item(node, mode_number(values["blend"]), opacity) if node is not None else None
        node = self.whole(layer)
        if self.stands(layer):
            node, left = by_the_lens(self, layer, node)
            opacity *= left
            if opacity <= 0 and not reaches:
                return None
        return Item(node, mode_number(values["blend"]), opacity)

    def stands(self, layer: Layer) -> bool:
        """Whether a layer stands in space, and that is to be seen to here."""
        return not self.flat and stands_in_space(self.at, layer)

    def whole(self, layer: Layer) -> Node:
        """Return what a layer shows, with its effects and mattes, before it is mixed with what lies beneath."""
        acting = acting_on(self.at, layer)
        own = [matte for matte in layer.mattes if self._hangs_on(matte.layer, layer)]
        node = in_space(self, layer, acting, own) if self.stands(layer) else None
        if node is None and not acting and self.at.values(layer)["content_opacity"] >= 100:
            crop = self.crop(layer)
            if (own or crop is not None) and maps_over_the_shutter(self, layer) is not None:
                # What is cut off is cut off before it moves.
                node = self.in_own_grid(layer, acting, own)
            elif crop is not None:
                return Covered(self.content(layer), self.mattes(layer, layer.mattes), crop)
            else:
                node, own = self.content(layer), []
        elif node is None:
            node = self.in_own_grid(layer, acting, own)
        mattes = self.mattes(layer, [matte for matte in layer.mattes if matte not in own])
        return each_part(node, lambda part: Covered(part, mattes)) if mattes else node

    def _hangs_on(self, layer_id: str, other: Layer) -> bool:
        """Whether a layer hangs on another one, however far: as its mask it is a part of what effects change."""
        layer = self.piece.find(layer_id)
        return layer is not None and any(parent.id == other.id for parent in parents_of(self.piece, layer))

    def elsewhere(self, to_grid: Affine, flat: bool = True) -> Builder:
        """Return a builder of the same moment for another grid, all of which is needed; layers lie flat there."""
        return Builder(
            self.at, to_grid, _FAR, flat or self.within_shutter, self.in_the_past, flat or self.flat, rounds=True
        )

    def matrix(self, layer: Layer) -> Affine:
        """Return the map from a layer's units to the grid."""
        made = self.to_grid @ self.at.matrix(layer)
        return Affine(*(round(part, 9) + 0.0 for part in made)) if self.rounds else made

    def in_own_grid(self, layer: Layer, acting: Sequence[Acting], masks: Sequence[object]) -> Node:
        """Return a layer with its effects, which work upright: in this grid, or in one that is sampled once."""
        matrix, blur = self.matrix(layer), maps_over_the_shutter(self, layer)
        turned = abs(matrix.b) + abs(matrix.c) > 1e-9
        if blur is None and not turned and matrix.a > 0 and matrix.d > 0:
            return self.effected(layer, acting, masks)
        across, down = (min(max(size, 1e-3), 64.0) for size in matrix.stretch())
        inverse = self.at.matrix(layer).inverse()
        if inverse is None or matrix.inverse() is None:
            return Layered((), Affine())
        upright = Affine.scaling(across, down)
        if turned and not acting:
            upright = finer(self.at, layer, upright, layer_kind(layer.kind).vector)
        inner = self.elsewhere(upright @ inverse, flat=False).effected(layer, acting, masks, still=True)
        back = Affine.scaling(1 / upright.a, 1 / upright.d)
        if blur is None:
            return each_part(inner, lambda part: Placed(part, matrix @ back))
        return each_part(inner, lambda part: Smeared(part, back, blur))

    def effected(self, layer: Layer, acting: Sequence[Acting], masks: Sequence[object], still: bool = False) -> Node:
        node = self.content(layer, still)
        mattes, crop = self.mattes(layer, masks), self.crop(layer)
        if mattes or crop is not None:
            node = Covered(node, mattes, crop)
        place = self.matrix(layer), self.at.box(layer)
        effects, finishes = (steps_of(self, acting, role, *place, layer) for role in (EFFECT, FINISH))
        if effects:
            node = Effected(node, effects, self.frame() if layer_kind(layer.kind).scattered else None)
        content = self.at.values(layer)["content_opacity"] / 100
        return Finished(node, finishes, content) if finishes or content < 1 else node

    def drawn_alone(self, layer: Layer, frame: float, scale: float) -> Node:
        """Return what a layer shows at a frame, with its effects, in its units times ``scale``, also where hidden."""
        at = Evaluated(self.at.scene.project, self.piece, wrapped(self.piece, frame))
        inverse = at.matrix(layer).inverse()
        to_grid = Affine.scaling(scale, scale) @ (inverse if inverse is not None else Affine())
        return Builder(at, to_grid, _FAR, True, self.in_the_past, flat=True).whole(layer)

    def earlier(self, layer: Layer, moments: Sequence[float]) -> dict[str, Node]:
        """Return a layer as it was so many frames ago, by the names of inputs; nothing for when it did not show."""
        if self.in_the_past:
            return {}
        nodes: dict[str, Node] = {}
        for ago in moments:
            at = self.at.at_frame(wrapped(self.piece, self.at.frame - ago))
            if self.piece.loop or self.at.frame >= ago:
                builder = Builder(at, self.to_grid, self.clip, self.within_shutter, True, self.flat)
                item = builder.item(layer) if layer.shown_at(at.frame) else None
                if item is not None:
                    nodes[earlier_name(ago)] = self.layered((item,), Affine())
        return nodes

    def layered(self, items: Sequence[Item], matrix: Affine) -> Layered:
        """Return some of the composition's items as one, which mix as they do in it."""
        return Layered(items, matrix, whole=self.frame(), linear=self.piece.linear)

    def frame(self) -> Box:
        """Return the composition's frame in the grid."""
        width, height = self.at.seen_size
        return self.to_grid.box((0.0, 0.0, float(width), float(height)))

    def standing(self, at: Evaluated, to_grid: Affine, layers: Sequence[Layer]) -> Node:
        """Return some layers of the same composition at another moment, as copies show them, as one node."""
        builder = Builder(at, to_grid, _FAR, self.within_shutter, self.in_the_past, self.flat)
        chosen = {layer.id for layer in layers}
        items = []
        for layer in reversed(layers):
            # What is in a group comes with it.
            inside = self.piece.group_of.get(layer.id) in chosen
            if not inside and layer.shown_at(at.frame) and (item := builder.item(layer)) is not None:
                items.append(item)
        return builder.layered(items, to_grid)

    # -- content -----------------------------------------------------------------------------------------

    def content(self, layer: Layer, still: bool = False) -> Node:
        """Return what a layer shows by itself; ``still`` leaves its motion blur to somebody else."""
        kind = layer_kind(layer.kind)
        if kind.placements is not None:
            return Copies(self, layer)
        if kind.swarm:
            return Swarming(self, layer)
        parts = parts_in_space(self, layer)
        if parts is not None:
            return parts
        matrix = self.matrix(layer)
        blur = None if still else maps_over_the_shutter(self, layer)
        if blur is None:
            return _still(self, layer, matrix)
        if kind.gathers or self.inner(layer) is not None:
            # Drawn at the place of the moment; the ring then moves with it.
            inverse = matrix.inverse()
            return Smeared(_still(self, layer, matrix), inverse if inverse is not None else Affine(), blur)
        own = _lasting_grid(self.at, layer, matrix)
        fine = own[0] if own is not None else finer(self.at, layer, matrix, kind.vector)
        inverse = fine.inverse()
        return Smeared(Leaf(self.at, layer, fine), inverse if inverse is not None else Affine(), blur)

    def inner(self, layer: Layer) -> Inner | None:
        """Return the composition that a layer shows, with its dials as the layer sets them."""
        if not layer_kind(layer.kind).nests:
            return None
        matrix = self.matrix(layer)
        drawing = self.at.drawing(layer, matrix, self.clip)
        if not isinstance(drawing, Inner):
            return Inner(Composition("", 1, 1, self.piece.rate, 1), 0.0)
        piece = drawing.composition
        for dial_id, value in layer.dial_values:
            dial = piece.find(dial_id)
            if dial is not None and dial.has("value"):
                piece = piece.with_layer(dial.with_track("value", Track(value)))
        return evolve(drawing, composition=piece) if piece is not drawing.composition else drawing

    def within(self, inner: Inner, outer: Outer) -> list[Item]:
        """Return the items of a composition at one of its frames that stands in the space of this one."""
        at = Evaluated(self.at.scene.project, inner.composition, wrapped(inner.composition, inner.frame), outer)
        return Builder(at, self.to_grid, self.clip, self.within_shutter, self.in_the_past).items()

    def nested(self, inner: Inner, matrix: Affine) -> Node:
        """Return a composition at one of its frames under a map to this grid."""
        piece, size = inner.composition, (inner.composition.width, inner.composition.height)
        box = (0.0, 0.0, float(size[0]), float(size[1]))
        if intersect(matrix.box(box), self.clip) is None:
            return Layered((), matrix, size)
        at = Evaluated(self.at.scene.project, piece, wrapped(piece, inner.frame))
        turned = abs(matrix.b) + abs(matrix.c) > 1e-9 or matrix.a <= 0 or matrix.d <= 0
        items = Builder(at, matrix, self.clip, self.within_shutter, self.in_the_past).items()
        if turned and any(isinstance(item.node, Changing) and not item.node.pointwise for item in items):
            # What effect layers read across the frame's edges is only right where these are level and upright.
            across, down = (min(max(s, 1e-3), 64.0) for s in matrix.stretch())
            upright = Affine.scaling(across, down)
            items = Builder(at, upright, _FAR, self.within_shutter, self.in_the_past).items()
            whole = Layered(items, upright, size, piece.background, linear=piece.linear)
            return Placed(whole, matrix @ Affine.scaling(1 / across, 1 / down))
        return Layered(items, matrix, size, piece.background, linear=piece.linear)

    # -- covers ------------------------------------------------------------------------------------------

    def mattes(self, layer: Layer, mattes: Sequence[object]) -> list[Matting]:
        """Return a layer's mattes in order; one that is missing lets everything show."""
        made = []
        for matte in layer.mattes:
            source = self.piece.find(matte.layer) if matte in mattes else None
            if source is not None:
                item = self.item(source) if source.shown_at(self.at.frame) else None
                if item is not None and isinstance(item.node, Changing):
                    item = None  # What only changes others shows nothing by itself.
                made.append(Matting(item, matte.by, matte.inverted, matte.mode))
        return made

    def crop(self, layer: Layer) -> Crop | None:
        """Return what is cut off a layer's box; None for nothing."""
        values = self.at.values(layer)
        if not any(values["crop_across"]) and not any(values["crop_down"]):
            return None
        matrix = self.matrix(layer)
        return Crop(self.at.box(layer), values["crop_across"], values["crop_down"], values["crop_softness"], matrix,
                    self.at.scene)  # fmt: skip

    def _changing(self, layer: Layer, opacity: float) -> Item | None:
        values, beneath = self.at.values(layer), layer_kind(layer.kind).beneath
        frame = (0.0, 0.0, float(self.piece.width), float(self.piece.height))
        own = [(effect_kind(name), numbers) for name, numbers in (beneath(values) if beneath is not None else ())]
        own = [(kind, numbers) for kind, numbers in own if not kind.neutral(numbers)]
        acting = [*own, *acting_on(self.at, layer)]
        steps = [_repeating(step) for step in steps_of(self, acting, EFFECT, self.to_grid, frame)]
        if not steps:
            return None
        crop = self.crop(layer)
        return Item(Changing(tuple(steps), opacity, tuple(self.mattes(layer, layer.mattes)), crop))


def _still(builder: Builder, layer: Layer, matrix: Affine) -> Node:
    if layer_kind(layer.kind).gathers:
        return builder.layered(builder.items(layer.id), matrix)
    inner = builder.inner(layer)
    if inner is not None:
        return builder.nested(inner, matrix)
    # Sampling would soften crisp edges, so only what is soft already is drawn once and carried about.
    soft = min(builder.at.values(layer).get("feather", (0.0, 0.0))) * min(matrix.stretch()) >= _SOFT
    own = _lasting_grid(builder.at, layer, matrix) if soft else None
    return Leaf(builder.at, layer, matrix) if own is None else Placed(Leaf(builder.at, layer, own[0]), matrix @ own[1])


def _lasting_grid(at: Evaluated, layer: Layer, matrix: Affine) -> tuple[Affine, Affine] | None:
    """Return the map to a grid that stays the same while a drawn layer is carried about, and the way back.

    It is drawn there once, twice as fine as it is seen, and sampled wherever it is carried.
    """
    if not layer_kind(layer.kind).vector or not carried(at.composition, layer):
        return None
    size = round(max(*matrix.stretch(), 1e-3) * _FINER, 4)
    left, top, right, bottom = at.box(layer)
    if (right - left) * (bottom - top) * size * size > _MOST_LASTING:
        return None
    return Affine.scaling(size, size), Affine.scaling(1 / size, 1 / size)


def _repeating(step: Step) -> Step:
    """Return an effect as an effect layer has it: what lies outside the frame is its edge repeated."""
    if "edge" not in step.values:
        return step
    return evolve(step, values={**step.values, "edge": "repeat"}, held=step.kind.holds)


def built(project: Project, composition: Composition, frame: float, to_grid: Affine, clip: Box) -> Builder:
    """Return the builder of a composition at one of its frames."""
    return Builder(Evaluated(project, composition, wrapped(composition, frame)), to_grid, clip)
