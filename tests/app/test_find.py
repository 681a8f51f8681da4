"""Find, the menus and the shortcuts: typing for a command, what is grey and why, other keys, the canvas' menu."""

import os
import unittest
from collections import Counter
from unittest import mock

from hypothesis import given
from hypothesis import strategies as st
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtGui import QContextMenuEvent, QKeySequence
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QMenu

from spiralis.app.commands.find import Find, Finding, found
from spiralis.app.commands.menus import all_commands
from spiralis.app.commands.own_shortcuts import OwnKeys, read_keys
from spiralis.app.commands.shortcuts import ShortcutsWindow
from spiralis.app.widgets.matching import score
from spiralis.core.errors import FileError
from tests.app.harness import WindowTest

LABELS = [command.label for _, command in all_commands()]


class FoundTest(unittest.TestCase):
    def test_the_whole_name_wins_then_beginnings_then_parts(self) -> None:
        things = [Finding(name, "Menu", lambda: None) for name in ("Ungroup", "Group by name", "Group", "Regroup it")]
        self.assertEqual([t.name for t in found(things, "group")], ["Group", "Group by name", "Ungroup", "Regroup it"])

    def test_every_word_must_fit_somewhere(self) -> None:
        self.assertIsNone(score(["key", "zebra"], "Key for position", "Motion"))
        self.assertIsNotNone(score(["position", "motion"], "Key for position", "Motion"))

    @given(st.sampled_from(LABELS), st.data())
    def test_a_command_is_found_by_any_words_of_its_name(self, label: str, data: st.DataObject) -> None:
        words = label.split()
        typed = " ".join(data.draw(st.permutations(words))[: data.draw(st.integers(1, len(words)))])
        things = [Finding(each, "", lambda: None) for each in LABELS]
        self.assertIn(label, [thing.name for thing in found(things, typed.upper())])


