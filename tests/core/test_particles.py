"""Particles against their definitions: chance by number, flight, flow, depth, dots, loops, what they are born from."""

import math
import subprocess
import sys
import unittest

import numpy as np
from attrs import evolve
from hypothesis import given, settings
from hypothesis import strategies as st

from spiralis.core.cache import BUDGET
from spiralis.core.checks.seam import check, mended
from spiralis.core.editing.spans import split
from spiralis.core.geometry import Affine
from spiralis.core.model import Key, Layer, Project, Track, layer_kind
from spiralis.core.raster.kernels import particles as kernels
from spiralis.core.raster.swarm import Clock, Ground, Sown, numbers
from spiralis.core.render.building import built
from spiralis.core.render.frame import render_frame
from spiralis.core.render.layers import Evaluated
from spiralis.core.render.swarming import _MANY
from tests.core.samples import backdrop, project

DEFAULTS = {parameter.name: parameter.default for parameter in layer_kind("particles").parameters}
CLOCK = Clock(40.0, 25.0, 1080.0)


def sown(clock: Clock = CLOCK, ground: Ground | None = None, **values: object) -> Sown:
    return Sown({**DEFAULTS, **values}, clock, ground)


def cloud(**values: object) -> Layer:
    return Layer("Cloud", "particles", 0, 20, id="cloud").with_values(
        position=(32.0, 24.0), region=(40.0, 30.0), count=60.0, size=6.0, **values
    )


def frame(sample: Project, at: float = 0) -> np.ndarray:
    return render_frame(sample, "Piece", at)


class ChanceTest(unittest.TestCase):
    def test_more_particles_leave_those_that_were_there_alone(self) -> None:
        few, many = (sown(count=count, depth_range=90.0, near_share=30.0) for count in (50.0, 400.0))
        for name in ("home", "off", "depth", "birth", "life"):
            np.testing.assert_array_equal(getattr(few.born, name), getattr(many.born, name)[:50], name)

    def test_numbers_are_even_and_columns_unlike(self) -> None:
        even = numbers(20_000, 3)
        for column in even.T:
            share = np.histogram(column, 10, (0, 1))[0] / 20_000
            np.testing.assert_allclose(share, 0.1, atol=0.01)
        apart = np.corrcoef(even.T) - np.eye(even.shape[1])
        self.assertLess(np.abs(apart).max(), 0.03)
        self.assertLess(abs(np.corrcoef(even[:-1, 0], even[1:, 0])[0, 1]), 0.03)
        self.assertFalse(np.array_equal(even, numbers(20_000, 4)))

    def test_another_process_finds_the_same_numbers(self) -> None:
        code = "from spiralis.core.raster.swarm import numbers; print(numbers(5, 9).tobytes().hex())"
        told = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True).stdout.strip()
        self.assertEqual(told, numbers(5, 9).tobytes().hex())


class BirthTest(unittest.TestCase):
    def test_births_are_even_over_the_whole_time_and_bursts_come_together(self) -> None:
        births = np.sort(sown(born="evenly", count=400.0).born.birth)
        self.assertLess(np.diff(np.concatenate([births, [40.0 + births[0]]])).max(), 0.4)
        bursts = sown(born="bursts", bursts=5.0, count=400.0).born.birth
        np.testing.assert_allclose(np.unique(bursts), np.arange(5) * 8.0)

    def test_lives_vary_by_as_much_as_they_are_told(self) -> None:
        life = sown(born="evenly", life=20.0, life_vary=50.0, count=2000.0).born.life
        self.assertAlmostEqual(float(life.min()), 10.0, delta=0.1)
        self.assertAlmostEqual(float(life.max()), 30.0, delta=0.1)

    def test_the_far_ones_are_drawn_first_where_they_cover_each_other(self) -> None:
        values = {"depth_range": 800.0, "size_vary": 0.0, "twinkle": 0.0}
        radii = sown(**values).at(3.0)[0].radii
        self.assertGreater(np.ptp(radii), 0.5)
        self.assertTrue((np.diff(radii) >= 0).all())

    def test_a_streak_begins_where_its_particle_was_born(self) -> None:
        one = sown(shape="point", born="at once", life=30.0, speed=300.0, look="streak",
                   opacity_life=((0.0, 1.0), (1.0, 1.0)))  # fmt: skip
        swarm, ends = one.at(1.0, -3.0)
        self.assertGreater(swarm.count, 100)
        np.testing.assert_allclose(ends, 0.0, atol=1e-9)
        self.assertGreater(np.hypot(*swarm.places.T).max(), 5.0)


