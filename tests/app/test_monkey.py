"""A monkey at the window: mouse, keys, menus, typing, tools and drops in any order break nothing and lose nothing.

``SPIRALIS_MONKEY`` sets how many actions each seed does.
"""

from __future__ import annotations

import os
import random
import traceback
import unittest
from collections.abc import Callable, Iterable
from unittest import mock

import numpy as np
from PyQt6.QtCore import QMimeData, QPoint, QPointF, Qt, QtMsgType, QUrl, qInstallMessageHandler
from PyQt6.QtGui import QContextMenuEvent, QDrag, QDropEvent, QWheelEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import (
    QAbstractButton,
    QApplication,
    QComboBox,
    QDialog,
    QFileDialog,
    QInputDialog,
    QMenu,
    QMessageBox,
    QToolButton,
    QWidget,
)

from spiralis.app.main import is_trouble
from spiralis.app.work import unforeseen
from spiralis.core.model import Project
from tests.app.harness import ALT, CONTROL, LEFT, NONE, SHIFT, WindowTest, sample_project
from tests.core.samples import png_bytes
from tests.core.zoo import zoo

ACTIONS = int(os.environ.get("SPIRALIS_MONKEY", "160"))
SEEDS = (1, 2, 3)
#: What would leave the piece, the window or the machine.
_LEFT_ALONE = {"Quit", "Open…", "Open the demo", "Close the piece", "Save", "Save as…", "Export…", "Full screen",
               "Picture in a window of its own", "First steps"}  # fmt: skip
_HELD = (NONE, NONE, NONE, NONE, SHIFT, CONTROL, ALT, SHIFT | ALT)
_KEYS = tuple(
    getattr(Qt.Key, f"Key_{name}")
    for name in ("A", "Z", "M", "5", "Return", "Escape", "Tab", "Backtab", "Delete", "Backspace", "Left", "Right", "Up",
                 "Down", "Home", "End", "Space", "Period", "Plus", "Minus", "F2", "PageUp")
)  # fmt: skip


