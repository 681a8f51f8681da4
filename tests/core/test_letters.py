"""Letters that arrive part by part, text stretched to a frame, and pictures on twos, against their definitions."""

from __future__ import annotations

import unittest
from fractions import Fraction

import numpy as np
from attrs import evolve
from hypothesis import given
from hypothesis import strategies as st

from spiralis.core.animation.source_time import TIMING, Span, even_clock, shown
from spiralis.core.geometry import Affine
from spiralis.core.model import Composition, Key, Layer, Track, layer_kind
from spiralis.core.raster.fitting import FontsOf, typeset
from spiralis.core.raster.fonts import shaper
from spiralis.core.raster.kinds.text import setting_of
from spiralis.core.raster.layer_image import Scene
from spiralis.core.raster.setting import Manner
from spiralis.core.raster.shaping import glyph_path
from spiralis.core.raster.spreading_letters import ORDERS, parts_of, progress, ranks, spread_letters
from spiralis.core.raster.stamps import stamped
from spiralis.core.render import render_frame
from spiralis.core.render.layers import Evaluated
from tests.core.samples import piece, project


def word(text: str = "kite", **values: object) -> Layer:
    return Layer("Word", "text", 0, 40, id="word").with_values(
        text=text, size=30.0, fill=(0.0, 0.0, 0.0, 1.0), position=(50.0, 40.0), **values
    )


def picture(*layers: Layer, frame: float = 0.0, **values: object) -> np.ndarray:
    made = project(*layers, width=100, height=80, **values)
    return render_frame(made, made.compositions[0].id, frame)


def columns(image: np.ndarray) -> int:
    """Return how many stretches of inked columns there are."""
    inked = image[:, :, 3].max(axis=0) > 0.5
    return int((np.diff(np.concatenate(([0], inked.astype(int)))) == 1).sum())


