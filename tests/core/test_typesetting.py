"""Words set in runs, boxes, fits, directions and along curves, beside HarfBuzz and the Unicode rules."""

from __future__ import annotations

import math
import unittest

import uharfbuzz as hb
from attrs import evolve
from bidi.wrapper import get_display
from hypothesis import given
from hypothesis import strategies as st

from spiralis.core.editing.text_runs import after_typing, looked_at, with_look
from spiralis.core.model import Project
from spiralis.core.model.forms import ellipse
from spiralis.core.raster.bidi import embedding_levels, visual_order
from spiralis.core.raster.breaking import break_lines
from spiralis.core.raster.curves import arc_track, path_track
from spiralis.core.raster.fitting import FontsOf, typeset
from spiralis.core.raster.fonts import find_face, missing_families
from spiralis.core.raster.setting import Manner, Setting
from tests.core.samples import project

PLAIN = Manner("Inter", 400.0, 80.0, alignment="left")
ARABIC = "\u0645\u0631\u062d\u0628\u0627"


def set_(text: str, manner: Manner = PLAIN) -> Setting:
    return typeset(FontsOf.of(Project()), text, manner)


class LineTest(unittest.TestCase):
    def test_a_line_is_as_wide_as_harfbuzz_says(self) -> None:
        face = find_face(Project(), "Inter", 400.0)
        for text in ("Tolvane", "AVATAR To", "office flight"):
            font = hb.Font(hb.Face(face.face.data))
            font.set_variations({"wght": 400.0})
            buffer = hb.Buffer()
            buffer.add_str(text)
            buffer.guess_segment_properties()
            hb.shape(font, buffer)
            wide = sum(p.x_advance for p in buffer.glyph_positions) * 80 / font.face.upem
            self.assertAlmostEqual(set_(text).lines[0].width, wide, 6)

    def test_carets_rise_through_letters_and_ligatures(self) -> None:
        text = "office\n\nfly"
        made = set_(text, evolve(PLAIN, alignment="centre"))
        self.assertEqual(len(made.carets), len(text) + 1)
        first = [x for x, _, _ in made.carets[:7]]
        self.assertEqual((first, len(set(first))), (sorted(first), 7))
        self.assertAlmostEqual(first[-1] - first[0], made.lines[0].width)
        self.assertEqual(len({y for _, y, _ in made.carets}), 3)
        self.assertEqual([made.line_of(i) for i in (0, 6, 7, 8, 11)], [0, 0, 1, 2, 2])

    def test_everything_grows_with_the_size(self) -> None:
        small, large = set_("Kites up"), set_("Kites up", evolve(PLAIN, size=240.0))
        self.assertAlmostEqual(large.lines[0].width, 3 * small.lines[0].width, 6)
        self.assertAlmostEqual(large.box[3], 3 * small.box[3], 6)

    def test_capitals_keep_the_letters_they_come_from(self) -> None:
        made = set_("stra\u00dfe", evolve(PLAIN, caps="capitals"))
        self.assertEqual(made.lines[0].width, set_("STRASSE").lines[0].width)
        self.assertEqual({letter.cluster for letter in made.letters}, set(range(6)))
        small = set_("Abc", evolve(PLAIN, caps="small capitals"))
        self.assertGreater(small.letters[0].matrix.a, small.letters[1].matrix.a)


class ScriptTest(unittest.TestCase):
    def test_levels_and_order_agree_with_another_implementation(self) -> None:
        for text in ("kites " + ARABIC + " 2026 up", ARABIC + " (abc) 12", "\u05e9\u05dc\u05d5\u05dd, wind!"):
            base, levels = embedding_levels(text)
            self.assertEqual(base, int(text[0] > "\u0500"))
            order = visual_order(list(levels))
            shown = "".join(text[i] for i in order)
            self.assertEqual(shown, get_display(text))

    def test_other_scripts_come_from_faces_that_have_them(self) -> None:
        made = set_("a " + ARABIC + " \u0928\u092e \u0e2a\u0e27 \u05e9 \U0001f389")
        families = {letter.at.face.family for letter in made.letters}
        wanted = {"Inter", "Noto Sans Arabic", "Noto Sans Devanagari", "Noto Sans Thai", "Noto Sans Hebrew"}
        self.assertEqual(families, wanted | {"Noto Color Emoji"})
        self.assertNotIn(0, {letter.glyph for letter in made.letters})

    def test_arabic_letters_join_and_run_to_the_left(self) -> None:
        made = set_(ARABIC)
        feet = [x for x, _, _ in made.carets]
        self.assertEqual(feet, sorted(feet, reverse=True))
        alone = {set_(letter).letters[0].glyph for letter in ARABIC}
        self.assertFalse({letter.glyph for letter in made.letters} <= alone)

    def test_a_missing_family_is_named_once(self) -> None:
        from spiralis.core.model import Layer

        words = Layer("W", "text", 0, 9).with_values(font="Nowhere", runs=((0, 1, "Else", 0.0, 100.0, None),))
        self.assertEqual(missing_families(project(words)), ["Else", "Nowhere"])
        self.assertEqual(missing_families(project(words.with_values(font="Inter", runs=()))), [])


