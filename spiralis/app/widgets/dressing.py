"""Give a widget another look of the style sheet."""

from __future__ import annotations

from PyQt6.QtWidgets import QLabel, QWidget


def dress(widget: QWidget, look: str) -> None:
    """Let a widget look as the style sheet says for a name: Quiet, Mint, Alarm …"""
    widget.setObjectName(look)
    widget.style().unpolish(widget)
    widget.style().polish(widget)


def say(label: QLabel, text: str, look: str) -> None:
    """Write on a label, in a look of the style sheet."""
    label.setText(text)
    dress(label, look)
