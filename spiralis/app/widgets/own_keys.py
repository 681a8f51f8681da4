"""Keys that mean something else while a widget has the focus than they do as the window's shortcuts."""

from __future__ import annotations

from collections.abc import Container

from PyQt6.QtCore import QEvent
from PyQt6.QtGui import QKeyEvent


def claims(event: QEvent, keys: Container[int]) -> bool:
    """Whether an event asks if a key is the widget's own, and it is one of these; it is then accepted."""
    asked = event.type() == QEvent.Type.ShortcutOverride and isinstance(event, QKeyEvent) and event.key() in keys
    if asked:
        event.accept()
    return asked
