"""Space and Enter press the button or open the list that has the focus, as people who work by keyboard expect."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtWidgets import QAbstractButton, QApplication, QComboBox


def press_focused() -> bool:
    """Press the focused button or open the focused list; False where the focus is elsewhere."""
    widget = QApplication.focusWidget()
    if isinstance(widget, QAbstractButton) and widget.isEnabled():
        widget.click()
        return True
    if isinstance(widget, QComboBox) and widget.isEnabled():
        widget.showPopup()
        return True
    return False


def press_or(otherwise: Callable[[], object]) -> None:
    """Press what has the focus, or else do ``otherwise``."""
    if not press_focused():
        otherwise()
