"""Follows, rolls, dials and wobbles against their definitions; cycles, files, rendering."""

from __future__ import annotations

import math
import unittest

import numpy as np
from attrs import evolve, fields
from hypothesis import given
from hypothesis import strategies as st

from spiralis.core.animation.drivers import places, values_over, wobbled
from spiralis.core.errors import ModelError, ProjectFileError
from spiralis.core.model import Composition, Key, Layer, Project, Rule, Track
from spiralis.core.model.drivers import DialJoin, Follow, Roll, Wobble
from spiralis.core.model.track import Extend
from spiralis.core.render import render_frame
from spiralis.core.render.layers import Evaluated, matrices_over
from spiralis.core.storage.conversion import from_json, to_json
from tests.core.samples import piece

FRAMES = np.arange(0.0, 41.0)


def ball(name: str, **tracks: Track) -> Layer:
    layer = Layer(name.upper(), "shape", 0, 40, id=name).with_values(
        form="ellipse", size=(20.0, 20.0), fill=(1.0, 1.0, 1.0, 1.0), position=(30.0, 24.0)
    )
    for key, track in tracks.items():
        layer = layer.with_track(key, track)
    return layer


def moving(*keys: tuple[int, tuple[float, float]]) -> Track:
    return Track(keys[0][1], tuple(Key(frame, value) for frame, value in keys))


def make(*layers: Layer, **values: object) -> Composition:
    return piece(*layers, length=40, **values)


class NumbersTest(unittest.TestCase):
    def test_what_drives_has_numbers_that_are_numbers(self) -> None:
        stops = ((0.0, 1.0), (5.0, 2.0))
        made = (Follow("a", "opacity", low=0.0, high=1.0), Roll(4.0), Wobble(3.0))
        for endless in (math.inf, -math.inf, math.nan):
            for driver in made:
                for field in fields(type(driver)):
                    if isinstance(getattr(driver, field.name), float):
                        with self.assertRaises(ModelError, msg=f"{driver} {field.name}"):
                            evolve(driver, **{field.name: endless})
            with self.assertRaises(ModelError):
                DialJoin("dial", (*stops, (endless, 3.0)))
        with self.assertRaises(ModelError):
            DialJoin("dial", stops[::-1])
        with self.assertRaises(ModelError):
            DialJoin("dial", stops[:1])


class FollowTest(unittest.TestCase):
    def test_turn_along_takes_the_way_that_a_follower_goes(self) -> None:
        leader = ball("a", position=Track((0.0, 0.0), (Key(0, (0.0, 0.0)), Key(20, (200.0, 100.0)))))
        own = ball("b", position=Track((5.0, 5.0), driver=Follow("a", "position"))).with_values(along_path=True)
        piece = make(leader, own)
        found = Evaluated(Project(compositions=(piece,)), piece, 10.0)
        goal, matrix = math.degrees(math.atan2(100, 200)), found.matrix(own)
        self.assertAlmostEqual(found.values(own)["heading"], goal, places=4)
        self.assertAlmostEqual(math.degrees(math.atan2(matrix.b, matrix.a)), goal, places=4)

    def test_gain_offset_delay_and_clamp(self) -> None:
        leader = ball("a", rotation=Track(0.0, (Key(0, 0.0), Key(40, 400.0))))
        follow = Follow("a", "rotation", gain=0.5, offset=10.0, delay=4.0, low=20.0, high=150.0)
        composition = make(leader, ball("b", rotation=Track(0.0, driver=follow)))
        values = values_over(composition, composition.layer("b"), "rotation", FRAMES)[:, 0]
        wanted = np.clip(np.clip(10 * (FRAMES - 4), 0, 400) * 0.5 + 10, 20, 150)
        np.testing.assert_allclose(values, wanted, atol=1e-9)

    def test_one_number_of_a_pair_and_into_one(self) -> None:
        leader = ball("a", position=moving((0, (0.0, 5.0)), (40, (80.0, 45.0))))
        taken = Track((1.0, 2.0), driver=Follow("a", "position", component=1, into=0))
        composition = make(leader, ball("b", position=taken))
        values = values_over(composition, composition.layer("b"), "position", np.array([20.0]))
        np.testing.assert_allclose(values, [[25.0, 2.0]])

    def test_colours_follow_and_chains_add_up(self) -> None:
        red, blue = (1.0, 0.0, 0.0, 1.0), (0.0, 0.0, 1.0, 1.0)
        leader = ball("a", fill=Track(red, (Key(0, red), Key(40, blue))))
        second = ball("b", fill=Track(red, driver=Follow("a", "fill", delay=10)))
        third = ball("c", fill=Track(red, driver=Follow("b", "fill", delay=10)))
        composition = make(leader, second, third)
        late = values_over(composition, third, "fill", np.array([30.0]))
        np.testing.assert_allclose(late, values_over(composition, leader, "fill", np.array([10.0])), atol=1e-12)

    def test_circles_are_refused_with_the_chain(self) -> None:
        first = ball("a", rotation=Track(0.0, driver=Follow("b", "rotation")))
        second = ball("b", rotation=Track(0.0, driver=Follow("a", "rotation")))
        with self.assertRaisesRegex(ModelError, "A: Rotation → B: Rotation → A: Rotation"):
            make(first, second)
        with self.assertRaises(ModelError):
            make(ball("a", opacity=Track(100.0, driver=Follow("a", "opacity"))))

    def test_a_lost_source_leaves_the_own_value(self) -> None:
        composition = make(ball("b", rotation=Track(7.0, driver=Follow("gone", "rotation"))))
        np.testing.assert_allclose(values_over(composition, composition.layers[0], "rotation", FRAMES), 7.0)

    def test_motion_blur_and_matrices_see_it(self) -> None:
        leader = ball("a", position=moving((0, (0.0, 0.0)), (40, (80.0, 0.0))))
        composition = make(
            leader, ball("b", position=Track((0.0, 9.0), driver=Follow("a", "position", component=0, into=0)))
        )
        at = Evaluated(Project("p", (composition,)), composition, 20)
        layer = composition.layer("b")
        np.testing.assert_allclose(at.matrix(layer).apply(10, 10), (40.0, 9.0), atol=1e-6)
        moved = matrices_over(at, layer, np.array([19.5, 20.5]))
        self.assertAlmostEqual(moved[1].e - moved[0].e, 2.0)


