"""Small questions of the menus that are answered with numbers."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from typing import Any

from attrs import evolve
from PyQt6.QtWidgets import QWidget

from spiralis.app.session import Session
from spiralis.app.widgets.asking import Ask, LiveDialog
from spiralis.core.editing.fewer_keys import with_fewer_keys
from spiralis.core.editing.keys import KeyRef
from spiralis.core.model import Composition


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


def ask_fewer_keys(parent: QWidget, session: Session, refs: Collection[KeyRef]) -> None:
    """Ask by how much motion may be off, and keep as few keys as that takes; how many stay is said."""
    if not refs:
        session.failed.emit("Choose keys, or layers that have some.")
        return
    ids, left = session.selected, set[KeyRef]()

    def change(values: Mapping[str, Any], merge: str) -> None:
        def whole(piece: Composition) -> Composition:
            changed, found = with_fewer_keys(piece, refs, float(values["off"]))
            left.clear()
            left.update(found)
            return changed

        session.edit("Fewer keys", whole, merge)
        session.select(ids, left)

    told = "As few keys as keep the motion this near to what it is now, each in its own unit: px, °, %."
    asks = (Ask("off", "Off by at most", 1.0, "", 0.01, 1000, 2),)
    if LiveDialog(parent, session, "Fewer keys", told, asks, change).exec():
        session.said.emit(f"{len(left)} of {len(refs)} keys stay; undo brings back the others."
                          if len(left) < len(refs) else "No key can go without more being off; all of them stay.")
