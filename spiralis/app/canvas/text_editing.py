"""Typing words in place: caret, selection and keys for one text layer."""

from __future__ import annotations

import math
import re

from attrs import evolve
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QGuiApplication, QKeyEvent, QKeySequence

from spiralis.app.session import Session
from spiralis.core.editing.edits import set_value
from spiralis.core.editing.text_runs import after_typing, looked_at, with_look, with_marks_seen
from spiralis.core.editing.wording import is_named_by_words, named_by_words, plain_words
from spiralis.core.model import Layer
from spiralis.core.raster.kinds.text import setting_of
from spiralis.core.raster.setting import Run, Setting

_COMMANDS = {
    QKeySequence.StandardKey.Copy: "copy", QKeySequence.StandardKey.Cut: "cut",
    QKeySequence.StandardKey.Paste: "paste", QKeySequence.StandardKey.SelectAll: "choose_all",
}  # fmt: skip
_Key = QKeySequence.StandardKey
#: Standard keys that move the caret further than a letter: the way, its reach, and whether letters become chosen.
_FAR = {
    _Key.MoveToNextWord: (1, "word", False), _Key.MoveToPreviousWord: (-1, "word", False),
    _Key.SelectNextWord: (1, "word", True), _Key.SelectPreviousWord: (-1, "word", True),
    _Key.MoveToStartOfDocument: (-1, "all", False), _Key.MoveToEndOfDocument: (1, "all", False),
    _Key.SelectStartOfDocument: (-1, "all", True), _Key.SelectEndOfDocument: (1, "all", True),
}  # fmt: skip
#: Standard keys that delete a word, and the way.
_DELETES = {_Key.DeleteStartOfWord: -1, _Key.DeleteEndOfWord: 1}
_WORD = re.compile(r"\w+")


def word_edge(text: str, place: int, way: int) -> int:
    """Return where the next word begins after a place (1), or where the word before it begins (-1)."""
    starts = [found.start() for found in _WORD.finditer(text)]
    if way > 0:
        return next((start for start in starts if start > place), len(text))
    return max((start for start in starts if start < place), default=0)


def word_around(text: str, place: int) -> tuple[int, int]:
    """Return the first and last edge of the word that holds a place; the place twice where there is none."""
    return next(
        ((found.start(), found.end()) for found in _WORD.finditer(text) if found.start() <= place <= found.end()),
        (place, place),
    )


