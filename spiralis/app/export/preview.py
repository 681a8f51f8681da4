"""The frame as it is drawn and as it is in the file's real bytes, over one another with a line to drag between them."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import numpy as np
from attrs import frozen
from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QHideEvent, QImage, QMouseEvent, QPainter, QPaintEvent, QPen, QShowEvent, QWheelEvent
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from spiralis.app.canvas.painting import draw_checks
from spiralis.app.style import GROUND, MARIGOLD, QUIET, SURROUND, colour, font
from spiralis.app.widgets.fields import Slider
from spiralis.app.widgets.images import as_image
from spiralis.app.work.background import Background
from spiralis.app.work.soon import Soon
from spiralis.core.arithmetic import size_text
from spiralis.core.errors import Cancelled, SpiralisError
from spiralis.core.media.exporters import Exporter, ExportJob
from spiralis.core.media.sampling import Drawn, guessed, pictured, sampled
from spiralis.core.render.frame import render_straight8

#: Runs of frames, spread over the piece, that an estimate of the size is made of.
_RUNS = 4
_ZOOMS = (1.0, 2.0, 4.0, 8.0)


class Compared(QWidget):
    """Left of the line the frame as drawn, right of it as encoded; the wheel or a double-click looks at pixels."""

    def __init__(self) -> None:
        super().__init__()
        self.setMinimumSize(300, 240)
        self.setMouseTracking(True)
        self.setAccessibleName("As drawn and as encoded")
        self.setToolTip("Drag the line: as drawn at its left, as encoded at its right. The wheel looks at pixels.")
        #: Labels, images, and whether each is lit; the first is the frame as drawn.
        self.images: list[tuple[str, QImage, bool]] = []
        self.share, self.zoom = 0.5, 1.0
        self._middle = QPointF(0.5, 0.5)
        self._held: QPointF | None = None

    def show_images(self, images: list[tuple[str, QImage, bool]]) -> None:
        """Show (label, image, lit) entries."""
        self.images = images
        self.update()

    def _place(self) -> QRectF:
        """Return where the frame lies."""
        image = self.images[0][1]
        room = QRectF(self.rect()).adjusted(10, 28, -10, -10)
        fit = min(room.width() / image.width(), room.height() / image.height())
        scale = fit if self.zoom == 1.0 else self.zoom
        width, height = image.width() * scale, image.height() * scale
        if self.zoom == 1.0:
            return QRectF(room.center().x() - width / 2, room.center().y() - height / 2, width, height)
        middle = self._middle
        return QRectF(room.center().x() - middle.x() * width, room.center().y() - middle.y() * height, width, height)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, self.zoom <= 1.0)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour(SURROUND))
        painter.drawRoundedRect(QRectF(self.rect()), 8, 8)
        if not self.images:
            painter.end()
            return
        place = self._place()
        line = self.share * self.width() if len(self.images) > 1 else float(self.width())
        sides = [QRectF(0, 0, line, self.height()), QRectF(line, 0, self.width() - line, self.height())]
        for (_, image, _), side in zip(self.images, sides, strict=False):
            painter.save()
            painter.setClipRect(side.adjusted(0, 28, 0, -6))
            if image.hasAlphaChannel():
                draw_checks(painter, place)
            painter.drawImage(place, image)
            painter.restore()
        self._paint_words(painter, line)
        painter.end()

    def _paint_words(self, painter: QPainter, line: float) -> None:
        painter.setFont(font(12, 600))
        for index, (label, _, lit) in enumerate(self.images[:2]):
            painter.setPen(colour(MARIGOLD if lit else QUIET))
            flag = Qt.AlignmentFlag.AlignLeft if index == 0 else Qt.AlignmentFlag.AlignRight
            painter.drawText(QRectF(12, 6, self.width() - 24, 20), flag, label)
        if len(self.images) > 1:
            painter.setPen(QPen(colour(GROUND), 4))
            painter.drawLine(QPointF(line, 28), QPointF(line, self.height() - 6))
            painter.setPen(QPen(colour(MARIGOLD), 2))
            painter.drawLine(QPointF(line, 28), QPointF(line, self.height() - 6))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self.zoom > 1.0 and abs(event.position().x() - self.share * self.width()) > 8:
            self._held = event.position()
        else:
            self._held = None
            self.mouseMoveEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        near = abs(event.position().x() - self.share * self.width()) < 8
        self.setCursor(Qt.CursorShape.SplitHCursor if near else Qt.CursorShape.ArrowCursor)
        if not event.buttons() & Qt.MouseButton.LeftButton:
            return
        if self._held is not None and self.images:
            place, way = self._place(), event.position() - self._held
            self._middle -= QPointF(way.x() / place.width(), way.y() / place.height())
            self._held = event.position()
        else:
            self.share = min(max(event.position().x() / max(self.width(), 1), 0.0), 1.0)
        self.update()

    def look_at(self, zoom: float, at: QPointF | None = None) -> None:
        """Show pixels so many times as large, 1 for the whole frame, about a point of this widget."""
        if at is not None and self.images:
            place = self._place()
            self._middle = QPointF((at.x() - place.left()) / place.width(), (at.y() - place.top()) / place.height())
        self.zoom = zoom
        self.update()

    def wheelEvent(self, event: QWheelEvent) -> None:
        step = 1 if event.angleDelta().y() > 0 else -1
        goal = min(max(_ZOOMS.index(self.zoom) + step, 0), len(_ZOOMS) - 1)
        self.look_at(_ZOOMS[goal], event.position())

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        self.look_at(1.0 if self.zoom > 1.0 else 4.0, event.position())


@frozen(eq=False)
class _Seen:
    """What was worked out for one way of writing: pictures, and the size in words."""

    images: list[tuple[str, np.ndarray, bool]]
    words: str
    #: Work out the words better and better, each in longer time.
    closer: tuple[Callable[[], str], ...] = ()


class ExportPreview(QWidget):
    """Asks for samples of the file as it would be now, and shows the frame that the slider is on."""

    told = pyqtSignal(str)

    def __init__(self, job: Callable[[], tuple[Exporter, ExportJob] | None], frame: int) -> None:
        super().__init__()
        self._job = job
        self.compared = Compared()
        self.slider = Slider(Qt.Orientation.Horizontal)
        self.slider.setAccessibleName("Frame that is looked at")
        self.slider.setMinimumHeight(24)
        self.words = QLabel()
        self.words.setObjectName("Quiet")
        self.whole, self.pixels = QPushButton("Whole"), QPushButton("Pixels")
        for button, zoom in ((self.whole, 1.0), (self.pixels, 4.0)):
            button.setAutoDefault(False)
            button.setToolTip("The whole frame" if zoom == 1.0 else "Four times as large as it is")
            button.clicked.connect(lambda _=False, zoom=zoom: self.compared.look_at(zoom))
        row = QHBoxLayout()
        row.addWidget(self.whole)
        row.addWidget(self.pixels)
        row.addWidget(self.slider, 1)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.compared, 1)
        column.addLayout(row)
        column.addWidget(self.words)
        self._background = Background(self)
        self._soon = Soon(self, self._ask, wait=250, rests=True)
        self._asked = 0
        self._written: tuple[Path, object] | None = None
        self._drawn = Drawn()
        self._frame = frame
        self.slider.valueChanged.connect(self._soon.ask)

    @property
    def images(self) -> list[tuple[str, QImage, bool]]:
        """What is shown."""
        return self.compared.images

    def set_span(self, first: int, last: int) -> None:
        """Let the slider go over these frames, half open."""
        self.slider.blockSignals(True)
        self.slider.setRange(first, max(last - 1, first))
        self.slider.setValue(min(max(self._frame, first), last - 1))
        self.slider.blockSignals(False)

    def showEvent(self, event: QShowEvent) -> None:
        self._soon.ask()
        super().showEvent(event)

    def hideEvent(self, event: QHideEvent) -> None:
        # Nobody looks any more: what is being packed is given up, and what was drawn for it let go of.
        self._asked += 1
        self._drawn = Drawn()
        super().hideEvent(event)

    def refresh(self) -> None:
        """Look anew: what is asked for has changed."""
        self._written = None
        self._soon.ask()

    def show_written(self, kind: Exporter, job: ExportJob, path: Path) -> None:
        """Show frames of a file that was written, from its own bytes."""
        self._written = (path, (kind, job))
        self._ask()

    def _ask(self) -> None:
        self._asked += 1
        asked, frame = self._asked, self.slider.value()
        self._frame = frame
        written, now = self._written, self._job()
        if written is not None:
            path, (kind, job) = written
            self._run(asked, lambda: _of_file(kind, job, path, frame))
        elif now is not None:
            kind, job = now
            self.words.setText("As it will be: being packed…")
            self._run(asked, lambda: _of_sample(kind, job, frame, self._drawn, lambda: asked != self._asked))

    def _run(self, asked: int, work: Callable[[], _Seen]) -> None:
        def closer(steps: tuple[Callable[[], str], ...]) -> None:
            def told(words: object) -> None:
                if asked != self._asked:
                    return
                if isinstance(words, str):
                    self.words.setText(words)
                    closer(steps[1:])
                else:
                    self._say_problem(words, "The size could not be estimated: something went wrong.")

            if steps:
                self._background.run(steps[0], told)

        def done(seen: object) -> None:
            if asked != self._asked:
                return
            if isinstance(seen, _Seen):
                self.compared.show_images([(text, as_image(p).copy(), lit) for text, p, lit in seen.images])
                self.words.setText(seen.words)
                closer(seen.closer)
            else:
                self._say_problem(seen, "No picture: something went wrong.")

        self._background.run(work, done)

    def _say_problem(self, error: object, otherwise: str) -> None:
        """Say why something could not be made; raises what nobody expected, once ``otherwise`` is said."""
        if isinstance(error, SpiralisError):
            if not isinstance(error, Cancelled):
                self.words.setText(str(error))
        elif isinstance(error, Exception):
            self.words.setText(otherwise)
            raise error


def _drawn(job: ExportJob, frame: int) -> np.ndarray:
    return render_straight8(job.project, job.composition_id, frame, job.scale)


def _index(job: ExportJob, frame: int) -> int:
    """Return the number of the file's frame that shows a frame of the piece."""
    return min(max(round((frame - job.first) / job.composition.rate * job.out_rate), 0), len(job.times) - 1)


