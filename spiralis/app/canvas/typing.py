"""Typing words on the canvas: begins, blinks and ends."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PyQt6.QtCore import QObject, QPointF, QRectF, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QWidget

from spiralis.app.canvas.text_editing import TextEditing
from spiralis.app.session import Session
from spiralis.app.work.playback import Player
from spiralis.core.geometry import Affine
from spiralis.core.model import Layer
from spiralis.core.raster.fonts import missing_letters

_BLINK = 530


class Typing(QObject):
    """Holds what is typed into, if anything; ``moved`` tells of every change of words or caret, and of the end."""

    moved = pyqtSignal()

    def __init__(self, session: Session, player: Player, widget: QWidget) -> None:
        super().__init__()
        self.session, self.player, self.widget = session, player, widget
        self.editing: TextEditing | None = None
        self.lit = True
        #: Gives the map from the composition to the widget.
        self.to_widget: Callable[[], Affine] = Affine
        self._blink = QTimer(self)
        self._blink.timeout.connect(self._toggle_caret)

    def begin(self, layer_id: str) -> None:
        """Start typing in a text layer, with all its words chosen."""
        self.player.stop()
        self.session.select([layer_id])
        self.editing = TextEditing(self.session, layer_id)
        self._blink.start(_BLINK)
        self.widget.setAttribute(Qt.WidgetAttribute.WA_InputMethodEnabled)
        self.widget.setFocus()
        self.show_caret()

    def begin_in_chosen(self) -> bool:
        """Start typing in the one chosen layer, where it is a text."""
        layers = self.session.layers
        if len(layers) != 1 or not layers[0].has("text"):
            return False
        self.begin(layers[0].id)
        return True

    def end(self) -> None:
        """Stop typing; the words stay."""
        if self.editing is None:
            return
        layer = self.session.composition.find(self.editing.layer_id)
        self.editing = None
        self.widget.setAttribute(Qt.WidgetAttribute.WA_InputMethodEnabled, False)
        self._blink.stop()
        self.session.close_step()
        self._name_missing(layer)
        self.moved.emit()
        self.widget.update()

    def _name_missing(self, layer: Layer | None) -> None:
        """Say which letters no font here has, so that a box instead of one surprises nobody."""
        if layer is None or not layer.has("text"):
            return
        values = self.session.evaluated().values(layer)
        missing = missing_letters(self.session.project, values["font"], values["weight"], values["text"])
        if missing:
            self.session.failed.emit(
                f"No font here has {', '.join(missing[:8])}; bring one in that has, as a .ttf or .otf file."
            )

    def settle(self) -> None:
        """End where the words are gone that were typed into."""
        if self.editing is not None and not self.editing.settle():
            self.end()

    def click(self, point: tuple[float, float], keep: bool) -> bool:
        """Set the caret where the words are clicked, or choose up to there; False beside them."""
        if self.editing is None or not self.editing.click(point, keep=keep):
            return False
        self.show_caret()
        return True

    def key(self, event: QKeyEvent) -> None:
        """Take a key; one that ends the typing ends it."""
        if self.editing is not None and not self.editing.key(event):
            self.end()
        self.show_caret()

    def compose(self, preliminary: str, final: str) -> None:
        """Take what an input method gives."""
        if self.editing is not None:
            self.editing.compose(preliminary, final)
            self.show_caret()

    def choose_word(self, point: tuple[float, float]) -> bool:
        """Choose the word at a point of the composition; False where nothing is typed there."""
        if not self.click(point, keep=False) or self.editing is None:
            return False
        self.editing.choose_word()
        self.show_caret()
        return True

    def query(self, what: Qt.InputMethodQuery) -> Any:
        """Answer an input method; None for what only the widget itself knows."""
        asked, editing = Qt.InputMethodQuery, self.editing
        if what is asked.ImEnabled:
            return editing is not None
        if editing is None or not editing.alive:
            return None
        answers: dict[Qt.InputMethodQuery, Callable[[], Any]] = {
            asked.ImSurroundingText: lambda: editing.text, asked.ImCursorPosition: lambda: editing.caret,
            asked.ImAnchorPosition: lambda: editing.anchor, asked.ImCursorRectangle: self._caret_area,
            asked.ImCurrentSelection: lambda: editing.text[editing.span[0] : editing.span[1]],
        }  # fmt: skip
        return answers[what]() if what in answers else None

    def _caret_area(self) -> QRectF:
        """Return where the caret stands in the widget: candidates of an input method show beneath it."""
        editing = self.editing
        if editing is None:
            return QRectF()
        setting, layer = editing.setting(), self.session.composition.layer(editing.layer_id)
        x, y, _ = setting.carets[min(editing.caret, len(setting.carets) - 1)]
        to_widget = self.to_widget() @ self.session.evaluated().matrix(layer)
        return QRectF(QPointF(*to_widget.apply(x, y - setting.size)), QPointF(*to_widget.apply(x + 1, y))).normalized()

    def command(self, what: str) -> bool:
        """Let a command mean the letters being typed (``copy``, ``paste``, ``delete``, ``choose_all``), if any are."""
        if self.editing is None:
            return False
        self.editing.command(what)
        self.show_caret()
        return True

    def show_caret(self) -> None:
        """Light the caret at once, as after each key."""
        self.lit = True
        self.moved.emit()
        self.widget.update()

    def keep_lit(self) -> None:
        """Keep the caret lit instead of blinking, as a still picture needs it."""
        self._blink.stop()
        self.lit = True
        self.widget.update()

    def _toggle_caret(self) -> None:
        self.lit = not self.lit
        self.widget.update()
