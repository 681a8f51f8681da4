"""The export window: kinds of files, the frame as encoded, settings, the list of what is written."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QEvent, Qt
from PyQt6.QtGui import QCloseEvent, QKeyEvent
from PyQt6.QtWidgets import (
    QDialog,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from spiralis.app.commands.pressing import press_focused
from spiralis.app.export.cards import TargetCards
from spiralis.app.export.feed import FeedPreview
from spiralis.app.export.fit_dialog import FitDialog
from spiralis.app.export.foot import Foot
from spiralis.app.export.list import ExportList, progress_text
from spiralis.app.export.looking_through import LookThrough
from spiralis.app.export.outside import may_replace
from spiralis.app.export.preview import ExportPreview
from spiralis.app.export.queue import DONE, FAILED, ExportQueue, Item
from spiralis.app.export.settings import ExportSettings
from spiralis.app.library.targets import Target
from spiralis.app.session import Session
from spiralis.app.widgets.file_dialogs import ask_save, folder_of
from spiralis.app.widgets.preferences import preferred
from spiralis.core.arithmetic import size_text
from spiralis.core.errors import SpiralisError
from spiralis.core.media.exporters import (
    Exporter,
    ExportJob,
    ExportProgress,
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
        self.foot.begin.setFocus()

    @property
    def running(self) -> Item | None:
        """The file that this window began and that is not there yet."""
        return self.item if self.item is not None and not self.item.ended else None

    # -- building --------------------------------------------------------------------------------------

    def _build(self) -> None:
        foot = self.foot = Foot()
        for button, act in (
            (foot.begin, self.choose_and_start), (foot.fit, self.show_fit), (foot.cancel, self._cancel),
            (foot.work_on, self.hide), (foot.feed, self.show_feed), (foot.close_, self.close),
        ):  # fmt: skip
            button.clicked.connect(act)
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
        column.addWidget(self.foot)

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
        self.foot.say(f"Settings for {candidate.gives_up}: {size_text(candidate.bytes)}.", "Mint")
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
        self.foot.result = None
        self.foot.show_share(0, len(job.times))
        self.foot.say(f"{path.name} waits for its turn on the list." if self.queue.busy else f"Writing {path.name}…")
        self.item = self.queue.add(self.kind, job)
        self._show_buttons()

    def _on_progress(self, item: Item) -> None:
        progress = item.progress
        if item is not self.item or not isinstance(progress, ExportProgress):
            return
        self.foot.show_share(progress.done, progress.total)
        self.foot.say(f"Writing {item.path.name}: {progress_text(progress)}")

    def _on_ended(self, item: Item) -> None:
        if item is not self.item:
            return
        result = self.foot.result = item.result
        if item.state == DONE and result is not None:
            self.foot.bar.setValue(self.foot.bar.maximum())
            text = (
                f"{result.path.name} is done and was read back: {size_text(result.bytes)}, {result.frames} frames, "
                f"{result.seconds:.2f} s, {result.width} × {result.height}."
            )
            self.foot.say(" ".join([text, *result.notes]), "Mint")
            self.preview.show_written(item.kind, item.make(), result.path)
        else:
            self.foot.bar.setValue(0)
            self.foot.say(item.sentence, "Alarm" if item.state == FAILED else "Quiet")
        self._show_buttons()

    def _cancel(self) -> None:
        if self.running is not None:
            self.foot.say("Stopping…")
            self.queue.cancel(self.running)
            self._show_buttons()

    def _say_problem(self, sentence: str) -> None:
        self.foot.say(sentence, "Alarm")

    def _show_buttons(self) -> None:
        first, last = self.settings.span
        self.foot.show_buttons(self.running is not None, last > first, self.queue.busy, bool(self.kind.ladder))

    def show_feed(self) -> None:
        """Play the file that was written as a feed would show it."""
        if self.foot.result is not None:
            self.feed = FeedPreview(self, self.foot.result.path)
            self.feed.show()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and press_focused():
            return
        super().keyPressEvent(event)

    def reject(self) -> None:
        """Close by Escape or the frame's cross, but never while a file is being written."""
        if self.running is not None:
            name = self.running.path.name
            self.foot.say(f"{name} is still being written; Cancel stops that, Go on working hides this window.")
            return
        super().reject()

    def closeEvent(self, event: QCloseEvent) -> None:
        if self.running is not None:
            self.reject()
            event.ignore()
            return
        super().closeEvent(event)
