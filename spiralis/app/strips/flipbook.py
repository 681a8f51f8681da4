"""The strip of a chosen flipbook's drawings: reorder by drag, type how long each stays."""

from __future__ import annotations

from fractions import Fraction

from PyQt6.QtCore import QEvent, QPointF, QRectF, Qt
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QScrollArea, QVBoxLayout, QWidget

from spiralis.app.session import Session
from spiralis.app.sources.entries import Entry, entry_picture
from spiralis.app.style import CHOSEN, GROUND, LINE, MARIGOLD, QUIET, TEXT, colour, font
from spiralis.app.widgets.fields import NumberField
from spiralis.app.widgets.own_keys import claims
from spiralis.app.work.background import SmallPictures
from spiralis.app.work.gesture import TakesBack
from spiralis.app.work.soon import Soon
from spiralis.core.model import Layer
from spiralis.core.raster.kinds.flipbook import drawing_at

CELL, PICTURE, GAP = 62, 46, 4
_OWN_KEYS = (Qt.Key.Key_Delete, Qt.Key.Key_Backspace, Qt.Key.Key_Insert, Qt.Key.Key_Left, Qt.Key.Key_Right)
Drawings = tuple[tuple[str, int], ...]


class FlipbookStrip(QWidget):
    """Shows itself where exactly one flipbook is chosen."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setObjectName("Panel")
        self.setFixedHeight(132)
        self.cells = DrawingCells(session)
        self.total = QLabel()
        self.total.setObjectName("Quiet")
        self.stays = NumberField("Stays", "f", 1, 100_000, decimals=0)
        self.stays.setFixedWidth(64)
        self.stays.changed.connect(self.cells.set_exposure)
        self.stays.finished.connect(session.close_step)
        self.stays.refused.connect(session.failed)
        head = QHBoxLayout()
        title = QLabel("Drawings")
        title.setObjectName("Title")
        head.addWidget(title)
        head.addWidget(self.total, 1)
        head.addWidget(QLabel("Chosen one stays"))
        head.addWidget(self.stays)
        area = QScrollArea()
        area.setWidget(self.cells)
        area.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 6, 12, 4)
        column.setSpacing(4)
        column.addLayout(head)
        column.addWidget(area, 1)
        self._soon = Soon(self, self.refresh)
        for signal in (session.projectChanged, session.frameChanged):
            signal.connect(self._soon.ask)
        for signal in (session.selectionChanged, session.compositionChanged):
            signal.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Show the chosen flipbook, or nothing."""
        layer = self.cells.layer
        self.setVisible(layer is not None)
        if layer is None:
            return
        drawings: Drawings = layer.track("drawings").value
        values = self.session.evaluated().values(layer)
        frames = sum(stay for _, stay in drawings)
        rate = values["own_rate"]
        self.total.setText(f"{frames} f = {frames / rate:.2f} s")
        self.total.setToolTip(f"{len(drawings)} drawings in turn, {frames} frames at {rate:g} fps")
        self.cells.fit()
        if drawings:
            self.stays.show_value(float(drawings[min(self.cells.chosen, len(drawings) - 1)][1]))
        self.stays.setEnabled(bool(drawings) and not layer.locked)