class FlightTest(unittest.TestCase):
    @settings(max_examples=25, deadline=None)
    @given(
        st.floats(0, 400), st.floats(-180, 180), st.floats(-300, 300), st.floats(-200, 200), st.floats(0, 4),
        st.floats(0.5, 39),
    )  # fmt: skip
    def test_the_way_is_that_of_small_steps(
        self, speed: float, way: float, fall: float, wind: float, drag: float, age: float
    ) -> None:
        values = {"shape": "point", "born": "at once", "count": 1.0, "speed": speed, "speed_vary": 0.0, "spread": 0.0,
                  "direction": way,
                      "fall": fall, "wind": (wind, 0.0), "drag": drag, "life": 100.0}  # fmt: skip
        found = sown(**values).placed(np.array([age]), age)[0, :2]
        # v' = fall - drag (v - wind), by the midpoint rule; without drag the wind carries as it is.
        steps, here = 4000, np.zeros(2)
        step, blows = age / 25 / 4000, np.array([wind, 0.0])
        moving = speed * np.array([math.cos(math.radians(way)), math.sin(math.radians(way))])
        down = np.array([0.0, fall])
        if drag < 1e-6:
            moving = moving + blows
        for _ in range(steps):
            half = moving + (down - drag * (moving - blows) * (drag >= 1e-6)) * step / 2
            here = here + half * step
            moving = moving + (down - drag * (half - blows) * (drag >= 1e-6)) * step
        np.testing.assert_allclose(found, here, atol=0.02 + 1e-4 * np.abs(here).max())

    def test_the_flow_of_the_turbulence_has_no_sources(self) -> None:
        points = np.random.default_rng(5).uniform(0, 30, (400, 2))
        h, z = 1e-3, np.full(400, 0.4)
        flow = [np.empty((400, 2)) for _ in range(4)]
        for out, shift in zip(flow, ((h, 0), (-h, 0), (0, h), (0, -h)), strict=True):
            kernels.curl(points + shift, z, 8, 1, out)
        spreads = (flow[0][:, 0] - flow[1][:, 0] + flow[2][:, 1] - flow[3][:, 1]) / (2 * h)
        slopes = np.abs(flow[0] - flow[1]).max() / (2 * h)
        self.assertGreater(slopes, 1.0)
        self.assertLess(np.abs(spreads).mean(), 0.02 * slopes)

    def test_gathered_particles_are_where_they_were_born(self) -> None:
        one = sown(turbulence=200.0, depth_range=400.0, near_share=50.0, gather=100.0, born="evenly", speed=90.0)
        space = one.placed(one.ages(13.0), 13.0)
        np.testing.assert_allclose(space[:, :2], one.born.home, atol=1e-9)
        np.testing.assert_allclose(space[:, 2], 0.0, atol=1e-9)

    def test_bands_may_stay_around_the_place_of_birth(self) -> None:
        one = sown(turbulence=200.0, depth_range=400.0, near_share=50.0, near_distance=30.0, gather=100.0,
                   gather_bands=False)  # fmt: skip
        space = one.placed(one.ages(13.0), 13.0)
        np.testing.assert_allclose(space[:, :2], one.born.home + one.born.off, atol=1e-9)
        away = np.hypot(*one.born.off[one.born.band == 1].T)
        # Rayleigh: the middle one lies at sqrt(2 ln 2) times the distance.
        self.assertAlmostEqual(float(np.median(away)) / (30 * math.sqrt(2 * math.log(2))), 1.0, delta=0.15)

    def test_what_lags_behind_still_arrives(self) -> None:
        half = sown(turbulence=200.0, gather=50.0, gather_vary=100.0)._gathered()
        self.assertGreater(half.std(), 0.2)
        np.testing.assert_allclose(sown(gather=100.0, gather_vary=100.0)._gathered(), 1.0)
        np.testing.assert_allclose(sown(gather=0.0, gather_vary=100.0)._gathered(), 0.0)

    def test_space_is_seen_as_four_by_four_matrices_say(self) -> None:
        one = sown(sway=37.0, tilt=-21.0, lens=28.0)
        places = np.random.default_rng(1).uniform(-300, 300, (200, 3))
        seen, larger = one.seen(places)
        s, t, eye = math.radians(37.0), math.radians(-21.0), 1080 * 28 / 36
        upright = [[math.cos(s), 0, math.sin(s), 0], [0, 1, 0, 0], [-math.sin(s), 0, math.cos(s), 0], [0, 0, 0, 1]]
        level = [[1, 0, 0, 0], [0, math.cos(t), -math.sin(t), 0], [0, math.sin(t), math.cos(t), 0], [0, 0, 0, 1]]
        lens = [[eye, 0, 0, 0], [0, eye, 0, 0], [0, 0, 1, 0], [0, 0, 1, eye]]
        whole = np.array(lens) @ np.array(level) @ np.array(upright)
        goal = np.column_stack([places, np.ones(200)]) @ whole.T
        np.testing.assert_allclose(seen, goal[:, :2] / goal[:, 3:], atol=1e-6)
        np.testing.assert_allclose(larger, eye / goal[:, 3], atol=1e-9)

    def test_what_is_behind_the_eye_is_not_seen(self) -> None:
        one = sown(lens=8.0, depth_range=0.0)
        _, larger = one.seen(np.array([[0.0, 0.0, -1080 * 8 / 36 - 1], [0.0, 0.0, 50.0]]))
        self.assertEqual(larger[0], 0.0)
        self.assertGreater(larger[1], 0.0)