class RollTest(unittest.TestCase):
    def turn(self, way: Track, radius: float) -> np.ndarray:
        composition = make(ball("a", position=way, rotation=Track(0.0, driver=Roll(radius))))
        return values_over(composition, composition.layers[0], "rotation", FRAMES)[:, 0]

    @given(st.floats(5.0, 80.0), st.floats(20.0, 300.0))
    def test_a_straight_way_turns_by_its_length(self, radius: float, length: float) -> None:
        turned = self.turn(moving((0, (0.0, 0.0)), (40, (length, 0.0))), radius)
        self.assertAlmostEqual(turned[-1], math.degrees(length / radius), places=6)

    def test_rolling_back_turns_back_and_corners_do_not(self) -> None:
        there_and_back = self.turn(moving((0, (0.0, 0.0)), (20, (100.0, 0.0)), (40, (0.0, 0.0))), 20.0)
        self.assertAlmostEqual(there_and_back[-1], 0.0, places=6)
        corner = self.turn(moving((0, (0.0, 0.0)), (20, (100.0, 0.0)), (40, (100.0, 100.0))), 20.0)
        self.assertAlmostEqual(corner[-1], math.degrees(200 / 20.0), places=6)

    def test_a_wheel_rolls_after_what_carries_it(self) -> None:
        cart = ball("cart", position=moving((0, (0.0, 0.0)), (40, (-120.0, 0.0))))
        composition = make(cart, ball("wheel", rotation=Track(0.0, driver=Roll(30.0, "cart"))))
        turned = values_over(composition, composition.layer("wheel"), "rotation", FRAMES)[-1, 0]
        self.assertAlmostEqual(turned, -math.degrees(4.0), places=6)


class DialTest(unittest.TestCase):
    def test_a_dial_drives_several_by_their_stops(self) -> None:
        dial = Layer("Squeeze", "dial", 0, 40, id="d").with_track("value", Track(0.0, (Key(0, 0.0), Key(40, 120.0))))
        wide = Track((100.0, 100.0), driver=DialJoin("d", ((0.0, (100.0, 100.0)), (100.0, (20.0, 180.0)))))
        turned = Track(0.0, driver=DialJoin("d", ((0.0, 0.0), (50.0, 90.0), (100.0, 0.0))))
        composition = make(ball("a", scale=wide, rotation=turned), dial)
        layer = composition.layers[0]
        np.testing.assert_allclose(values_over(composition, layer, "scale", np.array([20.0])), [[52.0, 148.0]])
        turned = values_over(composition, layer, "rotation", np.array([20.0, 40.0]))[:, 0]
        np.testing.assert_allclose(turned, [72.0, 0.0])

    def test_broken_dials_are_refused(self) -> None:
        for broken in (lambda: DialJoin("d", ((0.0, 1.0),)), lambda: DialJoin("d", ((1.0, 1.0), (1.0, 2.0))),
                       lambda: Roll(0.0), lambda: Wobble(1.0, 0.0),
                       lambda: ball("a", text=Track("x", wobble=Wobble(1.0)))):  # fmt: skip
            with self.assertRaises((ModelError, KeyError)):
                broken()

    def test_a_nested_layer_sets_dials_of_what_it_shows(self) -> None:
        dial = Layer("Dark", "dial", 0, 40, id="d")
        shade = Track(
            (1.0, 1.0, 1.0, 1.0), driver=DialJoin("d", ((0.0, (1.0, 1.0, 1.0, 1.0)), (100.0, (0.0, 0.0, 0.0, 1.0))))
        )
        inner = evolve(make(ball("a", fill=shade), dial), id="inner", name="Inner")
        shown = Layer("N", "nested", 0, 40, id="n").with_values(composition="inner", position=(32.0, 24.0))
        for value, light in ((0.0, 1.0), (100.0, 0.0)):
            outer = make(evolve(shown, dial_values=(("d", value),)))
            pixels = render_frame(Project("p", (outer, inner)), outer.id, 0)
            self.assertAlmostEqual(float(pixels[24, 30, 0]), light, places=3)
            self.assertAlmostEqual(float(pixels[24, 30, 3]), 1.0, places=3)


