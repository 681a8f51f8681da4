"""Switches and choices that take other values along: what they stand for changes, what is seen stays."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence

from spiralis.core.editing.combining import would_lose
from spiralis.core.editing.contours import as_drawing, as_form, form_names
from spiralis.core.editing.exchanging import Size, fitting, of_kind, size_of, with_content_sized
from spiralis.core.editing.flowing import with_flow
from spiralis.core.editing.retiming import retimed_by_keys
from spiralis.core.editing.separating import position_switched
from spiralis.core.editing.sources import keys_gone
from spiralis.core.editing.wording import with_words
from spiralis.core.model import Composition, Layer, Value
from spiralis.core.render.layers import Evaluated

#: What makes the change for some layers: it returns the composition, and in words what the change could not keep.
Switch = Callable[[Evaluated, Sequence[str], Value], tuple[Composition, str]]


def _with_each(piece: Composition, layers: Iterable[Layer]) -> Composition:
    for layer in layers:
        piece = piece.with_layer(layer)
    return piece


def _apart(at: Evaluated, ids: Sequence[str], value: Value) -> tuple[Composition, str]:
    return position_switched(at.composition, ids, bool(value))


def _formed(at: Evaluated, ids: Sequence[str], value: Value) -> tuple[Composition, str]:
    piece = at.composition
    layers = [layer for layer in map(piece.layer, ids) if at.values(layer)["form"] != value]
    if value != "drawing":
        return _with_each(piece, (as_form(at, layer, value) for layer in layers)), ""
    # A drawing that was there before comes back; it is not drawn over.
    new = [layer for layer in layers if "art" not in layer.properties]
    resting = [word for layer in new for word in would_lose(piece, [layer.id], form_names(layer))]
    made = (as_drawing(at, layer) if layer in new else layer.with_values(form=value) for layer in layers)
    said = f"The drawing is the form of this frame; what moved that rests: {'; '.join(resting)}." if resting else ""
    return _with_each(piece, made), said


def _exchanged(at: Evaluated, ids: Sequence[str], value: Value) -> tuple[Composition, str]:
    piece, project = at.composition, at.scene.project
    source = project.source(value)
    for layer in map(piece.layer, ids):
        old, new = size_of(project.source(layer.track("source").value)), size_of(source)
        by, own = fitting(old, new, "fit"), piece.layer(layer.id)
        own = of_kind(own, source.sort.layer if source is not None else "").with_values(source=value)
        piece = with_content_sized(piece, own, old, new, (by, by))
    return piece, keys_gone(at.composition.layers, piece.layers)


def _shown(at: Evaluated, ids: Sequence[str], value: Value) -> tuple[Composition, str]:
    """Another composition, as large as the one before."""
    piece, project = at.composition, at.scene.project
    for layer in map(piece.layer, ids):
        old, new = (_frame_size(project.find(held)) for held in (layer.track("composition").value, value))
        by = fitting(old, new, "fit")
        piece = with_content_sized(piece, piece.layer(layer.id).with_values(composition=value), old, new, (by, by))
    return piece, ""


def _frame_size(piece: Composition | None) -> Size:
    return (float(piece.width), float(piece.height)) if piece is not None else (0.0, 0.0)


def _flowed(at: Evaluated, ids: Sequence[str], value: Value) -> tuple[Composition, str]:
    piece = at.composition
    for layer_id in ids:
        piece = with_flow(at, piece, piece.layer(layer_id), value)
    return piece, ""


def _worded(at: Evaluated, ids: Sequence[str], value: Value) -> tuple[Composition, str]:
    return _with_each(at.composition, (with_words(layer, value) for layer in map(at.composition.layer, ids))), ""


def _retimed(at: Evaluated, ids: Sequence[str], value: Value) -> tuple[Composition, str]:
    layers = map(at.composition.layer, ids)
    if value:
        # Own frames that a person has set come back as they were.
        return _with_each(at.composition, (
            layer.with_values(retime=True) if "own_frame" in layer.properties else retimed_by_keys(at, layer)
            for layer in layers
        )), ""  # fmt: skip
    return _with_each(at.composition, (layer.with_values(retime=False) for layer in layers)), ""


_SWITCHES: dict[str, Switch] = {
    "separate": _apart, "form": _formed, "retime": _retimed, "source": _exchanged, "flow": _flowed,
    "text": _worded, "composition": _shown,
}  # fmt: skip


def takes_along(layers: Iterable[Layer], name: str) -> bool:
    """Whether setting a property means more than its value: not where keys say what it is."""
    return name in _SWITCHES and not any(layer.track(name).keys for layer in layers)


def switched(at: Evaluated, ids: Sequence[str], name: str, value: Value) -> tuple[Composition, str]:
    """Return the composition where layers have another value of a property, with what goes along, and what to say.

    Raises:
        ModelError: it cannot be changed for one of them.
    """
    return _SWITCHES[name](at, ids, value)