class LoopTest(unittest.TestCase):
    WAYS = (
        {"born": "always", "turbulence": 60.0, "turbulence_turns": 1.4, "twinkle": 70.0, "speed": 130.0, "spin": 200.0,
             "look": "square"},
        {"born": "evenly", "life": 18.0, "speed": 130.0, "fall": 60.0, "turbulence": 20.0, "spin": 90.0,
         "look": "spark"},
        {"born": "bursts", "bursts": 3.0, "life": 12.0, "speed": 130.0, "drag": 2.0, "look": "streak"},
        {"born": "at once", "life": 14.0, "speed": 90.0, "twinkle": 50.0, "near_share": 30.0, "far_share": 30.0,
             "opacity_life": ((0.0, 1.0), (1.0, 0.5))},
    )  # fmt: skip

    def test_the_frame_after_the_last_is_the_first(self) -> None:
        for values in self.WAYS:
            with self.subTest(values["born"]):
                one = sown(**values)
                for now in (0.0, 7.25):
                    first, after = one.at(now)[0], one.at(now + 40.0)[0]
                    self.assertGreater(first.count, 0)
                    # Sines and powers of large numbers differ in the last digits.
                    np.testing.assert_allclose(after.places, first.places, atol=1e-6)
                    np.testing.assert_allclose(after.colours, first.colours, atol=1e-6)
                    np.testing.assert_allclose(np.cos(after.turns), np.cos(first.turns), atol=1e-6)

    def test_nothing_jumps_where_it_goes_round(self) -> None:
        for values in self.WAYS[:1]:
            one = sown(**{**values, "shape": "line"})
            steps = [np.abs(one.at(now + 1.0)[0].places - one.at(now)[0].places).max() for now in (5.0, 20.0, 39.0)]
            self.assertLess(steps[2], 2 * max(steps[:2]))

    def test_any_frame_asked_for_by_itself_is_the_one_that_playing_comes_to(self) -> None:
        for values in self.WAYS:
            played = project(cloud(**values), loop=True)
            frames = [frame(played, at).copy() for at in range(20)]
            for at in (11, 3, 19):
                alone = project(cloud(**values), loop=True)
                np.testing.assert_array_equal(frame(alone, at), frames[at])

    def test_the_seam_check_names_what_does_not_go_round_and_lets_it(self) -> None:
        sample = project(cloud(speed=60.0, goes_round=False), loop=True)
        found = check(sample, sample.compositions[0])
        cause = next(each for each in found.causes if each.layer == "cloud")
        self.assertIn("make-it-loop", cause.mends)
        done = mended(sample, cause, "make-it-loop")
        self.assertTrue(check(done, done.compositions[0]).clean)
        self.assertTrue(done.compositions[0].layer("cloud").track("goes_round").value)