class Monkey(WindowTest):
    """What it can do; the tests beneath let it."""

    def setUp(self) -> None:
        super().setUp()
        self.session.failed.disconnect(self.said.append)
        self.random = random.Random(0)
        self.trouble: list[str] = []
        self.done: list[str] = []
        self._watch()
        self._answer_dialogs()
        self.picture_file = self.folder / "dropped.png"
        self.picture_file.write_bytes(png_bytes(np.full((30, 40, 4), (200, 60, 20, 255), dtype=np.uint8)))

    def _watch(self) -> None:
        unforeseen.listen(self._heard)

        def message(kind: QtMsgType, context: object, text: str | None) -> None:
            if is_trouble(kind, text):
                self.trouble.append(f"Qt: {text}")

        before = qInstallMessageHandler(message)
        self.addCleanup(qInstallMessageHandler, before)

    def _heard(self, error: BaseException, sentence: str) -> None:
        self.trouble.append("".join(traceback.format_exception(error)))

    def _answer_dialogs(self) -> None:
        def dialog(self_: QDialog) -> int:
            self_.show()
            QApplication.processEvents()
            self_.accept() if self.random.random() < 0.6 else self_.reject()
            return self_.result()

        def box(self_: QMessageBox) -> int:
            buttons = self_.buttons()
            self_.show()
            QApplication.processEvents()
            self.random.choice(buttons).click()
            return self_.result()

        for target, name, answer in (
            (QDialog, "exec", dialog), (QMessageBox, "exec", box), (QMenu, "exec", lambda *_: None),
            (QDrag, "exec", lambda *_: Qt.DropAction.IgnoreAction),
            (QFileDialog, "getOpenFileName", lambda *_, **__: ("", "")),
            (QFileDialog, "getOpenFileNames", lambda *_, **__: ([], "")),
            (QFileDialog, "getSaveFileName", lambda *_, **__: ("", "")),
            (QFileDialog, "getExistingDirectory", lambda *_, **__: ""),
            (QInputDialog, "getText", lambda *_, **__: ("Name", self.random.random() < 0.5)),
            (QInputDialog, "getItem", lambda *_, **__: ("", False)),
        ):  # fmt: skip
            self.enterContext(mock.patch.object(target, name, answer))

    # -- what it does ------------------------------------------------------------------------------------

    @property
    def deeds(self) -> tuple[tuple[int, Callable[[], str]], ...]:
        """What it does, each with how often."""
        return (
            (6, self.menu), (6, self.click), (5, self.drag_about), (7, self.key), (3, self.press_button),
            (2, self.type_words), (2, self.wheel), (1, self.drop), (2, self.undo_or_redo), (2, self.choose),
            (1, self.context_menu),
        )  # fmt: skip

    def act_once(self) -> None:
        """Do one thing, and close what it opened."""
        weights, deeds = zip(*self.deeds, strict=True)
        deed = self.random.choices(deeds, weights)[0]
        self.done.append(deed())
        QApplication.processEvents()
        self._close_others()
        if not self.window.editing or self.window.filling:
            self.window.show_editor()

    def _close_others(self) -> None:
        while (popup := QApplication.activePopupWidget()) is not None:
            popup.close()
        for other in QApplication.topLevelWidgets():
            if isinstance(other, QDialog) and other.isVisible() and not isinstance(other, QMessageBox):
                if self.random.random() < 0.4:
                    QTest.keyClick(other, self.random.choice((Qt.Key.Key_Tab, Qt.Key.Key_Down, Qt.Key.Key_Space)))
                    QApplication.processEvents()
                other.close()

    def _panel(self) -> QWidget:
        editor = self.editor
        panels = (editor.canvas, editor.canvas, editor.timeline.rows, editor.timeline.ruler, editor.pace.curves,
                  editor.transport.ring, editor.details, editor.pace.threads)  # fmt: skip
        return self.random.choice([panel for panel in panels if panel.isVisible()])

    def _place(self, widget: QWidget) -> QPoint:
        seen = widget.visibleRegion().boundingRect()
        area = seen if not seen.isEmpty() else widget.rect()
        return QPoint(self.random.randint(area.left(), area.right()), self.random.randint(area.top(), area.bottom()))

    def menu(self) -> str:
        label = self.random.choice(sorted(set(self.window.actions_) - _LEFT_ALONE))
        if self.window.actions_[label].isEnabled():
            self.window.actions_[label].trigger()
        return f"menu {label}"

    def click(self) -> str:
        panel, held = self._panel(), self.random.choice(_HELD)
        place = self._place(panel)
        target = panel.childAt(place) or panel
        if isinstance(target, QToolButton) and target.menu() is not None:
            target = panel
        inside = target.mapFrom(panel, place)
        twice = self.random.random() < 0.3
        (QTest.mouseDClick if twice else QTest.mouseClick)(target, LEFT, held, inside)
        return f"{'double ' if twice else ''}click {type(target).__name__} {inside.x()},{inside.y()} {held}"

    def drag_about(self) -> str:
        panel, held = self._panel(), self.random.choice(_HELD)
        start, end = self._place(panel), self._place(panel)
        QTest.mousePress(panel, LEFT, held, start)
        for share in (0.3, 0.7, 1.0):
            QTest.mouseMove(panel, start + (end - start) * share)
            QApplication.processEvents()
            if self.random.random() < 0.08:
                meanwhile = self.random.choice((self.menu, self.key, self.undo_or_redo))
                self.done.append(f"in the midst of a drag: {meanwhile()}")
        QTest.mouseRelease(panel, LEFT, held, end)
        return f"drag {type(panel).__name__} {start} {end}"

    def key(self) -> str:
        target, key, held = QApplication.focusWidget() or self.editor.canvas, self.random.choice(_KEYS), NONE
        if self.random.random() < 0.25:
            held = self.random.choice(_HELD)
        QTest.keyClick(target, key, held)
        return f"key {Qt.Key(key).name} {held} to {type(target).__name__}"

    def press_button(self) -> str:
        buttons = [b for b in self.editor.findChildren(QAbstractButton) if b.isVisible() and b.isEnabled()]
        button = self.random.choice(buttons)
        menu = button.menu() if isinstance(button, QToolButton) else None
        if menu is None:
            button.click()
            return f"button {button.accessibleName() or button.text()}"
        # A click would wait in the menu until somebody chooses.
        menu.popup(self.window.mapToGlobal(QPoint(200, 200)))
        QApplication.processEvents()
        # Many are filled as they open.
        choices = [action for action in menu.actions() if not action.isSeparator() and action.menu() is None]
        menu.close()
        if choices:
            self.random.choice(choices).trigger()
        return f"button {button.accessibleName() or button.text()}"

    def type_words(self) -> str:
        words = [layer for layer in self.session.composition.layers if layer.has("text") and not layer.locked]
        if not words:
            return "nothing to type in"
        self.editor.canvas.edit_text(self.random.choice(words).id)
        for letter in self.random.sample("words and more", 4):
            QTest.keyClicks(self.editor.canvas, letter)
        return "type"

    def wheel(self) -> str:
        panel = self._panel()
        place = QPointF(self._place(panel))
        event = QWheelEvent(
            place, panel.mapToGlobal(place), QPoint(), QPoint(0, self.random.choice((120, -120, 40))),
            Qt.MouseButton.NoButton, self.random.choice((NONE, CONTROL, SHIFT)), Qt.ScrollPhase.NoScrollPhase, False,
        )  # fmt: skip
        QApplication.sendEvent(panel, event)
        return f"wheel {type(panel).__name__}"

    def drop(self) -> str:
        mime = QMimeData()
        mime.setUrls([QUrl.fromLocalFile(str(self.picture_file))])
        place = QPointF(self._place(self.window))
        QApplication.sendEvent(self.window, QDropEvent(place, Qt.DropAction.CopyAction, mime, LEFT, NONE))
        self.until(lambda: not self.window.importer.busy, 10)
        return "drop"

    def undo_or_redo(self) -> str:
        back = self.random.random() < 0.6
        self.window.actions_["Undo" if back else "Redo"].trigger()
        return "undo" if back else "redo"

    def choose(self) -> str:
        ids = [layer.id for layer in self.session.composition.layers]
        self.session.select(self.random.sample(ids, min(len(ids), self.random.randint(0, 3))))
        boxes = [box for box in self.editor.details.findChildren(QComboBox) if box.isVisible()]
        boxes = [box for box in boxes if box.isEnabled() and box.count()]
        if boxes and self.random.random() < 0.3:
            box = self.random.choice(boxes)
            index = self.random.randrange(box.count())
            box.setCurrentIndex(index)
            box.activated.emit(index)
        return "choose"

    def context_menu(self) -> str:
        panel = self.random.choice((self.editor.canvas, self.editor.timeline.rows))
        place = self._place(panel)
        reason = self.random.choice((QContextMenuEvent.Reason.Mouse, QContextMenuEvent.Reason.Keyboard))
        QApplication.sendEvent(panel, QContextMenuEvent(reason, place, panel.mapToGlobal(place)))
        return f"context menu {type(panel).__name__}"


    def try_seeds(self, seeds: Iterable[int], sample: Callable[[int], Project], actions: int) -> None:
        """Do so many actions for each seed, on the project that it has."""
        asked = os.environ.get("SPIRALIS_MONKEY_SEEDS")
        for seed in seeds if asked is None else map(int, asked.split(",")):
            with self.subTest(seed=seed):
                self._run_seed(seed, sample(seed), actions)

    def _run_seed(self, seed: int, start: Project, actions: int) -> None:
        self.random.seed(seed)
        self.session.replace_project(start, None)
        self.window.files.has_piece = True
        self.done.clear()
        for number in range(actions):
            self.act_once()
            if self.trouble:
                said, did = "\n".join(self.trouble), "\n".join(self.done[-12:])
                self.trouble.clear()
                self.fail(f"seed {seed}, action {number}:\n{said}\nafter:\n{did}")
        self.editor.canvas.end_everything()
        self.window.player.stop()
        self.settle()
        while self.session.history.undo_name is not None:
            self.session.undo()
        self.assertIs(self.session.project, start, "\n".join(self.done[-12:]))
        self.assertEqual(self.trouble, [])


class MonkeyTest(Monkey):
    def test_whatever_it_does_nothing_breaks_and_undo_leads_back(self) -> None:
        self.try_seeds(SEEDS, lambda _: sample_project(), ACTIONS)

    def test_nor_does_it_among_layers_of_all_kinds(self) -> None:
        self.try_seeds(SEEDS, zoo, ACTIONS)


if __name__ == "__main__":
    unittest.main()
