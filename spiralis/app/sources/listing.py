"""The drawer's list: headings and rows with pictures, painted by hand; rows can be dragged out."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, QMimeData, QModelIndex, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QDrag, QFontMetrics, QKeyEvent, QPainter, QPen, QPixmap
from PyQt6.QtWidgets import QListWidget, QListWidgetItem, QStyle, QStyledItemDelegate, QStyleOptionViewItem, QWidget

from spiralis.app.session import Session
from spiralis.app.sources.entries import COMPOSITIONS, LAYERED, Entry, entry_picture
from spiralis.app.style import ALARM, CHOSEN, GROUND, LINE, MARIGOLD, QUIET, RAISED, TEXT, TILE, colour, font
from spiralis.app.work.background import SmallPictures

MIME = "application/x-spiralis-source"
ENTRY = Qt.ItemDataRole.UserRole
PICTURE = 40
_ROW, _HEADING = 52, 28
_KEYS = {Qt.Key.Key_F2: "Rename", Qt.Key.Key_Delete: "Remove", Qt.Key.Key_Backspace: "Remove"}


class SourceList(QListWidget):
    """Rows of entries under headings. ``asked`` carries an entry that was double-clicked or entered."""

    asked = pyqtSignal(object)
    #: A key asked for one of the things that can be done to the chosen row.
    keyed = pyqtSignal(str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.pictures = SmallPictures(self)
        self.pictures.made.connect(self._repaint)
        self.setItemDelegate(_Rows(self))
        self.setAccessibleName("Sources")
        self.setDragEnabled(True)
        self.setMouseTracking(True)
        self.setSelectionMode(QListWidget.SelectionMode.SingleSelection)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setVerticalScrollMode(QListWidget.ScrollMode.ScrollPerPixel)
        self.setStyleSheet("QListWidget { background: transparent; border: none; outline: 0; }")
        self.itemDoubleClicked.connect(self._ask)

    def _repaint(self) -> None:
        self.viewport().update()

    def show_entries(self, entries: list[Entry]) -> None:
        """Show these rows; the chosen one stays chosen where it is still there."""
        held = self.entry()
        kept = held.id if held is not None else None
        scroll = self.verticalScrollBar().value()
        self.clear()
        group = None
        for entry in entries:
            if entry.listed_under != group:
                group = entry.listed_under
                heading = QListWidgetItem(group)
                heading.setFlags(Qt.ItemFlag.NoItemFlags)
                self.addItem(heading)
            item = QListWidgetItem(entry.name)
            item.setData(ENTRY, entry)
            item.setToolTip(_tip(entry))
            self.addItem(item)
            if entry.id == kept:
                self.setCurrentItem(item)
        self.verticalScrollBar().setValue(scroll)

    def entry(self) -> Entry | None:
        """Return the chosen row."""
        item = self.currentItem()
        return item.data(ENTRY) if item is not None else None

    def picture_of(self, entry: Entry) -> QPixmap | None:
        """Return what an entry looks like, or None while it is being made."""
        project = self.session.project
        piece = project.find(entry.id)
        source = project.source(entry.id)
        shown = (
            id(piece) if piece is not None else (source.digest, source.missing) if source is not None else entry.file
        )
        found = self.pictures.of((entry.id, shown), lambda: entry_picture(project, entry, 2 * PICTURE))
        return found if found is not None and not found.isNull() else None

    def _ask(self, item: QListWidgetItem) -> None:
        if item.data(ENTRY) is not None:
            self.asked.emit(item.data(ENTRY))

    def event(self, event: QEvent) -> bool:
        if event.type() == QEvent.Type.ShortcutOverride and isinstance(event, QKeyEvent) and event.key() in _KEYS:
            # What these keys do to layers elsewhere must not happen while a row is chosen here.
            event.accept()
            return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in _KEYS and self.entry() is not None:
            self.keyed.emit(_KEYS[Qt.Key(event.key())])
            return
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.entry() is not None:
            self.asked.emit(self.entry())
            return
        super().keyPressEvent(event)

    def startDrag(self, actions: Qt.DropAction) -> None:
        entry = self.entry()
        if entry is None or (entry.group != COMPOSITIONS and not entry.shows):
            return
        mime = QMimeData()
        mime.setData(MIME, entry.id.encode())
        drag = QDrag(self)
        drag.setMimeData(mime)
        picture = self.picture_of(entry)
        if picture is not None:
            drag.setPixmap(picture)
        drag.exec(Qt.DropAction.CopyAction)


def _tip(entry: Entry) -> str:
    where = f"\n{entry.file}" if entry.file else ""
    action = {
        COMPOSITIONS: "Double-click opens it; drag it onto the canvas to show it here",
        LAYERED: "Double-click compares it with the file",
    }.get(entry.group, "Double-click or drag adds it to the piece")
    if entry.sort is not None and entry.sort.use:
        action = entry.sort.use
    return f"{entry.name}{where}\n{action}"


class _Rows(QStyledItemDelegate):
    """Paints headings and rows."""

    def __init__(self, owner: SourceList) -> None:
        super().__init__(owner)
        self.owner = owner

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex) -> QSize:
        return QSize(100, _HEADING if index.data(ENTRY) is None else _ROW)

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        area = QRectF(option.rect)
        entry: Entry | None = index.data(ENTRY)
        if entry is None:
            painter.setFont(font(11, 600))
            painter.setPen(colour(QUIET))
            painter.drawText(area.adjusted(12, 6, 0, 0), Qt.AlignmentFlag.AlignVCenter, index.data().upper())
        else:
            chosen = bool(option.state & QStyle.StateFlag.State_Selected)
            hovered = bool(option.state & QStyle.StateFlag.State_MouseOver)
            if chosen or hovered:
                painter.setPen(Qt.PenStyle.NoPen)
                painter.setBrush(colour(CHOSEN if chosen else RAISED))
                painter.drawRoundedRect(area.adjusted(6, 1, -6, -1), 6, 6)
            self._draw(painter, area, entry, chosen)
        painter.restore()

    def _draw(self, painter: QPainter, area: QRectF, entry: Entry, chosen: bool) -> None:
        box = QRectF(area.left() + 12, area.top() + 6, PICTURE, PICTURE)
        painter.setPen(QPen(colour(ALARM), 1.4, Qt.PenStyle.DashLine) if entry.missing else QPen(colour(LINE), 1))
        painter.setBrush(colour(GROUND if entry.missing or entry.sets_words else TILE))
        painter.drawRoundedRect(box, 5, 5)
        picture = self.owner.picture_of(entry)
        if picture is not None:
            size = picture.deviceIndependentSize()
            place = QRectF(0, 0, size.width(), size.height())
            place.moveCenter(box.center())
            painter.drawPixmap(place.topLeft(), picture)
        elif entry.sets_words:
            painter.setFont(font(17, 600))
            painter.setPen(colour(QUIET))
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, "Ag")
        left = box.right() + 10
        uses = f"{entry.uses} ×" if entry.uses else "unused" if entry.sort is not None else ""
        painter.setFont(font(11, 400, tabular=True))
        room = painter.fontMetrics().horizontalAdvance(uses)
        right = area.right() - 14
        painter.setPen(colour(QUIET))
        painter.drawText(QRectF(right - room, area.top() + 6, room + 2, 20), Qt.AlignmentFlag.AlignVCenter, uses)
        painter.setFont(font(13, 600))
        painter.setPen(colour(MARIGOLD if chosen else TEXT))
        name = _elided(painter.fontMetrics(), entry.name, right - room - 8 - left)
        painter.drawText(QRectF(left, area.top() + 6, right - left, 20), Qt.AlignmentFlag.AlignVCenter, name)
        painter.setFont(font(12, 400, tabular=True))
        painter.setPen(colour(ALARM if entry.missing else QUIET))
        detail = _elided(painter.fontMetrics(), entry.detail, right - left)
        painter.drawText(QRectF(left, area.top() + 26, right - left, 18), Qt.AlignmentFlag.AlignVCenter, detail)


def _elided(metrics: QFontMetrics, text: str, room: float) -> str:
    return metrics.elidedText(text, Qt.TextElideMode.ElideMiddle, max(int(room), 10))


def opaque(widget: QWidget) -> None:
    """Let a widget paint its own ground although it lies over others."""
    widget.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
