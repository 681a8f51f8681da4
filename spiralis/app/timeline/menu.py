"""The menu of a layer in the timeline: colour marks, alone, folded, locked, reference, name."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtGui import QIcon, QPainter, QPixmap
from PyQt6.QtWidgets import QMenu, QWidget

from spiralis.app.commands.layers import Commands
from spiralis.app.session import Session
from spiralis.app.style import TINT_COLOURS, colour
from spiralis.app.widgets.passing_menu import PassingMenu


def tint_icon(tint: str) -> QIcon:
    """Return a dot of a colour mark."""
    pixmap = QPixmap(24, 24)
    pixmap.fill(colour("#000000", 0.0))
    painter = QPainter(pixmap)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setBrush(colour(TINT_COLOURS[tint]))
    painter.setPen(colour(TINT_COLOURS[tint]))
    painter.drawEllipse(4, 4, 16, 16)
    painter.end()
    return QIcon(pixmap)


def layer_menu(parent: QWidget, session: Session, rename: Callable[[], None]) -> QMenu:
    """Return the menu for the chosen layers."""
    commands, layer, menu = Commands(session), session.layers[0], PassingMenu(parent)
    menu.addAction("Rename", rename)
    tints = menu.addMenu("Colour mark")
    for tint in TINT_COLOURS:
        action = tints.addAction(tint_icon(tint), tint.capitalize(), lambda tint=tint: commands.tint(tint))
        action.setCheckable(True)
        action.setChecked(layer.tint == tint)
    tints.addSeparator()
    tints.addAction("None", lambda: commands.tint(""))
    menu.addSeparator()
    for label, on, run in (
        ("Show alone", layer.solo, lambda: commands.toggle_flag("solo", "Show alone")),
        ("Folded", layer.folded, lambda: commands.toggle_flag("folded", "Fold")),
        ("Locked", layer.locked, commands.toggle_lock),
        ("Only a reference", layer.reference, commands.toggle_reference),
    ):
        action = menu.addAction(label, run)
        action.setCheckable(True)
        action.setChecked(on)
    menu.addSeparator()
    menu.addAction("Group", commands.group)
    ungroup = menu.addAction("Ungroup", commands.ungroup)
    ungroup.setEnabled(any(y.gathers for y in session.layers))
    menu.addSeparator()
    menu.addAction("Duplicate", commands.duplicate)
    menu.addAction("Delete", commands.delete)
    return menu
