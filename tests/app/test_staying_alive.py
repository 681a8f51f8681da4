"""Whatever is under way when something else begins: nothing ends the program, nothing is lost, nothing is a trap."""

from __future__ import annotations

import gc
import io
import subprocess
import sys
import threading
import time
import unittest
from collections.abc import Callable
from contextlib import redirect_stderr
from unittest import mock

from PyQt6 import sip
from PyQt6.QtCore import QObject, QPoint, QPointF, Qt, QTimer
from PyQt6.QtGui import QContextMenuEvent, QPaintEvent, QWheelEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QMenu, QPushButton, QWidget

from spiralis.app.session import Session
from spiralis.app.widgets.fields import ListField, NumberField
from spiralis.app.window import Window
from spiralis.app.work import unforeseen
from spiralis.app.work.background import Background
from spiralis.app.work.collecting import Collector, expect_no_cycles
from spiralis.app.work.soon import Soon
from spiralis.core.errors import ProjectFileError
from spiralis.core.storage.recovery import Journal, left_behind
from tests.app.harness import CONTROL, NONE, WindowTest

#: Every command that may come while words are typed or points edited, in an order where each still finds its layer.
_ODD_MOMENTS = (
    "Words to outlines", "Nest the content, motion stays outside", "Nest at full size", "Duplicate this composition",
    "New composition…", "Duplicate", "Lock or unlock", "Hang on a carrier", "Copies of the chosen layer",
    "Mask with an ellipse", "Split at the playhead", "Crop or enlarge the frame", "Draw with the pen",
)  # fmt: skip


class Listener(QObject):
    def __init__(self) -> None:
        super().__init__()
        self.heard: list[str] = []

    def hear(self, _: BaseException, sentence: str) -> None:
        self.objectName()
        self.heard.append(sentence)


class ListenersTest(unittest.TestCase):
    def test_what_qt_has_deleted_is_told_nothing_and_forgotten(self) -> None:
        self.enterContext(mock.patch.object(unforeseen, "_listeners", []))
        self.enterContext(mock.patch.object(unforeseen, "_write"))
        said = self.enterContext(redirect_stderr(io.StringIO()))
        gone, there = Listener(), Listener()
        unforeseen.listen(gone.hear)
        unforeseen.listen(there.hear)
        sip.delete(gone)
        unforeseen._caught(ValueError, ValueError("by hand"), None)
        self.assertEqual(([], 1), (gone.heard, len(there.heard)))
        self.assertEqual(1, len(unforeseen._listeners))
        self.assertNotIn("has been deleted", said.getvalue())

    def test_an_error_that_is_raised_again_is_in_the_log_once_and_told(self) -> None:
        self.enterContext(mock.patch.object(unforeseen, "_listeners", []))
        written = self.enterContext(mock.patch.object(unforeseen, "_write"))
        self.enterContext(redirect_stderr(io.StringIO()))
        listener, error = Listener(), ValueError("beside the window")
        unforeseen.listen(listener.hear)
        unforeseen.note(error)
        unforeseen._caught(ValueError, error, None)
        self.assertEqual((1, 1), (written.call_count, len(listener.heard)))
        unforeseen.note(ValueError("beside the window"))
        self.assertEqual(2, written.call_count)


