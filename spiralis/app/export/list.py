"""The export list as rows: progress, pause, order, again, and what to do with a file that is there."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import Qt, QUrl
from PyQt6.QtGui import QDesktopServices, QGuiApplication
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QLabel, QProgressBar, QPushButton, QScrollArea, QVBoxLayout, QWidget

from spiralis.app.export.queue import DONE, FAILED, PAUSED, STOPPED, WAITING, WRITING, ExportQueue, Item
from spiralis.core.arithmetic import size_text
from spiralis.core.media.exporters import ExportProgress

#: The list is no higher, in px.
_HIGH = 122


def progress_text(progress: ExportProgress) -> str:
    """Return how far an export is, in words."""
    left = f"{int(progress.left) // 60}:{int(progress.left) % 60:02d} left"
    return f"{progress.done} of {progress.total} frames, {progress.rate:.1f} frames a second, {left}"


class ItemRow(QFrame):
    """One file of the list."""

    def __init__(self, queue: ExportQueue, item: Item) -> None:
        super().__init__()
        self.queue, self.item = queue, item
        self.words = QLabel()
        self.words.setMinimumWidth(120)
        self.bar = QProgressBar()
        self.bar.setTextVisible(False)
        self.bar.setFixedHeight(8)
        self.bar.setMaximumWidth(160)
        row = QHBoxLayout(self)
        row.setContentsMargins(6, 2, 6, 2)
        row.setSpacing(6)
        row.addWidget(self.words, 1)
        row.addWidget(self.bar)
        self.buttons: dict[str, QPushButton] = {}
        for name, help, run in (
            ("Pause", "Hold it between two frames", lambda: queue.pause(item, True)),
            ("Go on", "Let it go on", lambda: queue.pause(item, False)),
            ("Sooner", "Write it before the one above", lambda: queue.move(item, -1)),
            ("Later", "Write it after the one below", lambda: queue.move(item, 1)),
            ("Again", "Write it once more", lambda: queue.retry(item)),
            ("Stop", "Stop it; nothing is left on disk", lambda: queue.cancel(item)),
            ("Open", "Open the file", lambda: self._open(False)),
            ("Folder", "Show the file in its folder", lambda: self._open(True)),
            ("Copy path", "Copy where the file is", self._copy_path),
            ("Off the list", "The file itself stays", lambda: queue.forget(item)),
        ):  # fmt: skip
            self.buttons[name] = self._button(name, help, run)
            row.addWidget(self.buttons[name])
        self.refresh()

    def _button(self, name: str, help: str, run: Callable[[], object]) -> QPushButton:
        button = QPushButton(name)
        button.setAutoDefault(False)
        button.setToolTip(help)
        button.setStyleSheet("padding: 3px 7px;")
        button.clicked.connect(lambda: run())
        return button

    def refresh(self) -> None:
        """Show the item as it is now."""
        item = self.item
        name, progress = item.path.name, item.progress
        words = {
            WAITING: f"{name}: waits", PAUSED: f"{name}: held",
            WRITING: f"{name}: {progress_text(progress)}" if progress else f"{name}: begins",
            DONE: f"{name}: {size_text(item.result.bytes)}, read back and right" if item.result else name,
        }.get(item.state, f"{name}: {item.sentence}")  # fmt: skip
        self.words.setText(words)
        self.words.setToolTip(f"{item.path}\n{words}")
        shown = {
            WAITING: ("Sooner", "Later", "Stop"), WRITING: ("Pause", "Stop"), PAUSED: ("Go on", "Stop"),
            DONE: ("Open", "Folder", "Copy path", "Off the list"), FAILED: ("Again", "Off the list"),
            STOPPED: ("Again", "Off the list"),
        }[item.state]  # fmt: skip
        for label, button in self.buttons.items():
            button.setVisible(label in shown)
        for label, step in (("Sooner", -1), ("Later", 1)):
            self.buttons[label].setEnabled(item in self.queue.items and self.queue.may_move(item, step))
        self.bar.setVisible(item.state in (WRITING, PAUSED))
        if progress is not None:
            self.bar.setRange(0, progress.total)
            self.bar.setValue(progress.done)

    def _open(self, folder: bool) -> None:
        path = self.item.result.path if self.item.result is not None else self.item.path
        QDesktopServices.openUrl(QUrl.fromLocalFile(str(path.parent if folder else path)))

    def _copy_path(self) -> None:
        path = self.item.result.path if self.item.result is not None else self.item.path
        QGuiApplication.clipboard().setText(str(path))


class ExportList(QScrollArea):
    """All files of the list, in the order in which they are written; hidden while there is none."""

    def __init__(self, queue: ExportQueue) -> None:
        super().__init__()
        self.queue = queue
        self.rows: list[ItemRow] = []
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        queue.changed.connect(self.refresh)
        queue.progressed.connect(self._on_progress)
        self.refresh()

    def refresh(self) -> None:
        """Show the list as it is now."""
        if [row.item for row in self.rows] != self.queue.items:
            stage = QWidget()
            column = QVBoxLayout(stage)
            column.setContentsMargins(0, 0, 4, 0)
            column.setSpacing(2)
            self.rows = [ItemRow(self.queue, item) for item in self.queue.items]
            for row in self.rows:
                column.addWidget(row)
            column.addStretch(1)
            self.setWidget(stage)
            # Up to three rows and a half: whoever has more sees that they go on.
            self.setFixedHeight(min(stage.sizeHint().height() + 4, _HIGH))
        for row in self.rows:
            row.refresh()
        self.setVisible(bool(self.rows))

    def _on_progress(self, item: Item) -> None:
        for row in self.rows:
            if row.item is item:
                row.refresh()