class CourseTest(unittest.TestCase):
    def test_a_layer_that_is_split_shows_what_it_did(self) -> None:
        for round_ in (True, False):
            for values in LoopTest.WAYS:
                with self.subTest(born=values["born"], goes_round=round_):
                    whole = project(cloud(**values, goes_round=round_), loop=True)
                    parted, later = split(Evaluated(whole, whole.compositions[0], 0.0), ["cloud"], 7)
                    again, _ = split(Evaluated(whole, parted, 0.0), later, 13)
                    self.assertEqual([13, 7, 0], [layer.first for layer in again.layers if layer.kind == "particles"])
                    for at in (0, 6, 7, 12, 13, 19):
                        np.testing.assert_array_equal(frame(whole.with_composition(again), at), frame(whole, at))

    def test_a_course_is_as_long_as_is_said_and_begins_before_the_layer(self) -> None:
        plain = project(cloud(**LoopTest.WAYS[1]), loop=True)
        early = project(cloud(**LoopTest.WAYS[1], begun=6.0), loop=True)
        np.testing.assert_array_equal(frame(early, 3), frame(plain, 9))
        twice = project(cloud(**LoopTest.WAYS[1], course=10.0), loop=True)
        np.testing.assert_allclose(frame(twice, 13), frame(twice, 3), atol=1e-6)
        self.assertGreater(float(np.abs(frame(twice, 13) - frame(plain, 13)).max()), 0.1)

    def test_a_course_that_does_not_come_round_is_mended(self) -> None:
        sample = project(cloud(**LoopTest.WAYS[1], course=13.0), loop=True)
        cause = next(each for each in check(sample, sample.compositions[0]).causes if each.layer == "cloud")
        done = mended(sample, cause, "make-it-loop")
        self.assertTrue(check(done, done.compositions[0]).clean)
        whole = project(cloud(**LoopTest.WAYS[1], course=10.0), loop=True)
        self.assertTrue(check(whole, whole.compositions[0]).clean)


class DotsTest(unittest.TestCase):
    def drawn(self, look: int, radius: float, to: tuple[float, float] = (40.3, 40.7), adds: bool = False) -> np.ndarray:
        out = np.zeros((80, 80, 4), dtype=np.float32)
        kernels.splat(
            out, 0, 0, np.array([[40.3, 40.7]]), np.array([to]), np.array([radius]), np.array([0.6]),
            np.array([[1.0, 0.5, 0.25, 0.8]]), look, adds, np.ones((4, 4, 4), dtype=np.float32),
        )  # fmt: skip
        return out

    def test_each_look_covers_its_area(self) -> None:
        r = 9.0
        # The soft dot's (1 - q)^2 over the disc comes to a third of it; the spark's is left to its symmetry.
        areas = {kernels.DOT: math.pi * r * r, kernels.SOFT: math.pi * r * r / 3, kernels.SQUARE: 4 * r * r,
                 kernels.PICTURE: 4 * r * r}  # fmt: skip
        for look, area in areas.items():
            out = self.drawn(look, r)
            self.assertAlmostEqual(out[..., 3].sum() / 0.8 / area, 1.0, delta=0.02, msg=str(look))
            np.testing.assert_allclose(out[..., 0], out[..., 3], atol=1e-6)
            np.testing.assert_allclose(out[..., 2] * 4, out[..., 0], atol=1e-5)

    def test_a_dot_spread_over_a_way_keeps_its_light(self) -> None:
        still = self.drawn(kernels.DOT, 6.0)[..., 3].sum()
        moved = self.drawn(kernels.DOT, 6.0, (60.0, 52.0))[..., 3].sum()
        self.assertAlmostEqual(moved / still, 1.0, delta=0.03)

    def test_a_tiny_dot_keeps_its_light_wherever_it_lies(self) -> None:
        sums = []
        for shift in np.linspace(0, 1, 9):
            out = np.zeros((20, 20, 4), dtype=np.float32)
            place = np.array([[10.0 + shift, 9.3 + shift / 2]])
            kernels.splat(out, 0, 0, place, place, np.array([0.2]), np.zeros(1), np.ones((1, 4)), kernels.DOT, False,
                          np.zeros((1, 1, 4), dtype=np.float32))  # fmt: skip
            sums.append(out[..., 3].sum())
        self.assertLess(max(sums) / min(sums), 1.35)
        self.assertAlmostEqual(float(np.mean(sums)), math.pi * 0.2**2, delta=0.06)

    def test_adding_adds_light_over_one_and_covers_no_more_than_all(self) -> None:
        out = np.zeros((9, 9, 4), dtype=np.float32)
        place = np.full((3, 2), 4.5)
        kernels.splat(out, 0, 0, place, place, np.full(3, 4.0), np.zeros(3), np.ones((3, 4)), kernels.DOT, True,
                      np.zeros((1, 1, 4), dtype=np.float32))  # fmt: skip
        np.testing.assert_allclose(out[4, 4], (3.0, 3.0, 3.0, 1.0))

    def test_a_streak_is_bright_where_it_is_and_faint_where_it_was(self) -> None:
        out = self.drawn(kernels.STREAK, 3.0, (70.0, 40.7))[..., 3]
        self.assertGreater(out[40, 69], 0.7)
        self.assertLess(out[40, 43], 0.15)