class StayingAliveTest(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        self.unforeseen: list[BaseException] = []
        before = sys.excepthook
        self.addCleanup(setattr, sys, "excepthook", before)
        sys.excepthook = lambda kind, error, trace: self.unforeseen.append(error)

    def tearDown(self) -> None:
        self.assertEqual([], self.unforeseen)

    def test_any_command_while_typing(self) -> None:
        for label in _ODD_MOMENTS:
            with self.subTest(label):
                start = self.session.project
                self.editor.canvas.edit_text("words")
                self.type_(self.editor.canvas, "Sky")
                self.act(label)
                self.editor.canvas.grab()
                self.assertIsNone(self.editor.canvas.typing.editing)
                self.editor.canvas.end_everything()
                while self.session.history.undo_name is not None:
                    self.session.undo()
                self.session.show_composition(start.compositions[0].id)
                self.settle()
                self.assertTrue(self.session.project is start)

    def test_any_command_while_points_are_edited(self) -> None:
        self.act("Add text")
        self.editor.canvas.end_everything()
        self.session.select(["words"])
        self.act("Words to outlines")
        start = self.session.project
        for label in _ODD_MOMENTS:
            with self.subTest(label):
                self.editor.canvas.toolbox.edit_points("words")
                self.click(self.editor.canvas, self.on_canvas(480, 120))
                self.act(label)
                self.editor.canvas.grab()
                self.editor.canvas.end_everything()
                while self.session.project is not start:
                    self.session.undo()
                self.session.show_composition(start.compositions[0].id)
                self.settle()

    def test_undo_and_redo_while_typing_keep_the_typing(self) -> None:
        canvas = self.editor.canvas
        canvas.edit_text("words")
        self.type_(canvas, "Long tail of a kite")
        self.press(canvas, Qt.Key.Key_Z, CONTROL)
        self.assertEqual("Long tail of a ", self.value("words", "text"))
        self.assertIsNotNone(canvas.typing.editing)
        self.press(canvas, Qt.Key.Key_Z, CONTROL)
        self.type_(canvas, "!")
        self.assertEqual("Long tail of !", self.value("words", "text"))
        self.act("Undo")
        self.act("Redo")
        self.assertEqual("Long tail of !", self.value("words", "text"))
        while self.session.history.undo_name is not None:
            self.act("Undo")
        canvas.grab()
        self.assertEqual("Hi", self.value("words", "text"))

    def test_undo_while_points_are_edited_lets_go_of_lost_points(self) -> None:
        self.session.select(["words"])
        self.act("Words to outlines")
        canvas = self.editor.canvas
        canvas.toolbox.edit_points("words")
        self.act("Undo")
        canvas.grab()
        self.assertIsNone(canvas.toolbox.tool)
        self.press(canvas, Qt.Key.Key_Delete)

    def test_saving_works_while_typing(self) -> None:
        path = self.folder / "typed.spiralis"
        self.session.path = path
        self.editor.canvas.edit_text("words")
        self.type_(self.editor.canvas, "Up")
        self.press(self.editor.canvas, Qt.Key.Key_S, CONTROL)
        self.assertTrue(path.exists())
        self.assertIsNotNone(self.editor.canvas.typing.editing)

    def test_menu_commands_mean_the_letters_while_typing(self) -> None:
        canvas = self.editor.canvas
        canvas.edit_text("words")
        self.act("Copy")
        self.assertEqual("Hi", QApplication.clipboard().text())
        self.press(canvas, Qt.Key.Key_End)
        self.act("Paste")
        self.assertEqual("HiHi", self.value("words", "text"))
        self.act("Choose all layers")
        self.act("Delete")
        self.assertEqual("", self.value("words", "text"))
        self.assertIsNotNone(self.session.composition.find("words"))

    def test_going_elsewhere_keeps_what_the_pen_drew(self) -> None:
        self.act("Draw with the pen")
        for x, y in ((100, 100), (200, 100), (200, 200)):
            self.click(self.editor.canvas, self.on_canvas(x, y))
        first = self.session.composition_id
        self.act("New composition…")
        self.assertEqual(4, len(self.session.project.composition(first).layers))

    def test_new_leads_back_to_the_open_piece(self) -> None:
        self.session.set_property("opacity", 40.0, ["words"])
        self.act("New…")
        self.assertFalse(self.window.editing)
        path = self.folder / "kept.spiralis"
        self.session.path = path
        self.act("Save")
        self.assertTrue(path.exists())
        self.click(self.window.start.back)
        self.assertTrue(self.window.editing)
        self.act("New…")
        self.press(self.window.start, Qt.Key.Key_Escape)
        self.assertTrue(self.window.editing)
        self.assertEqual(40.0, self.value("words", "opacity"))

    def test_escape_never_hides_a_running_export(self) -> None:
        self.window.windows.show_export()
        window = self.window.windows.export
        assert window is not None
        window.start(self.folder / "piece.mp4")
        self.press(window, Qt.Key.Key_Escape)
        self.assertTrue(window.isVisible())
        self.window.close()
        self.assertTrue(self.window.isVisible())
        self.until(lambda: window.running is None, 60)
        self.press(window, Qt.Key.Key_Escape)
        self.assertFalse(window.isVisible())

    def test_the_wheel_changes_no_list(self) -> None:
        self.session.select(["words"])
        self.settle()
        lists = [box for box in self.editor.details.findChildren(ListField) if box.isVisible()]
        self.assertGreater(len(lists), 1)
        before = self.session.project
        for box in lists:
            box.setFocus()
            middle = QPointF(box.rect().center())
            event = QWheelEvent(
                middle, box.mapToGlobal(middle), QPoint(), QPoint(0, -120), Qt.MouseButton.NoButton, NONE,
                Qt.ScrollPhase.NoScrollPhase, False,
            )  # fmt: skip
            QApplication.sendEvent(box, event)
        self.settle()
        self.assertIs(before, self.session.project)

    def test_space_and_enter_press_the_focused_button_and_play_elsewhere(self) -> None:
        button = QPushButton("Press me", self.window)
        button.show()
        presses: list[int] = []
        button.clicked.connect(lambda: presses.append(1))
        button.setFocus()
        self._shortcut(button, Qt.Key.Key_Space)
        self.press(button, Qt.Key.Key_Return)
        self.assertEqual(2, len(presses))
        self.assertFalse(self.window.player.playing)
        self.editor.canvas.setFocus()
        self._shortcut(self.editor.canvas, Qt.Key.Key_Space)
        self.assertTrue(self.window.player.playing)
        self.window.player.stop()

    def _shortcut(self, widget: QWidget, key: Qt.Key) -> None:
        """Press a key as the platform does, shortcuts first."""
        self.window.activateWindow()
        QTest.qWaitForWindowActive(self.window)
        widget.setFocus()
        self.press(widget, key)

    def test_after_a_typed_number_shortcuts_work_and_delete_clears_the_number(self) -> None:
        self.session.select(["words"])
        self.settle()
        field = next(f for f in self.editor.details.findChildren(NumberField) if f.accessibleName() == "Opacity")
        self.enter_number(field, "30")
        self.assertEqual(30.0, self.value("words", "opacity"))
        self.press(field, Qt.Key.Key_Delete)
        self.assertIsNotNone(self.session.composition.find("words"))
        self.type_(field, "55")
        self.press(field, Qt.Key.Key_Return)
        self.assertEqual(55.0, self.value("words", "opacity"))
        self.press(field, Qt.Key.Key_Z, CONTROL)
        self.assertEqual(30.0, self.value("words", "opacity"))

    def test_a_second_crash_right_after_recovering_loses_nothing(self) -> None:
        self.session.set_property("opacity", 12.0, ["words"])
        left = Journal()
        left.write(self.session.project, None)
        with mock.patch("spiralis.core.storage.recovery.alive", lambda process: False):
            found = next(f for f in left_behind() if f.journal.path == left.path)
            again = Session(self.session.project)
            window = Window(again)
            # The disk is full: the own copy cannot be written, so the one that was found has to stay.
            with mock.patch("spiralis.core.storage.recovery.save", side_effect=ProjectFileError("full")):
                window.files.recover(found)
                window.files.keeping._pool.submit(lambda: None).result()
            self.assertTrue(any(f.journal.path == left.path for f in left_behind()))
            window.files.recover(found)
            window.files.keeping._pool.submit(lambda: None).result()
            copies = left_behind()
            self.assertFalse(any(f.journal.path == left.path for f in copies))
            own = next(f for f in copies if f.journal.path == window.files.keeping.journal.path)
            self.assertEqual(12.0, own.load().compositions[0].layer("words").track("opacity").value)
        again.history.mark_saved()
        window.close()

    def test_a_failed_save_keeps_the_copy(self) -> None:
        self.session.set_property("opacity", 12.0, ["words"])
        files = self.window.files
        files.keeping.write_copy_now()
        files.keeping._pool.submit(lambda: None).result()
        self.assertTrue(files.keeping.journal.path.exists())
        self.assertFalse(files.save_to(self.folder / "no such folder" / "piece.spiralis"))
        files.keeping._pool.submit(lambda: None).result()
        self.assertTrue(files.keeping.journal.path.exists())


class PassingMenusTest(WindowTest):
    def test_menus_that_were_asked_for_are_gone_once_they_are_closed(self) -> None:
        rows, ruler, canvas = self.editor.timeline.rows, self.editor.timeline.ruler, self.editor.canvas
        places = {rows: QPoint(70, 20), ruler: QPoint(500, 20), canvas: canvas.rect().center()}
        owners = (*places, self.window)

        def held() -> list[QMenu]:
            return [menu for menu in self.window.findChildren(QMenu) if menu.parent() in owners]

        before = held()

        def close() -> None:
            menu = QApplication.activePopupWidget()
            assert isinstance(menu, QMenu)
            self.opened += 1
            menu.close()

        for widget, place in places.items():
            for _ in range(2):
                self.opened = 0
                QTimer.singleShot(30, close)
                reason = QContextMenuEvent.Reason.Mouse
                QApplication.sendEvent(widget, QContextMenuEvent(reason, place, widget.mapToGlobal(place)))
                self.until(lambda: self.opened > 0)
                self.settle()
        self.assertEqual(before, held())


class UnforeseenTest(WindowTest):
    def test_an_error_in_a_slot_is_said_and_the_window_goes_on(self) -> None:
        self.session.set_property("opacity", 12.0, ["words"])
        button = QPushButton("Break", self.window)
        button.clicked.connect(lambda: 1 / 0)
        with mock.patch("sys.stderr"):
            button.click()
            self.settle()
        self.assertIn("ZeroDivisionError", self.said[-1])
        self.assertIn("ZeroDivisionError", self.unforeseen.pop())
        self.window.files.keeping._pool.submit(lambda: None).result()
        self.assertTrue(self.window.files.keeping.journal.path.exists())
        self.session.set_property("opacity", 13.0, ["words"])
        self.assertEqual(13.0, self.value("words", "opacity"))


class _Ring:
    """One object of a cycle that says in which thread it was taken apart."""

    def __init__(self, seen: list[int]) -> None:
        self.other: object = None
        self._seen = seen

    def __del__(self) -> None:
        self._seen.append(threading.get_ident())


class CollectingTest(WindowTest):
    def test_cycles_are_taken_apart_in_the_windows_thread_alone(self) -> None:
        seen: list[int] = []

        def make_rings() -> None:
            for _ in range(50):
                one, two = _Ring(seen), _Ring(seen)
                one.other, two.other = two, one

        def allocate() -> None:
            held = [[n] for n in range(300_000)]  # Python by itself would collect many times here.
            self.assertEqual(300_000, len(held))

        make_rings()
        thread = threading.Thread(target=allocate)
        thread.start()
        thread.join()
        self.assertEqual([], seen)
        make_rings()
        rows = [[n] for n in range(2_000)]
        self.until(lambda: len(seen) >= 200)
        self.assertEqual({threading.get_ident()}, set(seen))
        self.assertEqual(2_000, len(rows))

    def test_a_window_that_was_open_when_a_project_came_goes_once_it_is_closed(self) -> None:
        seen: list[int] = []
        one, two = _Ring(seen), _Ring(seen)
        one.other, two.other = two, one
        expect_no_cycles()  # As another project is opened.
        del one, two
        gc.collect()
        self.assertEqual([], seen)
        collector, now = Collector(self.window), time.monotonic()
        with mock.patch("spiralis.app.work.collecting.time.monotonic", lambda: now + 1000):
            self.window.player.playing = True
            collector.look()
            self.assertEqual([], seen)
            self.window.player.playing = False
            collector.look()
        self.assertEqual(2, len(seen))

    def test_what_a_result_is_handed_to_is_let_go_in_the_windows_thread(self) -> None:
        seen: list[int] = []
        background = Background(self.window)
        gate = threading.Event()

        def ask() -> None:
            ring = _Ring(seen)
            background.run(gate.wait, lambda _: setattr(ring, "other", None))

        ask()
        gate.set()
        self.until(lambda: len(seen) == 1)
        self.assertEqual({threading.get_ident()}, set(seen))

    def test_results_wait_for_a_busy_hand_and_come_in_order_though_one_fails_or_ends_who_asked(self) -> None:
        background, plain, taken = Background(self.window, change=True), Background(self.window), list[object]()

        def failing(result: object) -> None:
            taken.append(result)
            raise ArithmeticError("of the test's own")

        with mock.patch("spiralis.app.work.background.hand_is_busy", return_value=True):
            for result, take in ((1, taken.append), (2, failing), (3, taken.append)):
                background.run(lambda result=result: result, take)
            plain.run(lambda: 0, taken.append)
            self.until(lambda: taken == [0])
            self.settle(0.3)
            background.run_newest(lambda: 4, taken.append)
            self.settle(0.3)
            self.assertEqual(([0], 4), (taken, background.busy))
        self.until(lambda: not background.busy)
        self.assertEqual([0, 1, 2, 3, 4], taken)
        self.assertIn("of the test's own", self.unforeseen.pop())
        with mock.patch("spiralis.app.work.background.hand_is_busy", return_value=True):
            background.run(lambda: 5, lambda result: (taken.append(result), sip.delete(background)))
            background.run(lambda: 6, taken.append)
            self.settle(0.3)
        self.until(lambda: 5 in taken)
        self.settle(0.3)
        self.assertEqual([0, 1, 2, 3, 4, 5], taken)

    def test_who_closes_waits_for_nothing_that_is_still_at_work(self) -> None:
        gate, began, ended = threading.Event(), threading.Event(), []
        background = Background(self.window)

        def work() -> None:
            began.set()
            ended.append(gate.wait(30))

        for _ in range(3):
            background.run(work, lambda _: None)
        self.until(began.is_set)
        background.deleteLater()
        self.until(lambda: sip.isdeleted(background))
        self.assertEqual(ended, [])
        gate.set()
        self.until(lambda: bool(ended))
        self.settle(0.2)
        self.assertEqual(ended, [True])  # What had not begun was dropped.

    def test_results_that_come_while_who_asked_goes_are_dropped(self) -> None:
        program = (
            "import sys\nfrom PyQt6 import sip\nfrom PyQt6.QtCore import QCoreApplication, QObject\n"
            "from spiralis.app.work.background import Background\n"
            "sys.setswitchinterval(1e-6)\napp = QCoreApplication([])\n"
            "for turn in range(200):\n"
            "    parent = QObject()\n"
            "    for _ in range(3):\n"
            "        background = Background(parent, 2)\n"
            "        for _ in range(30):\n"
            "            background.run(int, print)\n"
            "    del background\n"
            "    sip.delete(parent)\n"
        )
        for _ in range(2):
            done = subprocess.run([sys.executable, "-c", program], capture_output=True, text=True, check=False)
            self.assertEqual((done.returncode, done.stderr), (0, ""))

    def test_the_programs_end_waits_for_nothing_that_is_still_at_work(self) -> None:
        program = (
            "import time\nfrom PyQt6.QtCore import QCoreApplication, QTimer\n"
            "from spiralis.app.work.background import Background\n"
            "app = QCoreApplication([])\nbackground = Background(app)\n"
            "background.run(lambda: time.sleep(300), print)\n"
            "QTimer.singleShot(200, app.quit)\napp.exec()\n"
        )
        ended = subprocess.run([sys.executable, "-c", program], timeout=60, capture_output=True, check=False)
        self.assertEqual((ended.returncode, ended.stdout), (0, b""))

    def test_a_window_waits_for_its_own_picture_alone(self) -> None:
        other = Window(Session(self.session.project))
        self.addCleanup(other.close)
        ran: list[str] = []
        for name, window in (("own", self.window), ("other", other)):
            self.enterContext(mock.patch.object(window.player, "unseen", return_value=window is not other))
            Soon(window.editor, lambda name=name: ran.append(name)).ask()
        self.until(lambda: len(ran) == 2)
        self.assertEqual(ran, ["other", "own"])

    def test_parts_of_a_window_take_turns_and_each_is_painted_before_the_next_begins(self) -> None:
        seen: list[str] = []
        self.enterContext(mock.patch.object(self.window.player, "unseen", return_value=False))

        class Part(QWidget):
            def paintEvent(self, event: QPaintEvent) -> None:
                seen.append(f"{self.objectName()} painted")

        def worker(part: Part) -> Callable[[], None]:
            def work() -> None:
                seen.append(f"{part.objectName()} worked")
                part.update()

            return work

        parts = []
        for name in "abc":
            part = Part(self.window)
            part.setObjectName(name)
            part.setGeometry(40 * len(parts), 0, 30, 30)
            part.show()
            parts.append(part)
        self.settle()
        for times in (1, 2):
            seen.clear()
            for part in parts:
                Soon(part, worker(part), wait=20).ask()
            self.until(lambda: len([line for line in seen if "worked" in line]) == 3)
            self.settle()
            with self.subTest(times=times):
                # Which of them goes next is nobody's concern.
                names = [line.split()[0] for line in seen[:6:2]]
                self.assertEqual(["a", "b", "c"], sorted(names))
                self.assertEqual([line for name in names for line in (f"{name} worked", f"{name} painted")], seen[:6])

    def test_an_edit_between_two_turns_goes_before_the_second(self) -> None:
        seen: list[str] = []
        unseen = self.enterContext(mock.patch.object(self.window.player, "unseen", return_value=False))

        def first() -> None:
            seen.append("first")
            QTimer.singleShot(0, lambda: setattr(unseen, "return_value", True))
            QTimer.singleShot(60, lambda: (seen.append("picture"), setattr(unseen, "return_value", False)))

        Soon(self.window, first, wait=20).ask()
        Soon(self.window, lambda: seen.append("second"), wait=20).ask()
        self.until(lambda: len(seen) == 3)
        self.assertEqual(seen, ["first", "picture", "second"])

    def test_what_asks_again_after_its_turn_waits_as_long_as_at_first(self) -> None:
        self.enterContext(mock.patch.object(self.window.player, "unseen", return_value=False))
        ran: list[str] = []
        Soon(self.window, lambda: ran.append("other"), wait=30).ask()
        soon = Soon(self.window, lambda: ran.append("own"), wait=30)
        soon.ask()
        self.until(lambda: len(ran) == 2)
        started = time.perf_counter()
        soon.ask()
        self.until(lambda: len(ran) == 3)
        self.assertGreater(time.perf_counter() - started, 0.025)
        self.assertEqual(ran, ["other", "own", "own"])

    def test_what_is_asked_for_in_the_next_turn_waits_for_the_picture_as_often_as_at_first(self) -> None:
        ran: list[float] = []
        soon = Soon(self.window, lambda: ran.append(time.perf_counter()), wait=20)
        soon.ask_next()
        self._take_turn()
        self.until(lambda: len(ran) == 1)
        with mock.patch.object(self.window.player, "unseen", return_value=True):
            for count in (2, 3):
                started = time.perf_counter()
                soon.ask_next()
                self.until(lambda count=count: len(ran) == count)
                self.assertGreater(ran[-1] - started, 0.08)


if __name__ == "__main__":
    unittest.main()