class DrawingCells(QWidget):
    """The drawings side by side, each as wide as its place in the order; the one on show is lit."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.chosen = 0
        self.pictures = SmallPictures(self)
        self.pictures.made.connect(self.update)
        self._drag: tuple[int, float] | None = None
        self._target: int | None = None
        TakesBack(self, self._let_go)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Drawings in their order")
        self.setToolTip("Click to choose, drag to reorder, type a number and Enter for how long it stays")

    @property
    def layer(self) -> Layer | None:
        """The flipbook that is chosen alone, or None."""
        layers = self.session.layers
        return layers[0] if len(layers) == 1 and layers[0].has("drawings") else None

    @property
    def drawings(self) -> Drawings:
        """The drawings in their order."""
        return self.layer.track("drawings").value if self.layer is not None else ()

    def fit(self) -> None:
        """Take the room that the drawings need."""
        self.setFixedSize(max(len(self.drawings) * (CELL + GAP), 10), 78)
        self.update()

    def cell(self, index: int) -> QRectF:
        """Return where a drawing stands."""
        return QRectF(index * (CELL + GAP), 2, CELL, 72)

    def _change(self, name: str, drawings: Drawings, merge: str | None = None) -> None:
        if self.layer is not None and not self.layer.locked and drawings != self.drawings:
            self.session.set_property("drawings", drawings, merge=merge)

    def set_exposure(self, frames: float) -> None:
        """Let the chosen drawing stay for so many frames."""
        drawings = list(self.drawings)
        if self.chosen < len(drawings):
            drawings[self.chosen] = (drawings[self.chosen][0], int(frames))
            self._change("Exposure", tuple(drawings), merge=f"exposure-{self.chosen}")

    # -- mouse and keys ----------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        index = int(event.position().x() // (CELL + GAP))
        if 0 <= index < len(self.drawings):
            self.chosen = index
            self._drag = (index, event.position().x())
            self._go_to(index)
        self._tell()

    def _go_to(self, index: int) -> None:
        """Move the playhead to where a drawing begins, in the flipbook's first round."""
        layer = self.layer
        if layer is None:
            return
        values = self.session.evaluated().values(layer)
        own = Fraction(sum(stay for _, stay in self.drawings[:index]))
        seconds = own / Fraction(values["own_rate"]).limit_denominator(100_000)
        if values["speed"] > 0 and not values["fit"]:
            seconds = seconds * 100 / Fraction(values["speed"])
            frame = Fraction(values["start"]) + seconds * self.session.composition.rate
            self.session.go_to(-int(-frame // 1))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._drag is None or abs(event.position().x() - self._drag[1]) < 6:
            return
        place = event.position().x() / (CELL + GAP)
        self._target = min(max(round(place), 0), len(self.drawings))
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._drag is not None and self._target is not None:
            self.move(self._drag[0], self._target)
        self._let_go()
        self._tell()

    def _let_go(self) -> None:
        self._drag = self._target = None
        self.update()

    def move(self, index: int, target: int) -> None:
        """Put a drawing before another place of the order."""
        drawings = list(self.drawings)
        moved = drawings.pop(index)
        target -= target > index
        drawings.insert(target, moved)
        self.chosen = target
        self._change("Reorder drawings", tuple(drawings))

    def event(self, event: QEvent) -> bool:
        # While the strip has the focus, these keys mean drawings and not layers.
        return claims(event, _OWN_KEYS) or super().event(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        drawings = self.drawings
        if event.key() in (Qt.Key.Key_Left, Qt.Key.Key_Right) and drawings:
            step = 1 if event.key() == Qt.Key.Key_Right else -1
            if event.modifiers() & Qt.KeyboardModifier.AltModifier:
                target = min(max(self.chosen + step, 0), len(drawings) - 1)
                self.move(self.chosen, target + (step > 0))
            else:
                self.chosen = (self.chosen + step) % len(drawings)
            self._tell()
        elif event.key() in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace) and len(drawings) > 1:
            self._change("Remove drawing", drawings[: self.chosen] + drawings[self.chosen + 1 :])
            self.chosen = min(self.chosen, len(self.drawings) - 1)
            self._tell()
        elif event.key() == Qt.Key.Key_Insert and drawings:
            again = (*drawings[: self.chosen + 1], *drawings[self.chosen :])
            self._change("Repeat drawing", again)
            self._tell()
        elif event.text().isdigit() and event.text() != "0":
            field = self.parentStrip().stays
            field.setFocus()
            field.begin_typing()
            field.setText(event.text())
        else:
            super().keyPressEvent(event)

    def parentStrip(self) -> FlipbookStrip:
        """Return the strip that these cells stand in."""
        widget = self.parentWidget()
        while not isinstance(widget, FlipbookStrip):
            widget = widget.parentWidget()
        return widget

    def _tell(self) -> None:
        self.parentStrip().refresh()

    # -- painting ----------------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        layer = self.layer
        if layer is None:
            return
        at = self.session.evaluated()
        shown = drawing_at(at.values(layer), at.scene_for(layer)) if layer.shown_at(self.session.frame) else None
        for index, (source, stay) in enumerate(self.drawings):
            self._draw_cell(painter, index, source, stay, index == shown)
        if self._target is not None:
            x = self._target * (CELL + GAP) - GAP / 2
            painter.setPen(QPen(colour(MARIGOLD), 2.5))
            painter.drawLine(QPointF(x, 2), QPointF(x, 74))
        painter.end()

    def _draw_cell(self, painter: QPainter, index: int, source_id: str, stay: int, shown: bool) -> None:
        area = self.cell(index)
        chosen = index == self.chosen
        painter.setPen(QPen(colour(MARIGOLD if shown else LINE), 1.6 if shown else 1))
        painter.setBrush(colour(CHOSEN if chosen else GROUND))
        painter.drawRoundedRect(area.adjusted(1, 1, -1, -1), 6, 6)
        project = self.session.project
        source = project.source(source_id)
        box = QRectF(area.left() + (CELL - PICTURE) / 2, area.top() + 5, PICTURE, PICTURE)
        if source is not None:
            entry = Entry("", source_id, source.name, "", sort=source.sort)
            key = (source.digest, source.missing)
            pixmap = self.pictures.of(key, lambda: entry_picture(project, entry, 2 * PICTURE))
            if pixmap is not None and not pixmap.isNull():
                size = pixmap.deviceIndependentSize()
                place = QRectF(0, 0, size.width(), size.height())
                place.moveCenter(box.center())
                painter.drawPixmap(place.topLeft(), pixmap)
        painter.setFont(font(12, 600, tabular=True))
        painter.setPen(colour(TEXT if chosen or shown else QUIET))
        words = QRectF(area.left(), area.bottom() - 20, CELL, 18)
        painter.drawText(words, Qt.AlignmentFlag.AlignCenter, f"{stay} f")