class RegionTest(unittest.TestCase):
    def test_a_part_is_the_whole_bit_for_bit_with_one_thread_and_with_two(self) -> None:
        for count in (300.0, float(_MANY + 500)):
            sample = project(evolve(cloud(turbulence=9.0, twinkle=20.0), id="c").with_values(count=count))
            piece = sample.compositions[0]
            node = built(sample, piece, 4, Affine.scaling(2, 2), (0, 0, 128, 96)).content(piece.layers[0])
            whole, part = (0, 0, 128, 96), (37, 21, 90, 66)
            all_, some = (node.drawn_in(region).spread_over(region).data for region in (whole, part))
            np.testing.assert_array_equal(all_[21:66, 37:90], some)


class ShapeTest(unittest.TestCase):
    def setUp(self) -> None:
        self.disc = Layer("Disc", "shape", 0, 20, id="disc").with_values(
            form="ellipse", size=(20.0, 20.0), position=(32.0, 24.0), fill=(0.0, 1.0, 0.0, 1.0), visible=False
        )

    def sample(self, *more: Layer, **values: object) -> Project:
        own = cloud(shape="layer", of="disc", **{"look": "dot", "size_vary": 0.0, **values}).with_values(
            size=1.0, count=500.0
        )
        return project(own, *(more or (self.disc,)), loop=True)

    def places(self, sample: Project) -> np.ndarray:
        alpha = frame(sample)[..., 3]
        rows, columns = np.nonzero(alpha > 0.05)
        return np.column_stack([columns + 0.5, rows + 0.5])

    def test_they_are_born_inside_a_hidden_shape_where_it_stands(self) -> None:
        away = np.hypot(*(self.places(self.sample()) - (32, 24)).T)
        self.assertLess(away.max(), 11.5)
        self.assertGreater(len(away), 150)

    def test_on_its_edge(self) -> None:
        away = np.hypot(*(self.places(self.sample(where="edge")) - (32, 24)).T)
        self.assertGreater(away.min(), 7.5)

    def test_the_shape_carries_them_along(self) -> None:
        moved = self.disc.with_values(position=(14.0, 24.0), rotation=90.0, scale=(50.0, 50.0))
        away = np.hypot(*(self.places(self.sample(moved)) - (14, 24)).T)
        self.assertLess(away.max(), 6.5)

    def test_an_edit_of_the_shape_is_seen(self) -> None:
        sample = self.sample()
        before = frame(sample).copy()
        piece = sample.compositions[0]
        other = piece.with_layer(piece.layer("disc").with_values(size=(6.0, 40.0)))
        after = frame(sample.with_composition(other))
        self.assertGreater(np.abs(after - before).max(), 0.3)
        np.testing.assert_array_equal(frame(sample), before)

    def test_pictures_that_are_kept_know_the_shape_and_the_place_it_has(self) -> None:
        sample = self.sample()
        piece = sample.compositions[0]
        others = [
            piece.layer("disc").with_values(**values)
            for values in ({"size": (6.0, 40.0)}, {"form": "rectangle"}, {"position": (20.0, 20.0)})
        ]
        versions = [sample, *(sample.with_composition(piece.with_layer(other)) for other in others)]
        # What is asked for twice is kept from then on.
        first = [[frame(version).copy() for version in versions] for _ in range(3)]
        BUDGET.clear()
        for index, version in enumerate(versions):
            for seen in first:
                np.testing.assert_array_equal(seen[index], frame(version))
        for other in first[2][1:]:
            self.assertGreater(np.abs(first[2][0] - other).max(), 0.3)

    def test_colours_of_the_shape(self) -> None:
        pixels = frame(self.sample(colour_by="source"))
        lit = pixels[..., 3] > 0.2
        np.testing.assert_allclose(pixels[lit][:, 0], 0.0, atol=1e-5)
        np.testing.assert_allclose(pixels[lit][:, 1], pixels[lit][:, 3], atol=1e-5)

    def test_more_where_it_is_bright(self) -> None:
        ramp = backdrop(64, 48, (0, 0, 0, 1)).with_values(
            style="linear", angle=0.0, stops=((0.0, 0.0, 0.0, 0.0, 1.0), (1.0, 1.0, 1.0, 1.0, 1.0))
        )
        lit = evolve(ramp, id="disc", last=20).with_values(visible=False)
        right = self.places(self.sample(lit, brightness=True))[:, 0] > 32
        self.assertGreater(right.mean(), 0.65)

    def test_without_a_shape_there_is_nothing_and_no_error(self) -> None:
        for of in ("", "gone"):
            sample = project(cloud(shape="layer", of=of))
            self.assertEqual(frame(sample).max(), 0.0)

    def test_a_picture_of_its_own_is_shown_by_each(self) -> None:
        own = cloud(look="picture", drawn_as="disc", size_vary=0.0).with_values(count=1.0, size=20.0, region=(0.0, 0.0))
        pixels = frame(project(own, self.disc))
        self.assertAlmostEqual(float(pixels[..., 3].sum()), math.pi * 100, delta=12)
        self.assertGreater(pixels[24, 32, 1], 0.95)


