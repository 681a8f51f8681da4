"""Driving the real window as a person does: mouse, keys, drags, drops."""

from __future__ import annotations

import tempfile
import time
import traceback
import unittest
from collections.abc import Callable, Sequence
from contextlib import suppress
from pathlib import Path
from typing import Any
from unittest import mock

import numpy as np
from PyQt6.QtCore import QEvent, QMimeData, QPoint, QPointF, Qt, QUrl
from PyQt6.QtGui import QDragEnterEvent, QDropEvent, QGuiApplication, QMouseEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QMessageBox, QWidget

from spiralis.app.details.fixed_rows import ParentList
from spiralis.app.main import application
from spiralis.app.session import Session
from spiralis.app.widgets.text_fields import take_typed
from spiralis.app.window import Window
from spiralis.app.work import background, unforeseen
from spiralis.app.work.soon import MOMENT, Soon
from spiralis.app.workspace.room import room_file
from spiralis.core.model import Layer, Project
from spiralis.core.storage import save
from tests.core.samples import backdrop, moving, project, square_source

LEFT = Qt.MouseButton.LeftButton
NONE = Qt.KeyboardModifier.NoModifier
SHIFT, CONTROL, ALT = (
    Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.AltModifier,
)  # fmt: skip


def sample_project() -> Project:
    """Return a 640 by 480 piece of 50 frames: a moving square (two keys), words, a ground."""
    source = square_source(100)
    square = Layer("Square", "picture", 0, 50, id="square").with_values(source=source.id, position=(160.0, 240.0))
    words = Layer("Words", "text", 0, 50, id="words").with_values(text="Hi", size=80.0, position=(480.0, 120.0))
    layers = (moving(square, (160.0, 240.0), (400.0, 240.0), 20), words, backdrop(640, 480, (0.1, 0.2, 0.3, 1.0)))
    return project(*layers, sources=(source,), width=640, height=480, length=50)


def answered(word: str, asked: list[str] | None = None) -> Any:
    """Let every question be answered by its button of a word; ``asked`` gathers what was asked."""

    def press(box: QMessageBox) -> int:
        if asked is not None:
            asked.append(box.text())
        box.show()
        next(button for button in box.buttons() if word in button.text()).click()
        return box.result()

    return mock.patch.object(QMessageBox, "exec", press)


