"""Nest layers into a composition of their own, open one up again, make own copies of shared ones."""

from __future__ import annotations

from collections.abc import Sequence

from attrs import define, evolve, field

from spiralis.core.animation.placing import PARTS
from spiralis.core.editing.arranging import seen_box
from spiralis.core.editing.artwork import unused
from spiralis.core.editing.duplicating import with_fresh_ids, with_their_own
from spiralis.core.editing.edits import moved_in_time, shifted, unused_name
from spiralis.core.editing.linking import is_led
from spiralis.core.editing.posing import poses_mapped
from spiralis.core.errors import ModelError
from spiralis.core.geometry import Box, box_around, intersect, rounded_out
from spiralis.core.model import Composition, Layer, Project, Track, Value, layer_kind, new_id
from spiralis.core.model.drivers import Driver, Follow
from spiralis.core.model.kinds import PLACE
from spiralis.core.model.poses import PoseStrip
from spiralis.core.model.project import LARGEST_SIZE
from spiralis.core.model.references import Repointing, What, dependents, repointed, repointed_poses
from spiralis.core.render.extent import beyond, drawn_box, widened
from spiralis.core.render.layers import Evaluated
from spiralis.core.render.reach import reach_of
from spiralis.core.render.space import is_in_depth
from spiralis.core.sound.mixing import sounds

_PLACE = tuple(parameter.name for parameter in PLACE)
#: At so many moments it is asked where layers are, and at each so manieth of them what they show beyond that.
_SAMPLES, DRAWN = 60, 5
#: How a layer is mixed that mixes with nothing.
_PLAIN = Track("normal")
#: What lets a nest's layers stand in the space around it.
_DEEP: dict[str, Value] = {"depth": True, "keeps_depth": True}


def nest(
    project: Project, composition_id: str, ids: Sequence[str], name: str, cropped: bool = False
) -> tuple[Project, str]:
    """Return the project with layers moved into a composition of their own, and the id of the layer that shows it.

    Args:
        project: the version at hand.
        composition_id: where the layers are.
        ids: which layers; they keep their order.
        name: of the new composition; a number is added where it is taken.
        cropped: whether it takes just the room its layers ever fill, else the size of the outer one.

    Raises:
        ModelError: nothing is chosen, or a tie (parent or matte) leads from inside to outside or back.
    """
    outer = project.composition(composition_id)
    inside = [layer for layer in outer.layers if layer.id in set(ids)]
    if not inside:
        raise ModelError("Choose the layers that are to be nested.")
    inside = [layer for layer in outer.layers if layer.id in with_their_own(outer, ids)]
    within = {layer.id for layer in inside}
    _check_ties(outer, within)
    area = _room(project, outer, inside) if cropped else (0, 0, outer.width, outer.height)
    left, top, right, bottom = area
    moved = _all_shifted(outer, inside, (-left, -top))
    # Inside there is nothing to mix with: what is alone there is mixed by the layer that shows it.
    deep = _stays_deep(project, outer, inside)
    alone = None if deep else _alone(evolve(outer, layers=moved))
    if alone is not None and alone.track("blend") == _PLAIN:
        alone = None
    if alone is not None:
        moved = tuple(y.with_track("blend", _PLAIN) if y is alone else y for y in moved)
    label = unused(name, {c.name for c in project.compositions})
    outside = {layer.id for layer in outer.layers} - within
    inner = Composition(
        label, right - left, bottom - top, outer.rate, outer.length, layers=moved,
        poses=repointed_poses(_poses_shifted(outer, (-left, -top)), Repointing(known=within))
        if _posed(outer, within) else PoseStrip(),
    ).mixed_as(outer)  # fmt: skip
    middle = ((left + right) / 2, (top + bottom) / 2)
    others = [layer for layer in outer.layers if layer.id in outside]
    shown = Layer(unused_name(label, {y.name for y in others}), "nested", 0, outer.length)
    shown = shown.with_values(composition=inner.id, position=middle, **(_DEEP if deep else {}))
    shown = shown.with_track("blend", alone.track("blend")) if alone is not None else shown
    index = next(i for i, layer in enumerate(outer.layers) if layer.id == inside[0].id)
    layers = list(outer.layers)
    layers.insert(index, shown)
    kept = tuple(layer for layer in layers if layer.id not in within)
    poses = repointed_poses(outer.poses, Repointing(known=outside)) if _posed(outer, outside) else PoseStrip()
    return project.with_composition(inner).with_composition(evolve(outer, layers=kept, poses=poses)), shown.id


