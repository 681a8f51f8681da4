"""Easing against the CSS definition, solved another way."""

import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from spiralis.core.animation.ease_tiles import EASE_TILES, bounce, spring
from spiralis.core.animation.easing import HOLD, LINEAR, CubicBezier, Easing, LinearPoints, Steps, from_softness
from spiralis.core.errors import ModelError

unit = st.floats(0, 1)
free = st.floats(-3, 3)


def bezier_by_bisection(easing: CubicBezier, x: float) -> float:
    """Solve the curve with nothing but halving, from the Bernstein form."""

    def at(a: float, b: float, s: float) -> float:
        return 3 * (1 - s) ** 2 * s * a + 3 * (1 - s) * s**2 * b + s**3

    low, high = 0.0, 1.0
    for _ in range(200):
        middle = (low + high) / 2
        if at(easing.x1, easing.x2, middle) < x:
            low = middle
        else:
            high = middle
    return at(easing.y1, easing.y2, (low + high) / 2)


class SingleTest(unittest.TestCase):
    @given(st.integers(2, 9), st.sampled_from(list(Steps.POSITIONS)), st.floats(-0.5, 1.5))
    def test_one_number_of_steps_is_what_many_are(self, count: int, position: str, x: float) -> None:
        easing = Steps(count, position)
        for at in (x, round(x * count) / count, 0.0, 1.0):
            self.assertEqual(easing.solve_one(at), easing.solve(np.array([at]))[0])

    @given(
        st.lists(st.tuples(st.sampled_from((0.0, 0.2, 0.5, 0.7, 1.0)), free), min_size=2, max_size=7), st.floats(-1, 2)
    )
    def test_one_number_of_points_is_what_many_are(self, points: list[tuple[float, float]], x: float) -> None:
        easing = LinearPoints(tuple(sorted(points, key=lambda point: point[0])))
        for at in (x, *(point[0] for point in points)):
            self.assertEqual(easing.solve_one(at), easing.solve(np.array([at]))[0])


class CubicBezierTest(unittest.TestCase):
    @given(unit, free, unit, free, st.floats(0.001, 0.999))
    def test_agrees_with_the_definition(self, x1: float, y1: float, x2: float, y2: float, x: float) -> None:
        easing = CubicBezier(x1, y1, x2, y2)
        # Where x(s) is flat, a rounding error in x is a large step in s; compare through x instead of y there.
        near = [bezier_by_bisection(easing, x + d) for d in (-1e-9, 0.0, 1e-9)]
        self.assertLessEqual(min(near) - 1e-6, easing(x))
        self.assertGreaterEqual(max(near) + 1e-6, easing(x))

    @given(unit, free, unit, free)
    def test_many_at_once_agree_with_one_by_one(self, x1: float, y1: float, x2: float, y2: float) -> None:
        easing = CubicBezier(x1, y1, x2, y2)
        x = np.linspace(0.01, 0.99, 33)
        slope = np.abs(np.gradient(easing(x), x)).max()
        single = np.array([easing(float(v)) for v in x])
        self.assertLess(np.abs(easing(x) - single).max(), 1e-6 * (1 + slope))

    def test_published_values(self) -> None:
        # The halves of the symmetric keywords, and the ends of all.
        self.assertAlmostEqual(Easing.from_css("ease-in-out")(0.5), 0.5, 9)
        for name in ("linear", "ease", "ease-in", "ease-out", "ease-in-out"):
            easing = Easing.from_css(name)
            self.assertEqual((easing(0.0), easing(1.0)), (0.0, 1.0))
        self.assertAlmostEqual(
            Easing.from_css("ease")(0.5), bezier_by_bisection(CubicBezier(0.25, 0.1, 0.25, 1), 0.5), 7
        )

    def test_goes_on_along_its_ends(self) -> None:
        easing = CubicBezier(0.5, 1.0, 0.5, 0.0)
        self.assertAlmostEqual(easing(-0.1), -0.2)
        self.assertAlmostEqual(easing(1.1), 1.2)
        self.assertAlmostEqual(CubicBezier(0, 0, 0, 0)(-0.5), -0.5)

    @given(unit, free, unit, free, unit)
    def test_reversed_in_time(self, x1: float, y1: float, x2: float, y2: float, x: float) -> None:
        easing = CubicBezier(x1, y1, x2, y2)
        slope = np.abs(np.gradient(easing(np.linspace(0, 1, 999)))).max() * 999
        self.assertAlmostEqual(easing.reversed_in_time()(x), 1 - easing(1 - x), delta=1e-5 * (1 + slope))

    def test_refuses_x_outside(self) -> None:
        for numbers in ((-0.1, 0, 1, 1), (0, 0, 1.1, 1), (0, float("nan"), 1, 1), (0, 1e9, 1, 1)):
            with self.assertRaises(ModelError):
                CubicBezier(*numbers)


