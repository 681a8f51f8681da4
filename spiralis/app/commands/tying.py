"""Tie properties to each other: drag the ring of a value in Details onto the thread that it is to follow."""

from __future__ import annotations

from collections.abc import Callable

from attrs import evolve
from PyQt6.QtCore import QMimeData, Qt
from PyQt6.QtGui import QDrag
from PyQt6.QtWidgets import QWidget

from spiralis.app.session import Session
from spiralis.core.editing.linking import with_driver
from spiralis.core.editing.locking import locked_in
from spiralis.core.model import Kind, Layer, Parameter
from spiralis.core.model.drivers import DialJoin, Driver, Follow, Roll

#: What a dragged ring carries: the name of the property.
THREAD = "application/x-spiralis-thread"


def drag_track(widget: QWidget, name: str) -> None:
    """Drag a property until it is dropped somewhere."""
    drag, mime = QDrag(widget), QMimeData()
    mime.setData(THREAD, name.encode())
    drag.setMimeData(mime)
    drag.exec(Qt.DropAction.LinkAction)


def driver_text(session: Session, layer: Layer, name: str) -> str:
    """Return in words what drives a property; empty where nothing does."""
    track, parts = layer.track(name), []
    driver = track.driver
    if isinstance(driver, Follow):
        source = session.composition.find(driver.layer)
        label = source.parameter(driver.name).full_label if source is not None else driver.name
        parts.append(f"follows {source.name if source is not None else 'a layer that is gone'}: {label}")
    elif isinstance(driver, Roll):
        parts.append(f"rolls on a radius of {driver.radius:g} px")
    elif isinstance(driver, DialJoin):
        dial = session.composition.find(driver.dial)
        parts.append(f"on the dial {dial.name}" if dial is not None else "on a dial that is gone")
    if track.wobble is not None:
        parts.append(f"wobbles by {track.wobble.amount:g} {layer.parameter(name).unit}".rstrip())
    return ", ".join(parts)


def said_of_ties(session: Session, name: str, stays: Callable[[Driver], bool]) -> str:
    """Return a sentence on what drives a property of the chosen layers now and will no more, else nothing."""
    piece = session.composition
    free = [layer for layer in session.layers if layer.id not in locked_in(piece)]
    gone = [
        f"“{layer.name}”, {driver_text(session, layer, name)}" for layer in free
        if (driver := layer.track(name).driver) is not None and not stays(driver)
    ]  # fmt: skip
    label = session.layers[0].parameter(name).label if session.layers else name
    return f"{label} was tied otherwise before ({'; '.join(gone[:3])}); undo brings that back." if gone else ""


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
    gone = said_of_ties(session, name, lambda old: isinstance(old, Follow) and old.layer == follow.layer)
    if session.edit_layers(f"{label} follows {source.name}", lambda layer: with_driver(layer, name, follow)) and gone:
        session.said.emit(gone)


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
