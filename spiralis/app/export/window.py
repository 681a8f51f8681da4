"""The export window: kinds of files, the frame as encoded, settings, the list of what is written."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QEvent, Qt
from PyQt6.QtGui import QCloseEvent, QKeyEvent
from PyQt6.QtWidgets import (
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
from spiralis.app.export.cards import TargetCards
from spiralis.app.export.feed import FeedPreview
from spiralis.app.export.fit_dialog import FitDialog
from spiralis.app.export.list import ExportList, progress_text
from spiralis.app.export.looking_through import LookThrough
from spiralis.app.export.outside import may_replace, show_outside
from spiralis.app.export.preview import ExportPreview
from spiralis.app.export.queue import DONE, FAILED, ExportQueue, Item
from spiralis.app.export.settings import ExportSettings
from spiralis.app.library.targets import Target
from spiralis.app.session import Session
from spiralis.app.widgets.dressing import say
from spiralis.app.widgets.file_dialogs import ask_save, folder_of
from spiralis.app.widgets.preferences import preferred
from spiralis.core.arithmetic import size_text
from spiralis.core.errors import SpiralisError
from spiralis.core.media.exporters import (
    Exporter,
    ExportJob,
    ExportProgress,
    ExportResult,
    exporter,
    exporters,
)
from spiralis.core.media.fitting import Candidate
from spiralis.core.media.framing import framed


class ExportWindow(QDialog):
    """Writes the composition that was on the canvas when it was opened to files, as it is when a file is begun."""

    def __init__(self, parent: QWidget, session: Session, queue: ExportQueue | None = None) -> None:
        super().__init__(parent)
        self.session, self.queue = session, queue or ExportQueue()
        self.project, self.piece = session.project, session.composition
        self.resize(1180, 740)
        self.kinds = exporters()
        self.kind: Exporter = self.kinds[0]
        #: The file that this window began last.
        self.item: Item | None = None
        self.result_: ExportResult | None = None
        self.fitting: FitDialog | None = None
        self.feed: FeedPreview | None = None
        #: Whether what the middle shows is not what would be written now.
        self._outdated = False
        self.settings = ExportSettings(session, self.kind)
        self._through = LookThrough(self)
        self._through.found.connect(self.settings.show_see_through)
        self.settings.refused.connect(self._say_problem)
        self._build()
        self._choose(self.kind)
        self.settings.changed.connect(self._changed)
        self.queue.progressed.connect(self._on_progress)
        self.queue.ended.connect(self._on_ended)
        for button in self.findChildren(QPushButton):
            # Enter ends the typing in a field; it must not press a button somewhere else.
            button.setAutoDefault(False)
        session.projectChanged.connect(self._follow)
        self._name()
        self._changed()
        self.begin.setFocus()

    @property
    def running(self) -> Item | None:
        """The file that this window began and that is not there yet."""
        return self.item if self.item is not None and not self.item.ended else None

    # -- building --------------------------------------------------------------------------------------

    def _build(self) -> None:
        title = QLabel("Export")
        title.setObjectName("Title")
        self.subject = QLabel()
        self.subject.setObjectName("Quiet")
        top = QHBoxLayout()
        top.addWidget(title)
        top.addWidget(self.subject)
        top.addStretch(1)
        self.preview = ExportPreview(self._as_asked, self.session.frame)
        middle = QHBoxLayout()
        middle.setSpacing(12)
        self.targets = TargetCards(self.kinds, self.settings.as_target)
        self.targets.chosen.connect(self._choose)
        self.targets.ownChosen.connect(self.take_target)
        self.targets.refused.connect(self._say_problem)
        self.cards = self.targets.cards
        middle.addWidget(self.targets)
        middle.addWidget(self.preview, 1)
        middle.addWidget(self.settings)
        self.list = ExportList(self.queue)
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 12, 16, 12)
        column.setSpacing(10)
        column.addLayout(top)
        column.addLayout(middle, 1)
        column.addWidget(self.list)
        column.addWidget(self._bottom())

    def _bottom(self) -> QWidget:
        box = QFrame()
        self.bar = QProgressBar()
        self.bar.setTextVisible(False)
        self.state = QLabel()
        self.state.setWordWrap(True)
        self.begin = QPushButton("Export now…")
        self.begin.setObjectName("Primary")
        self.begin.setToolTip("Ask where to, and write; where a file is being written already, after it")
        self.begin.clicked.connect(self.choose_and_start)
        self.fit = QPushButton("Fit under…")
        self.fit.setToolTip("Look for the best way to write it that stays under so many MB")
        self.fit.clicked.connect(self.show_fit)
        self.cancel = QPushButton("Cancel")
        self.cancel.clicked.connect(self._cancel)
        self.work_on = QPushButton("Go on working")
        self.work_on.setToolTip("Close this window; the file is written beside the work")
        self.work_on.clicked.connect(self.hide)
        self.feed_button = QPushButton("Feed preview")
        self.feed_button.setToolTip("See the file going round at the size of a phone")
        self.feed_button.clicked.connect(self.show_feed)
        self.show_folder = QPushButton("Show in folder")
        self.show_folder.clicked.connect(lambda: show_outside(self.result_, folder=True))
        self.open_file = QPushButton("Open")
        self.open_file.clicked.connect(lambda: show_outside(self.result_, folder=False))
        self.close_button = QPushButton("Close")
        self.close_button.clicked.connect(self.close)
        row = QHBoxLayout()
        row.setSpacing(8)
        row.addWidget(self.state, 1)
        after = (self.feed_button, self.show_folder, self.open_file)
        for button in (*after, self.fit, self.cancel, self.work_on, self.close_button, self.begin):
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

    def take_target(self, target: Target) -> None:
        """Ask for a file as one of a person's targets has it."""
        self._choose(exporter(target.kind))
        self.settings.show_target(target)
        self._changed()

    # -- the piece, as it changes ------------------------------------------------------------------------

    def _follow(self) -> None:
        """Take the piece as it is now; where it is gone there is nothing to write any more."""
        if self.isHidden():
            return  # Another window takes the place of one that was closed.
        project, piece = self.session.project, self.session.project.find(self.piece.id)
        if piece is None:
            self.hide()
        elif project is not self.project:
            self.project, self.piece = project, piece
            self._name()
            self.settings.follow(piece)

    def _name(self) -> None:
        piece = self.piece
        self.setWindowTitle(f"Export {piece.name}")
        self.subject.setText(
            f"{piece.name} · {piece.width} × {piece.height} · {float(piece.rate):.4g} fps · "
            f"{float(piece.seconds):.2f} s"
        )

    # -- what is asked for -----------------------------------------------------------------------------

    def job_for(self, path: Path) -> ExportJob:
        """Return what would be written to a path with the settings as they stand; raises ExportError."""
        settings = self.settings
        project, piece, scale = framed(self.project, self.piece, settings.framing)
        first, last = settings.span
        rounds = int(settings.repeat.value or 1) if self.kind.plays_once else 1
        values, rate = settings.values, settings.own_rate
        job = ExportJob(project, piece.id, path, first, last, scale, values, rate=rate, repeat=rounds)
        job.workers = preferred("workers") or job.workers
        return job

    def _as_asked(self) -> tuple[Exporter, ExportJob] | None:
        first, last = self.settings.span
        if last <= first or self.running is not None:
            return None
        try:
            return self.kind, self.job_for(Path(f"sample{self.kind.suffix}"))
        except SpiralisError as error:
            self._say_problem(str(error))
            return None

    def _changed(self) -> None:
        self._show_buttons()
        self.preview.set_span(*self.settings.span)
        self._outdated = True
        self._look_again()

    def _look_again(self) -> None:
        """Show what has changed; behind the main window, where somebody works, that waits until it is looked at."""
        parent = self.parentWidget()
        if self._outdated and not (self.isVisible() and parent is not None and parent.isActiveWindow()):
            self._outdated = False
            self.preview.refresh()
            self._through.ask(self.project, self.piece.id)

    def changeEvent(self, event: QEvent | None) -> None:
        super().changeEvent(event)
        if event is not None and event.type() == QEvent.Type.ActivationChange:
            self._look_again()

    def show_fit(self) -> None:
        """Let the best way under a limit be looked for."""
        asked = self._as_asked()
        if asked is not None:
            self.fitting = FitDialog(self, *asked)
            self.fitting.taken.connect(self.take_fit)
            self.fitting.open()

    def take_fit(self, candidate: Candidate) -> None:
        """Take over the settings, the size and the rate of a way that fits."""
        settings = self.settings
        width, height = settings.size
        settings.put(dict(candidate.step.settings))
        settings.show_size(max(round(width * candidate.step.scale), 1), max(round(height * candidate.step.scale), 1))
        if candidate.step.rate != 1.0:
            settings.rate.show_value(float(candidate.job.out_rate))
        self._say(f"Settings for {candidate.gives_up}: {size_text(candidate.bytes)}.", "Mint")
        self._changed()

    # -- running ---------------------------------------------------------------------------------------

    def choose_and_start(self) -> None:
        """Ask where to, then write."""
        folder = folder_of("export") or (self.session.path.parent if self.session.path else Path.home())
        stem = "-".join(self.piece.name.lower().split()) or "piece"
        suggested = Path(folder) / f"{stem}{self.kind.suffix}"
        path = ask_save(self, "export", "Export to", str(suggested), f"{self.kind.label} (*{self.kind.suffix})")
        if path is None:
            return
        if self.queue.promises(path):
            self._say_problem(f"“{path.name}” is on the export list already; give this one another name.")
            return
        several = self.kind.many_files and not self.settings.one_frame
        if not several or may_replace(self, path):
            self.start(path)

    def start(self, path: Path) -> None:
        """Write to a path with the settings as they stand, or put it on the list behind what is being written."""
        try:
            job = self.job_for(path)
        except SpiralisError as error:
            self._say_problem(str(error))
            return
        self.result_ = None
        self.bar.setRange(0, len(job.times))
        self.bar.setValue(0)
        self._say(f"{path.name} waits for its turn on the list." if self.queue.busy else f"Writing {path.name}…")
        self.item = self.queue.add(self.kind, job)
        self._show_buttons()

    def _on_progress(self, item: Item) -> None:
        progress = item.progress
        if item is not self.item or not isinstance(progress, ExportProgress):
            return
        self.bar.setMaximum(progress.total)
        self.bar.setValue(progress.done)
        self._say(f"Writing {item.path.name}: {progress_text(progress)}")

    def _on_ended(self, item: Item) -> None:
        if item is not self.item:
            return
        result = self.result_ = item.result
        if item.state == DONE and result is not None:
            self.bar.setValue(self.bar.maximum())
            text = (
                f"{result.path.name} is done and was read back: {size_text(result.bytes)}, {result.frames} frames, "
                f"{result.seconds:.2f} s, {result.width} × {result.height}."
            )
            self._say(" ".join([text, *result.notes]), "Mint")
            self.preview.show_written(item.kind, item.make(), result.path)
        else:
            self.bar.setValue(0)
            self._say(item.sentence, "Alarm" if item.state == FAILED else "Quiet")
        self._show_buttons()

    def _cancel(self) -> None:
        if self.running is not None:
            self._say("Stopping…")
            self.queue.cancel(self.running)
            self._show_buttons()

    def _say(self, text: str, look: str = "Quiet") -> None:
        say(self.state, text, look)

    def _say_problem(self, sentence: str) -> None:
        self._say(sentence, "Alarm")

    def _show_buttons(self) -> None:
        busy, (first, last) = self.running is not None, self.settings.span
        self.begin.setEnabled(last > first and not busy)
        self.begin.setVisible(not busy)
        self.begin.setText("Add to the list…" if self.queue.busy else "Export now…")
        self.fit.setVisible(not busy and bool(self.kind.ladder))
        self.cancel.setVisible(busy)
        self.work_on.setVisible(busy)
        self.close_button.setVisible(not busy)
        for button in (self.show_folder, self.open_file):
            button.setVisible(self.result_ is not None)
        self.feed_button.setVisible(self.result_ is not None and self.result_.frames > 1)
        self.bar.setVisible(busy)

    def show_feed(self) -> None:
        """Play the file that was written as a feed would show it."""
        if self.result_ is not None:
            self.feed = FeedPreview(self, self.result_.path)
            self.feed.show()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and press_focused():
            return
        super().keyPressEvent(event)

    def reject(self) -> None:
        """Close by Escape or the frame's cross, but never while a file is being written."""
        if self.running is not None:
            name = self.running.path.name
            self._say(f"{name} is still being written; Cancel stops that, Go on working hides this window.")
            return
        super().reject()

    def closeEvent(self, event: QCloseEvent) -> None:
        if self.running is not None:
            self.reject()
            event.ignore()
            return
        super().closeEvent(event)