class StepsTest(unittest.TestCase):
    def test_table_of_the_standard(self) -> None:
        inputs = np.array([0.0, 0.1, 0.26, 0.5, 0.76, 0.99, 1.0])
        expected = {
            "end": [0, 0, 0.25, 0.5, 0.75, 0.75, 1],
            "start": [0.25, 0.25, 0.5, 0.75, 1, 1, 1],
            "jump-none": [0, 0, 1 / 3, 2 / 3, 1, 1, 1],
            "jump-both": [0.2, 0.2, 0.4, 0.6, 0.8, 0.8, 1],
        }
        for position, outputs in expected.items():
            np.testing.assert_allclose(Steps(4, position)(inputs), outputs, err_msg=position)

    def test_hold_stays_until_the_end(self) -> None:
        self.assertEqual([HOLD(0.0), HOLD(0.999), HOLD(1.0)], [0.0, 0.0, 1.0])

    def test_refuses_nonsense(self) -> None:
        for count, position in ((0, "end"), (1, "jump-none"), (3, "middle")):
            with self.assertRaises(ModelError):
                Steps(count, position)


class LinearTest(unittest.TestCase):
    def test_missing_places_are_spread_evenly(self) -> None:
        easing = Easing.from_css("linear(0, 0.5 20%, 0.6, 0.7, 1)")
        np.testing.assert_allclose([p[0] for p in easing.points], [0, 0.2, 0.2 + 0.8 / 3, 0.2 + 1.6 / 3, 1])
        np.testing.assert_allclose(easing(np.array([0.1, 0.2])), [0.25, 0.5])

    def test_two_places_make_a_level_piece(self) -> None:
        easing = Easing.from_css("linear(0, 0.25 25% 75%, 1)")
        np.testing.assert_allclose(easing(np.array([0.25, 0.5, 0.75])), [0.25, 0.25, 0.25])

    def test_jump_where_places_meet_takes_the_later(self) -> None:
        easing = Easing.from_css("linear(0, 0.4 50%, 0.8 50%, 1)")
        self.assertAlmostEqual(easing(0.5), 0.8)
        self.assertLess(easing(0.4999), 0.41)

    @given(st.lists(st.tuples(unit, free), min_size=2, max_size=8))
    def test_agrees_with_interpolation(self, points: list[tuple[float, float]]) -> None:
        inputs = np.linspace(0, 1, len(points))
        easing = LinearPoints(tuple((float(x), y) for x, (_, y) in zip(inputs, points, strict=True)))
        x = np.linspace(0, 1, 50)
        np.testing.assert_allclose(easing(x), np.interp(x, inputs, [y for _, y in points]), atol=1e-12)


class CssTextTest(unittest.TestCase):
    @given(unit, free, unit, free)
    def test_bezier_there_and_back(self, x1: float, y1: float, x2: float, y2: float) -> None:
        for easing in (CubicBezier(x1, y1, x2, y2), CubicBezier(*(round(v, 4) for v in (x1, y1, x2, y2)))):
            again = Easing.from_css(easing.css())
            x = np.linspace(0, 1, 9)
            np.testing.assert_allclose(again(x), easing(x), atol=1e-12)

    def test_every_tile_there_and_back(self) -> None:
        self.assertGreaterEqual(len(EASE_TILES), 14)
        for tile in EASE_TILES:
            again = Easing.from_css(tile.easing.css())
            x = np.linspace(0, 1, 101)
            np.testing.assert_allclose(again(x), tile.easing(x), atol=1e-12, err_msg=tile.name)
            self.assertEqual((tile.easing(0.0), tile.easing(1.0)), (0.0, 1.0), tile.name)

    def test_refuses_other_text_with_a_sentence(self) -> None:
        for text in ("", "wobbly", "cubic-bezier(1, 2)", "cubic-bezier(a, 0, 0, 1)", "linear(1)", "steps(1.5)",
                     "linear(0, nan)", "cubic-bezier(2, 0, 0, 1)", "steps(3, middle)", "()"):  # fmt: skip
            with self.assertRaises(ModelError, msg=text) as caught:
                Easing.from_css(text)
            self.assertTrue(str(caught.exception).endswith("."), text)

    @given(st.text(max_size=40))
    def test_any_text_is_read_or_refused(self, text: str) -> None:
        try:
            Easing.from_css(text)
        except ModelError:
            pass

    def test_straight_line_is_called_linear(self) -> None:
        self.assertEqual(LINEAR.css(), "linear")
        self.assertAlmostEqual(from_softness(0, 0)(0.3), 0.3, 12)


class GeneratedTest(unittest.TestCase):
    def test_bounce_never_goes_past_its_goal(self) -> None:
        values = bounce(4, 0.3)(np.linspace(0, 1, 2000))
        self.assertLessEqual(values.max(), 1 + 1e-9)
        self.assertEqual(int(np.sum((values[1:-1] > values[:-2]) & (values[1:-1] > values[2:]))), 4)

    def test_spring_swings_about_its_goal(self) -> None:
        values = spring(3.0, 5.0)(np.linspace(0, 1, 2000)) - 1
        crossings = int(np.sum(np.diff(np.sign(values[:-1])) != 0))
        self.assertEqual(crossings, 6)
