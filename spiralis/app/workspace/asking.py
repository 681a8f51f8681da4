"""Small questions of the menus that are answered with numbers."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from attrs import evolve
from PyQt6.QtWidgets import QWidget

from spiralis.app.session import Session
from spiralis.app.widgets.asking import Ask, LiveDialog


def ask_frame(parent: QWidget, session: Session) -> None:
    """Ask for the frame to go to; it shows while one types, and Cancel goes back."""
    last, before = session.composition.length - 1, session.frame
    asks = (Ask("frame", "Frame", before, "f", 0, last),)
    dialog = LiveDialog(
        parent, session, "Go to a frame", f"From 0 to {last}.", asks,
        lambda values, merge: session.go_to(int(values["frame"])),
    )  # fmt: skip
    if not dialog.exec():
        session.go_to(before)


def ask_guide(parent: QWidget, session: Session) -> None:
    """Ask for the place of a new guide, which is seen while one types."""
    piece, ways = session.composition, ("upright, at x", "level, at y")
    asks = (
        Ask("way", "Guide", ways[0], choices=ways),
        Ask("place", "At", round(piece.width / 2), "px", -100_000, 100_000, 1),
    )

    def change(values: Mapping[str, Any], merge: str) -> None:
        guide = (ways.index(values["way"]), float(values["place"]))
        session.edit("Guide", lambda held: evolve(held, guides=(*held.guides, guide)), merge=merge)

    told = "Layers snap to it; drag it away into a ruler."
    LiveDialog(parent, session, "Guide at a place", told, asks, change).exec()