class CommandsTest(WindowTest):
    def find(self, typed: str) -> Find:
        window = Find(self.window, self.window.commands)
        window.show()
        self.addCleanup(window.close)
        QTest.keyClicks(window.field, typed)
        self.settle()
        return window

    def test_typing_and_enter_run_a_command(self) -> None:
        self.session.select(["words"])
        window = self.find("hide")
        self.assertEqual(window._shown[0].name, "Show or hide")
        QTest.keyClick(window.field, Qt.Key.Key_Return)
        self.settle()
        self.assertFalse(window.isVisible())
        self.assertFalse(self.session.evaluated().values(self.session.composition.layer("words"))["visible"])

    def test_layers_compositions_and_effects_are_found_as_well(self) -> None:
        window = self.find("squ")
        items = [window.list.topLevelItem(index) for index in range(window.list.topLevelItemCount())]
        window.list.setCurrentItem(next(item for item in items if item.text(1) == "Layer"))
        QTest.keyClick(window.field, Qt.Key.Key_Return)
        self.assertEqual(self.session.selected, ("square",))
        window = self.find("gaussian")
        QTest.keyClick(window.field, Qt.Key.Key_Return)
        self.assertEqual([b.kind for b in self.session.composition.layer("square").blocks], ["gaussian-blur"])

    def test_the_arrow_keys_move_and_what_lacks_something_says_so_and_stays(self) -> None:
        self.session.select([])
        window = self.find("group")
        QTest.keyClick(window.field, Qt.Key.Key_Return)
        self.assertTrue(window.isVisible())
        self.assertIn("Choose a layer", window.nothing.text())
        first = window.list.currentItem().text(0)
        QTest.keyClick(window.field, Qt.Key.Key_Down)
        self.assertNotEqual(window.list.currentItem().text(0), first)

    def test_every_command_of_the_menus_is_there(self) -> None:
        names = Counter(thing.name for thing in self.find("")._things)
        for label in LABELS:
            self.assertGreaterEqual(names[label.rstrip("…")], 1, label)

    def test_menus_are_no_taller_than_600_px_and_each_entry_has_a_letter_of_its_own(self) -> None:
        menus = [action.menu() for action in self.window.menus.actions()]
        menus += [self.window.commands.canvas_menu(), *self.window.commands.submenus.values()]
        for menu in menus:
            assert isinstance(menu, QMenu)
            self.assertLessEqual(menu.sizeHint().height(), 600, menu.title())
        for menu in menus[: len(self.window.menus.actions())]:
            letters = [text[text.index("&") + 1].lower() for a in menu.actions() if "&" in (text := a.text())]
            self.assertEqual(len(letters), len(set(letters)), menu.title())

    def test_what_needs_something_is_grey_with_the_reason_while_the_menu_is_open(self) -> None:
        self.session.select([])
        menu = self.window.menus.actions()[3].menu()
        menu.popup(QPoint(100, 100))
        self.settle()
        group = self.window.actions_["Group"]
        self.assertFalse(group.isEnabled())
        self.assertEqual(group.toolTip(), "Choose a layer first.")
        menu.close()
        self.settle()
        self.assertTrue(group.isEnabled())
        group.trigger()
        self.assertIn("Choose the layers", self.said[-1])
        self.window.actions_["Rename"].trigger()
        self.assertEqual(self.said[-1], "Choose a layer first.")

    def test_the_menu_of_the_canvas_chooses_what_is_under_the_pointer(self) -> None:
        canvas = self.editor.canvas
        self.session.select([])
        place = self.on_canvas(480, 120).toPoint()
        asked: list[QPoint] = []
        canvas.menuAsked.disconnect()
        canvas.menuAsked.connect(asked.append)
        event = QContextMenuEvent(QContextMenuEvent.Reason.Mouse, place, canvas.mapToGlobal(place))
        QApplication.sendEvent(canvas, event)
        self.assertEqual(self.session.selected, ("words",))
        self.assertEqual(len(asked), 1)
        labels = [action.text().replace("&", "") for action in self.window.commands.canvas_menu().actions()]
        for label in ("Paste", "Delete", "Align", "Nest"):
            self.assertIn(label, labels)

    def test_keys_that_every_platform_has(self) -> None:
        self.session.select(["words"])
        QTest.keyClick(self.window, Qt.Key.Key_X, Qt.KeyboardModifier.ControlModifier)
        self.settle()
        self.assertIsNone(self.session.composition.find("words"))
        QTest.keyClick(self.window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
        self.assertIsNotNone(self.session.composition.find("words"))
        QTest.keyClick(self.window, Qt.Key.Key_Y, Qt.KeyboardModifier.ControlModifier)
        self.assertIsNone(self.session.composition.find("words"))
        QTest.keyClick(self.window, Qt.Key.Key_V, Qt.KeyboardModifier.ControlModifier)
        self.settle()
        self.assertEqual(len(self.session.composition.layers), 3)
        zoom = self.editor.canvas.viewport.zoom
        QTest.keyClick(self.window, Qt.Key.Key_Equal, Qt.KeyboardModifier.ControlModifier)
        self.assertGreater(self.editor.canvas.viewport.zoom, zoom)
        self.session.select(["square"])
        QTest.keyClick(self.window, Qt.Key.Key_F2)
        self.settle()
        QTest.keyClicks(QApplication.focusWidget(), "Box")
        QTest.keyClick(QApplication.focusWidget(), Qt.Key.Key_Return)
        self.assertEqual(self.session.composition.layer("square").name, "Box")
        QTest.keyClick(self.window, Qt.Key.Key_F10)
        self.assertIsNotNone(self.window.menus.activeAction())

    def test_closing_the_piece_leaves_nothing_open(self) -> None:
        self.session.history.mark_saved()
        QTest.keyClick(self.window, Qt.Key.Key_W, Qt.KeyboardModifier.ControlModifier)
        self.settle()
        self.assertFalse(self.window.editing)
        self.assertFalse(self.window.files.has_piece)
        self.assertFalse(self.session.composition.layers)

    def test_to_front_and_to_back(self) -> None:
        self.session.select(["words"])
        self.window.actions_["Bring to front"].trigger()
        self.assertEqual(self.session.composition.layers[0].id, "words")
        self.window.actions_["Send to back"].trigger()
        self.assertEqual(self.session.composition.layers[-1].id, "words")


class OwnKeysTest(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        self.enterContext(mock.patch.dict(os.environ, {"XDG_CONFIG_HOME": str(self.folder)}))
        self.window.commands.own_keys = OwnKeys()
        self.list = ShortcutsWindow(self.window, self.window.commands)
        self.list.show()
        self.addCleanup(self.list.close)

    def test_keys_are_set_taken_from_another_kept_and_given_back(self) -> None:
        self.list.search.setText("flip across")
        self.list.choose("Flip across")
        self.list.keys.setKeySequence(QKeySequence("Ctrl+G"))
        self.list.set_keys()
        self.assertIn("“Group”", self.list.says.text())
        self.assertEqual(self.window.actions_["Group"].shortcuts(), [])
        self.session.select(["square"])
        self.list.close()
        QTest.keyClick(self.window, Qt.Key.Key_G, Qt.KeyboardModifier.ControlModifier)
        self.assertEqual(self.session.evaluated().values(self.session.composition.layer("square"))["scale"][0], -100)
        again = OwnKeys()
        command = self.window.commands.commands["Flip across"]
        self.assertEqual(again.of(command), [QKeySequence("Ctrl+G")])
        with mock.patch("spiralis.app.commands.shortcuts.sure", return_value=False):
            self.list.all_usual()
        self.assertEqual(OwnKeys().of(command), [QKeySequence("Ctrl+G")])
        with mock.patch("spiralis.app.commands.shortcuts.sure", return_value=True):
            self.list.all_usual()
        self.assertEqual(self.window.actions_["Group"].shortcuts(), [QKeySequence("Ctrl+G")])
        self.assertEqual(OwnKeys().of(command), [])

    def test_usual_keys_are_taken_back_from_whoever_has_them(self) -> None:
        self.list.choose("Flip across")
        self.list.keys.setKeySequence(QKeySequence("Ctrl+G"))
        self.list.set_keys()
        self.list.choose("Group")
        self.list.usual_keys()
        self.assertIn("taken from “Flip across”", self.list.says.text())
        self.assertEqual(self.window.actions_["Flip across"].shortcuts(), [])
        self.assertEqual(self.window.actions_["Group"].shortcuts(), [QKeySequence("Ctrl+G")])

    def test_keys_that_cannot_be_read_are_put_aside(self) -> None:
        path = OwnKeys().path
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_text("of a newer version")
        own = OwnKeys()
        own.put(self.window.commands.commands["Flip across"], [QKeySequence("Ctrl+G")])
        self.assertEqual(path.with_name(f"{path.name}.unread").read_text(), "of a newer version")
        self.assertTrue(OwnKeys().any)

    def test_they_travel_as_a_file_and_a_wrong_one_says_so(self) -> None:
        self.list.choose("Flip down")
        self.list.keys.setKeySequence(QKeySequence("Ctrl+Alt+Shift+F"))
        self.list.set_keys()
        path = self.folder / "mine.spiralis-keys"
        self.window.commands.own_keys.share(path)
        self.window.commands.own_keys.forget_all()
        self.list.read(path)
        self.assertEqual(self.window.actions_["Flip down"].shortcuts(), [QKeySequence("Ctrl+Alt+Shift+F")])
        for bad in ("", "[]", '{"kind": "spiralis-shortcuts"}', '{"keys": {}}'):
            path.write_text(bad)
            with self.assertRaises(FileError):
                read_keys(path)
            self.list.read(path)
            self.assertIn("no file of shortcuts", self.list.says.text())
        self.assertEqual(self.window.actions_["Flip down"].shortcuts(), [QKeySequence("Ctrl+Alt+Shift+F")])

    def test_no_two_commands_have_the_same_keys_from_the_start(self) -> None:
        keys = Counter(key.toString() for _, command in all_commands() for key in OwnKeys().of(command))
        self.assertEqual([key for key, count in keys.items() if count > 1], [])
