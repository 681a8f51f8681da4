"""The canvas widget: shows the frame under the playhead and turns mouse and keys into edits."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QEvent, QPointF, QRectF, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import (
    QFocusEvent,
    QImage,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QResizeEvent,
    QWheelEvent,
)
from PyQt6.QtWidgets import QApplication, QWidget

from spiralis.app.canvas import painting
from spiralis.app.canvas.aids import RULER, GuideDrag, guide_press
from spiralis.app.canvas.content_grips import ContentDrag, content_grip_at
from spiralis.app.canvas.ease_preview import EasePreview
from spiralis.app.canvas.frame_tool import FrameTool
from spiralis.app.canvas.group_handles import GroupDrag, group_frame
from spiralis.app.canvas.handles import Drag, MoveDrag, PivotDrag, ScaleDrag, SkewDrag, TurnDrag, frame_of
from spiralis.app.canvas.outer import OuterPicture
from spiralis.app.canvas.overlays import paint_overlays
from spiralis.app.canvas.path_editing import PathDrag, grip_at
from spiralis.app.canvas.pen import PenTool, Points
from spiralis.app.canvas.picking import layer_at
from spiralis.app.canvas.text_editing import TextEditing
from spiralis.app.canvas.tools import Tool
from spiralis.app.frames.onion import OnionSkin
from spiralis.app.session import Session
from spiralis.app.style import SURROUND, colour
from spiralis.app.widgets.asking import may_lose
from spiralis.app.widgets.images import as_image
from spiralis.app.work.playback import Player
from spiralis.app.work.soon import Soon
from spiralis.core.editing.combining import would_lose
from spiralis.core.editing.contours import as_drawing
from spiralis.core.editing.grouping import unit_at
from spiralis.core.geometry import Affine
from spiralis.core.model import Layer, layer_kind

_MARGIN = 26.0
_SNAP = 7.0
_GRIP = 7.0
_CURSORS = {
    "nw": Qt.CursorShape.SizeFDiagCursor, "se": Qt.CursorShape.SizeFDiagCursor,
    "ne": Qt.CursorShape.SizeBDiagCursor, "sw": Qt.CursorShape.SizeBDiagCursor,
    "n": Qt.CursorShape.SizeVerCursor, "s": Qt.CursorShape.SizeVerCursor,
    "e": Qt.CursorShape.SizeHorCursor, "w": Qt.CursorShape.SizeHorCursor,
    "turn": Qt.CursorShape.PointingHandCursor, "pivot": Qt.CursorShape.CrossCursor,
}  # fmt: skip


class CanvasView(QWidget):
    """Shows the piece. ``zoomed`` tells the zoom in percent of the composition's pixels."""

    zoomed = pyqtSignal(float)
    caretMoved = pyqtSignal()

    def __init__(self, session: Session, player: Player) -> None:
        super().__init__()
        self.session, self.player = session, player
        self.setMinimumSize(240, 240)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Canvas")
        self.zoom, self.fits = 1.0, True
        self.centre = (0.0, 0.0)
        self.editing: TextEditing | None = None
        #: The bar that styles letters; a click in it does not end the typing.
        self.text_bar: QWidget | None = None
        self.tool: Tool | None = None
        self.drag: Drag | None = None
        self.guide: GuideDrag | None = None
        self.outer = OuterPicture(session)
        self.outer.made.connect(self.update)
        self.ease_preview = EasePreview(session)
        self.ease_preview.moved.connect(self.update)
        self.onion = OnionSkin(session)
        self.onion.made.connect(self.update)
        session.view.changed.connect(self.update)
        self._pan: tuple[QPointF, tuple[float, float]] | None = None
        self._leaves: str | None = None
        self._image: QImage | None = None
        self._pixels: np.ndarray | None = None
        self.lit = True
        self._blink = QTimer(self)
        self._blink.timeout.connect(self._toggle_caret)
        self._fitted = (0, 0)
        self._soon = Soon(self, self.update, wait=16)
        player.pictureChanged.connect(self._take_picture)
        session.projectChanged.connect(self._on_project)
        session.compositionChanged.connect(self._on_composition)
        session.leaving.connect(self.end_everything)
        session.selectionChanged.connect(self.update)
        session.frameChanged.connect(self._take_picture)

    # -- where things are ------------------------------------------------------------------------------

    @property
    def to_widget(self) -> Affine:
        """The map from composition pixels to widget pixels."""
        x = self.width() / 2 - self.centre[0] * self.zoom
        y = self.height() / 2 - self.centre[1] * self.zoom
        return Affine(self.zoom, 0, 0, self.zoom, x, y)

    def to_composition(self, point: QPointF) -> tuple[float, float]:
        """Return a widget point in composition pixels."""
        inverse = self.to_widget.inverse() or Affine()
        return inverse.apply(point.x(), point.y())

    def fit(self) -> None:
        """Show the whole piece."""
        piece = self.session.composition
        self.fits, self._fitted = True, (piece.width, piece.height)
        room = (max(self.width() - 2 * _MARGIN, 40), max(self.height() - 2 * _MARGIN, 40))
        self._zoom_to(min(room[0] / piece.width, room[1] / piece.height), (piece.width / 2, piece.height / 2))

    def zoom_to(self, zoom: float, around: QPointF | None = None) -> None:
        """Zoom to a factor, keeping a widget point where it is."""
        self.fits = False
        around = around if around is not None else QPointF(self.width() / 2, self.height() / 2)
        held = self.to_composition(around)
        zoom = min(max(zoom, 0.02), 32.0)
        centre = (
            held[0] - (around.x() - self.width() / 2) / zoom,
            held[1] - (around.y() - self.height() / 2) / zoom,
        )
        self._zoom_to(zoom, centre)

    def _zoom_to(self, zoom: float, centre: tuple[float, float]) -> None:
        self.zoom, self.centre = zoom, centre
        self.player.set_display_scale(zoom * self.devicePixelRatioF())
        self.zoomed.emit(100 * zoom)
        self.update()

    # -- painting --------------------------------------------------------------------------------------

    def _take_picture(self) -> None:
        pixels = self.player.picture()
        if pixels is not None and pixels is not self._pixels:
            # The image does not own its memory, so the array is kept beside it.
            self._pixels = pixels
            self._image = as_image(pixels, premultiplied=True)
        self.update()

    def _on_composition(self) -> None:
        # Whatever was under way ended before the change, but for an undo that took the composition away.
        self.tool, self.drag, self.guide = None, None, None
        if self.editing is not None:
            self.end_editing()
        self.fit()

    def _on_project(self) -> None:
        if self.tool is not None and not self.tool.settle():
            self.tool = None
        if self.editing is not None and not self.editing.settle():
            self.end_editing()
        piece = self.session.composition
        if self.fits and (piece.width, piece.height) != self._fitted:
            self.fit()
        # With the new picture, so that handles and picture move as one; soon where none comes.
        self._soon.ask()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.fillRect(self.rect(), colour(SURROUND))
        piece, to_widget = self.session.composition, self.to_widget
        left, top, right, bottom = to_widget.box((0, 0, piece.width, piece.height))
        area = QRectF(round(left), round(top), round(right) - round(left), round(bottom) - round(top))
        self.outer.paint(painter, to_widget)
        if self._image is None or self._image.hasAlphaChannel():
            painting.draw_checks(painter, area)
        if self._image is not None:
            painter.drawImage(area, self._image)
        if not self.player.playing:
            self.onion.paint(painter, to_widget)
        paint_overlays(self, painter, to_widget)
        self.ease_preview.paint(painter, to_widget)
        painter.end()

    # -- mouse -----------------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        point = event.position()
        if event.button() == Qt.MouseButton.MiddleButton:
            self._pan = (point, self.centre)
            return
        if event.button() != Qt.MouseButton.LeftButton:
            return
        self.setFocus()
        here = self.to_composition(point)
        if self.editing is not None:
            if self.editing.click(here, keep=bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)):
                self._show_caret_now()
                return
            self.end_editing()
        if self.tool is not None:
            self.tool.press(here, _GRIP / self.zoom, bool(event.modifiers() & Qt.KeyboardModifier.AltModifier))
            self._after_pen()
            return
        self.guide = guide_press(self.session, self.to_widget, point)
        if self.guide is not None:
            return
        self.drag = self._grip_drag(point, here, event)
        if self.drag is None:
            self._press_layer(here, event)

    def _grip_drag(self, point: QPointF, here: tuple[float, float], event: QMouseEvent) -> Drag | None:
        """Return the drag of what can be grabbed around the chosen layers, or None."""
        place = (point.x(), point.y())
        grip = content_grip_at(self.session, self.to_widget, place)
        if grip is not None:
            return ContentDrag.begin(self.session, here, grip)
        group = group_frame(self.session, self.to_widget)
        corner = group.handle_at(place) if group is not None else None
        if group is not None and corner is not None:
            return GroupDrag.begin(self.session, here, group, corner)
        frame = frame_of(self.session, self.to_widget)
        handle = frame.handle_at(place) if frame is not None and not frame.layer.locked else None
        if handle is not None:
            return self._handle_drag(handle, here, bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier))
        pulling = bool(event.modifiers() & Qt.KeyboardModifier.AltModifier)
        on_path = grip_at(self.session, self.to_widget, place, pulling)
        return PathDrag.begin(self.session, here, on_path, pulling) if on_path is not None else None

    def _handle_drag(self, handle: str, here: tuple[float, float], control: bool) -> Drag | None:
        frame = frame_of(self.session, self.to_widget)
        if frame is None:
            return None
        if handle == "turn":
            return TurnDrag.begin(self.session, here, frame)
        if handle == "pivot":
            return PivotDrag.begin(self.session, here, frame)
        if control and len(handle) == 1:
            return SkewDrag.begin(self.session, here, frame, handle)
        return ScaleDrag.begin(self.session, here, frame, handle)

    def _press_layer(self, here: tuple[float, float], event: QMouseEvent) -> None:
        hit = layer_at(self.session, here, 3 / self.zoom)
        several = event.modifiers() & (Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
        if hit is None:
            if not several:
                self.session.inside = None
                self.session.select(())
            return
        hit = self._unit(hit)
        was_chosen = hit.id in self.session.selected
        if not was_chosen:
            self.session.select([*self.session.selected, hit.id] if several else [hit.id])
        # The same keys constrain a drag, so a chosen layer leaves the choice only if it was not dragged.
        self._leaves = hit.id if several and was_chosen else None
        # A backdrop moves only once it is chosen: dragging over it by accident must not shift the scene.
        if not layer_kind(hit.kind).fills_frame or was_chosen:
            self.drag = MoveDrag.begin(self.session, here)

    def _unit(self, hit: Layer) -> Layer:
        """Return what a click on a layer means: its group, or what is directly in the group one works inside."""
        piece = self.session.composition
        unit = unit_at(piece, hit.id, self.session.inside)
        if self.session.inside not in piece.groups_around(unit):
            self.session.inside = None
        return piece.layer(unit)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        point = event.position()
        if self._pan is not None:
            grabbed, centre = self._pan
            moved = point - grabbed
            self.fits = False
            self._zoom_to(self.zoom, (centre[0] - moved.x() / self.zoom, centre[1] - moved.y() / self.zoom))
            return
        here = self.to_composition(point)
        if self.guide is not None:
            ruler = point.x() < RULER if self.guide.axis == 0 else point.y() < RULER
            self.guide.move(here[self.guide.axis], ruler)
        elif self.tool is not None:
            held = bool(event.buttons() & Qt.MouseButton.LeftButton)
            self.tool.move(here, held, bool(event.modifiers() & Qt.KeyboardModifier.AltModifier))
            self.setCursor(Qt.CursorShape.CrossCursor)
            self.update()
        elif self.editing is not None and event.buttons() & Qt.MouseButton.LeftButton:
            self.editing.click(here, keep=True)
            self._show_caret_now()
        elif self.drag is not None:
            keys = event.modifiers()
            shift = bool(keys & Qt.KeyboardModifier.ShiftModifier)
            control = bool(keys & Qt.KeyboardModifier.ControlModifier)
            start = self.drag.start
            # A click trembles; a drag begins after three pixels.
            if abs(here[0] - start[0]) + abs(here[1] - start[1]) > 3 / self.zoom or self.drag.guides:
                self._leaves = None
                self.drag.move(here, shift, control, _SNAP / self.zoom)
        else:
            self._show_cursor(point)

    def _show_cursor(self, point: QPointF) -> None:
        frame = frame_of(self.session, self.to_widget) if self.editing is None else None
        handle = frame.handle_at((point.x(), point.y())) if frame is not None else None
        if self.editing is not None:
            self.setCursor(Qt.CursorShape.IBeamCursor)
        else:
            self.setCursor(_CURSORS[handle] if handle else Qt.CursorShape.ArrowCursor)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._pan = None
        if self.guide is not None:
            self.guide = None
            self.session.close_step()
            return
        if self.tool is not None:
            self.tool.release()
            self._after_pen()
            return
        if self._leaves is not None:
            self.session.select([i for i in self.session.selected if i != self._leaves])
            self._leaves = None
        if self.drag is not None:
            self.drag = None
            self.session.close_step()
            self.update()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        if self.tool is not None:
            self.tool.double_click(self.to_composition(event.position()), _GRIP / self.zoom)
            self._after_pen()
            return
        hit = layer_at(self.session, self.to_composition(event.position()), 3 / self.zoom)
        unit = self._unit(hit) if hit is not None else None
        if hit is None or unit is None:
            return
        if unit.gathers:
            self.session.inside = unit.id
            self.session.select([self._unit(hit).id])
        elif hit.has("text"):
            self.edit_text(hit.id)
        elif hit.has("composition"):
            self.session.go_into(hit)
        elif hit.has("art") and hit.has("form"):
            self.edit_points(hit.id)

    # -- the pen ---------------------------------------------------------------------------------------

    def draw_with_pen(self, masks: bool = False) -> None:
        """Draw a new outline from the next click on, or one that ``masks`` the chosen layer."""
        self.player.stop()
        chosen = self.session.layers
        if masks and not chosen:
            self.session.failed.emit("Choose the layer that is to be masked.")
            return
        self.tool = PenTool(self.session, chosen[0].id if masks else None)
        self.setFocus()
        self.update()

    def edit_chosen_points(self) -> None:
        """Edit the points of the chosen shape."""
        layers = self.session.layers
        if layers and layers[0].has("art") and layers[0].has("form") and not layers[0].locked:
            self.edit_points(layers[0].id)

    def edit_points(self, layer_id: str) -> None:
        """Edit the points of a shape; a plain form becomes a drawing first."""
        self.player.stop()
        self.session.select([layer_id])
        layer = self.session.composition.layer(layer_id)
        if self.session.evaluated().values(layer)["form"] != "drawing":
            form = [p.name for p in layer.parameters if p.needs is not None and p.needs[0] in ("form", "paint")]
            lost = would_lose(self.session.composition, [layer_id], form)
            if lost and not may_lose("A drawing keeps the form as it is on this frame", lost):
                return
            self.session.edit_layers(
                "Make it a drawing", lambda old: as_drawing(self.session.evaluated(), old), [layer_id]
            )
        self.tool = Points(self.session, layer_id)
        self.setFocus()
        self.update()

    def crop_frame(self) -> None:
        """Crop or enlarge the composition by dragging its edges."""
        self.player.stop()
        self.session.select(())
        self.tool = FrameTool(self.session)
        self.setFocus()
        self.update()

    def end_pen(self) -> None:
        """Put the pen away; what is drawn so far becomes a layer."""
        if isinstance(self.tool, PenTool) and not self.tool.done:
            self.tool.finish(closed=False)
        self.tool = None
        self.session.close_step()
        self.update()

    def _after_pen(self) -> None:
        if self.tool is not None and self.tool.done:
            self.end_pen()
        self.update()

    def wheelEvent(self, event: QWheelEvent) -> None:
        steps = event.angleDelta().y() / 120
        if steps:
            self.zoom_to(self.zoom * 1.2**steps, event.position())

    # -- typing ----------------------------------------------------------------------------------------

    def edit_text(self, layer_id: str) -> None:
        """Start typing in a text layer, with all its words chosen."""
        self.player.stop()
        self.drag = None
        self.session.select([layer_id])
        self.editing = TextEditing(self.session, layer_id)
        self._blink.start(530)
        self.setFocus()
        self._show_caret_now()

    def end_editing(self) -> None:
        """Stop typing; the words stay."""
        self.editing = None
        self._blink.stop()
        self.session.close_step()
        self.caretMoved.emit()
        self.update()

    def end_everything(self) -> None:
        """Stop typing and put the pen away, before something else begins; words and outlines stay."""
        self.drag = self.guide = None
        if self.editing is not None:
            self.end_editing()
        if self.tool is not None:
            self.end_pen()

    def edit_words(self, what: str) -> bool:
        """Let a command mean the letters being typed (``copy``, ``paste``, ``delete``, ``choose_all``), if any are."""
        if self.editing is None:
            return False
        self.editing.command(what)
        self._show_caret_now()
        return True

    def _show_caret_now(self) -> None:
        self.lit = True
        self.caretMoved.emit()
        self.update()

    def show_caret(self) -> None:
        """Keep the caret lit instead of blinking, as a still picture needs it."""
        self._blink.stop()
        self.lit = True
        self.update()

    def _toggle_caret(self) -> None:
        self.lit = not self.lit
        self.update()

    # -- keys ------------------------------------------------------------------------------------------

    def event(self, event: QEvent) -> bool:
        # While typing, letters and arrows belong to the words, not to the window's shortcuts; undo, save and the like
        # stay what they are.
        if event.type() == QEvent.Type.ShortcutOverride and self.editing is not None:
            event.setAccepted(isinstance(event, QKeyEvent) and self.editing.takes(event))
            return True
        # While the pen is out, Delete and Backspace mean its points and not the layer.
        pens = event.type() == QEvent.Type.ShortcutOverride and self.tool is not None
        if pens and isinstance(event, QKeyEvent) and event.key() in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            event.accept()
            return True
        if event.type() == QEvent.Type.KeyPress and self.editing is not None:
            self.keyPressEvent(event)  # Tab included, which would move the focus otherwise
            return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if self.editing is not None:
            if not self.editing.key(event):
                self.end_editing()
            self._show_caret_now()
            return
        if self.tool is not None and self.tool.key(event):
            self._after_pen()
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
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self._one_text() is not None:
            self.edit_text(self.session.layers[0].id)
        elif event.key() == Qt.Key.Key_Escape and self.session.inside is not None:
            inside = self.session.inside
            self.session.inside = self.session.composition.group_of.get(inside)
            self.session.select([inside])
        else:
            super().keyPressEvent(event)

    def _one_text(self) -> Layer | None:
        layers = self.session.layers
        return layers[0] if len(layers) == 1 and layers[0].has("text") else None

    def focusOutEvent(self, event: QFocusEvent) -> None:
        widget = QApplication.focusWidget()
        beside = self.text_bar is not None and widget is not None and self.text_bar.isAncestorOf(widget)
        if self.editing is not None and event.reason() == Qt.FocusReason.MouseFocusReason and not beside:
            self.end_editing()
        super().focusOutEvent(event)

    def resizeEvent(self, event: QResizeEvent) -> None:
        if self.fits:
            self.fit()
