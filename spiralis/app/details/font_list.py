"""The font field: a family's name in its own letters; a click opens a list that shows all families so."""

from __future__ import annotations

from pathlib import Path

import numpy as np
from attrs import frozen
from PyQt6.QtCore import QEvent, QModelIndex, QObject, QPoint, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QPainter
from PyQt6.QtWidgets import (
    QDialog,
    QDialogButtonBox,
    QFormLayout,
    QFrame,
    QLabel,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QVBoxLayout,
    QWidget,
)

from spiralis.app.session import Session
from spiralis.app.style import CHOSEN, MARIGOLD, QUIET, TEXT, colour, font
from spiralis.app.widgets.text_fields import TextField
from spiralis.app.work.background import Background, SmallPictures
from spiralis.core.colour import parse_hex
from spiralis.core.editing.wording import with_font_files, with_font_replaced
from spiralis.core.errors import SpiralisError
from spiralis.core.model import Composition, Layer, Project
from spiralis.core.raster.fonts import families, missing_families
from spiralis.core.raster.system_fonts import system_families
from spiralis.core.render.frame import render_rgba8

_ROW, _NAME = 30, Qt.ItemDataRole.UserRole
_SIZE = (230, 26)


@frozen
class Family:
    """A family to choose: its name, and the files it is installed in where the project does not have it."""

    name: str
    files: tuple[Path, ...] = ()


def sample_pixels(project: Project, family: Family, tint: str = TEXT) -> np.ndarray | None:
    """Return premultiplied uint8 pixels of a family's name in its own letters."""
    from fractions import Fraction

    if family.files:
        project = with_font_files(Project(), family.files[:1])
    width, height = 2 * _SIZE[0], 2 * _SIZE[1]
    words = Layer("Name", "text", 0, 1).with_values(
        text=family.name, font=family.name, size=34.0, fill=parse_hex(tint), pivot=(0.0, 50.0),
        position=(2.0, height / 2), alignment="left",
    )  # fmt: skip
    piece = Composition("Sample", width, height, Fraction(1), 1, layers=(words,))
    return render_rgba8(Project("Sample", (piece,), project.sources), piece.id, 0)


class FontField(QPushButton):
    """Shows a family and lets another be chosen; one that is only installed is taken into the project."""

    chosen = pyqtSignal(str)

    def __init__(self, session: Session, label: str = "Font") -> None:
        super().__init__()
        self.session = session
        self.family = ""
        self.setAccessibleName(label)
        self.setToolTip("The family the words are set in: click to choose")
        self.setStyleSheet("text-align: left; padding: 3px 8px;")
        self.clicked.connect(self.open)
        self.popup: FontList | None = None

    def show_value(self, family: str) -> None:
        """Show a family from outside."""
        self.family = family
        missing = family not in families(self.session.project)
        self.setText(f"{family} (missing)" if missing else family or "as the layer")

    def open(self) -> None:
        """Open the list under the field."""
        self.popup = FontList(self.session, self)
        self.popup.chosen.connect(self._take)
        self.popup.open_at(self)

    def _take(self, family: Family) -> None:
        if family.files:
            try:
                project = with_font_files(self.session.project, family.files)
            except SpiralisError as error:
                self.session.failed.emit(str(error))
                return
            self.session.edit_project(f"Take {family.name} along", project)
        self.show_value(family.name)
        self.chosen.emit(family.name)