class SpaceTest(unittest.TestCase):
    """In depth each particle is seen by the camera, where its layer stands."""

    SIZE = 200

    def seen(self, *layers: Layer) -> np.ndarray:
        return frame(project(*layers, width=self.SIZE, height=self.SIZE, length=20))[..., 3].astype(float)

    def middle(self, alpha: np.ndarray) -> tuple[float, float]:
        y, x = np.mgrid[0 : self.SIZE, 0 : self.SIZE] + 0.5
        return float((x * alpha).sum() / alpha.sum()), float((y * alpha).sum() / alpha.sum())

    @given(st.floats(-80, 80), st.floats(-60, 60), st.floats(-60, 120), st.floats(-50, 50))
    @settings(max_examples=25, deadline=None)
    def test_each_is_where_the_camera_sees_it(self, turn: float, sway: float, z: float, x: float) -> None:
        # All of them drawn to one point, 60 px to the right of the layer's middle.
        one = cloud(depth=True, turn_y=turn, sway=sway, position_z=z, size_vary=0.0, pull=100.0, pull_to=(60.0, 10.0),
                    look="dot").with_values(position=(100.0 + x, 90.0), count=1.0, size=8.0)  # fmt: skip
        alpha = self.seen(one)
        a, b = math.radians(sway), math.radians(turn)
        point = np.array([60 * math.cos(a), 10.0, -60 * math.sin(a)])
        cosine, sine = math.cos(b), math.sin(b)
        turned = np.array([[cosine, 0.0, sine], [0.0, 1.0, 0.0], [-sine, 0.0, cosine]]) @ point
        point = turned + np.array([100 + x, 90.0, z])
        away = self.SIZE * 50 / 36
        near = away / (away + point[2])
        wanted = 100 + (point[0] - 100) * near, 100 + (point[1] - 100) * near
        if not (10 < wanted[0] < self.SIZE - 10 and 10 < wanted[1] < self.SIZE - 10):
            return
        np.testing.assert_allclose(self.middle(alpha), wanted, atol=0.35)
        self.assertAlmostEqual(alpha.sum() / (math.pi * 16 * near**2), 1.0, delta=0.12)

    def test_carriers_and_cameras_turn_them_and_flat_they_stay(self) -> None:
        carrier = Layer("Carrier", "carrier", 0, 20, id="c").with_values(depth=True, turn_y=90.0, pivot=(0.0, 0.0),
                                                                         position=(100.0, 100.0))  # fmt: skip
        wide = cloud(depth=True, shape="line", born="always", look="dot", thin=0.0)
        wide = wide.with_values(region=(120.0, 1.0), size=4.0, count=200.0)
        plain = self.seen(wide.with_values(position=(100.0, 100.0)))
        hung = self.seen(evolve(wide.with_values(position=(0.0, 0.0)), parent="c"), carrier)
        across = [int((alpha.max(axis=0) > 0.3).sum()) for alpha in (plain, hung)]
        self.assertGreater(across[0], 100)
        self.assertLess(across[1], 12, "seen along the line they lie on")
        eye = Layer("Eye", "camera", 0, 20, id="eye").with_values(depth=True, position=(100.0, 100.0),
                                                                  position_z=-100.0)  # fmt: skip
        self.assertGreater((self.seen(wide.with_values(position=(100.0, 100.0)), eye).max(axis=0) > 0.3).sum(), 190)
        # In the middle of the frame and unturned, the camera that comes with a piece sees what the layer's lens does.
        deep = cloud(depth_range=200.0, sway=30.0).with_values(position=(100.0, 100.0), size=9.0)
        np.testing.assert_allclose(self.seen(deep.with_values(depth=True)), self.seen(deep), atol=2 / 255)

    def test_behind_the_camera_and_edge_on(self) -> None:
        for values in ({"position_z": -400.0}, {"turn_x": 90.0}, {"position_z": -277.0}, {"scale": (0.0, 0.0)}):
            self.assertTrue(np.isfinite(self.seen(cloud(depth=True, **values))).all())


