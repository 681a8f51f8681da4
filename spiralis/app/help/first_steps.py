"""The strip of the first steps: it says what to do next, lights up where, and sees by itself that it is done."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import QPoint, QRect, QRectF, Qt, QTimer
from PyQt6.QtGui import QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QLabel, QPushButton, QWidget

from spiralis.app.commands.context import Context
from spiralis.app.help.steps import STEPS, Step
from spiralis.app.style import MARIGOLD, colour

#: How often it looks, in ms.
_LOOKS = 150


class Frame(QWidget):
    """A frame around the part of the window that is meant; every event goes through it."""

    def __init__(self, window: QWidget) -> None:
        super().__init__(window)
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self.area = QRect()
        self.hide()

    def show_around(self, widget: QWidget) -> None:
        """Frame a widget, as long as it is in sight."""
        area = QRect(widget.mapTo(self.parentWidget(), QPoint(0, 0)), widget.size())
        self.setVisible(widget.isVisible())
        if area != self.area:
            self.area = area
            self.setGeometry(area)
        self.raise_()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(colour(MARIGOLD), 2, Qt.PenStyle.DashLine))
        painter.drawRoundedRect(QRectF(self.rect()).adjusted(1.5, 1.5, -1.5, -1.5), 6, 6)
        painter.end()


class FirstSteps(QFrame):
    """The strip; ``place`` is the number of the step that is to be done, from 0."""

    def __init__(self, window: QWidget) -> None:
        super().__init__()
        self.setObjectName("FirstSteps")
        self.setStyleSheet("#FirstSteps { background: #4a3a1c; }")
        self.context: Context | None = None
        self.place = 0
        self._before: Any = None
        self.frame_ = Frame(window)
        self.count, self.text = QLabel(), QLabel()
        self.count.setObjectName("Title")
        self.text.setWordWrap(True)
        self.skip, self.end = QPushButton("Skip"), QPushButton("End")
        self.skip.setToolTip("Go on to the next step without this one")
        self.end.setToolTip("Close the first steps; Help has them again")
        self.skip.clicked.connect(self._next)
        self.end.clicked.connect(self.stop)
        row = QHBoxLayout(self)
        row.setContentsMargins(16, 6, 10, 6)
        row.setSpacing(12)
        row.addWidget(self.count)
        row.addWidget(self.text, 1)
        row.addWidget(self.skip)
        row.addWidget(self.end)
        self._clock = QTimer(self)
        self._clock.setInterval(_LOOKS)
        self._clock.timeout.connect(self.look)
        self.hide()

    @property
    def step(self) -> Step | None:
        """The step that is to be done; None after the last."""
        return STEPS[self.place] if self.place < len(STEPS) else None

    def begin(self, context: Context) -> None:
        """Start with the first step."""
        self.context, self.place = context, 0
        self.show()
        self._clock.start()
        self._show_step()

    def stop(self) -> None:
        """Put the strip away."""
        self._clock.stop()
        self.frame_.hide()
        self.hide()

    def look(self) -> None:
        """Go on where the step is done; keep the frame where its part of the window is now."""
        step, context = self.step, self.context
        if step is None or context is None:
            return
        if not context.editor.isVisible():
            self.stop()
        elif step.done(context, self._before):
            self._next()
        else:
            self.frame_.show_around(step.where(context))

    def _next(self) -> None:
        self.place += 1
        self._show_step()

    def _show_step(self) -> None:
        step, context = self.step, self.context
        if context is None:
            return
        if step is None:
            self.count.setText("✓")
            self.text.setText("That was the whole way from a layer to a file. The guide (F1) goes on from here.")
            self.frame_.hide()
            self.skip.hide()
            return
        self.skip.show()
        self.count.setText(f"{self.place + 1} of {len(STEPS)}")
        self.text.setText(step.text)
        self._before = step.begin(context)
