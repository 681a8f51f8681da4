"""Groups: hold layers together, part them again, and keep their order in the list."""

from __future__ import annotations

from collections.abc import Iterable

from attrs import evolve

from spiralis.core.editing.carrying import hung_on_new
from spiralis.core.editing.removing import Removal, removed
from spiralis.core.editing.reparenting import poses_rehung, rehung
from spiralis.core.errors import ModelError
from spiralis.core.geometry import Box
from spiralis.core.model import Composition, Layer, Project

GROUP = "group"


def grouped(
    project: Project, piece: Composition, ids: Iterable[str], frame: int, name: str = "Group"
) -> tuple[Composition, str]:
    """Return the composition with layers held together in a group, and its id; nothing moves.

    The group lies where the frontmost of them lay. Layers that hang on others among them go along with those.

    Raises:
        ModelError: no layer is chosen.
    """

    def make(box: Box) -> Layer:
        left, top, right, bottom = box
        return Layer(name, GROUP, 0, piece.length).with_values(
            corner=(left, top), size=(max(right - left, 1.0), max(bottom - top, 1.0)),
            position=((left + right) / 2, (top + bottom) / 2),
        )  # fmt: skip

    grown, group = hung_on_new(project, piece, ids, frame, make)
    return in_order(grown), group


def ungrouped(project: Project, piece: Composition, group_id: str, frame: int) -> Removal:
    """Return the composition with a group's layers on their own, where they are and moving as before.

    Raises:
        ModelError: the group is one picture (it fades, is cut or carries effects), which its layers cannot be each.
    """
    group = piece.layer(group_id)
    if not group.gathers:
        raise ModelError(f"“{group.name}” is no group, so there is nothing to part.")
    reasons = [word for word, wrong in _as_one(group) if wrong]
    if reasons:
        raise ModelError(
            f"“{group.name}” is shown as one picture ({', '.join(reasons)}), which its layers cannot be one by one; "
            "set that back first."
        )
    outside = group.parent if piece.find(group.parent) is not None else None
    for layer in piece.layers:
        if layer.parent == group_id:
            hung, _ = rehung(project, piece, layer, outside, frame)
            kept = evolve(hung, first=max(hung.first, group.first), last=min(hung.last, group.last))
            poses = poses_rehung(project, piece, layer.id, outside, frame)
            piece = evolve(piece.with_layer(kept if kept.first < kept.last else hung), poses=poses)
    return removed(project, piece, [group_id], frame)


def _as_one(group: Layer) -> tuple[tuple[str, bool], ...]:
    def set_(name: str) -> bool:
        track = group.track(name)
        return track.moving or track.value != group.parameter(name).default

    return (
        ("opacity", set_("opacity")), ("blend", set_("blend")), ("switched off", set_("visible")),
        ("crop", set_("crop_across") or set_("crop_down")), ("motion blur", set_("motion_blur")),
        ("cut", bool(group.mattes)), ("effects", bool(group.blocks)),
    )  # fmt: skip


def unit_at(piece: Composition, layer_id: str, inside: str | None) -> str:
    """Return what a click on a layer means: the layer or group directly in the group one works inside, or in none.

    Where the layer lies outside of that group it is the outermost one that the layer is in, or the layer itself.
    """
    chain = [layer_id, *piece.groups_around(layer_id)]
    return chain[chain.index(inside) - 1] if inside in chain[1:] else chain[-1]


def in_order(piece: Composition) -> Composition:
    """Return the composition with the layers of each group directly beneath it, in their own order."""
    if not any(layer.gathers for layer in piece.layers):
        return piece
    ordered: list[Layer] = []

    def add(group: str | None) -> None:
        for layer in piece.members(group):
            ordered.append(layer)
            if layer.gathers:
                add(layer.id)

    add(None)
    same = all(a is b for a, b in zip(ordered, piece.layers, strict=True))
    return piece if same else evolve(piece, layers=tuple(ordered))