class FontList(QFrame):
    """All families with a field to search them: the project's and the shipped ones first, then the installed ones."""

    chosen = pyqtSignal(object)

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__(parent, Qt.WindowType.Popup)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.setObjectName("Panel")
        self.session = session
        self.search = TextField()
        self.search.setPlaceholderText("Search fonts")
        self.search.setAccessibleName("Search fonts")
        self.search.textChanged.connect(self._filter)
        self.search.installEventFilter(self)
        self.rows = QListWidget()
        self.rows.setAccessibleName("Fonts")
        self.pictures = SmallPictures(self)
        self.pictures.made.connect(self.rows.viewport().update)
        self.rows.setItemDelegate(_Rows(self))
        self.rows.itemClicked.connect(self._pick)
        self.rows.itemActivated.connect(self._pick)
        column = QVBoxLayout(self)
        column.setContentsMargins(8, 8, 8, 8)
        column.setSpacing(6)
        column.addWidget(self.search)
        column.addWidget(self.rows, 1)
        self.setFixedSize(280, 380)
        for name in families(session.project):
            self._add(Family(name))
        self.background = Background(self)
        self.background.run(system_families, self._add_installed)

    def open_at(self, widget: QWidget) -> None:
        """Show the list beside a widget, within the screen."""
        corner = widget.mapToGlobal(QPoint(0, widget.height() + 2))
        screen = widget.screen().availableGeometry()
        corner.setX(min(corner.x(), screen.right() - self.width()))
        corner.setY(max(min(corner.y(), screen.bottom() - self.height()), screen.top()))
        self.move(corner)
        self.show()
        self.search.setFocus()

    def _add(self, family: Family) -> None:
        item = QListWidgetItem()
        item.setData(_NAME, family)
        item.setData(Qt.ItemDataRole.AccessibleTextRole, family.name)
        item.setSizeHint(QSize(200, _ROW))
        if family.files:
            item.setToolTip(f"Installed on this machine; choosing it takes {family.files[0].name} into the project")
        self.rows.addItem(item)

    def _add_installed(self, found: dict[str, tuple[Path, ...]] | Exception) -> None:
        if isinstance(found, Exception):
            return
        known = set(families(self.session.project))
        for name, files in found.items():
            if name not in known:
                self._add(Family(name, files))
        self._filter(self.search.text())

    def _filter(self, text: str) -> None:
        for row in range(self.rows.count()):
            item = self.rows.item(row)
            item.setHidden(text.strip().lower() not in item.data(_NAME).name.lower())

    def _pick(self, item: QListWidgetItem) -> None:
        family = item.data(_NAME)
        self.close()
        self.chosen.emit(family)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.KeyPress and isinstance(event, QKeyEvent):
            shown = [r for r in range(self.rows.count()) if not self.rows.item(r).isHidden()]
            if event.key() in (Qt.Key.Key_Down, Qt.Key.Key_Up) and shown:
                at = shown.index(self.rows.currentRow()) if self.rows.currentRow() in shown else -1
                step = 1 if event.key() == Qt.Key.Key_Down else -1
                self.rows.setCurrentRow(shown[(at + step) % len(shown)])
                return True
            if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and shown:
                at = self.rows.currentRow() if self.rows.currentRow() in shown else shown[0]
                self._pick(self.rows.item(at))
                return True
        return super().eventFilter(watched, event)


class _Rows(QStyledItemDelegate):
    """Draws a family in its own letters, and where it comes from."""

    def __init__(self, owner: FontList) -> None:
        super().__init__(owner)
        self.owner = owner

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        family: Family = index.data(_NAME)
        area = option.rect
        lit = bool(option.state & (QStyle.StateFlag.State_Selected | QStyle.StateFlag.State_MouseOver))
        if lit:
            painter.fillRect(area, colour(CHOSEN))
        project = self.owner.session.project
        pixmap = self.owner.pictures.of(family, lambda: sample_pixels(project, family))
        if pixmap is None or pixmap.isNull():
            painter.setPen(colour(MARIGOLD if lit else TEXT))
            painter.setFont(font(14))
            painter.drawText(area.adjusted(6, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, family.name)
        else:
            painter.drawPixmap(area.left() + 6, area.top() + (area.height() - _SIZE[1]) // 2, pixmap)
        if family.files:
            painter.setPen(colour(QUIET))
            painter.setFont(font(10))
            flags = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight
            painter.drawText(area.adjusted(0, 0, -6, 0), flags, "installed")


class MissingFontsDialog(QDialog):
    """Names each missing family with a field to choose what stands in for it, everywhere in the project."""

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__(parent)
        self.session = session
        self.setWindowTitle("Missing fonts")
        self.setMinimumWidth(420)
        self.fields: dict[str, FontField] = {}
        form = QFormLayout()
        form.setHorizontalSpacing(14)
        for name in missing_families(session.project):
            field = FontField(session, f"In place of {name}")
            field.setText("Choose another…")
            field.chosen.connect(lambda new, old=name: self._replace(old, new))
            form.addRow(name, field)
            self.fields[name] = field
        note = QLabel("Words set in a missing font are shown in Inter. What you choose takes its place everywhere.")
        note.setObjectName("Quiet")
        note.setWordWrap(True)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Close)
        buttons.rejected.connect(self.reject)
        column = QVBoxLayout(self)
        column.setSpacing(12)
        column.addWidget(note)
        column.addLayout(form)
        column.addWidget(buttons)

    def _replace(self, old: str, new: str) -> None:
        self.session.edit_project(f"{new} in place of {old}", with_font_replaced(self.session.project, old, new),
                                  locked_too=True)