class OddValuesTest(unittest.TestCase):
    def test_limits_give_pictures_without_holes(self) -> None:
        for values in (
            {"count": 0.0}, {"size": 0.0}, {"lens": 8.0, "depth_range": 1e5, "sway": 90.0},
            {"lens": 2000.0, "tilt": 90.0},
            {"region": (0.0, 0.0)}, {"turbulence": 1e5}, {"speed": 1e5, "wind": (1e5, -1e5)}, {"spin": 1e5},
            {"thin": 100.0}, {"born": "evenly", "life": 1.0}, {"size": 1e4},
            {"opacity_life": ((0.0, 0.0), (1.0, 0.0)), "born": "at once"},
            {"drag": 100.0, "fall": 1e5, "born": "evenly"},
        ):  # fmt: skip
            with self.subTest(values):
                sample = project(cloud(**{k: v for k, v in values.items() if k not in ("region", "count", "size")}).
                                 with_values(**values))  # fmt: skip
                for at in (0, 7):
                    pixels = frame(sample, at)
                    self.assertTrue(np.isfinite(pixels).all())

    def test_a_key_of_the_count_leaves_places_alone(self) -> None:
        own = cloud().with_track("count", Track(10.0, (Key(0, 10.0), Key(19, 200.0))))
        first, later = frame(project(own), 0), frame(project(own), 10)
        self.assertGreater((later[..., 3] > 0).sum(), (first[..., 3] > 0).sum())
        self.assertTrue((later[..., 3][first[..., 3] > 0.5] > 0.4).all())

    def test_the_shutter_draws_out_what_moves(self) -> None:
        still = cloud(born="at once", life=20.0, speed=300.0, motion_blur=False, look="dot")
        blurred = still.with_values(motion_blur=True)
        pair = (project(y, shutter_angle=180.0, width=300, height=300) for y in (still, blurred))
        sharp, soft = (frame(sample, 6)[..., 3] for sample in pair)
        self.assertGreater((soft > 0.01).sum(), 1.5 * (sharp > 0.01).sum())
        self.assertAlmostEqual(float(soft.sum() / sharp.sum()), 1.0, delta=0.25)


if __name__ == "__main__":
    unittest.main()