def _of_sample(kind: Exporter, job: ExportJob, frame: int, drawn: Drawn, stale: Callable[[], bool]) -> _Seen:
    index = _index(job, frame)
    made = [(f"as drawn · frame {frame}", _drawn(job, frame), False)]
    if stale():
        raise Cancelled("Stopped; nothing was written.")
    pixels = pictured(kind, job, index, drawn, stale)
    if pixels is not None:
        made.append(("as it will be", pixels, True))

    most = drawn.prepared(kind, job).given.get("most")
    if most:
        return _Seen(made, _words(job, f"under {size_text(most)}") + " · packed until it is no larger")

    def guess() -> str:
        few = guessed(kind, job, index, drawn, stale)
        return _words(job, f"about {size_text(few.bytes)}") + " · a first guess at the size, being looked at closer…"

    def closer() -> str:
        many = sampled(kind, job, index, runs=_RUNS, cancelled=stale, drawn=drawn)
        if many.exact:
            return _words(job, size_text(many.bytes))
        return _words(job, f"about {size_text(many.bytes)}") + " · the size is an estimate from some of the frames"

    return _Seen(made, _words(job, "size: being estimated…"), (guess, closer))


def _words(job: ExportJob, size: str) -> str:
    width, height = job.size
    return f"{size} · {float(job.seconds):.2f} s · {float(job.out_rate):.4g} fps · {width} × {height}"


def _of_file(kind: Exporter, job: ExportJob, path: Path, frame: int) -> _Seen:
    made = [(f"as drawn · frame {frame}", _drawn(job, frame), False)]
    many = kind.many_files and len(job.times) > 1
    read = kind.read(path, 0 if many else _index(job, frame)) if path.exists() else None
    if read is not None:
        made.append(("as written", read, True))
    size = path.stat().st_size if path.exists() else 0
    return _Seen(made, f"{path.name}, read from its own bytes: {size_text(size)}")