def _stays_deep(project: Project, outer: Composition, inside: Sequence[Layer]) -> bool:
    """Whether layers that are nested are to stand in the outer space as before: in depth, seen and lit from there."""
    kinds = [layer_kind(layer.kind) for layer in inside]
    at = Evaluated(project, outer, 0.0)
    return not any(kind.sees or kind.lights for kind in kinds) and any(is_in_depth(at, layer) for layer in inside)


def _all_shifted(piece: Composition, layers: Sequence[Layer], by: tuple[float, float]) -> tuple[Layer, ...]:
    """Return layers moved all together; what hangs on others, or follows another's place, moves with those.

    Raises:
        ModelError: a place follows something otherwise than all the way, so that it would come to lie elsewhere.
    """
    if by == (0.0, 0.0):
        return tuple(layers)
    for layer in layers:
        drivers = [layer.track(name).driver for name in ("position", *PARTS) if is_led(piece, layer, name)]
        if layer.parent is None and not all(_is_along(piece, driver) for driver in drivers):
            raise ModelError(f"“{layer.name}” follows something by its place; nest at full size, or bake that to keys.")
    return tuple(layer if layer.parent else shifted(layer, *by) for layer in layers)


def _poses_shifted(piece: Composition, by: tuple[float, float]) -> PoseStrip:
    return poses_mapped(piece, lambda posed: posed if posed.parent else shifted(posed, *by))


def _is_along(piece: Composition, driver: Driver | None) -> bool:
    source = piece.find(driver.layer) if isinstance(driver, Follow) and driver.along else None
    return source is not None and source.parent is None and getattr(driver, "name", "") == "position"


def _alone(piece: Composition) -> Layer | None:
    """Return the one layer of a piece that shows something; None where there are others."""
    seen = [y for y in piece.layers if y.id not in piece.kept_from_sight and not _unseen(y)]
    return seen[0] if len(seen) == 1 else None


def _posed(piece: Composition, ids: set[str]) -> bool:
    return any(row[0] in ids for pose in piece.poses.poses for row in pose.values)


def _check_ties(outer: Composition, inside: set[str]) -> None:
    for layer in outer.layers:
        for tie in layer.ties:
            other = outer.find(tie.target) if tie.what is What.LAYER else None
            if other is not None and (layer.id in inside) != (other.id in inside):
                by = layer.parameter(tie.name).full_label if layer.has(tie.name) else tie.name
                raise ModelError(
                    f"“{layer.name}” is tied to “{other.name}” ({by}); nest both of them, or part them first."
                )


def _room(project: Project, outer: Composition, layers: list[Layer]) -> tuple[int, int, int, int]:
    """Return the whole-numbered box that layers fill over the whole time, within what a composition can be; of what
    they show beyond their content, strokes and glow say, what is seen in the frame. It is the frame where one of them
    fills that, whose pattern would come to lie elsewhere."""
    shown = [layer for layer in layers if not _unseen(layer)]
    if not shown or any(layer_kind(layer.kind).fills_frame for layer in shown):
        return 0, 0, outer.width, outer.height
    boxes: list[Box] = []
    more = [(0.0, 0.0, 0.0, 0.0)]
    for index, number in enumerate(sampled_frames(outer.length)):
        at = Evaluated(project, outer, number)
        boxes.append(held := box_around([seen_box(at, layer) for layer in shown]))
        if index % DRAWN == 0:
            more.append(beyond(at, held, drawn_box(at, shown)))
    over = [max(sides) for sides in zip(*more, strict=True)]
    left, top, right, bottom = rounded_out(widened(box_around(boxes), over), 2.0)
    return left, top, min(right, left + LARGEST_SIZE), min(bottom, top + LARGEST_SIZE)


def _unseen(layer: Layer) -> bool:
    return layer_kind(layer.kind).unseen


def sampled_frames(length: int) -> list[int]:
    """Return the frames at which it is asked where layers of a time are, its first and its last one among them."""
    return sorted({round(i * (length - 1) / max(_SAMPLES - 1, 1)) for i in range(_SAMPLES)})


