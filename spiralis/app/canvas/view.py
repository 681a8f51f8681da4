"""The canvas widget: shows the frame under the playhead and hands mouse and keys to whoever has them."""

from __future__ import annotations

from typing import Any

import numpy as np
from PyQt6.QtCore import QEvent, QPoint, QPointF, QRectF, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import (
    QContextMenuEvent,
    QCursor,
    QFocusEvent,
    QHideEvent,
    QImage,
    QInputMethodEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPixmap,
    QResizeEvent,
    QShowEvent,
    QWheelEvent,
)
from PyQt6.QtWidgets import QApplication, QWidget

from spiralis.app.canvas import painting
from spiralis.app.canvas.choosing import menu_of, walk
from spiralis.app.canvas.ease_preview import EasePreview
from spiralis.app.canvas.hand import Hand
from spiralis.app.canvas.handles import MoveDrag
from spiralis.app.canvas.loupe import Loupe, loupe_place
from spiralis.app.canvas.outer import OuterPicture
from spiralis.app.canvas.overlays import make_ready, paint_overlays
from spiralis.app.canvas.panning import Panning
from spiralis.app.canvas.scrolling import CanvasBars
from spiralis.app.canvas.second_view import SecondView
from spiralis.app.canvas.toolbox import Toolbox
from spiralis.app.canvas.typing import Typing
from spiralis.app.canvas.viewpoint_bar import ViewpointBar
from spiralis.app.canvas.viewport import Viewport
from spiralis.app.frames.onion import OnionSkin
from spiralis.app.session import Session
from spiralis.app.style import SURROUND, colour
from spiralis.app.widgets.images import as_image
from spiralis.app.work.paced import Paced
from spiralis.app.work.playback import Player
from spiralis.app.work.soon import Soon

_GRIP = 7.0
#: So long, in ms, it takes until a picture is asked for and the window has nothing to do but wait.
_MEANWHILE = 4


