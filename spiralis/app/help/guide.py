"""The guide in a window of its own, read from the files that come with the program."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import Qt, QUrl
from PyQt6.QtGui import QDesktopServices, QTextBlockFormat, QTextCharFormat, QTextCursor, QTextDocument
from PyQt6.QtWidgets import (
    QDialog,
    QHBoxLayout,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QTextBrowser,
    QTextEdit,
    QVBoxLayout,
    QWidget,
)

from spiralis.app.style import GROUND, MARIGOLD, MINT, TEXT, colour
from spiralis.app.widgets.text_fields import TextField

FOLDER = Path(__file__).parents[2] / "assets" / "help"
_STYLE = f"""
a {{ color: {MINT}; }} h1 {{ color: {TEXT}; font-size: 22px; }} h2 {{ font-size: 17px; }} code {{ color: {MARIGOLD}; }}
"""


def guide_pages() -> list[Path]:
    """Return the pages in the order of the guide's own list, the list first, and what it refers to last."""
    first = FOLDER / "guide" / "README.md"
    lines = [line for line in first.read_text(encoding="utf-8").splitlines() if "](" in line]
    named = [line.split("](")[1].split(")")[0] for line in lines]
    return [first, *(FOLDER / "guide" / name for name in named), FOLDER / "effects.md"]


def page_title(path: Path) -> str:
    """Return the heading that a page begins with."""
    return path.read_text(encoding="utf-8").partition("\n")[0].lstrip("# ").strip()


class GuideWindow(QDialog):
    """Pages at the left, what is searched above them, the page at the right."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle("Guide")
        self.resize(940, 680)
        self.search = TextField()
        self.search.setPlaceholderText("Search the guide")
        self.search.setAccessibleName("Search the guide")
        self.search.setClearButtonEnabled(True)
        self.search.textChanged.connect(self._filter)
        self.search.returnPressed.connect(self.find_next)
        self.pages = QListWidget()
        self.pages.setAccessibleName("Pages of the guide")
        self.pages.setFixedWidth(220)
        self.pages.setStyleSheet("QListWidget::item { padding: 5px 6px; }")
        self.text = QTextBrowser()
        self.text.setAccessibleName("Page of the guide")
        self.text.setOpenLinks(False)
        self.text.anchorClicked.connect(self._follow)
        self.text.document().setDefaultStyleSheet(_STYLE)
        self.text.setStyleSheet(f"QTextBrowser {{ background: {GROUND}; padding: 12px 18px; font-size: 14px; }}")
        close = QPushButton("Close")
        close.setAutoDefault(False)
        close.clicked.connect(self.reject)
        left = QVBoxLayout()
        left.addWidget(self.search)
        left.addWidget(self.pages, 1)
        left.addWidget(close)
        row = QHBoxLayout(self)
        row.setSpacing(12)
        row.addLayout(left)
        row.addWidget(self.text, 1)
        for path in guide_pages():
            item = QListWidgetItem(page_title(path))
            item.setData(Qt.ItemDataRole.UserRole, path)
            self.pages.addItem(item)
        self.pages.currentItemChanged.connect(self._show_current)
        self.pages.setCurrentRow(0)
        self.search.setFocus()

    @property
    def page(self) -> Path:
        """The page that is shown."""
        path: Path = self.pages.currentItem().data(Qt.ItemDataRole.UserRole)
        return path

    def show_page(self, path: Path) -> bool:
        """Show a page of the guide; False where it is none."""
        for row in range(self.pages.count()):
            item = self.pages.item(row)
            if item.data(Qt.ItemDataRole.UserRole).resolve() == path.resolve():
                item.setHidden(False)
                self.pages.setCurrentItem(item)
                return True
        return False

    def _show_current(self) -> None:
        if self.pages.currentItem() is None:
            return
        self.text.setSearchPaths([str(self.page.parent)])
        self.text.setSource(QUrl.fromLocalFile(str(self.page)), QTextDocument.ResourceType.MarkdownResource)
        self._give_room()
        self._light_up()

    def _give_room(self) -> None:
        """Part paragraphs and lines, which Markdown leaves tight."""
        cursor = QTextCursor(self.text.document())
        while not cursor.isNull():
            room = cursor.blockFormat()
            room.setBottomMargin(10)
            room.setLineHeight(130, QTextBlockFormat.LineHeightTypes.ProportionalHeight.value)
            cursor.setBlockFormat(room)
            if not cursor.movePosition(QTextCursor.MoveOperation.NextBlock):
                break
        self.text.moveCursor(QTextCursor.MoveOperation.Start)

    def _follow(self, link: QUrl) -> None:
        if link.scheme() in ("http", "https"):
            QDesktopServices.openUrl(link)
        else:
            self.show_page((self.page.parent / link.path()).absolute())

    def _filter(self) -> None:
        """Keep the pages that hold the words, and show the first of them."""
        words = self.search.text().strip().lower()
        shown = []
        for row in range(self.pages.count()):
            item = self.pages.item(row)
            holds = words in item.data(Qt.ItemDataRole.UserRole).read_text(encoding="utf-8").lower()
            item.setHidden(not holds)
            if holds:
                shown.append(item)
        if shown and self.pages.currentItem() not in shown:
            self.pages.setCurrentItem(shown[0])
        self._light_up()
        self.text.moveCursor(QTextCursor.MoveOperation.Start)
        self.find_next()

    def find_next(self) -> None:
        """Go to the next place of the words, from the start again after the last."""
        words = self.search.text().strip()
        if words and not self.text.find(words):
            self.text.moveCursor(QTextCursor.MoveOperation.Start)
            self.text.find(words)

    def _light_up(self) -> None:
        """Mark every place of the words on the page."""
        words, places = self.search.text().strip(), []
        mark = QTextCharFormat()
        mark.setBackground(colour(MARIGOLD, 0.35))
        cursor = self.text.document().find(words) if words else QTextCursor()
        while not cursor.isNull():
            selection = QTextEdit.ExtraSelection()
            selection.cursor, selection.format = QTextCursor(cursor), mark
            places.append(selection)
            cursor = self.text.document().find(words, cursor)
        self.text.setExtraSelections(places)
