"""Typing on the canvas: words as steps of the caret, whole words deleted, accents and input methods."""

import unittest

from attrs import evolve
from hypothesis import given
from hypothesis import strategies as st
from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QGuiApplication, QInputMethodEvent, QInputMethodQueryEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QWidget

from spiralis.app.canvas.text_editing import TextEditing, word_around, word_edge
from spiralis.core.animation.easing import HOLD
from spiralis.core.editing.text_runs import with_look
from spiralis.core.model import Key, Track
from tests.app.harness import CONTROL, NONE, SHIFT, WindowTest


class WordsTest(unittest.TestCase):
    @given(st.text(alphabet="ab ,\n", max_size=20), st.data())
    def test_steps_lead_to_the_beginnings_of_words_and_end(self, text: str, data: st.DataObject) -> None:
        place = data.draw(st.integers(0, len(text)))
        onward, back = word_edge(text, place, 1), word_edge(text, place, -1)
        self.assertTrue(onward > place or place == onward == len(text))
        self.assertTrue(back < place or place == back == 0)
        for edge in (onward, back):
            begins = edge < len(text) and text[edge].isalnum() and (edge == 0 or not text[edge - 1].isalnum())
            self.assertTrue(begins or edge in (0, len(text)))

    def test_the_word_at_a_place(self) -> None:
        self.assertEqual(word_around("two words", 1), (0, 3))
        self.assertEqual(word_around("two words", 9), (4, 9))
        self.assertEqual(word_around("a  b", 2), (2, 2))


class WordsInDetailsTest(WindowTest):
    """Words typed in Details do what they do on the canvas."""

    def words(self) -> QWidget:
        self.settle(0.2)
        return self.editor.details.editors["text"].text

    def test_letters_keep_their_look_and_the_layer_is_called_by_its_words(self) -> None:
        runs = with_look((), 4, 7, size=150.0)
        self.session.edit_layers(
            "Words", lambda y: evolve(y.with_values(text="one two", runs=runs), name="one two"), ["words"]
        )
        self.session.select(["words"])
        before = self.session.composition
        field = self.words()
        self.click(field)
        self.press(field, Qt.Key.Key_Home, CONTROL)
        self.type_(field, "the ")
        layer = self.layer("words")
        self.assertEqual(("the one two", "the one two"), (layer.track("text").value, layer.name))
        self.assertEqual([(8, 11)], [run[:2] for run in layer.track("runs").value])
        self.act("Undo")
        self.assertEqual(before, self.session.composition)

    def test_words_typed_at_two_times_are_two_steps(self) -> None:
        self.session.select(["words"])
        start = self.layer("words").track("text").value
        for letter in "xy":
            field = self.words()
            self.click(field)
            self.press(field, Qt.Key.Key_End, CONTROL)
            self.type_(field, letter)
            self.editor.canvas.setFocus()
        self.act("Undo")
        self.assertEqual(start + "x", self.layer("words").track("text").value)

    def test_words_of_two_layers_are_two_steps(self) -> None:
        self.session.select(["words"])
        self.act("Duplicate")
        copy = self.session.selected[0]
        for layer in (copy, "words"):
            self.session.select([layer])
            field = self.words()
            self.click(field)
            self.type_(field, "x")
        self.act("Undo")
        self.assertIn("x", self.layer(copy).track("text").value)
        self.assertNotIn("x", self.layer("words").track("text").value)