class BoxTest(unittest.TestCase):
    @given(st.text("ab -,", max_size=40), st.integers(2, 12))
    def test_lines_hold_what_fits_and_lose_nothing(self, text: str, width: int) -> None:
        starts = break_lines(text, [1.0] * len(text), float(width))
        self.assertEqual((starts[0], starts), (0, sorted(set(starts))))
        for first, last in zip(starts, [*starts[1:], len(text)], strict=True):
            self.assertLessEqual(len(text[first:last].rstrip(" ")), width)

    def test_carets_of_wrapped_lines_stand_on_their_lines(self) -> None:
        for text, width in (("one two  three four", 110.0), ("onetwothree four", 60.0), ("one\ntwo three", 90.0)):
            made = set_(text, evolve(PLAIN, size=30.0, flow="box", frame=(width, 400.0), alignment="left"))
            self.assertGreater(len(made.lines), 2)
            for number, line in enumerate(made.lines):
                x, y, _ = made.carets[line.first]
                self.assertEqual((round(x, 6), y), (0.0, line.baseline), (text, number))
                self.assertEqual(made.line_of(line.first), number)
                whole = text[line.end : line.end + 1] in (" ", "\n", "")
                own = [made.carets[index] for index in range(line.first, line.end + whole)]
                self.assertEqual({y for _, y, _ in own}, {line.baseline}, (text, number))
                self.assertEqual([x for x, _, _ in own], sorted(x for x, _, _ in own))
                if text[line.end : line.end + 1] == " ":
                    self.assertAlmostEqual(made.carets[line.end][0], line.left + line.width, places=6)

    def test_lines_stay_within_the_box_and_break_between_words(self) -> None:
        text = "A longer line of words that has to be wrapped, again and again"
        made = set_(text, evolve(PLAIN, size=30.0, flow="box", frame=(220.0, 40.0)))
        self.assertGreater(len(made.lines), 2)
        self.assertLessEqual(max(line.width for line in made.lines), 220.0)
        for line in made.lines[1:]:
            self.assertEqual(text[line.first - 1], " ")

    @given(
        st.sampled_from(["one", "one two three four", "a\n\nb", ""]), st.floats(20, 400),
        st.sampled_from(["box", "fit box"]),
    )  # fmt: skip
    def test_in_their_box_words_stand_where_they_are_told_to(self, text: str, height: float, flow: str) -> None:
        manner = evolve(PLAIN, size=40.0, flow=flow, frame=(150.0, height))
        made = {stands: set_(text, evolve(manner, stands=stands)) for stands in ("top", "middle", "bottom")}
        free = {}
        for stands, setting in made.items():
            above = setting.lines[0].baseline - setting.lines[0].ascent
            below = height - setting.lines[-1].baseline - setting.lines[-1].descent
            free[stands] = (above, below)
            left, top, right, bottom = setting.box
            self.assertEqual((left, right), (0.0, 150.0))
            self.assertAlmostEqual(top, min(above, 0.0))
            self.assertAlmostEqual(bottom, height - min(below, 0.0))
        self.assertAlmostEqual(free["top"][0], 0.0)
        self.assertAlmostEqual(free["bottom"][1], 0.0, places=6)
        self.assertAlmostEqual(free["middle"][0], free["middle"][1], places=6)
        for stands, setting in made.items():
            lower = free[stands][0]
            for letter, other in zip(made["top"].letters, setting.letters, strict=True):
                self.assertAlmostEqual(other.matrix.f - letter.matrix.f, lower, places=6)
            for (x, y, _), (other_x, other_y, _) in zip(made["top"].carets, setting.carets, strict=True):
                self.assertEqual(other_x, x)
                self.assertAlmostEqual(other_y - y, lower, places=6)

    def test_a_width_is_met_exactly(self) -> None:
        for text in ("HI", "a much longer line", "two\nlines here"):
            made = set_(text, evolve(PLAIN, flow="fit width", frame=(700.0, 10.0)))
            self.assertAlmostEqual(max(line.width for line in made.lines), 700.0, 3)

    def test_a_box_is_filled_but_not_left(self) -> None:
        manner = evolve(PLAIN, flow="fit box", frame=(420.0, 160.0))
        made = set_("as large as this box holds", manner)
        self.assertLessEqual(made.lines[-1].baseline + made.lines[-1].descent, 160.0)
        larger = set_("as large as this box holds", evolve(manner, flow="box", size=made.size * 1.02))
        low = larger.lines[-1].baseline + larger.lines[-1].descent
        wide = max(line.width for line in larger.lines)
        self.assertTrue(low > 160.0 or wide > 420.0)