class TextEditing:
    """An editing of one text layer; lives from the double-click to Escape or a click elsewhere."""

    def __init__(self, session: Session, layer_id: str) -> None:
        self.session = session
        self.layer_id = layer_id
        self.caret = len(self.text)
        self.anchor = 0
        self._begin_step()
        #: Where the letters lie that an input method is still composing: the first, and how many.
        self._composed = (0, 0)
        # A layer that nobody has named is called by its words.
        self._names = is_named_by_words(session.composition.layer(layer_id))

    @property
    def text(self) -> str:
        """The words as they are."""
        layer = self.session.composition.find(self.layer_id)
        return str(self.session.evaluated().values(layer)["text"]) if layer is not None and layer.has("text") else ""

    @property
    def alive(self) -> bool:
        """Whether the layer is still there, still shows words, and may be changed."""
        layer = self.session.composition.find(self.layer_id)
        return layer is not None and not layer.locked and layer.has("text")

    def settle(self) -> bool:
        """Keep the caret within the words after a change from outside; False where there are none any more."""
        if not self.alive:
            return False
        last = len(self.text)
        self.caret, self.anchor = min(self.caret, last), min(self.anchor, last)
        return True

    def setting(self) -> Setting:
        """The words as set now, in the layer's units."""
        at = self.session.evaluated()
        return setting_of(at.values(self.session.composition.layer(self.layer_id)), at.scene)

    @property
    def runs(self) -> tuple[Run, ...]:
        """The runs of letters with a look of their own."""
        runs: tuple[Run, ...] = self.session.composition.layer(self.layer_id).track("runs").value
        return runs

    @property
    def span(self) -> tuple[int, int]:
        """The chosen letters, from and to."""
        return min(self.caret, self.anchor), max(self.caret, self.anchor)

    def nearest(self, x: float, y: float) -> int:
        """Return the caret index nearest to a point in the layer's units."""
        setting = self.setting()
        lift = 0.3 * setting.size

        def distance(place: tuple[float, float, float]) -> float:
            # A line counts before a letter of it; halfway up the letters is where one aims.
            return 4 * abs(place[1] - lift - y) + abs(place[0] - x) if not place[2] else _apart(place, x, y + lift)

        return min(range(len(setting.carets)), key=lambda index: distance(setting.carets[index]))

    def click(self, here: tuple[float, float], keep: bool) -> bool:
        """Put the caret where a point of the composition is; False where that lies outside of the words."""
        at = self.session.evaluated()
        layer = self.session.composition.layer(self.layer_id)
        inverse = at.matrix(layer).inverse()
        if inverse is None:
            return False
        x, y = inverse.apply(*here)
        box = at.box(layer)
        slack = 0.1 * (box[3] - box[1])
        if not keep and not (box[0] - slack <= x <= box[2] + slack and box[1] - slack <= y <= box[3] + slack):
            return False
        self.place_caret(self.nearest(x, y), keep)
        return True

    def place_caret(self, index: int, keep_anchor: bool) -> None:
        """Move the caret; keeps the other end of the selection where asked. What is typed there is another step."""
        self._begin_step()
        self.caret = max(0, min(index, len(self.text)))
        if not keep_anchor:
            self.anchor = self.caret

    def insert(self, typed: str) -> None:
        """Put letters in place of the chosen ones."""
        first, last = self.span
        text = self.text
        words, frame = text[:first] + typed + text[last:], self.session.frame
        runs = after_typing(self.runs, first, last, len(typed))

        def change(layer: Layer) -> Layer:
            changed = set_value(layer, "text", words, frame)
            if runs != layer.track("runs").value:
                changed = changed.with_values(runs=runs)
            return evolve(changed, name=named_by_words(words)) if self._names else changed

        name = self.session.composition.layer(self.layer_id).name
        self.session.edit_layers(f"Words of {name}", change, [self.layer_id], self.merge)
        if self.text != words:
            return  # It was refused, and said why.
        self.caret = self.anchor = first + len(typed)
        if typed.isspace():
            # Undo takes back a word at a time.
            self._begin_step()

    def _begin_step(self) -> None:
        self.merge = f"typing-{self.layer_id}-{self.session.version}"

    def compose(self, preliminary: str, final: str) -> None:
        """Take what an input method gives: letters that are final, and those that it is still composing."""
        start, count = self._composed
        if count:
            self.anchor, self.caret = start, start + count
        if count or final or self.caret != self.anchor:
            self.insert(final)
        start = self.caret
        if preliminary:
            self.insert(preliminary)
        self._composed = (start, len(preliminary))

    def choose_word(self) -> None:
        """Choose the word at the caret."""
        self.anchor, self.caret = word_around(self.text, self.caret)

    def look(self) -> Run:
        """The look of the letter after the caret, or of the chosen ones' first; unset parts are the layer's own."""
        return looked_at(self.runs, min(self.span[0], max(len(self.text) - 1, 0)))

    def set_look(self, merge: str | None = None, **changes: object) -> None:
        """Give the chosen letters (all of them where none are chosen) a look of their own; what has one ``merge`` text
        is one step."""
        first, last = self.span if self.caret != self.anchor else (0, len(self.text))
        if first < last:
            runs, frame = with_look(self.runs, first, last, **changes), self.session.frame

            def change(layer: Layer) -> Layer:
                made = layer.with_values(runs=runs)
                return with_marks_seen(made, frame) if changes.get("marked") else made

            self.session.edit_layers("Look of letters", change, [self.layer_id], merge)

    def key(self, event: QKeyEvent) -> bool:
        """Handle a key; False ends the editing."""
        if event.key() == Qt.Key.Key_Escape:
            return False
        what = next((name for key, name in _COMMANDS.items() if event.matches(key)), None)
        far = next((move for key, move in _FAR.items() if event.matches(key)), None)
        deletes = next((way for key, way in _DELETES.items() if event.matches(key)), None)
        if what is not None:
            self.command(what)
        elif far is not None:
            way, reach, keeps = far
            end = len(self.text) if way > 0 else 0
            self.place_caret(word_edge(self.text, self.caret, way) if reach == "word" else end, keeps)
        elif deletes is not None:
            if self.caret == self.anchor:
                self.anchor = word_edge(self.text, self.caret, deletes)
            self.insert("")
        elif not self._travel(event):
            self._type(event)
        return True

    def takes(self, event: QKeyEvent) -> bool:
        """Whether a key belongs to the words and not to the window's shortcuts."""
        keys = event.modifiers() & ~(Qt.KeyboardModifier.ShiftModifier | Qt.KeyboardModifier.KeypadModifier)
        if keys in (Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.GroupSwitchModifier):
            return True
        return any(event.matches(key) for key in (*_COMMANDS, *_FAR, *_DELETES))

    def command(self, what: str) -> None:
        """Copy, cut, paste or delete letters, or choose all of them."""
        first, last = self.span
        if what == "choose_all":
            self.anchor, self.caret = 0, len(self.text)
        elif what == "paste":
            self.insert(plain_words(QGuiApplication.clipboard().text()))
        elif first < last:
            if what != "delete":
                QGuiApplication.clipboard().setText(self.text[first:last])
            if what != "copy":
                self.insert("")

    def _type(self, event: QKeyEvent) -> None:
        key = event.key()
        if key in (Qt.Key.Key_Backspace, Qt.Key.Key_Delete):
            if self.caret == self.anchor:
                step = -1 if key == Qt.Key.Key_Backspace else 1
                self.anchor = max(0, min(self.caret + step, len(self.text)))
            self.insert("")
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.insert("\n")
        elif event.text() and event.text().isprintable():
            self.insert(event.text())

    def _travel(self, event: QKeyEvent) -> bool:
        caret, setting = self.caret, self.setting()
        line = setting.lines[setting.line_of(caret)]
        goals = {
            Qt.Key.Key_Left: caret - 1,
            Qt.Key.Key_Right: caret + 1,
            Qt.Key.Key_Home: line.first,
            Qt.Key.Key_End: line.end,
        }
        if event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            goal = self._other_line(1 if event.key() == Qt.Key.Key_Down else -1)
        elif event.key() in goals:
            goal = goals[Qt.Key(event.key())]
        else:
            return False
        self.place_caret(goal, bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier))
        return True

    def _other_line(self, step: int) -> int:
        """Return the caret index above or below the caret, on the neighbouring line."""
        setting = self.setting()
        line = setting.line_of(self.caret) + step
        if not 0 <= line < len(setting.lines):
            return 0 if step < 0 else len(self.text)
        x = setting.carets[self.caret][0]
        found = setting.lines[line]
        return min(range(found.first, found.end + 1), key=lambda index: abs(setting.carets[index][0] - x))


def _apart(place: tuple[float, float, float], x: float, y: float) -> float:
    return math.hypot(place[0] - x, place[1] - y)