class TypingTest(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        self.canvas = self.editor.canvas
        self.session.edit_layers("Words", lambda layer: layer.with_values(text="one two three"), ["words"])
        self.canvas.edit_text("words")
        self.settle()

    @property
    def editing(self) -> TextEditing:
        editing = self.canvas.typing.editing
        assert editing is not None
        return editing

    def key(self, key: Qt.Key, held: Qt.KeyboardModifier = NONE) -> None:
        QTest.keyClick(self.canvas, key, held)
        self.settle(0)

    def test_the_caret_stays_within_the_words_where_others_are_shown(self) -> None:
        keys = Track("one two three", (Key(0, "one two three", HOLD), Key(20, "Up", HOLD)))
        self.session.edit_layers("Other words", lambda layer: layer.with_track("text", keys), ["words"])
        self.key(Qt.Key.Key_A, CONTROL)
        self.assertEqual((0, 13), self.editing.span)
        self.session.go_to(30)
        self.canvas.grab()
        self.assertEqual((0, 2), self.editing.span)
        self.key(Qt.Key.Key_X)
        self.assertEqual("X", self.value("words", "text").upper())
        self.session.go_to(0)
        self.canvas.grab()
        self.assertEqual("one two three", self.value("words", "text"))

    def test_home_end_and_arrows_go_by_the_lines_that_are_seen(self) -> None:
        box = {"text": "one two three\nfour", "flow": "box", "frame": (130.0, 400.0), "size": 40.0}
        self.session.edit_layers("Box", lambda layer: layer.with_values(**box), ["words"])
        self.settle()
        lines = self.editing.setting().lines
        self.assertEqual([(line.first, line.end) for line in lines], [(0, 3), (4, 7), (8, 13), (14, 18)])
        self.editing.place_caret(5, False)
        found = []
        for key in (Qt.Key.Key_End, Qt.Key.Key_Home, Qt.Key.Key_Down, Qt.Key.Key_End, Qt.Key.Key_Up, Qt.Key.Key_End):
            self.key(key)
            found.append(self.editing.caret)
        self.assertEqual([found[0], found[1], found[3], found[5]], [7, 4, 13, 7])
        self.assertTrue(8 <= found[2] <= 9 and 4 <= found[4] <= 7, found)
        # What is typed at the end of a line comes before the space at which it is wrapped.
        self.type_(self.canvas, "s")
        self.assertEqual(self.editing.text, "one twos three\nfour")

    def test_the_caret_goes_by_words_and_chooses_them(self) -> None:
        frame = self.session.frame
        self.key(Qt.Key.Key_End)
        self.key(Qt.Key.Key_Left, CONTROL)
        self.assertEqual(self.editing.caret, 8)
        self.key(Qt.Key.Key_Left, CONTROL | SHIFT)
        self.assertEqual(self.editing.span, (4, 8))
        self.key(Qt.Key.Key_Home, CONTROL)
        self.assertEqual(self.editing.span, (0, 0))
        self.key(Qt.Key.Key_End, CONTROL | SHIFT)
        self.assertEqual(self.editing.span, (0, 13))
        self.assertEqual(self.session.frame, frame)

    def test_more_letters_than_a_layer_can_hold_are_refused_and_the_words_stay(self) -> None:
        said: list[str] = []
        self.session.failed.connect(said.append)
        self.key(Qt.Key.Key_End)
        QGuiApplication.clipboard().setText("kite " * 200_000)
        self.key(Qt.Key.Key_V, CONTROL)
        self.assertEqual((self.value("words", "text"), self.editing.caret), ("one two three", 13))
        self.assertIn("at most 20000 letters", said[0])
        self.assertLess(len(said[0]), 200)
        self.key(Qt.Key.Key_X)
        self.assertEqual(self.value("words", "text"), "one two threex")

    def test_pasted_words_are_what_a_font_can_show(self) -> None:
        self.key(Qt.Key.Key_End)
        QGuiApplication.clipboard().setText("\ta\x00b\r\n👩\u200d👧\n")
        self.key(Qt.Key.Key_V, CONTROL)
        self.assertEqual("one two three ab\n👩\u200d👧\n", self.value("words", "text"))

    def test_a_word_is_deleted(self) -> None:
        self.key(Qt.Key.Key_End)
        self.key(Qt.Key.Key_Backspace, CONTROL)
        self.assertEqual(self.editing.text, "one two ")
        self.key(Qt.Key.Key_Home)
        self.key(Qt.Key.Key_Delete, CONTROL)
        self.assertEqual(self.editing.text, "two ")
        self.assertIsNotNone(self.session.composition.find("words"))

    def test_a_double_click_chooses_a_word(self) -> None:
        setting = self.editing.setting()
        layer = self.layer("words")
        x, y, _ = setting.carets[5]
        place = self.session.evaluated().matrix(layer).apply(x, y - setting.size * 0.3)
        self.double_click(self.canvas, self.on_canvas(*place))
        self.assertEqual(self.editing.span, (4, 7))

    def send(self, preliminary: str, final: str = "") -> None:
        event = QInputMethodEvent(preliminary, [])
        event.setCommitString(final)
        QApplication.sendEvent(self.canvas, event)

    def test_a_dead_key_and_a_letter_become_one(self) -> None:
        self.key(Qt.Key.Key_End)
        self.send("´")
        self.assertEqual(self.editing.text, "one two three´")
        self.send("", "é")
        self.assertEqual(self.editing.text, "one two threeé")
        self.assertEqual(self.editing.caret, 14)

    def test_what_an_input_method_composes_replaces_itself_and_can_be_given_up(self) -> None:
        self.key(Qt.Key.Key_Home)
        for letters in ("n", "ni", "に"):
            self.send(letters)
            self.assertEqual(self.editing.text, f"{letters}one two three")
        self.send("ほ", "に")
        self.assertEqual(self.editing.text, "にほone two three")
        self.send("")
        self.assertEqual(self.editing.text, "にone two three")

    def test_an_input_method_learns_where_the_caret_is_and_only_while_one_types(self) -> None:
        queries = Qt.InputMethodQuery
        asked = QInputMethodQueryEvent(queries.ImEnabled | queries.ImCursorRectangle | queries.ImSurroundingText)
        QApplication.sendEvent(self.canvas, asked)
        self.assertTrue(asked.value(queries.ImEnabled))
        self.assertEqual(asked.value(queries.ImSurroundingText), "one two three")
        area = asked.value(queries.ImCursorRectangle)
        self.assertIsInstance(area, QRectF)
        self.assertTrue(QRectF(self.canvas.rect()).intersects(area))
        self.canvas.typing.end()
        asked = QInputMethodQueryEvent(queries.ImEnabled)
        QApplication.sendEvent(self.canvas, asked)
        self.assertFalse(asked.value(queries.ImEnabled))


if __name__ == "__main__":
    unittest.main()