class WobbleTest(unittest.TestCase):
    @given(st.integers(0, 999), st.floats(0.3, 6.0), st.integers(1, 4))
    def test_it_returns_exactly_stays_within_and_is_smooth(self, seed: int, rate: float, detail: int) -> None:
        composition = make(ball("a"), play_span=(4, 36))
        frames = np.arange(4.0, 36.0)
        wobble = Wobble(10.0, rate, seed, detail)
        values = wobbled(wobble, composition, frames, 2, "a/position")
        np.testing.assert_array_equal(values, wobbled(wobble, composition, frames + 32, 2, "a/position"))
        self.assertLessEqual(float(np.abs(values).max()), 12.6)
        fine = wobbled(wobble, composition, np.linspace(35.9, 36.1, 201), 1, "a/x")
        self.assertLess(float(np.abs(np.diff(fine, axis=0)).max()), 0.6)

    def test_seeds_layers_and_components_differ(self) -> None:
        composition = make(ball("a"))
        one = wobbled(Wobble(10.0, 2.0, 1), composition, FRAMES, 2, "a/position")
        self.assertFalse(np.allclose(one[:, 0], one[:, 1]))
        self.assertFalse(np.allclose(one, wobbled(Wobble(10.0, 2.0, 2), composition, FRAMES, 2, "a/position")))
        self.assertFalse(np.allclose(one, wobbled(Wobble(10.0, 2.0, 1), composition, FRAMES, 2, "b/position")))

    def test_frame_n_plus_length_is_frame_n_bit_for_bit(self) -> None:
        shaken = ball("a", position=Track((30.0, 24.0), wobble=Wobble(8.0, 3.0, 5, 3)))
        made = Project("p", (make(shaken),))
        np.testing.assert_array_equal(render_frame(made, "Piece", 7), render_frame(made, "Piece", 47))
        self.assertFalse(np.array_equal(render_frame(made, "Piece", 7), render_frame(made, "Piece", 17)))


class AccumulateTest(unittest.TestCase):
    def test_a_thousand_cycles_have_no_drift(self) -> None:
        track = Track(0.0, (Key(0, 0.0), Key(24, 90.1)), after=Extend(Rule.ACCUMULATE))
        composition = make(ball("a", rotation=track))
        value = values_over(composition, composition.layers[0], "rotation", np.array([24_000.0 + 6.0]))[0, 0]
        self.assertAlmostEqual(value, 90.1 * 1000.25, delta=90.1 * 1e-9 * 1000)
        step = np.diff(values_over(composition, composition.layers[0], "rotation", 24.0 * np.arange(1001.0))[:, 0])
        np.testing.assert_allclose(step, 90.1, rtol=1e-9)


class FileTest(unittest.TestCase):
    def test_drivers_survive_a_file_and_bad_ones_are_a_sentence(self) -> None:
        layers = (
            ball("a", position=moving((0, (0.0, 0.0)), (40, (80.0, 0.0)))),
            ball("b", rotation=Track(0.0, driver=Roll(20.0, "a"), wobble=Wobble(2.0, 1.0, 3)),
                 opacity=Track(100.0, driver=Follow("a", "opacity", high=80.0)),
                 scale=Track((100.0, 100.0), driver=DialJoin("d", ((0.0, (100.0, 100.0)), (1.0, (50.0, 50.0)))))),
        )  # fmt: skip
        made = Project("p", (make(*layers, Layer("D", "dial", 0, 40, id="d")),))
        data = to_json(made)
        self.assertEqual(from_json(data, "x"), made)
        places_ = places(made.compositions[0], layers[0], np.array([20.0]))
        np.testing.assert_allclose(places_, [[40.0, 0.0]])
        properties = data["compositions"][0]["layers"][1]["properties"]
        bad_dial = {"kind": "dial", "dial": "d", "stops": 4}
        for name, broken in (("rotation", {"kind": "spin"}), ("rotation", {"kind": "roll", "radius": "x"}),
                             ("opacity", {"kind": "follow"}), ("scale", bad_dial)):  # fmt: skip
            kept = properties[name]["driver"]
            properties[name]["driver"] = broken
            with self.assertRaises(ProjectFileError):
                from_json(data, "x")
            properties[name]["driver"] = kept
        self.assertEqual(evolve(made), from_json(data, "x"))


if __name__ == "__main__":
    unittest.main()