class WindowTest(unittest.TestCase):
    """Opens the window on the sample project (on the start page where ``sample`` is None)."""

    sample: Callable[[], Project] | None = staticmethod(sample_project)

    def setUp(self) -> None:
        self.app = application()
        # Each test finds the panels as a new user does.
        with suppress(OSError):
            room_file().unlink()
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        first = self.sample() if self.sample is not None else project(width=100, height=100)
        self.session = Session(first)
        self.window = Window(self.session)
        self.window.resize(1280, 800)
        self.window.show()
        self.editor = self.window.editor
        if self.sample is not None:
            self.window.show_editor()
        self.said: list[str] = []
        self.session.failed.connect(self.said.append)
        #: Traces of errors that nobody foresaw; a test that means them to happen empties it.
        self.unforeseen: list[str] = []
        unforeseen.listen(self._note_unforeseen)
        self.enterContext(mock.patch.object(background, "note", self._note_unforeseen))
        self.settle()
        self.addCleanup(self._close)

    def _close(self) -> None:
        if QGuiApplication.mouseButtons() != Qt.MouseButton.NoButton:
            # What one test holds down is not held in the next one.
            QTest.mouseRelease(self.window.windowHandle(), LEFT)
        if self.window.windows.export is not None:
            self.until(lambda: self.window.windows.export.running is None, 60)
            self.window.windows.export.close()
        take_typed()  # What a test leaves half typed is no unsaved work when the window asks.
        self.session.history.mark_saved()
        self.window.close()
        self.window.deleteLater()
        self.settle()
        self.assertEqual([], self.unforeseen)

    def _note_unforeseen(self, error: BaseException, sentence: str = "") -> None:
        self.unforeseen.append("".join(traceback.format_exception(error)))

    # -- waiting ---------------------------------------------------------------------------------------

    def settle(self, seconds: float = 0.02) -> None:
        ends = time.perf_counter() + seconds
        self._take_turn()
        while time.perf_counter() < ends or self._waits(time.perf_counter() - ends):
            time.sleep(0.002)
            self._take_turn()
        for _ in range(3):  # What was shown last is laid out in the turns after.
            self._take_turn()

    def _take_turn(self) -> None:
        """Do what a running event loop does in one turn; without one, nothing that asked for it would be deleted."""
        self.app.processEvents()
        self.app.sendPostedEvents(None, QEvent.Type.DeferredDelete.value)

    def _waits(self, seconds: float) -> bool:
        """Whether a panel, after ``seconds`` of waiting, still puts off showing a change.

        While frames play there is always something to show, so a second is enough then.
        """
        try:
            soons = self.window.findChildren(Soon)
            later = any(soon.isActive() and soon.interval() <= MOMENT for soon in soons)
            return seconds < (1 if self.window.player.playing else 20) and (later or self.editor.details.building)
        except RuntimeError:  # The window is closed and gone.
            return False

    def until(self, condition: Callable[[], bool], seconds: float = 20) -> None:
        ends = time.perf_counter() + seconds
        while not condition():
            self.assertLess(time.perf_counter(), ends, "waited too long")
            self._take_turn()
            time.sleep(0.003)

    def picture(self) -> np.ndarray:
        """Return the ready frame under the playhead, waiting for it."""
        self.settle()
        self.until(lambda: self.window.player.picture() is not None)
        self._take_turn()  # The canvas hears of it in a turn of its own.
        found = self.window.player.picture()
        assert found is not None
        return found

    # -- acting ----------------------------------------------------------------------------------------

    def seen_at(self, frames: Sequence[int]) -> list[np.ndarray]:
        """Go to each of some frames, and return what the canvas shows there, as int (h, w, n)."""
        seen = []
        for frame in frames:
            self.session.go_to(frame)
            self.settle(0.4)
            seen.append(self.picture().astype(int))
        return seen

    def drag(
        self, widget: QWidget, start: QPointF, end: QPointF, keys: Qt.KeyboardModifier = NONE, steps: int = 5
    ) -> None:
        QTest.mousePress(widget, LEFT, keys, start.toPoint())
        for step in range(1, steps + 1):
            place = start + (end - start) * (step / steps)
            self._move(widget, place, keys)
        QTest.mouseRelease(widget, LEFT, keys, end.toPoint())
        self.settle()

    def _move(self, widget: QWidget, place: QPointF, keys: Qt.KeyboardModifier) -> None:
        where = QPointF(widget.mapToGlobal(QPoint(0, 0))) + place
        event = QMouseEvent(QEvent.Type.MouseMove, place, where, Qt.MouseButton.NoButton, LEFT, keys)
        QApplication.sendEvent(widget, event)

    def click(self, widget: QWidget, place: QPointF | None = None, keys: Qt.KeyboardModifier = NONE) -> None:
        point = place.toPoint() if place is not None else widget.rect().center()
        QTest.mouseClick(widget, LEFT, keys, point)
        self.settle()

    def double_click(self, widget: QWidget, place: QPointF) -> None:
        QTest.mouseDClick(widget, LEFT, NONE, place.toPoint())
        self.settle()

    def type_(self, widget: QWidget, text: str) -> None:
        QTest.keyClicks(widget, text)
        self.settle()

    def press(self, widget: QWidget, key: Qt.Key, keys: Qt.KeyboardModifier = NONE) -> None:
        QTest.keyClick(widget, key, keys)
        self.settle()

    def enter_number(self, field: QWidget, text: str) -> None:
        """Click a number field, type, press Enter."""
        self.click(field)
        self.type_(field, text)
        self.press(field, Qt.Key.Key_Return)

    def choose_parent(self, name: str) -> None:
        """Type the beginning of a name into the Parent list of Details."""
        found = next(box for box in self.editor.details.page.findChildren(ParentList))
        found.setFocus()
        QTest.keyClicks(found, name)
        self.settle()

    def drop_mime(self, mime: QMimeData, at: QPointF) -> None:
        """Drag something in from outside, and let go of it at a point of the window."""
        for event in (QDragEnterEvent(at.toPoint(), Qt.DropAction.CopyAction, mime, LEFT, NONE),
                      QDropEvent(at, Qt.DropAction.CopyAction, mime, LEFT, NONE)):  # fmt: skip
            QApplication.sendEvent(self.window, event)

    def drop(self, paths: list[Path], at: QPointF) -> None:
        mime = QMimeData()
        mime.setUrls([QUrl.fromLocalFile(str(path)) for path in paths])
        self.drop_mime(mime, at)
        self.until(lambda: not self.window.importer.busy)
        self.settle()

    def add_shape(self, label: str) -> str:
        """Choose an entry of the menu of shapes, and return the layer that it adds."""
        actions = self.editor.add_strip.shape.menu().actions()
        next(action for action in actions if action.text() == label).trigger()
        self.settle(0.3)
        (layer,) = self.session.layers
        return str(layer.id)

    def act(self, label: str) -> None:
        """Choose a menu entry."""
        action = self.window.actions_[label]
        self.assertTrue(action.isEnabled(), label)
        action.trigger()
        self.settle()

    # -- places ----------------------------------------------------------------------------------------

    def on_canvas(self, x: float, y: float) -> QPointF:
        """Return the canvas widget's point for composition pixels."""
        return QPointF(*self.editor.canvas.viewport.to_widget.apply(x, y))

    def bead(self, layer: str, name: str, frame: int) -> QPointF:
        """Return where a key's bead is in the timeline rows."""
        rows = self.editor.timeline.rows
        row = next(r for r in rows.rows() if r.layer.id == layer and r.name == name)
        return QPointF(rows.axis().x(frame), row.middle)

    def layer(self, layer: str) -> Layer:
        return self.session.composition.layer(layer)

    def value(self, layer: str, name: str) -> object:
        return self.session.evaluated().values(self.layer(layer))[name]

    def saved(self, project_: Project, name: str = "piece.spiralis") -> Path:
        path = self.folder / name
        save(project_, path)
        return path
