"""The export window."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import Qt, QUrl
from PyQt6.QtGui import QCloseEvent, QDesktopServices, QKeyEvent
from PyQt6.QtWidgets import (
    QAbstractButton,
    QButtonGroup,
    QDialog,
    QFrame,
    QHBoxLayout,
    QLabel,
    QProgressBar,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from spiralis.app.commands.pressing import press_focused
from spiralis.app.export.preview import ExportPreview
from spiralis.app.export.running import RunningExport
from spiralis.app.export.settings import ExportSettings
from spiralis.app.session import Session
from spiralis.app.widgets.file_dialogs import ask_save, folder_of
from spiralis.app.widgets.preferences import preferred
from spiralis.core.media.exporters import Exporter, ExportJob, ExportProgress, ExportResult, exporters


def size_text(size: int) -> str:
    """Return bytes for people: ``812 kB``, ``3.42 MB``."""
    return f"{size / 1e6:.2f} MB" if size >= 1e6 else f"{size / 1e3:.0f} kB"


class ExportWindow(QDialog):
    """Writes the composition on the canvas to a file."""

    def __init__(self, parent: QWidget, session: Session) -> None:
        super().__init__(parent)
        self.session = session
        self.piece = session.composition
        self.setWindowTitle(f"Export {self.piece.name}")
        self.resize(1080, 700)
        self.kinds = exporters()
        self.kind: Exporter = self.kinds[0]
        self.running: RunningExport | None = None
        self.result_: ExportResult | None = None
        self.settings = ExportSettings(session, self.kind)
        self.settings.refused.connect(self._say_problem)
        self.settings.changed.connect(self._show_buttons)
        self._build()
        self._choose(self.kind)
        self.preview.show_rendered(session.project, self.piece, session.frame)
        for button in self.findChildren(QPushButton):
            # Enter ends the typing in a field; it must not press a button somewhere else.
            button.setAutoDefault(False)
        self.begin.setFocus()

    # -- building --------------------------------------------------------------------------------------

    def _build(self) -> None:
        title = QLabel("Export")
        title.setObjectName("Title")
        subject = QLabel(
            f"{self.piece.name} · {self.piece.width} × {self.piece.height} · {float(self.piece.rate):.4g} fps · "
            f"{float(self.piece.seconds):.2f} s"
        )
        subject.setObjectName("Quiet")
        top = QHBoxLayout()
        top.addWidget(title)
        top.addWidget(subject)
        top.addStretch(1)
        self.preview = ExportPreview()
        middle = QHBoxLayout()
        middle.setSpacing(12)
        middle.addWidget(self._cards())
        middle.addWidget(self.preview, 1)
        middle.addWidget(self.settings)
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 14, 16, 14)
        column.setSpacing(12)
        column.addLayout(top)
        column.addLayout(middle, 1)
        column.addWidget(self._bottom())

    def _cards(self) -> QWidget:
        box = QFrame()
        box.setFixedWidth(170)
        column = QVBoxLayout(box)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        self.group = QButtonGroup(self)
        self.cards: dict[str, QAbstractButton] = {}
        for kind in self.kinds:
            name, _, use = kind.help.partition(": ")
            card = QPushButton(f"{kind.label}\n{use or name}")
            card.setCheckable(True)
            card.setStyleSheet("text-align: left; padding: 10px 14px; font-weight: 500;")
            card.setToolTip(kind.help)
            card.clicked.connect(lambda _=False, picked=kind: self._choose(picked))
            self.group.addButton(card)
            self.cards[kind.name] = card
            column.addWidget(card)
        column.addStretch(1)
        return box

    def _bottom(self) -> QWidget:
        box = QFrame()
        self.bar = QProgressBar()
        self.bar.setTextVisible(False)
        self.state = QLabel()
        self.state.setWordWrap(True)
        self.begin = QPushButton("Export now…")
        self.begin.setObjectName("Primary")
        self.begin.clicked.connect(self.choose_and_start)
        self.cancel = QPushButton("Cancel")
        self.cancel.clicked.connect(self._cancel)
        self.show_folder = QPushButton("Show in folder")
        self.show_folder.clicked.connect(lambda: self._open(folder=True))
        self.open_file = QPushButton("Open")
        self.open_file.clicked.connect(lambda: self._open(folder=False))
        self.close_button = QPushButton("Close")
        self.close_button.clicked.connect(self.close)
        row = QHBoxLayout()
        row.setSpacing(8)
        row.addWidget(self.state, 1)
        for button in (self.show_folder, self.open_file, self.cancel, self.close_button, self.begin):
            row.addWidget(button)
        column = QVBoxLayout(box)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        column.addWidget(self.bar)
        column.addLayout(row)
        self._show_buttons()
        return box

    def _choose(self, kind: Exporter) -> None:
        self.kind = kind
        self.cards[kind.name].setChecked(True)
        self.settings.show_kind(kind)

    # -- running ---------------------------------------------------------------------------------------

    def choose_and_start(self) -> None:
        """Ask where to, then write."""
        folder = folder_of("export") or (self.session.path.parent if self.session.path else Path.home())
        stem = "-".join(self.piece.name.lower().split()) or "piece"
        suggested = Path(folder) / f"{stem}{self.kind.suffix}"
        path = ask_save(self, "export", "Export to", str(suggested), f"{self.kind.label} (*{self.kind.suffix})")
        if path is not None:
            self.start(
                path if path.suffix.lower() == self.kind.suffix else path.with_name(path.name + self.kind.suffix)
            )

    def start(self, path: Path) -> None:
        """Write to a path with the settings as they stand."""
        settings = self.settings
        first, last = settings.span
        job = ExportJob(self.session.project, self.piece.id, path, first, last, settings.scale, settings.values)
        job.workers = preferred("workers") or job.workers
        self.running = RunningExport(self.kind, job)
        queued = Qt.ConnectionType.QueuedConnection
        self.running.progressed.connect(self._on_progress, queued)
        self.running.finished.connect(self._on_finished, queued)
        self.running.failed.connect(self._on_failed, queued)
        self.running.stopped.connect(self._on_stopped, queued)
        self.result_ = None
        self.bar.setRange(0, last - first)
        self.bar.setValue(0)
        self._say(f"Writing {path.name}…")
        self._show_buttons()
        self.running.start()

    def _on_progress(self, progress: ExportProgress) -> None:
        if self.running is None:
            return
        self.bar.setMaximum(progress.total)
        self.bar.setValue(progress.done)
        left = f"{int(progress.left) // 60}:{int(progress.left) % 60:02d} left"
        self._say(
            f"Writing {self.running.job.path.name}: {progress.done} of {progress.total} frames, "
            f"{progress.rate:.1f} frames a second, {left}"
        )

    def _on_finished(self, result: ExportResult) -> None:
        self.running = None
        self.result_ = result
        self.bar.setValue(self.bar.maximum())
        text = (
            f"{result.path.name} is done and was read back: {size_text(result.bytes)}, {result.frames} frames, "
            f"{result.seconds:.2f} s, {result.width} × {result.height}."
        )
        self._say(" ".join([text, *result.notes]), "Mint")
        self._show_buttons()
        self._show_written(result)

    def _show_written(self, result: ExportResult) -> None:
        first, last = self.settings.span
        frame = first if self.kind.many_files else min(max(self.session.frame, first), last - 1)
        self.preview.show_written(self.session.project, self.piece, self.kind, result.path, frame, frame - first)

    def _on_failed(self, sentence: str) -> None:
        self.running = None
        self.bar.setValue(0)
        self._say_problem(sentence)
        self._show_buttons()

    def _on_stopped(self) -> None:
        self.running = None
        self.bar.setValue(0)
        self._say("Stopped; nothing was written.")
        self._show_buttons()

    def _cancel(self) -> None:
        if self.running is not None:
            self._say("Stopping…")
            self.running.cancel()

    def _say(self, text: str, look: str = "Quiet") -> None:
        self.state.setObjectName(look)
        self.state.setText(text)
        self.state.style().unpolish(self.state)
        self.state.style().polish(self.state)

    def _say_problem(self, sentence: str) -> None:
        self._say(sentence, "Alarm")

    def _show_buttons(self) -> None:
        busy, (first, last) = self.running is not None, self.settings.span
        self.begin.setEnabled(last > first and not busy)
        self.begin.setVisible(not busy)
        self.cancel.setVisible(busy)
        self.close_button.setVisible(not busy)
        for button in (self.show_folder, self.open_file):
            button.setVisible(self.result_ is not None)
        self.bar.setVisible(busy or self.result_ is not None)

    def _open(self, folder: bool) -> None:
        if self.result_ is not None:
            path = self.result_.path.parent if folder else self.result_.path
            QDesktopServices.openUrl(QUrl.fromLocalFile(str(path)))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and press_focused():
            return
        super().keyPressEvent(event)

    def reject(self) -> None:
        """Close by Escape or the frame's cross, but never while a file is being written."""
        if self.running is not None:
            self._say(f"{self.running.job.path.name} is still being written; Cancel stops that.")
            return
        super().reject()

    def closeEvent(self, event: QCloseEvent) -> None:
        if self.running is not None:
            self.reject()
            event.ignore()
            return
        super().closeEvent(event)
