"""Typing words in place: caret, selection and keys for one text layer."""

from __future__ import annotations

import re

from attrs import evolve
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QGuiApplication, QKeyEvent, QKeySequence

from spiralis.app.session import Session
from spiralis.core.editing.edits import set_value
from spiralis.core.model import Layer
from spiralis.core.raster.kinds.text import layout_of
from spiralis.core.raster.shaping import Layout, caret_places

_COPY, _CUT, _PASTE, _ALL = (
    QKeySequence.StandardKey.Copy,
    QKeySequence.StandardKey.Cut,
    QKeySequence.StandardKey.Paste,
    QKeySequence.StandardKey.SelectAll,
)


class TextEditing:
    """An editing of one text layer; lives from the double-click to Escape or a click elsewhere."""

    def __init__(self, session: Session, layer_id: str) -> None:
        self.session = session
        self.layer_id = layer_id
        self.caret = len(self.text)
        self.anchor = 0
        self.merge = f"typing-{layer_id}-{session.version}"
        # A layer that nobody has named is called by its words.
        self._names = re.fullmatch(r"Text( \d+)?", session.composition.layer(layer_id).name) is not None

    @property
    def text(self) -> str:
        """The words as they are."""
        layer = self.session.composition.find(self.layer_id)
        return str(self.session.evaluated().values(layer)["text"]) if layer else ""

    @property
    def alive(self) -> bool:
        """Whether the layer is still there."""
        return self.session.composition.find(self.layer_id) is not None

    def layout(self) -> Layout:
        """The lines as shaped now, in the layer's units."""
        at = self.session.evaluated()
        layer = self.session.composition.layer(self.layer_id)
        return layout_of(at.values(layer), at.scene)[0]

    def places(self) -> list[tuple[float, float]]:
        """Caret places in the layer's units, one before each letter and one at the end."""
        return caret_places(self.layout(), self.text)

    @property
    def span(self) -> tuple[int, int]:
        """The chosen letters, from and to."""
        return min(self.caret, self.anchor), max(self.caret, self.anchor)

    def nearest(self, x: float, y: float) -> int:
        """Return the caret index nearest to a point in the layer's units."""
        layout, text = self.layout(), self.text
        line = int(max(0, min((y - 0.2 * layout.ascent) // max(layout.leading, 1e-6), text.count("\n"))))
        baseline = layout.ascent + line * layout.leading
        places = list(enumerate(self.places()))
        return min(places, key=lambda item: (abs(item[1][1] - baseline), abs(item[1][0] - x)))[0]

    def place_caret(self, index: int, keep_anchor: bool) -> None:
        """Move the caret; keeps the other end of the selection where asked."""
        self.caret = max(0, min(index, len(self.text)))
        if not keep_anchor:
            self.anchor = self.caret

    def insert(self, typed: str) -> None:
        """Put letters in place of the chosen ones."""
        first, last = self.span
        text = self.text
        words, frame = text[:first] + typed + text[last:], self.session.frame

        def change(layer: Layer) -> Layer:
            changed = set_value(layer, "text", words, frame)
            return evolve(changed, name=" ".join(words.split())[:32] or "Text") if self._names else changed

        name = self.session.composition.layer(self.layer_id).name
        self.session.edit_layers(f"Words of {name}", change, [self.layer_id], self.merge)
        self.caret = self.anchor = first + len(typed)

    def key(self, event: QKeyEvent) -> bool:
        """Handle a key; False ends the editing."""
        if event.key() == Qt.Key.Key_Escape:
            return False
        if event.matches(_ALL):
            self.anchor, self.caret = 0, len(self.text)
        elif event.matches(_COPY) or event.matches(_CUT):
            first, last = self.span
            QGuiApplication.clipboard().setText(self.text[first:last])
            if event.matches(_CUT):
                self.insert("")
        elif event.matches(_PASTE):
            self.insert(QGuiApplication.clipboard().text().replace("\r\n", "\n"))
        elif not self._travel(event):
            self._type(event)
        return True

    def _type(self, event: QKeyEvent) -> None:
        key = event.key()
        if key in (Qt.Key.Key_Backspace, Qt.Key.Key_Delete):
            if self.caret == self.anchor:
                step = -1 if key == Qt.Key.Key_Backspace else 1
                self.anchor = max(0, min(self.caret + step, len(self.text)))
            self.insert("")
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.insert("\n")
        elif event.text() and event.text().isprintable():
            self.insert(event.text())

    def _travel(self, event: QKeyEvent) -> bool:
        text, caret = self.text, self.caret
        start = text.rfind("\n", 0, caret) + 1
        end = text.find("\n", caret)
        goals = {
            Qt.Key.Key_Left: caret - 1,
            Qt.Key.Key_Right: caret + 1,
            Qt.Key.Key_Home: start,
            Qt.Key.Key_End: len(text) if end < 0 else end,
        }
        if event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            x, y = self.places()[caret]
            leading = self.layout().leading
            goal = self.nearest(x, y + (leading if event.key() == Qt.Key.Key_Down else -leading))
        elif event.key() in goals:
            goal = goals[Qt.Key(event.key())]
        else:
            return False
        self.place_caret(goal, bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier))
        return True