class CanvasView(QWidget):
    """Shows the piece. The mouse belongs to what is typed, else to the tool in hand, else to the ``hand`` itself."""

    #: The menu of what is chosen is wanted at this place of the screen.
    menuAsked = pyqtSignal(QPoint)

    def __init__(self, session: Session, player: Player) -> None:
        super().__init__()
        self.session, self.player = session, player
        # They come before anything that sends this widget an event, as even a child of it does; it asks them.
        self.viewport = Viewport(session, self)
        self.typing = Typing(session, player, self)
        self.typing.to_widget = lambda: self.viewport.to_widget
        self.toolbox = Toolbox(session, player, self)
        self.hand = Hand(session, self.viewport)
        self.hand.dragging = self._stop_at
        Paced(self, self.hand.pass_by)
        self.hand.lister = lambda layers: menu_of(self, session, layers).popup(QCursor.pos())
        self.bars = CanvasBars(self.viewport)
        for part in (self.viewport, self.typing, self.toolbox):
            part.setParent(self)
        self.viewport.zoomed.connect(self._on_zoom)
        self.setMinimumSize(240, 240)
        # It fills all of itself: nothing is painted beneath it.
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Canvas")
        #: The bar that styles letters; a click in it does not end the typing.
        self.text_bar: QWidget | None = None
        self.outer = OuterPicture(session)
        self.ease_preview = EasePreview(session)
        self.onion = OnionSkin(session)
        self.loupe = Loupe(session)
        self.viewpoints = ViewpointBar(session, self)
        self.second = SecondView(session, self)
        self.viewpoints.two.toggled.connect(self.second.want)
        self.loupe.came.connect(self.update)
        for drawn in (self.outer.made, self.ease_preview.moved, self.onion.made, session.view.changed,
                      session.viewpoint.changed):
            drawn.connect(self.update)
        self.panning = Panning(self, self.viewport, player)
        self._image: QImage | None = None
        self._pixels: np.ndarray | None = None
        self._soon = Soon(self, self.update, wait=16)
        #: As large as the canvas, to make things ready with.
        self._like = QPixmap()
        self._meanwhile = QTimer(self)
        self._meanwhile.setSingleShot(True)
        self._meanwhile.setInterval(_MEANWHILE)
        self._meanwhile.timeout.connect(self._make_ready)
        player.pictureChanged.connect(self._take_picture)
        session.projectChanged.connect(self._on_project)
        session.compositionChanged.connect(self._on_composition)
        session.leaving.connect(self.end_everything)
        session.selectionChanged.connect(self.update)
        session.frameChanged.connect(self._on_frame)

    def end_everything(self) -> None:
        """Put down what is dragged, here or elsewhere, stop typing and put the tool away, before something else begins;
        what was done so far stays."""
        self.session.gesture.put_down()
        self.typing.end()
        self.toolbox.end()

    def _stop_at(self, frame: int) -> None:
        """Stop playing where something was grabbed: a drag has to do with one frame."""
        if self.player.playing:
            self.player.stop()
            self.session.go_to(frame)

    # -- what is shown ---------------------------------------------------------------------------------

    def _on_zoom(self) -> None:
        self.player.set_display_scale(self.viewport.zoom * self.devicePixelRatioF())
        self.update()

    def _take_picture(self) -> None:
        pixels = self.player.latest_picture()
        if pixels is not None and pixels is not self._pixels:
            # The image does not own its memory, so the array is kept beside it.
            self._pixels = pixels
            self._image = as_image(pixels, premultiplied=True)
            self.update()

    def _on_frame(self) -> None:
        # Other words may be shown here than those that were typed into.
        self.typing.settle()
        self._take_picture()
        # Handles and outlines move even where no other picture is there yet.
        self.update()

    def _on_composition(self) -> None:
        # Whatever was under way ended before the change, but for an undo that took the composition away.
        self.toolbox.tool = None
        self.hand.let_go()
        self.typing.end()
        self.viewport.fit()

    def _on_project(self) -> None:
        self.toolbox.settle()
        self.typing.settle()
        self.viewport.fit_again()
        # With the new picture, so that handles and picture move as one; soon where none comes.
        self._soon.ask()
        self._meanwhile.start()

    def _make_ready(self) -> None:
        """Leave little to be done when the picture comes that the other process draws meanwhile."""
        if self.player.awaits():
            ratio = self.devicePixelRatioF()
            if self._like.size() != self.size() * ratio:
                self._like = QPixmap(self.size() * ratio)
                self._like.setDevicePixelRatio(ratio)
            painter = QPainter(self._like)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            make_ready(painter, self.typing, self.toolbox, self.hand)
            painter.end()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.fillRect(self.rect(), colour(SURROUND))
        piece, to_widget = self.session.composition, self.viewport.to_widget
        left, top, right, bottom = to_widget.box((0, 0, piece.width, piece.height))
        area = QRectF(round(left), round(top), round(right) - round(left), round(bottom) - round(top))
        self.outer.paint(painter, to_widget)
        if self._image is None or self._image.hasAlphaChannel():
            painting.draw_checks(painter, area)
        if self._image is not None:
            painter.drawImage(area, self._image)
        if not self.player.playing:
            self.onion.paint(painter, to_widget)
            paint_overlays(painter, self.typing, self.toolbox, self.hand)
            self.loupe.paint(painter, to_widget, loupe_place(self.toolbox, self.hand), QRectF(self.rect()))
        self.ease_preview.paint(painter, to_widget)
        painter.end()
        if self._pixels is not None and self._pixels is self.player.picture():
            self.player.note_seen()

    def showEvent(self, event: QShowEvent) -> None:
        self.player.watched = True

    def hideEvent(self, event: QHideEvent) -> None:
        self.player.watched = False

    def resizeEvent(self, event: QResizeEvent) -> None:
        if self.viewport.fits:
            self.viewport.fit()

    # -- mouse -----------------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self.panning.press(event):
            return
        if event.button() != Qt.MouseButton.LeftButton:
            return
        self.setFocus()
        here = self.viewport.to_composition(event.position())
        if self.typing.click(here, keep=bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)):
            return
        self.typing.end()
        tool = self.toolbox.tool
        if tool is not None:
            tool.press(here, _GRIP / self.viewport.zoom, bool(event.modifiers() & Qt.KeyboardModifier.AltModifier))
            self.toolbox.after_use()
            return
        self.hand.press(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        point = event.position()
        if self.panning.move(event):
            return
        here, held = self.viewport.to_composition(point), bool(event.buttons() & Qt.MouseButton.LeftButton)
        tool, typing = self.toolbox.tool, self.typing.editing is not None
        if self.hand.guide is None and tool is not None:
            tool.move(here, held, bool(event.modifiers() & Qt.KeyboardModifier.AltModifier))
            self.setCursor(Qt.CursorShape.CrossCursor)
            self.update()
        elif self.hand.guide is None and typing and held:
            self.typing.click(here, keep=True)
        elif not self.hand.move(event):
            self.setCursor(Qt.CursorShape.IBeamCursor if typing else self.hand.cursor_at(point))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self.panning.let_go()
        if event.button() != Qt.MouseButton.LeftButton:
            return  # Another button goes up while something is dragged.
        if self.hand.guide is None and self.toolbox.tool is not None:
            self.toolbox.tool.release()
            self.toolbox.after_use()
            return
        self.hand.release()
        self.update()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        tool = self.toolbox.tool
        if tool is not None:
            tool.double_click(self.viewport.to_composition(event.position()), _GRIP / self.viewport.zoom)
            self.toolbox.after_use()
            return
        if self.typing.choose_word(self.viewport.to_composition(event.position())):
            return
        hit = self.hand.layer_under(event.position())
        unit = self.hand.unit(hit) if hit is not None else None
        if hit is None or unit is None:
            return
        if unit.gathers:
            self.session.inside = unit.id
            self.session.select([self.hand.unit(hit).id])
        elif hit.has("text"):
            self.edit_text(hit.id)
        elif hit.has("composition"):
            self.session.go_into(hit)
        elif hit.has("art") and hit.has("form"):
            self.toolbox.edit_points(hit.id)

    def edit_text(self, layer_id: str) -> None:
        """Start typing in a text layer; nothing is dragged any more."""
        self.hand.let_go()
        self.typing.begin(layer_id)

    def wheelEvent(self, event: QWheelEvent) -> None:
        fingers, turned = event.pixelDelta(), event.angleDelta()
        zooms = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
        if not zooms and not fingers.isNull():
            self.viewport.pan(self.viewport.centre, QPointF(fingers))
        elif not zooms and (turned.x() or event.modifiers() & Qt.KeyboardModifier.ShiftModifier):
            self.viewport.pan(self.viewport.centre, QPointF((turned.x() or turned.y()) / 2, 0))
        elif turned.y():
            self.viewport.zoom_to(self.viewport.zoom * 1.2 ** (turned.y() / 120), event.position())

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        """Choose what lies under the pointer, unless it is chosen already, and ask for its menu."""
        self.typing.end()
        if event.reason() is not QContextMenuEvent.Reason.Keyboard:
            self.hand.choose_at(QPointF(event.pos()))
        self.menuAsked.emit(event.globalPos())

    # -- keys ------------------------------------------------------------------------------------------

    def event(self, event: QEvent) -> bool:
        editing = self.typing.editing
        # While typing, letters and arrows belong to the words, not to the window's shortcuts; undo, save and the like
        # stay what they are.
        if event.type() == QEvent.Type.ShortcutOverride and editing is not None:
            event.setAccepted(isinstance(event, QKeyEvent) and editing.takes(event))
            return True
        # While the pen is out, Delete and Backspace mean its points and not the layer.
        pens = event.type() == QEvent.Type.ShortcutOverride and self.toolbox.tool is not None
        if pens and isinstance(event, QKeyEvent) and event.key() in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            event.accept()
            return True
        if event.type() == QEvent.Type.KeyPress and editing is not None:
            self.keyPressEvent(event)  # Tab included, which would move the focus otherwise
            return True
        if not isinstance(event, QKeyEvent) or editing is not None:
            return super().event(event)
        # Tab walks through the layers, and on to other panels at the last.
        tab = event.key() in (Qt.Key.Key_Tab, Qt.Key.Key_Backtab) and event.type() == QEvent.Type.KeyPress
        walks = tab and self.toolbox.tool is None
        took = self.panning.key(event) or (walks and walk(self.session, event.key() == Qt.Key.Key_Tab))
        return took or super().event(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if self.typing.editing is not None:
            self.typing.key(event)
            return
        if self.toolbox.tool is not None and self.toolbox.tool.key(event):
            self.toolbox.after_use()
            return
        step = 10 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1
        moves = {
            Qt.Key.Key_Left: (-step, 0), Qt.Key.Key_Right: (step, 0),
            Qt.Key.Key_Up: (0, -step), Qt.Key.Key_Down: (0, step),
        }  # fmt: skip
        if event.key() in moves and self.session.layers:
            nudge = MoveDrag.begin(self.session, (0.0, 0.0))
            nudge.merge = f"nudge-{'-'.join(self.session.selected)}-{self.session.frame}"
            nudge.shift_by(*moves[Qt.Key(event.key())])
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.typing.begin_in_chosen():
            self.hand.let_go()
        elif event.key() == Qt.Key.Key_Escape and self.session.inside is not None:
            inside = self.session.inside
            self.session.inside = self.session.composition.group_of.get(inside)
            self.session.select([inside])
        elif event.key() == Qt.Key.Key_Escape and self.session.selected:
            self.session.select(())
        else:
            super().keyPressEvent(event)

    def inputMethodEvent(self, event: QInputMethodEvent) -> None:
        """Dead keys, compose and input methods: final letters and those still being composed."""
        self.typing.compose(event.preeditString(), event.commitString())
        event.accept()

    def inputMethodQuery(self, query: Qt.InputMethodQuery) -> Any:
        found = self.typing.query(query)
        return super().inputMethodQuery(query) if found is None else found

    def focusOutEvent(self, event: QFocusEvent) -> None:
        self.panning.forget_space()
        widget = QApplication.focusWidget()
        beside = self.text_bar is not None and widget is not None and self.text_bar.isAncestorOf(widget)
        if event.reason() == Qt.FocusReason.MouseFocusReason and not beside:
            self.typing.end()
        super().focusOutEvent(event)