def open_up(project: Project, composition_id: str, layer_id: str) -> tuple[Project, tuple[str, ...]]:
    """Return the project with a nested layer replaced by what is in it, and the ids of those layers.

    Where the nested layer is placed otherwise than plainly they hang on a carrier with its place, keys included.

    Raises:
        ModelError: opening it up would change what is seen.
    """
    outer = project.composition(composition_id)
    shown = outer.layer(layer_id)
    inner = project.find(shown.track("composition").value)
    if inner is None:
        raise ModelError(f"“{shown.name}” shows no composition, so there is nothing to open up.")
    alone, blend = _alone(inner), shown.track("blend")
    if alone is not None and (blend == _PLAIN or alone.track("blend") != _PLAIN):
        alone = None
    if alone is not None:
        shown = shown.with_track("blend", _PLAIN)
    _check_opening(project, outer, shown, inner)
    start = round(shown.track("start").value)
    ids = {layer.id: new_id() for layer in inner.layers}
    carrier = _carrier(outer, shown, inner)
    shift = _plain_shift(shown, inner) if carrier is None else (0.0, 0.0)
    made = []
    to = Repointing(layers=ids)
    for layer, placed in zip(inner.layers, _all_shifted(inner, inner.layers, shift), strict=True):
        opened = moved_in_time(placed, start) if start else placed
        opened = evolve(opened, first=max(opened.first, shown.first), last=min(opened.last, shown.last))
        if layer is alone:
            opened = opened.with_track("blend", blend)
        if layer.id in dict(shown.dial_values):
            opened = opened.with_track("value", Track(dict(shown.dial_values)[layer.id]))
        opened = repointed(opened, to)
        if layer.parent is None:
            opened = evolve(opened, parent=carrier.id if carrier is not None else shown.parent)
        made.append(evolve(opened, origin=None))
    if carrier is not None:
        made.append(carrier)
    taken = {layer.name for layer in outer.layers if layer.id != layer_id}
    named = []
    for layer in made:
        name = unused_name(layer.name, taken)
        taken.add(name)
        named.append(layer if name == layer.name else evolve(layer, name=name))
    index = [layer.id for layer in outer.layers].index(layer_id)
    layers = [*outer.layers[:index], *named, *outer.layers[index + 1 :]]
    poses = outer.poses
    if not poses.poses:
        opened_strip = repointed_poses(_poses_shifted(inner, shift), to)
        poses = evolve(opened_strip, first=opened_strip.first + start)
    return project.with_composition(evolve(outer, layers=tuple(layers), poses=poses)), tuple(y.id for y in named)


def _plain_shift(shown: Layer, inner: Composition) -> tuple[float, float]:
    x, y = shown.track("position").value
    return x - inner.width / 2, y - inner.height / 2


def _carrier(outer: Composition, shown: Layer, inner: Composition) -> Layer | None:
    """Return a carrier with the nested layer's place; None where that is a mere shift without keys."""
    tracks = {name: shown.track(name) for name in _PLACE}
    plain = all(not track.keys for track in tracks.values()) and all(
        tracks[name].value == shown.parameter(name).default for name in _PLACE if name != "position"
    )
    if plain:
        return None
    size = Track((float(inner.width), float(inner.height)))
    return evolve(shown, id=new_id(), kind="carrier", properties={**tracks, "size": size}, mattes=(), origin=None)


