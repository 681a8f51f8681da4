"""Tie properties to each other: drag the ring of a value in Details onto the thread that it is to follow."""

from __future__ import annotations

from attrs import evolve
from PyQt6.QtCore import QMimeData, Qt
from PyQt6.QtGui import QDrag
from PyQt6.QtWidgets import QWidget

from spiralis.app.session import Session
from spiralis.core.editing.linking import with_driver
from spiralis.core.model import Kind, Layer, Parameter
from spiralis.core.model.drivers import Follow

#: What a dragged ring carries: the name of the property.
THREAD = "application/x-spiralis-thread"


def drag_track(widget: QWidget, name: str) -> None:
    """Drag a property until it is dropped somewhere."""
    drag, mime = QDrag(widget), QMimeData()
    mime.setData(THREAD, name.encode())
    drag.setMimeData(mime)
    drag.exec(Qt.DropAction.LinkAction)


def followable(layer: Layer, parameter: Parameter) -> list[str]:
    """Return the properties of a layer that one of this kind can follow: of its own sort, or numbers."""
    if layer.control:
        return [layer.control] if parameter.kind in (Kind.NUMBER, Kind.PAIR) else []
    kinds = {Kind.NUMBER: (Kind.NUMBER, Kind.PAIR), Kind.PAIR: (Kind.PAIR, Kind.NUMBER)}.get(
        parameter.kind, (parameter.kind,)
    )
    return [
        p.name for p in layer.parameters
        if p.kind in kinds and not p.steady and p.group in ("Place", "Look", "Content", "Effects", "Finishes")
    ]  # fmt: skip


def set_follow(session: Session, name: str, follow: Follow) -> None:
    """Let a property of the chosen layers follow another; a pair gives its first number to one that has one."""
    source = session.composition.layer(follow.layer)
    label = session.layers[0].parameter(name).label if session.layers else name
    pair = source.parameter(follow.name).kind is Kind.PAIR
    if pair and session.layers and session.layers[0].parameter(name).kind is Kind.NUMBER:
        follow = evolve(follow, component=0)
    session.edit_layers(f"{label} follows {source.name}", lambda layer: with_driver(layer, name, follow))


def tie(session: Session, name: str, source: Layer, source_name: str | None) -> None:
    """Let a property of the chosen layers follow a thread, or what is called alike where a whole layer is meant."""
    if not session.layers:
        return
    parameter = session.layers[0].parameter(name)
    wanted = source_name or (source.control or name)
    if not parameter.numeric or wanted not in followable(source, parameter):
        session.failed.emit(f"{parameter.label} cannot follow that; drop it on a thread of its own sort.")
        return
    set_follow(session, name, Follow(source.id, wanted))
