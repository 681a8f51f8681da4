"""A value, a pace or a look copied from one layer and put onto others, by way of the clipboard."""

from __future__ import annotations

import json

from attrs import evolve
from PyQt6.QtCore import QMimeData
from PyQt6.QtGui import QGuiApplication

from spiralis.app.commands.outliving import clipboard_mime
from spiralis.app.session import Session
from spiralis.core.editing.pasting_values import (
    held_name,
    only_look,
    only_value,
    with_look_of,
    with_pace_of,
    with_value_of,
)
from spiralis.core.errors import SpiralisError
from spiralis.core.model import Layer, Parameter, Project
from spiralis.core.storage.conversion import from_json, to_json

VALUE, LOOK = "application/x-spiralis-value", "application/x-spiralis-look"


def _hold(session: Session, kind: str, layer: Layer, words: str) -> None:
    bare = evolve(session.composition, layers=(layer,), poses=type(session.composition.poses)())
    mime = QMimeData()
    mime.setData(kind, json.dumps(to_json(Project("clipboard", (bare,)))).encode())
    mime.setText(words)
    QGuiApplication.clipboard().setMimeData(mime)


def _held(kind: str) -> Layer | None:
    """Return the layer on the clipboard that carries a value or a look, or None."""
    mime = clipboard_mime()
    if mime is None or not mime.hasFormat(kind):
        return None
    try:
        return from_json(json.loads(mime.data(kind).data().decode()), "the clipboard").compositions[0].layers[0]
    except (SpiralisError, ValueError, IndexError):
        return None


def copy_value(session: Session, parameter: Parameter) -> None:
    """Copy what a property of the first chosen layer holds: its value, or all its keys."""
    layer = session.layers[0]
    _hold(session, VALUE, only_value(layer, parameter.name), f"{layer.name}: {parameter.full_label}")


def value_held(parameter: Parameter) -> Layer | None:
    """Return what was copied from a property, where this one is of the same kind."""
    held = _held(VALUE)
    if held is None or not held.properties or held.parameter(held_name(held)).kind is not parameter.kind:
        return None
    return held


def paste_value(session: Session, parameter: Parameter, held: Layer) -> None:
    """Give the property of every chosen layer what was copied; keys that it has are replaced, in one step."""
    name, frame = parameter.name, session.frame
    session.edit_layers(f"Paste {parameter.full_label}", lambda layer: with_value_of(layer, name, held, frame))


def paste_pace(session: Session, parameter: Parameter, held: Layer) -> None:
    """Ease the segments of the property of every chosen layer like those that were copied."""
    name = parameter.name
    session.edit_layers(f"Paste the pace of {parameter.full_label}", lambda layer: with_pace_of(layer, name, held))


def copy_look(session: Session) -> None:
    """Copy how the first chosen layer looks."""
    if session.layers:
        _hold(session, LOOK, only_look(session.layers[0]), session.layers[0].name)
        session.said.emit(f"Copied the look of {session.layers[0].name}.")


def paste_look(session: Session) -> None:
    """Let every chosen layer look like the one whose look was copied."""
    held = _held(LOOK)
    if held is None:
        session.failed.emit("No look was copied yet; choose a layer and take Copy the look first.")
        return
    known = set(session.composition.by_id)
    session.edit_layers("Paste the look", lambda layer: with_look_of(layer, held, known - {layer.id}))
