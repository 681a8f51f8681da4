"""Coloured signs, joined sequences, and where letters and lines may be parted by the Unicode rules."""

from __future__ import annotations

import unicodedata
import unittest

import numpy as np
from hypothesis import example, given
from hypothesis import strategies as st
from uniseg.graphemecluster import grapheme_cluster_boundaries

from spiralis.core.editing.combining import as_outlines
from spiralis.core.errors import ModelError
from spiralis.core.model import Layer, Project
from spiralis.core.raster.breaking import chances
from spiralis.core.raster.fonts import find_face, missing_letters
from spiralis.core.raster.kinds.text import coloured_signs
from spiralis.core.raster.layer_image import Scene
from spiralis.core.raster.typesetting import _graphemes, set_words
from spiralis.core.render import render_frame
from spiralis.core.render.layers import Evaluated
from tests.core.samples import project
from tests.core.test_typesetting import PLAIN

SMILE, FLAG, THUMB = "\U0001f600", "\U0001f1e9\U0001f1ea", "\U0001f44d"
FAMILY = "\U0001f468\u200d\U0001f469\u200d\U0001f467"
DARK, ENGLAND = "\U0001f3ff", "\U0001f3f4\U000e0067\U000e0062\U000e0065\U000e006e\U000e0067\U000e007f"


def words(text: str, **values: object) -> Layer:
    return Layer("W", "text", 0, 9, id="w").with_values(
        **{"text": text, "size": 60.0, "position": (100.0, 60.0), "fill": (1.0, 1.0, 1.0, 1.0), **values}
    )


def drawn(layer: Layer) -> np.ndarray:
    return render_frame(project(layer, width=200, height=120), "Piece", 0)


class SignsTest(unittest.TestCase):
    def test_a_sign_has_its_own_colours_whatever_the_words_have(self) -> None:
        pixels = drawn(words(SMILE, fill=(0.0, 0.0, 1.0, 1.0)))
        solid = pixels[pixels[..., 3] > 0.95]
        self.assertGreater(len(solid), 800)
        yellow = solid.mean(axis=0)
        self.assertGreater(float(yellow[0]), float(yellow[2]) + 0.3, "it is yellow, not the blue of the words")
        self.assertGreater(len(np.unique(np.round(solid[:, :3], 1), axis=0)), 3)

    def test_it_grows_turns_and_fades_with_its_layer(self) -> None:
        small, large = drawn(words(SMILE, size=30.0)), drawn(words(SMILE, size=60.0))
        self.assertAlmostEqual(float(large[..., 3].sum()) / float(small[..., 3].sum()), 4.0, delta=0.15)
        faded = drawn(words(SMILE, opacity=50.0))
        np.testing.assert_allclose(faded, drawn(words(SMILE)) * 0.5, atol=6e-3)
        turned = drawn(words(SMILE, rotation=90.0))
        self.assertAlmostEqual(float(turned[..., 3].sum()), float(large[..., 3].sum()), delta=30)
        self.assertGreater(float(np.abs(turned - large).max()), 0.3)

    def test_a_part_equals_the_whole(self) -> None:
        from spiralis.core.render.frame import render_region8, render_rgba8

        piece = project(words(f"{SMILE}{FLAG}{THUMB}"), width=200, height=120)
        whole = render_rgba8(piece, "Piece", 0)
        np.testing.assert_array_equal(render_region8(piece, "Piece", 0, 1.0, (60, 30, 130, 90)), whole[30:90, 60:130])

    def test_joined_sequences_are_one_sign(self) -> None:
        for text in (SMILE, FAMILY, FLAG, THUMB + DARK, ENGLAND, "\u2764\ufe0f", "5\ufe0f\u20e3"):
            made = set_words(Project(), text, PLAIN)
            self.assertEqual(len(made.letters), 1, text)
            self.assertTrue(made.letters[0].at.face.coloured, text)
            self.assertNotEqual(made.letters[0].glyph, 0, text)
        self.assertNotEqual(set_words(Project(), THUMB, PLAIN).letters[0].glyph,
                            set_words(Project(), THUMB + DARK, PLAIN).letters[0].glyph)  # fmt: skip

    def test_selectors_decide_between_word_and_sign(self) -> None:
        self.assertFalse(set_words(Project(), "5", PLAIN).letters[0].at.face.coloured)
        self.assertEqual({y.at.face.family for y in set_words(Project(), f"a{SMILE}b", PLAIN).letters},
                         {"Inter", "Noto Color Emoji"})  # fmt: skip

    def test_words_with_a_sign_are_not_made_outlines_in_silence(self) -> None:
        layer = words(f"up {SMILE}")
        piece = project(layer, width=200, height=120)
        at = Evaluated(piece, piece.compositions[0], 0)
        with self.assertRaises(ModelError) as caught:
            as_outlines(at, layer)
        self.assertIn(SMILE, str(caught.exception))
        self.assertEqual(coloured_signs(at.values(layer), Scene(piece, 0.0, 200, 120)), SMILE)
        plain = words("up")
        piece = project(plain, width=200, height=120)
        self.assertEqual(as_outlines(Evaluated(piece, piece.compositions[0], 0), plain).kind, "shape")