class PartByPartTest(unittest.TestCase):
    def test_all_away_and_all_in_place(self) -> None:
        plain = picture(word())
        np.testing.assert_array_equal(picture(word(spread_by="letters", spread=100.0)), plain)
        self.assertEqual(picture(word(spread_by="letters", spread=0.0)).max(), 0)

    def test_letters_of_wrapped_lines_turn_about_their_own_middles(self) -> None:
        for text in ("one two three", "onetwothree"):
            box = Layer("W", "text", 0, 20).with_values(
                text=text, flow="box", frame=(90.0, 300.0), size=30.0, spread_by="letters", spread_turn=180.0,
                spread_place=(0.0, 0.0), spread_opacity=100.0,
            )  # fmt: skip
            values = dict(box.defaults) | {name: track.value for name, track in box.properties.items()}
            made = setting_of(values, Scene(project(box), 64, 48))
            self.assertGreater(len(made.lines), 1)
            for own, (turned, _) in zip(made.letters, spread_letters(made, values), strict=True):
                # Half a turn about a middle puts the letter's origin as far on its other side.
                x, y = (own.matrix.e + turned.matrix.e) / 2, (own.matrix.f + turned.matrix.f) / 2
                self.assertTrue(-1 < x - own.matrix.e < 16, (text, own.cluster))
                self.assertAlmostEqual(y, own.matrix.f - 0.3 * 30, places=6)

    def test_letters_come_in_their_order(self) -> None:
        far = {"spread_by": "letters", "spread_overlap": 0.0, "tracking": 200.0}
        for order, side in (("forwards", slice(0, 50)), ("backwards", slice(50, 100))):
            ink = picture(word(spread=50.0, spread_order=order, **far))[:, :, 3]
            self.assertGreater(ink[:, side].sum(), 0.9 * ink.sum(), order)

    def test_an_offset_moves_all_letters_that_are_away(self) -> None:
        moved = picture(word(spread_by="words", spread=0.0, spread_opacity=100.0, spread_place=(0.0, 10.0)))
        np.testing.assert_allclose(moved[10:], picture(word())[:-10], atol=1e-6)

    def test_colour_and_slant_are_those_of_parts_that_are_away(self) -> None:
        away = {"spread_by": "letters", "spread": 0.0, "spread_opacity": 100.0, "spread_place": (0.0, 0.0)}
        red = picture(word(spread_colour=(1.0, 0.0, 0.0, 1.0), **away))
        plain = picture(word())
        np.testing.assert_allclose(red[:, :, 3], plain[:, :, 3], atol=2 / 255)
        inked = plain[:, :, 3] > 0.99
        np.testing.assert_allclose(red[inked][:, :3], np.tile((1.0, 0.0, 0.0), (inked.sum(), 1)), atol=2 / 255)
        slanted = picture(word("I", spread_slant=40.0, **away))
        self.assertGreater(np.ptp(np.flatnonzero(slanted[:, :, 3].max(axis=0) > 0.5)),
                           2 * np.ptp(np.flatnonzero(picture(word("I"))[:, :, 3].max(axis=0) > 0.5)))  # fmt: skip

    def test_each_letter_has_its_own_colour_and_opacity(self) -> None:
        layer = word("IIII", spread_by="letters", spread=55.0, spread_opacity=20.0, tracking=300.0).with_values(
            size=40.0, fill=(0.1, 0.3, 0.9, 0.75), spread_colour=(1.0, 0.0, 0.0, 0.8), spread_place=(0.0, 4.0)
        )
        made = project(layer, width=100, height=80)
        image, at = render_frame(made, made.compositions[0].id, 0), Evaluated(made, made.compositions[0], 0.0)
        values, matrix, seen = at.values(layer), at.matrix(layer), set()
        for letter, opacity in spread_letters(setting_of(values, at.scene), values):
            bounds = glyph_path(letter.at, letter.glyph).getBounds()
            a, b, c, d, e, f = letter.matrix
            place = (matrix @ Affine(a, b, c, d, e, f)).apply(bounds.centerX(), -bounds.centerY())
            red, green, blue, alpha = letter.colour
            expected = np.array([red, green, blue, 1.0]) * alpha * opacity
            np.testing.assert_allclose(image[int(place[1]), int(place[0])], expected, atol=1.5 / 255)
            seen.add((letter.colour, opacity))
        # Some arrived, one on its way, one that has not set out: three colours at the least.
        self.assertGreaterEqual(len(seen), 3)

    def test_letters_of_one_look_lie_in_one_another_without_a_trace(self) -> None:
        # Half seen through and drawn over itself, ink stays as thin as it is.
        crowd = word("IIIIII", spread_by="letters", spread=0.0, spread_opacity=50.0, tracking=-200.0)
        self.assertLess(float(picture(crowd)[:, :, 3].max()), 0.51)

    def test_later_letters_lie_over_earlier_ones_however_far_they_are(self) -> None:
        red, tracking = (1.0, 0.0, 0.0, 1.0), -500.0
        for order, left, right in (("backwards", red, 0.0), ("forwards", (0.0, 0.0, 0.0, 1.0), 1.0)):
            drawn = picture(word("HH", spread_by="letters", spread=50.0, spread_overlap=0.0, spread_order=order,
                                 spread_opacity=100.0, spread_place=(0.0, 0.0), spread_colour=red, tracking=tracking))
            # The bar of the second letter goes over that of the first; its left stem is hidden by it, too.
            row = drawn[np.argmax((drawn[..., 3] > 0.99).sum(axis=1))]
            inked = np.flatnonzero(row[:, 3] > 0.99)
            self.assertGreater(len(inked), 20)
            self.assertAlmostEqual(float(row[inked[-2], 0]), right, delta=0.02, msg=order)
            self.assertAlmostEqual(float(row[(inked[0] + inked[-1]) // 2, 0]), right, delta=0.02, msg=order)
            self.assertAlmostEqual(float(row[inked[0], 0]), left[0], delta=0.02, msg=order)

    def test_letters_show_others_of_the_words_on_their_way_and_their_own_in_the_end(self) -> None:
        text = "abc def ghi"
        away = {"spread_by": "letters", "spread_others": 4.0, "spread_opacity": 100.0, "spread_place": (0.0, 0.0),
                "spread_overlap": 100.0, "spread_softness": 0.0}  # fmt: skip

        def shown(**values: object) -> list[int]:
            start = project(layer := word(text, **{**away, **values}))
            at = Evaluated(start, start.compositions[0], 0.0)
            found = at.values(layer)
            return [letter.glyph for letter, _ in spread_letters(setting_of(found, at.scene), found)]

        own = shown(spread=100.0)
        self.assertEqual(own, shown(spread_by="none", spread=0.0))
        seen = [tuple(shown(spread=float(share))) for share in range(0, 100, 5)]
        # Four pictures on the way, each of the words' own letters; what is empty stays so.
        self.assertEqual(4, len(set(seen)))
        self.assertEqual(len(seen), sum(all(glyph in own for glyph in row) for row in seen))
        self.assertTrue(all(row[3] == own[3] and row[7] == own[7] for row in seen))
        self.assertTrue(all(sum(a != b for a, b in zip(row, own, strict=True)) > 4 for row in seen))
        self.assertNotEqual(seen[0], tuple(shown(spread=0.0, spread_seed=2.0)))
        self.assertEqual(shown(spread=30.0), shown(spread=30.0))
        # Each stands in the middle of its own letter's room.
        start = project(layer := word("iWi", **{**away, "spread": 0.0, "spread_seed": 3.0}))
        at = Evaluated(start, start.compositions[0], 0.0)
        values = at.values(layer)
        setting = setting_of(values, at.scene)
        for own_, (other, _) in zip(setting.letters, spread_letters(setting, values), strict=True):
            middles = (letter.matrix.apply(shaper(letter.at)[0].get_glyph_h_advance(letter.glyph) / 2, 0)
                       for letter in (own_, other))  # fmt: skip
            np.testing.assert_allclose(next(middles), next(middles), atol=1e-9)
        self.assertNotEqual([y.glyph for y in setting.letters], [y.glyph for y, _ in spread_letters(setting, values)])
        half = shown(spread=50.0, spread_overlap=0.0)
        self.assertEqual(own[:4], half[:4])
        self.assertNotEqual(own[6:], half[6:])
        # What is drawn is what is told, the lines around letters as well.
        for stroke in (0.0, 4.0):
            drawn = picture(word(text, spread=0.0, stroke=stroke, **away))
            self.assertGreater(float(np.abs(drawn - picture(word(text, stroke=stroke))).max()), 0.9, stroke)

    def test_lines_lie_behind_their_letters_and_fade_with_them(self) -> None:
        values = {"stroke": 8.0, "stroke_colour": (1.0, 0.0, 0.0, 1.0), "font": "Inter", "weight": 900.0}
        whole = picture(word("I", **values))
        middle = whole[40, 40:60]
        self.assertEqual((1.0, 0.0), (float(middle[10, 3]), float(middle[10, 0])))
        self.assertGreater(float(middle[:, 0].max()), 0.95)
        away = {"spread_by": "letters", "spread": 0.0, "spread_opacity": 50.0, "spread_place": (0.0, 0.0)}
        half = picture(word("I", **away, **values))
        line = int(np.argmax(middle[:, 0])) + 40
        self.assertAlmostEqual(float(half[40, line, 3]), 0.5, delta=0.02)

    def test_keys_on_arrived_are_an_animation(self) -> None:
        layer = word(spread_by="letters").with_track("spread", Track(0.0, (Key(0, 0.0), Key(20, 100.0))))
        ink = [float(picture(layer, frame=f)[:, :, 3].sum()) for f in (0, 8, 14, 19)]
        self.assertEqual(ink, sorted(ink))
        self.assertEqual(ink[0], 0)

    def test_parts_are_letters_words_and_lines(self) -> None:
        text = "to me\nyou"
        made = typeset(FontsOf.of(project()), text, Manner("Inter", 400.0, 40.0))
        by_letters = parts_of(text, made.letters, made, "letters")
        self.assertEqual(sorted(set(by_letters)), list(range(7)))
        self.assertEqual(max(parts_of(text, made.letters, made, "words")), 2)
        self.assertEqual(max(parts_of(text, made.letters, made, "lines")), 1)

    @given(st.integers(1, 60), st.sampled_from(ORDERS), st.floats(0, 1), st.floats(0, 1))
    def test_progress_runs_from_none_to_all_for_every_part(
        self, count: int, order: str, overlap: float, arrived: float
    ) -> None:
        for rank in ranks(count, order, 3):
            self.assertAlmostEqual(progress(0.0, rank, overlap, count), 0.0)
            self.assertAlmostEqual(progress(1.0, rank, overlap, count), 1.0)
            self.assertLessEqual(
                progress(arrived * 0.9, rank, overlap, count), progress(arrived, rank, overlap, count) + 1e-12
            )

    def test_full_overlap_is_together_and_none_is_one_after_another(self) -> None:
        self.assertEqual({progress(0.3, rank, 1.0, 5) for rank in ranks(5, "forwards", 1)}, {0.3})
        busy = [progress(0.5, rank, 0.0, 4) for rank in ranks(4, "forwards", 1)]
        np.testing.assert_allclose(busy, [1, 1, 0, 0], atol=1e-9)


class StretchTest(unittest.TestCase):
    def test_any_word_fills_the_frame_exactly(self) -> None:
        for text in ("i", "kite", "Go high"):
            ink = picture(word(text, flow="stretch", frame=(80.0, 50.0)))[:, :, 3] > 0.5
            rows, across = np.flatnonzero(ink.any(axis=1)), np.flatnonzero(ink.any(axis=0))
            self.assertAlmostEqual(across[-1] - across[0] + 1, 80, delta=1)
            self.assertAlmostEqual(rows[-1] - rows[0] + 1, 50, delta=1)

    @given(st.sampled_from(["i", "kite", "Go\nhigh", "", "a ⛵"]), st.floats(4, 120), st.floats(4, 120),
           st.floats(-180, 180), st.floats(0.2, 3), st.floats(-20, 60))  # fmt: skip
    def test_it_looks_as_its_letters_would_each_stretched(
        self, text: str, width: float, height: float, turn: float, size: float, x: float
    ) -> None:
        layer = word(text, flow="stretch", frame=(width, height))
        values = {parameter.name: layer.track(parameter.name).value for parameter in layer.parameters}
        kind, scene, clip = layer_kind("text"), Scene(project(layer), 100, 80), (0.0, 0.0, 100.0, 80.0)
        matrix = Affine.shift(x, 30) @ Affine.rotation(turn) @ Affine.scaling(size, size)
        self.assertEqual(kind.box(values, scene), setting_of(values, scene).box)
        made, stamp = kind.draw(values, scene, matrix, clip), kind.stamp(values, scene)
        wanted = stamped(stamp, object(), matrix, clip) if stamp is not None else None
        if wanted is None or made is None:
            self.assertTrue(wanted is None and made is None)
            return
        self.assertEqual(made.space, wanted.space)
        frame = (-2, -2, 102, 82)
        apart = made.spread_over(frame).data.astype(float) - wanted.spread_over(frame).data
        # Skia smooths small signs in one of two ways, by their size to a hair: single pixels may differ.
        self.assertLessEqual(float(np.abs(apart).max()), 64 if text.isascii() else 100)
        self.assertLess(float(np.abs(apart).mean()), 0.02)


class StepTimeTest(unittest.TestCase):
    def values(self, **changed: object) -> dict[str, object]:
        return {**{p.name: p.default for p in TIMING}, **changed}

    def test_on_twos_a_picture_stays_for_two_frames(self) -> None:
        clock = even_clock(12, Fraction(25))
        rate = Fraction(25)
        held = self.values(step_time=2.0, own_rate=25.0, ends="hold")
        seen = [shown(clock, held, Span(Fraction(f), rate, 0, 12)) for f in range(8)]
        self.assertEqual(seen, [0, 0, 2, 2, 4, 4, 6, 6])

    def test_keys_on_the_own_frame_say_what_shows(self) -> None:
        clock = even_clock(12, Fraction(25))
        for own, ends, wanted in ((3.9, "hold", 3), (40.0, "hold", 11), (14.0, "loop", 2), (-1.0, "loop", 11)):
            held = self.values(retime=True, own_frame=own, ends=ends)
            self.assertEqual(shown(clock, held, Span(Fraction(0), Fraction(25), 0, 12)), wanted)

    def test_an_inner_composition_can_be_retimed(self) -> None:
        fade = Track(0.0, (Key(0, 0.0), Key(20, 100.0)))
        inner = evolve(piece(word("o").with_track("opacity", fade), width=100, height=80, length=21), id="inner")
        nest = Layer("Inner", "nested", 0, 40, id="nest").with_values(
            composition="inner", position=(50.0, 40.0), retime=True
        )
        nest = nest.with_track("own_frame", Track(20.0, (Key(0, 20.0), Key(20, 0.0))))
        outer = Composition("Outer", 100, 80, Fraction(25), 40, layers=(nest,), id="outer")
        made = evolve(project(), compositions=(outer, inner))
        for frame in (0, 5, 12):
            np.testing.assert_allclose(
                render_frame(made, "outer", frame), render_frame(made, "inner", 20 - frame), atol=2 / 255
            )


if __name__ == "__main__":
    unittest.main()