def _check_opening(project: Project, outer: Composition, shown: Layer, inner: Composition) -> None:
    name = shown.name
    opacity, blend = shown.track("opacity"), shown.track("blend")
    if opacity.keys or opacity.value < 100 or blend.keys or blend.value != "normal":
        raise ModelError(
            f"“{name}” is mixed in as one picture; set its opacity to 100 % and its blend to normal first."
        )
    if shown.mattes or any(m.layer == shown.id for layer in outer.layers for m in layer.mattes):
        raise ModelError(f"“{name}” has or is a matte; part them first.")
    tied = dependents(outer, [shown.id])
    if any(tie.name == "parent" for tie in tied):
        raise ModelError(f"Other layers hang on “{name}”; hang them elsewhere first.")
    if tied or shown.edge_pins:
        raise ModelError(f"Other layers are tied to “{name}”, or its edges to others; part them first.")
    if shown.blocks:
        raise ModelError(f"“{name}” carries effects that act on it as one picture; take them off first.")
    if inner.poses.poses and outer.poses.poses:
        raise ModelError(f"“{inner.name}” and “{outer.name}” both have a pose strip, and there can be one; clear one.")
    if inner.background is not None:
        raise ModelError(f"“{inner.name}” has a background colour that would be lost; make it a backdrop first.")
    visible = shown.track("visible")
    if shown.track("motion_blur").value or shown.track("composition").keys or visible.keys or not visible.value:
        raise ModelError(f"“{name}” is blurred or switched as one picture, which its layers cannot be one by one.")
    volume = shown.track("volume")
    if (volume.moving or volume.value != 100) and sounds(project, inner):
        raise ModelError(f"“{name}” is made louder or softer as one sound; set its volume to 100 % first.")
    if any(layer.track("blend").value != "normal" for layer in inner.layers):
        raise ModelError(f"Layers in “{inner.name}” mix with each other only; outside they would mix with everything.")
    start = shown.track("start").value
    if inner.rate != outer.rate or start != int(start):
        raise ModelError(f"“{inner.name}” runs at another rate; give both the same first.")
    if shown.first < start or shown.last > start + inner.length:
        raise ModelError(f"“{inner.name}” repeats within “{outer.name}”; trim the layer to one round first.")
    blurred = any(layer.track("motion_blur").value or layer.track("motion_blur").keys for layer in inner.layers)
    if inner.light != outer.light or (blurred and inner.mixing != outer.mixing):
        raise ModelError(f"“{inner.name}” has another light or shutter; give both the same first (Details, no layer).")
    frame = (0.0, 0.0, float(inner.width), float(inner.height))
    alike = (inner.width, inner.height) == (outer.width, outer.height) and _plain_shift(shown, inner) == (0.0, 0.0)
    if alike and _carrier(outer, shown, inner) is None:
        return  # What lies outside of its frame lies outside of this one too.
    for number in sampled_frames(inner.length):
        at = Evaluated(project, inner, number)
        for layer in inner.layers:
            box = reach_of(at, layer)
            if not _unseen(layer) and intersect(box, frame) != box:
                raise ModelError(f"“{layer.name}” is cut by the edge of “{inner.name}”, so it would show more outside.")


def own_copy(project: Project, composition_id: str, layer_id: str, deep: bool = False) -> tuple[Project, str]:
    """Return the project where a nested layer shows a copy of its own, and the copy's id.

    With ``deep`` every composition below becomes a copy of its own as well.
    """
    layer = project.composition(composition_id).layer(layer_id)
    inner = project.composition(layer.track("composition").value)
    done = _Copied()
    project, copied = _copied(project, inner, deep, done)
    outer = project.composition(composition_id)
    return project.with_composition(outer.with_layer(repointed(outer.layer(layer_id), done.repointing()))), copied


@define
class _Copied:
    """Which compositions have been copied, and the ids of the copies' layers, by the old ids."""

    pieces: dict[str, str] = field(factory=dict)
    layers: dict[str, str] = field(factory=dict)

    def repointing(self) -> Repointing:
        return Repointing(compositions=self.pieces, inner=self.layers)


def _copied(project: Project, piece: Composition, deep: bool, done: _Copied) -> tuple[Project, str]:
    if piece.id in done.pieces:
        return project, done.pieces[piece.id]
    below = _Copied()
    if deep:
        for inner_id in piece.nested:
            inner = project.find(inner_id)
            if inner is not None:
                project, _ = _copied(project, inner, deep, done)
                below.pieces[inner_id] = done.pieces[inner_id]
        below.layers = done.layers
    name = unused(piece.name, {c.name for c in project.compositions})
    fresh, ids = with_fresh_ids(piece)
    layers = tuple(repointed(layer, below.repointing()) for layer in fresh.layers)
    copy = evolve(fresh, id=new_id(), name=name, layers=layers)
    done.pieces[piece.id] = copy.id
    done.layers.update(ids)
    return project.with_composition(copy), copy.id


def duplicate_composition(project: Project, composition_id: str) -> tuple[Project, str]:
    """Return the project with a copy of a composition (what it nests stays shared), and the copy's id."""
    return _copied(project, project.composition(composition_id), False, _Copied())