class BoundariesTest(unittest.TestCase):
    def test_letters_are_extended_grapheme_clusters(self) -> None:
        text = f"ae\u0301{FAMILY}{FLAG}{FLAG}\u0928\u093f{ENGLAND}\r\n"
        found = [text[a:b] for a, b in _graphemes(text)]
        self.assertEqual(found, ["a", "e\u0301", FAMILY, FLAG, FLAG, "\u0928\u093f", ENGLAND, "\r\n"])

    @given(st.text(st.characters(max_codepoint=0x33F, exclude_categories=("Cs",)), max_size=12))
    @example("line\r\nend")
    @example("")
    def test_letters_without_marks_stand_alone_as_the_rules_have_it(self, text: str) -> None:
        self.assertEqual([place for place, _ in _graphemes(text)], list(grapheme_cluster_boundaries(text))[:-1])

    def test_lines_break_by_the_rules(self) -> None:
        def parts(text: str) -> list[str]:
            places = [0, *sorted(chances(text) - {0}), len(text)]
            return [text[a:b] for a, b in zip(places, places[1:], strict=False)]

        self.assertEqual(parts("to be, or"), ["to ", "be, ", "or"])
        self.assertEqual(parts("a well-known \u201cquote\u201d"), ["a ", "well-", "known ", "\u201cquote\u201d"])
        self.assertEqual(parts("\u6f22\u5b57\u3002\u304b"), ["\u6f22", "\u5b57\u3002", "\u304b"])
        self.assertEqual(parts("10\u00a0km 5%"), ["10\u00a0km ", "5%"], "a no-break space keeps both sides together")
        self.assertEqual(parts(f"{SMILE}{FAMILY}"), [SMILE, FAMILY])

    def test_thai_breaks_between_its_phrases_never_before_a_sign_above_or_below(self) -> None:
        weather = "\u0e27\u0e31\u0e19\u0e19\u0e35\u0e49\u0e2d\u0e32\u0e01\u0e32\u0e28\u0e14\u0e35\u0e21\u0e32\u0e01"
        found = chances(f"go {weather} on")
        self.assertLessEqual({3, 3 + 6, 3 + 11}, found, "after the word and the space, and between words")
        self.assertNotIn(3 + 1, found)
        self.assertFalse({3 + i for i, letter in enumerate(weather) if unicodedata.category(letter) == "Mn"} & found)
        self.assertIn(3 + len(weather) + 1, found)

    def test_what_no_font_has_is_named(self) -> None:
        text = f"a \u6f22b\u5b57\u6f22 {SMILE} \u0634"
        self.assertEqual(missing_letters(Project(), "Karla", 400.0, text), "\u6f22\u5b57")
        self.assertEqual(missing_letters(Project(), "Inter", 400.0, "plain\nwords"), "")
        self.assertFalse(find_face(Project(), "Inter", 400.0).face.coloured)


if __name__ == "__main__":
    unittest.main()
