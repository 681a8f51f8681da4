"""Other words in a text layer: letters with a look of their own keep it, and what nobody named is called by them."""

from __future__ import annotations

import unittest

from hypothesis import given
from hypothesis import strategies as st

from spiralis.core.editing.slots import filled, with_slot
from spiralis.core.editing.text_runs import after_typing, for_words, looked_at, with_look
from spiralis.core.editing.wording import with_words
from spiralis.core.model import Layer
from spiralis.core.model.slots import Slot
from spiralis.core.raster.setting import Run
from tests.core.samples import project

WORDS = st.text(alphabet="ab \n", max_size=14)


def sizes(runs: tuple[Run, ...], words: str) -> str:
    """Return a letter for each of the words: in capitals those with a size of their own."""
    return "".join(w.upper() if looked_at(runs, i)[4] != 100.0 else w for i, w in enumerate(words))


class ForWordsTest(unittest.TestCase):
    def refitted(self, marked: str, words: str) -> str:
        """Mark letters by capitals, and return the other words with those marked that look so."""
        runs: tuple[Run, ...] = ()
        for index, letter in enumerate(marked):
            if letter.isupper():
                runs = with_look(runs, index, index + 1, size=150.0)
        return sizes(for_words(runs, marked.lower(), words), words)

    def test_words_and_lines_look_like_those_they_replace(self) -> None:
        for marked, words in (
            ("kite DAY", "wind NIGHT"), ("KITE day", "WINDS night"), ("kite\nDAY", "wind\nNIGHT"),
            ("from 10 EURO", "from 25 EURO"), ("ten\nEURO off", "twenty\nPOUND off"),
            # As many words no longer: what is the same at both ends keeps its look.
            ("kite DAY", "kites for a DAY"), ("one BIG word", "one BIGGER word"),
        ):  # fmt: skip
            with self.subTest(marked=marked):
                self.assertEqual(words, self.refitted(marked, words.lower()))

    @given(WORDS, st.data())
    def test_each_letter_typed_is_as_by_typing_it(self, old: str, data: st.DataObject) -> None:
        runs: tuple[Run, ...] = ()
        for index in data.draw(st.sets(st.integers(0, 13))):
            runs = with_look(runs, index, index + 1, size=150.0) if index < len(old) else runs
        at = data.draw(st.integers(0, len(old)))
        # A letter that is nowhere else says where it was typed.
        new = f"{old[:at]}x{old[at:]}"
        self.assertEqual(sizes(after_typing(runs, at, at, 1), new), sizes(for_words(runs, old, new), new))

    @given(WORDS, WORDS)
    def test_runs_stay_in_order_and_within_the_words(self, old: str, new: str) -> None:
        runs = with_look((), 1, max(len(old) - 1, 2), size=150.0) if len(old) > 2 else ()
        made = for_words(runs, old, new)
        self.assertEqual(list(made), sorted(made))
        self.assertTrue(all(0 <= first < last <= len(new) for first, last, *_ in made))


class NamedByWordsTest(unittest.TestCase):
    def name(self, name: str, old: str, new: str) -> str:
        return with_words(Layer(name, "text", 0, 20).with_values(text=old), new).name

    def test_what_nobody_has_named_is_called_by_its_words(self) -> None:
        self.assertEqual("Glide", self.name("Text", "Text", "Glide"))
        self.assertEqual("Glide", self.name("Text 3", "", "Glide"))
        self.assertEqual("Glide", self.name("Lift", "Lift", "Glide"))
        self.assertEqual("Glide over", self.name("Lift 2", "Lift", "Glide\nover"))
        self.assertEqual("Text", self.name("Lift", "Lift", " "))

    def test_a_name_that_was_given_stays(self) -> None:
        self.assertEqual("Headline", self.name("Headline", "Lift", "Glide"))
        self.assertEqual("Lift", self.name("Lift", "Lift off", "Glide"))
        self.assertEqual("Lift 2", self.name("Lift 2", "Lift", "Lift"))

    def test_a_filled_slot_does_the_same(self) -> None:
        words = Layer("Kite day", "text", 0, 20, id="words").with_values(
            text="Kite day", runs=with_look((), 5, 8, size=150.0)
        )
        start = project(words)
        piece = start.compositions[0]
        start = with_slot(start, piece, "words", Slot("Line", "text"))
        made = filled(start, piece.id, {"Line": "Kites night"}).compositions[0].layer("words")
        self.assertEqual("kites NIGHT", sizes(made.track("runs").value, "kites night"))
        self.assertEqual("Kites night", made.name)


if __name__ == "__main__":
    unittest.main()