class CurveTest(unittest.TestCase):
    def test_an_arc_keeps_its_length_and_turns_as_told(self) -> None:
        track = arc_track(90.0, 400.0, 50.0)
        self.assertAlmostEqual(float(track.lengths[-1]), 400.0, 1)
        first, last = track.at(0.0), track.at(399.9)
        turned = math.degrees(math.atan2(last.b, last.a) - math.atan2(first.b, first.a))
        self.assertAlmostEqual(turned, 90.0, delta=1.0)
        middle = track.at(200.0).apply(0, 0)
        self.assertAlmostEqual(middle[0], 200.0, 1)
        self.assertAlmostEqual(middle[1], 50.0, 1)

    def test_letters_stand_on_the_ellipse_and_wrap_around_it(self) -> None:
        ring = ellipse(0, 0, 150, 150)
        made = set_("round and round", evolve(PLAIN, size=30.0, path=ring, along=0.25))
        for x, y, _ in made.carets:
            self.assertAlmostEqual(math.hypot(x, y), 150.0, delta=0.3)
        self.assertAlmostEqual(made.carets[0][1], 150.0, delta=0.2)
        track = path_track(ring, 0.0)
        self.assertAlmostEqual(float(track.lengths[-1]), 2 * math.pi * 150, delta=0.6)


class RunTest(unittest.TestCase):
    def test_runs_change_size_colour_and_face(self) -> None:
        red = (1.0, 0.0, 0.0, 1.0)
        made = set_("abc", evolve(PLAIN, runs=((1, 2, "Lobster Two", 700.0, 200.0, red),)))
        looks = [(letter.at.face.family, letter.colour) for letter in made.letters]
        self.assertEqual(looks[1], ("Lobster Two", red))
        self.assertEqual(looks[0], looks[2])
        self.assertGreater(made.lines[0].ascent, set_("abc").lines[0].ascent)

    @given(st.lists(st.tuples(st.integers(0, 9), st.integers(1, 5), st.sampled_from([50.0, 100.0, 200.0]))),
           st.integers(0, 9), st.integers(0, 4), st.integers(0, 4))  # fmt: skip
    def test_typing_moves_looks_with_their_letters(
        self, marks: list[tuple[int, int, float]], at: int, gone: int, typed: int
    ) -> None:
        runs: tuple = ()
        for first, count, size in marks:
            runs = with_look(runs, first, first + count, size=size)
        after = after_typing(runs, at, at + gone, typed)
        for index in range(16):
            before = index if index < at else index - typed + gone
            if index < at or index >= at + typed:
                self.assertEqual(looked_at(after, index)[4], looked_at(runs, before)[4])
        self.assertEqual(list(after), sorted(after))
        # What is typed looks like what it takes the place of, or like the letter before; the first one like the first.
        model = at if gone else max(at - 1, 0)
        for index in range(at, at + typed):
            self.assertEqual(looked_at(after, index)[2:], looked_at(runs, model)[2:])


if __name__ == "__main__":
    unittest.main()
