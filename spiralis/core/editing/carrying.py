"""Hang layers on a new one, so that they can move in one more way without their keys being touched."""

from __future__ import annotations

from collections.abc import Callable, Iterable

from attrs import evolve

from spiralis.core.editing.arranging import seen_box
from spiralis.core.editing.edits import unused_name
from spiralis.core.editing.reparenting import with_hung
from spiralis.core.errors import ModelError
from spiralis.core.geometry import Box, box_around
from spiralis.core.model import Composition, Layer, Project
from spiralis.core.render.layers import Evaluated


def hung_on_new(
    project: Project, piece: Composition, ids: Iterable[str], frame: int, make: Callable[[Box], Layer]
) -> tuple[Composition, str]:
    """Return the composition where layers hang on a new one, and its id; at the frame nothing has moved in sight.

    ``make`` gets the box that they are seen in. What it makes lies before the frontmost of them and of what hangs on
    them, is there as long as any of them, and hangs on what they all hung on. Layers that hang on others among them go
    along with those.

    Raises:
        ModelError: no layer is chosen.
    """
    chosen = _of(piece, ids)
    if not chosen:
        raise ModelError("Choose the layers that are to be held together.")
    at = Evaluated(project, piece, float(frame))
    made = make(box_around([seen_box(at, layer) for layer in chosen]))
    made = evolve(
        made, name=unused_name(made.name, {layer.name for layer in piece.layers}),
        first=min(layer.first for layer in chosen), last=max(layer.last for layer in chosen),
    )  # fmt: skip
    along = {layer.id for layer in chosen} | {below.id for layer in chosen for below in piece.descendants(layer.id)}
    index = next(place for place, layer in enumerate(piece.layers) if layer.id in along)
    grown = evolve(piece, layers=(*piece.layers[:index], made, *piece.layers[index:]))
    outer = _outer_parents(chosen)
    if len(outer) == 1 and None not in outer:
        grown = with_hung(Evaluated(project, grown, float(frame)), grown, made.id, outer.pop())
    for layer in _outermost(chosen):
        grown = with_hung(Evaluated(project, grown, float(frame)), grown, layer.id, made.id)
    return grown, made.id


def _of(piece: Composition, ids: Iterable[str]) -> list[Layer]:
    wanted = set(ids)
    return [layer for layer in piece.layers if layer.id in wanted]


def _outermost(chosen: list[Layer]) -> list[Layer]:
    ids = {layer.id for layer in chosen}
    return [layer for layer in chosen if layer.parent not in ids]


def _outer_parents(chosen: list[Layer]) -> set[str | None]:
    return {layer.parent for layer in _outermost(chosen)}


def ties_given_up(piece: Composition, ids: Iterable[str]) -> str:
    """Return in words which layers would no longer hang on what they hang on, as they hang on different ones."""
    chosen = _of(piece, ids)
    if len(_outer_parents(chosen)) < 2:
        return ""
    pairs = [(layer, piece.find(layer.parent)) for layer in _outermost(chosen) if layer.parent is not None]
    told = [f"“{layer.name}” hung on “{parent.name}”" for layer, parent in pairs if parent is not None]
    return f"{' and '.join(told)}, and no longer does." if told else ""


def on_carrier(
    project: Project, piece: Composition, ids: Iterable[str], frame: int, name: str
) -> tuple[Composition, str]:
    """Return the composition where layers hang on a new carrier as large as they are seen, and the carrier's id.

    Raises:
        ModelError: no layer is chosen.
    """

    def make(box: Box) -> Layer:
        left, top, right, bottom = box
        return Layer(name, "carrier", 0, piece.length).with_values(
            position=((left + right) / 2, (top + bottom) / 2), size=(max(right - left, 1.0), max(bottom - top, 1.0))
        )

    return hung_on_new(project, piece, ids, frame, make)
