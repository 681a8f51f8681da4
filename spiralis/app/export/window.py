"""The export window."""

from __future__ import annotations

from pathlib import Path

import numpy as np
from PyQt6.QtCore import Qt, QUrl
from PyQt6.QtGui import QCloseEvent, QDesktopServices, QKeyEvent
from PyQt6.QtWidgets import (
    QAbstractButton,
    QButtonGroup,
    QCheckBox,
    QComboBox,
    QDialog,
    QFileDialog,
    QFormLayout,
    QFrame,
    QHBoxLayout,
    QLabel,
    QProgressBar,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from spiralis.app.commands.pressing import press_focused
from spiralis.app.export.preview import FramePair
from spiralis.app.export.running import RunningExport
from spiralis.app.session import Session
from spiralis.app.widgets.fields import ListField, NumberField
from spiralis.app.widgets.images import as_image
from spiralis.app.work.background import Background
from spiralis.core.media.exporters import Exporter, ExportJob, ExportProgress, ExportResult, exporters
from spiralis.core.model import Kind, Parameter
from spiralis.core.render.frame import render_straight8
from spiralis.core.render.plan import output_size


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
        self.setting_fields: dict[str, NumberField | QComboBox] = {}
        first, last = self.piece.span
        self.first = NumberField("First frame", "", 0, self.piece.length - 1, decimals=0)
        self.last = NumberField("Last frame", "", 0, self.piece.length - 1, decimals=0)
        self.first.show_value(first)
        self.last.show_value(last - 1)
        self.width_field = NumberField("Width", "px", 1, 20_000, decimals=0, whole=self.piece.width)
        self.width_field.show_value(self.piece.width)
        self.height_label = QLabel()
        self.single = QCheckBox("Only the frame under the playhead")
        self.single.setChecked(True)
        for field in (self.first, self.last, self.width_field):
            field.changed.connect(self._refresh)
            field.refused.connect(self._say_problem)
        self.single.clicked.connect(self._refresh)
        self._background = Background(self)
        self._build()
        self._choose(self.kind)
        self._show_rendered()
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
        self.preview = FramePair()
        middle = QHBoxLayout()
        middle.setSpacing(12)
        middle.addWidget(self._cards())
        middle.addWidget(self.preview, 1)
        middle.addWidget(self._settings())
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

    def _settings(self) -> QWidget:
        box = QFrame()
        box.setFixedWidth(270)
        self.form = QFormLayout(box)
        self.form.setContentsMargins(4, 0, 0, 0)
        self.form.setHorizontalSpacing(12)
        self.form.setVerticalSpacing(9)
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

    # -- settings --------------------------------------------------------------------------------------

    def _choose(self, kind: Exporter) -> None:
        self.kind = kind
        self.cards[kind.name].setChecked(True)
        while self.form.rowCount():
            row = self.form.takeRow(0)
            for item in (row.labelItem, row.fieldItem):
                widget = item.widget() if item is not None else None
                if widget is not None:
                    widget.setParent(None)
        title = QLabel(kind.label)
        title.setObjectName("Title")
        self.form.addRow(title)
        self.form.addRow("Width", self.width_field)
        self.form.addRow("Height", self.height_label)
        if kind.many_files:
            self.form.addRow(self.single)
        self.form.addRow("First frame", self.first)
        self.form.addRow("Last frame", self.last)
        self.setting_fields = {p.name: self._setting(p) for p in kind.settings}
        for parameter in kind.settings:
            self.form.addRow(parameter.label, self.setting_fields[parameter.name])
        self.about = QLabel()
        self.about.setObjectName("Quiet")
        self.about.setWordWrap(True)
        self.form.addRow(self.about)
        self._refresh()

    def _setting(self, parameter: Parameter) -> NumberField | QComboBox:
        if parameter.kind is Kind.CHOICE:
            box = ListField()
            for choice in parameter.choices:
                box.addItem(choice.capitalize(), choice)
            box.setCurrentIndex(box.findData(parameter.default))
            box.setToolTip(parameter.help)
            return box
        field = NumberField(parameter.label, parameter.unit, parameter.minimum, parameter.maximum, decimals=0)
        field.show_value(parameter.default)
        field.refused.connect(self._say_problem)
        return field

    @property
    def scale(self) -> float:
        """Size of the file beside the composition's."""
        return float(self.width_field.value or self.piece.width) / self.piece.width

    def span(self) -> tuple[int, int]:
        """The frames to write, half open."""
        if self.kind.many_files and self.single.isChecked():
            return self.session.frame, self.session.frame + 1
        return int(self.first.value or 0), int(self.last.value or 0) + 1

    def _refresh(self) -> None:
        height = output_size(self.piece, self.scale)[1]
        self.height_label.setText(f"{height} px")
        only = self.kind.many_files and self.single.isChecked()
        self.first.setEnabled(not only)
        self.last.setEnabled(not only)
        first, last = self.span()
        if only:
            text = f"Frame {first}, with its transparency."
        elif last > first:
            text = f"{last - first} frames, {float((last - first) / self.piece.rate):.2f} s."
        else:
            text = "The last frame comes before the first."
        text = f"{text} {self.kind.remark(round(self.piece.width * self.scale), height)}".strip()
        self.about.setText(text)
        self.begin.setEnabled(last > first and self.running is None)

    def settings(self) -> dict[str, object]:
        """The exporter's own settings."""
        values: dict[str, object] = {}
        for name, field in self.setting_fields.items():
            values[name] = field.currentData() if isinstance(field, QComboBox) else field.value
        return values

    # -- running ---------------------------------------------------------------------------------------

    def choose_and_start(self) -> None:
        """Ask where to, then write."""
        folder = self.session.path.parent if self.session.path else Path.home()
        stem = "-".join(self.piece.name.lower().split()) or "piece"
        suggested = folder / f"{stem}{self.kind.suffix}"
        name, _ = QFileDialog.getSaveFileName(
            self, "Export to", str(suggested), f"{self.kind.label} (*{self.kind.suffix})"
        )
        if name:
            path = Path(name)
            self.start(
                path if path.suffix.lower() == self.kind.suffix else path.with_name(path.name + self.kind.suffix)
            )

    def start(self, path: Path) -> None:
        """Write to a path with the settings as they stand."""
        first, last = self.span()
        job = ExportJob(self.session.project, self.piece.id, path, first, last, self.scale, self.settings())
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
        busy = self.running is not None
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

    # -- pictures --------------------------------------------------------------------------------------

    def _rendered(self, frame: int) -> np.ndarray:
        """Return a frame as it is rendered; long work."""
        scale = min(1.0, 700 / max(self.piece.width, self.piece.height))
        return render_straight8(self.session.project, self.piece.id, frame, scale)

    def _show_rendered(self) -> None:
        frame = self.session.frame

        def done(pixels: object) -> None:
            if isinstance(pixels, np.ndarray) and self.result_ is None:
                self.preview.show_images([(f"as rendered · frame {frame}", as_image(pixels).copy(), True)])

        self._background.run(lambda: self._rendered(frame), done)

    def _show_written(self, result: ExportResult) -> None:
        first, last = self.span()
        kind = self.kind
        frame = first if kind.many_files else min(max(self.session.frame, first), last - 1)

        def work() -> tuple[np.ndarray, np.ndarray | None]:
            return self._rendered(frame), kind.read(result.path, frame - first) if result.path.exists() else None

        def done(pair: object) -> None:
            if not isinstance(pair, tuple) or self.result_ is not result:
                return
            images = [(f"as rendered · frame {frame}", as_image(pair[0]).copy(), False)]
            if pair[1] is not None:
                images.append(("as written", as_image(pair[1]).copy(), True))
            self.preview.show_images(images)

        self._background.run(work, done)

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
