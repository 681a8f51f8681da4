"""Boxes, the light that shades what stands in depth, and shadows on a ground, against geometry of their own."""

from __future__ import annotations

import math
import unittest
from unittest import mock

import cv2
import numpy as np
from attrs import evolve
from hypothesis import given, settings
from hypothesis import strategies as st

from spiralis.core.geometry import Affine
from spiralis.core.model import Composition, Key, Layer, Project, Track
from spiralis.core.raster.kinds.box import FACES
from spiralis.core.render import render_frame, shadows
from spiralis.core.render.building import built
from spiralis.core.render.layers import Evaluated
from spiralis.core.render.maps_in_space import as_rows
from spiralis.core.render.shadows import Ground
from spiralis.core.render.solids import body_of
from tests.core.samples import backdrop, project, square_source

N = 240
COLOURS = {
    "front": (1.0, 0.0, 0.0, 1.0), "back": (0.0, 1.0, 0.0, 1.0), "left": (0.0, 0.0, 1.0, 1.0),
    "right": (1.0, 1.0, 0.0, 1.0), "top": (0.0, 1.0, 1.0, 1.0), "bottom": (1.0, 0.0, 1.0, 1.0),
}  # fmt: skip
#: Where a nest stands.
PLACE = {"position": (130.0, 110.0), "position_z": 40.0, "turn_y": 35.0, "turn_x": -20.0, "rotation": 10.0}
BLACK = (0.0, 0.0, 0.0, 1.0)


def box(**values: object) -> Layer:
    own = {"depth": True, "position": (N / 2, N / 2), "size": (90.0, 70.0), "deep": 60.0, "each": True}
    fills = {f"{name}_fill": colour for name, colour in COLOURS.items()}
    return Layer("Box", "box", 0, 10, id="box").with_values(**{**own, **fills, **values})


def light(**values: object) -> Layer:
    return Layer("Light", "light", 0, 10, id="light").with_values(**values)


def card(**values: object) -> Layer:
    own = {"form": "rectangle", "size": (60.0, 40.0), "fill": (1.0, 1.0, 1.0, 1.0), "depth": True,
           "position": (N / 2, N / 2)}  # fmt: skip
    return Layer("Card", "shape", 0, 10, id="card").with_values(**{**own, **values})


def piece(*layers: Layer, **more: object) -> Project:
    return project(*layers, width=N, height=N, length=10, **more)


def frame(*layers: Layer, **more: object) -> np.ndarray:
    return render_frame(piece(*layers, **more), "Piece", 0)


def about(axis: int, degrees: float) -> np.ndarray:
    """A turn by Rodrigues' formula, independent of the one that is tested."""
    way, angle = np.eye(3)[axis], math.radians(degrees)
    cross = np.array([[0, -way[2], way[1]], [way[2], 0, -way[0]], [-way[1], way[0], 0]])
    return np.eye(3) + math.sin(angle) * cross + (1 - math.cos(angle)) * cross @ cross


def seen(points: np.ndarray) -> np.ndarray:
    """Points (n, 3) of space through the default camera, by similar triangles."""
    away = N * 50 / 36
    return N / 2 + (points[:, :2] - N / 2) * (away / (away + points[:, 2]))[:, None]


class BoxTest(unittest.TestCase):
    """Six faces where they belong."""

    @settings(max_examples=25, deadline=None)
    @given(st.floats(-180, 180), st.floats(-180, 180), st.floats(-180, 180))
    def test_it_covers_what_its_corners_go_around(self, x: float, y: float, z: float) -> None:
        shown = frame(box(turn_x=x, turn_y=y, rotation=z))[..., 3]
        halves = np.array([[a, b, c] for a in (-45, 45) for b in (-35, 35) for c in (-30, 30)], dtype=float)
        corners = halves @ (about(2, z) @ about(1, y) @ about(0, x)).T + (N / 2, N / 2, 0)
        hull = cv2.convexHull(np.float32(seen(corners)))
        inside = np.zeros((N, N), np.uint8)
        cv2.fillPoly(inside, [np.round((hull - 0.5) * 16).astype(np.int32)], 1, shift=4)
        sure, maybe = cv2.erode(inside, np.ones((5, 5))), cv2.dilate(inside, np.ones((5, 5)))
        # Nothing shows through where faces meet.
        self.assertGreater(shown[sure > 0].min(), 0.93)
        # Faces reach over their edges by half a pixel, somewhat more at sharp corners.
        self.assertLess(shown[maybe == 0].sum(), 4.0)

    def test_each_face_is_where_it_belongs(self) -> None:
        turns = {"front": {}, "back": {"turn_y": 180.0}, "right": {"turn_y": 90.0}, "left": {"turn_y": -90.0},
                 "top": {"turn_x": 90.0}, "bottom": {"turn_x": -90.0}}  # fmt: skip
        self.assertEqual({face.name for face in FACES}, set(turns))
        for name, turn in turns.items():
            np.testing.assert_allclose(frame(box(**turn))[N // 2, N // 2], COLOURS[name], atol=0.01, err_msg=name)

    def test_pictures_read_the_right_way_on_every_face(self) -> None:
        # A picture that is bright at its left, seen from outside.
        marked = Layer("Mark", "shape", 0, 10).with_values(form="rectangle", size=(30.0, 60.0), position=(15.0, 30.0),
                                                           fill=(1.0, 1.0, 1.0, 1.0))  # fmt: skip
        inner = Composition("Inner", 60, 60, piece().compositions[0].rate, 10, layers=(marked,), id="inner")
        for turn in ({}, {"turn_y": 180.0}, {"turn_y": 90.0}, {"turn_y": -90.0}):
            sample = piece(box(each=False, fill=(0.0, 0.0, 0.0, 1.0), shows="inner", **turn))
            shown = render_frame(evolve(sample, compositions=(*sample.compositions, inner)), "Piece", 0)
            self.assertGreater(shown[N // 2, N // 2 - 15, 0], 0.95, turn)
            self.assertLess(shown[N // 2, N // 2 + 15, 0], 0.05, turn)
        source = square_source()
        shown = frame(box(each=False, picture=source.id), sources=(source,))
        plain = frame(box(each=False))
        self.assertGreater(np.abs(shown - plain).max(), 0.2)

    def test_what_is_turned_away_shows_through_clear_faces_only_where_asked(self) -> None:
        clear = (0.0, 0.0, 0.0, 0.0)
        self.assertEqual(frame(box(front_fill=clear))[N // 2, N // 2, 3], 0.0)
        through = frame(box(front_fill=clear, see_through=True))[N // 2, N // 2]
        np.testing.assert_allclose(through, COLOURS["back"], atol=0.01)

    def test_out_of_depth_it_is_its_front(self) -> None:
        flat = frame(box(depth=False, turn_y=40.0))
        np.testing.assert_allclose(flat[N // 2, N // 2], COLOURS["front"], atol=1e-6)
        self.assertAlmostEqual(float(flat[..., 3].sum()), 90 * 70, delta=90)

    def test_opacity_counts_for_the_whole(self) -> None:
        turned = {"turn_x": 30.0, "turn_y": 40.0}
        half = frame(box(opacity=50.0, **turned))
        np.testing.assert_allclose(half, frame(box(**turned)) / 2, atol=0.01)

    def test_a_part_equals_the_whole(self) -> None:
        sample = piece(box(turn_x=20.0, turn_y=30.0), light(ground="floor", ground_y=190.0))
        items = built(sample, sample.compositions[0], 0, Affine(), (0, 0, N, N)).items()
        self.assertEqual(len(items), 2)
        for item in items:
            whole, part = (0, 0, N, N), (61, 83, 171, 209)
            some, everything = (item.node.drawn_in(region).spread_over(region).data for region in (part, whole))
            self.assertGreater(some.max(), 0.3)
            np.testing.assert_array_equal(some, everything[83:209, 61:171])

    def test_it_turns_over_time_and_by_what_it_hangs_on(self) -> None:
        turning = box().with_track("turn_y", Track(0.0, (Key(0, 0.0), Key(9, 90.0))))
        last = render_frame(piece(turning), "Piece", 9)
        np.testing.assert_allclose(last[N // 2, N // 2], COLOURS["right"], atol=0.01)
        carrier = Layer("Carrier", "carrier", 0, 10, id="c")
        carrier = carrier.with_values(depth=True, turn_x=90.0, position=(N / 2, N / 2), pivot=(0.0, 0.0))
        hung = evolve(box(position=(0.0, 0.0)), parent="c")
        np.testing.assert_allclose(frame(hung, carrier)[N // 2, N // 2], COLOURS["top"], atol=0.01)


class LightTest(unittest.TestCase):
    """Brightness goes with the cosine."""

    @settings(max_examples=20, deadline=None)
    @given(st.floats(0, 360), st.floats(-90, 90), st.floats(-75, 75), st.floats(-75, 75))
    def test_a_face_is_as_bright_as_the_cosine_says(self, angle: float, steep: float, x: float, y: float) -> None:
        shown = frame(
            card(turn_x=x, turn_y=y, fill=(0.5, 0.4, 0.3, 1.0)),
            light(angle=angle, steepness=steep, strength=60.0, ambient=30.0, colour=(1.0, 0.5, 0.0, 1.0)),
        )[N // 2, N // 2]
        a, s = math.radians(angle), math.radians(steep)
        way = np.array([math.cos(s) * math.cos(a), math.cos(s) * math.sin(a), math.sin(s)])
        normal = about(1, y) @ about(0, x) @ (0, 0, -1)
        bright = 0.3 + 0.6 * max(-way @ normal, 0.0) * np.array([1.0, 0.5, 0.0])
        np.testing.assert_allclose(shown[:3], bright * (0.5, 0.4, 0.3), atol=2.5 / 255)
        self.assertAlmostEqual(shown[3], 1.0, places=5)

    def test_the_side_that_is_seen_counts(self) -> None:
        lamp = light(angle=0.0, steepness=90.0, strength=50.0, ambient=40.0)
        for turn in (0.0, 180.0):
            self.assertAlmostEqual(frame(card(turn_y=turn), lamp)[N // 2, N // 2, 0], 0.9, delta=0.01)

    def test_what_is_flat_unlit_or_without_a_light_stays(self) -> None:
        lamp = light(strength=0.0, ambient=20.0)
        plain = frame(card())
        np.testing.assert_array_equal(frame(card(lit=False), lamp), plain)
        np.testing.assert_array_equal(frame(card(depth=False), lamp), plain)
        np.testing.assert_array_equal(frame(card(), evolve(lamp, first=3)), plain)
        np.testing.assert_array_equal(frame(card(), lamp.with_values(visible=False)), plain)
        self.assertAlmostEqual(frame(card(), lamp)[N // 2, N // 2, 0], 0.2, delta=0.01)
        # The light in front counts.
        over = evolve(light(strength=0.0, ambient=70.0), id="other")
        self.assertAlmostEqual(frame(card(), over, lamp)[N // 2, N // 2, 0], 0.7, delta=0.01)

    def test_an_edit_of_the_light_is_seen_at_once(self) -> None:
        for bright in (20.0, 80.0):
            shown = frame(card(), box(visible=False), light(strength=0.0, ambient=bright))
            self.assertAlmostEqual(shown[N // 2, N // 2, 0], bright / 100, delta=0.01)

    def test_words_and_effects_are_shaded_too(self) -> None:
        words = Layer("Words", "text", 0, 10).with_values(text="■", size=90.0, depth=True, position=(N / 2, N / 2),
                                                          fill=(1.0, 1.0, 1.0, 1.0))  # fmt: skip
        dim = frame(words, light(strength=0.0, ambient=50.0))
        np.testing.assert_allclose(dim[..., :3], 0.5 * frame(words)[..., :3], atol=2 / 255)


    def test_ramps_strokes_and_more_than_white(self) -> None:
        shape = card(paint="linear", stroke=8.0, stroke_colour=(0.2, 0.9, 0.4, 0.7), turn_y=30.0, size=(120.0, 90.0))
        plain = frame(shape)
        for bright in (0.4, 1.0, 1.7):
            lit = frame(shape, light(strength=0.0, ambient=100 * bright))
            np.testing.assert_allclose(lit[..., :3], bright * plain[..., :3], atol=2.5 / 255)
            np.testing.assert_allclose(lit[..., 3], plain[..., 3], atol=1e-6)
        self.assertGreater(frame(shape, light(strength=0.0, ambient=170.0)).max(), 1.2)


class ShadowTest(unittest.TestCase):
    """Shadows lie where light is kept off."""

    @settings(max_examples=60, deadline=None)
    @given(st.integers(1, 2), st.floats(-500, 500), st.floats(-180, 180), st.floats(-180, 180), st.floats(-89, 89),
           st.floats(0, 360))  # fmt: skip
    def test_points_fall_along_the_light(
        self, axis: int, at: float, x: float, y: float, steep: float, angle: float
    ) -> None:
        a, s = math.radians(angle), math.radians(steep)
        way = np.array([math.cos(s) * math.cos(a), math.cos(s) * math.sin(a), math.sin(s)])
        ground = Ground(axis, at, (0, 2) if axis == 1 else (0, 1))
        standing = np.eye(4)
        standing[:3, :3] = about(1, y) @ about(0, x)
        standing[:3, 3] = (30.0, -20.0, 70.0)
        map_ = ground.fallen(as_rows(standing), way.tolist())
        if abs(way[axis]) < 1e-3:
            self.assertIsNone(map_)
            return
        assert map_ is not None
        for u, v in ((0.0, 0.0), (100.0, 0.0), (-40.0, 80.0)):
            fallen = ground.embedded() @ (*(np.array(map_) @ (u, v, 1.0)), 1.0)
            point = (standing @ (u, v, 0.0, 1.0))[:3]
            self.assertAlmostEqual(fallen[axis], at, places=6)
            # The way from the point to its shadow is the light's.
            self.assertLess(np.linalg.norm(np.cross(fallen[:3] - point, way)), 1e-6 * (1 + np.linalg.norm(fallen)))

    def test_a_card_before_a_wall(self) -> None:
        lamp = light(angle=30.0, steepness=60.0, ground="wall", ground_z=80.0, softness=0.0, shadow=BLACK)
        both = frame(card(), lamp)[..., 3] - frame(card())[..., 3]
        a, far = math.radians(30), 80 / math.tan(math.radians(60))
        corners = np.array([(x, y, 0.0) for x, y in ((-30, -20), (30, -20), (30, 20), (-30, 20))])
        fallen = corners + np.array([N / 2 + far * math.cos(a), N / 2 + far * math.sin(a), 80.0])
        wanted = np.zeros((N, N), np.uint8)
        cv2.fillPoly(wanted, [np.round((seen(fallen) - 0.5) * 16).astype(np.int32)], 1, shift=4)
        wanted[frame(card())[..., 3] > 0] = 0
        self.assertLess(np.abs((both > 0.5).astype(int) - wanted).sum(), 60)
        self.assertGreater(wanted.sum(), 300)

    def test_a_box_on_the_floor_stands_on_its_shadow(self) -> None:
        lamp = light(angle=90.0, steepness=0.0, ground="floor", ground_y=N / 2 + 35, softness=0.0)
        # Straight from above it falls where the box stands.
        shown = frame(box(turn_y=25.0), lamp)[..., 3]
        self.assertLess(np.abs(shown - frame(box(turn_y=25.0))[..., 3]).sum(), 40)

    @settings(max_examples=12, deadline=None)
    @given(st.floats(-180, 180), st.floats(-180, 180), st.floats(0, 360), st.sampled_from(("wall", "floor")),
           st.sampled_from((0.0, 6.0)))  # fmt: skip
    def test_a_body_throws_what_all_its_faces_throw(
        self, x: float, y: float, angle: float, ground: str, edge: float
    ) -> None:
        lamp = light(angle=angle, steepness=40.0, ground=ground, ground_y=N / 2 + 70.0, ground_z=70.0, softness=2.0,
                     shadow=BLACK)  # fmt: skip
        values = {"each": False, "turn_x": x, "turn_y": y, "edge": edge, "edge_colour": (0.2, 0.2, 0.2, 1.0)}
        whole = frame(box(**values), lamp)
        with mock.patch.object(shadows, "body_of", return_value=[]):
            faces = frame(box(**values), lamp)
        # Faces fade at their rims, where one outline goes on.
        away = np.abs(whole - faces).max(axis=2)
        self.assertLess(float(away.max()), 0.3)
        self.assertLess(int((away > 0.12).sum()), 60)

    def test_only_what_nothing_is_seen_through_is_a_body(self) -> None:
        source = square_source()
        for values, closed in (
            ({}, True), ({"edge": 5.0}, True), ({"picture": source.id}, True), ({"each": True}, True),
            ({"fill": (1.0, 0.0, 0.0, 0.5)}, False), ({"edge": 5.0, "edge_colour": (1.0, 1.0, 1.0, 0.5)}, False),
            ({"each": True, "back_fill": (0.0, 0.0, 0.0, 0.0)}, False),
        ):  # fmt: skip
            with self.subTest(**values):
                sample = piece(box(**{"each": False, "turn_y": 20.0, **values}), sources=(source,))
                at = Evaluated(sample, sample.compositions[0], 0)
                found = body_of(at, sample.compositions[0].layers[0])
                self.assertEqual(6 if closed else 0, len(found))
                if closed and "edge" in values:
                    self.assertAlmostEqual(-2.5, found[0][1][0])

    def test_softness_density_and_place_among_the_layers(self) -> None:
        own = {"ground": "wall", "ground_z": 60.0, "angle": 0.0, "steepness": 45.0}
        hard = frame(card(), light(**own, softness=0.0, shadow=(1.0, 0.0, 0.0, 0.5)))
        self.assertAlmostEqual(hard[N // 2, N // 2 + 60, 3], 0.5, delta=0.01)
        np.testing.assert_allclose(hard[N // 2, N // 2 + 60, :3], (0.5, 0.0, 0.0), atol=0.01)
        soft = frame(card(), light(**own, softness=12.0, shadow=(1.0, 0.0, 0.0, 0.5)))[N // 2, :, 3]
        self.assertGreater(len(np.unique(np.round(soft[N // 2 + 40 :], 2))), 12)
        # It covers what the light lies over, and what lies over the light covers it.
        ground = backdrop(N, N, (0.0, 0.0, 1.0, 1.0))
        over = frame(card(), light(**own, softness=0.0, shadow=(1.0, 0.0, 0.0, 1.0)), ground)
        under = frame(card(), ground, light(**own, softness=0.0, shadow=(1.0, 0.0, 0.0, 1.0)))
        np.testing.assert_allclose(over[N // 2, N // 2 + 60], (1, 0, 0, 1), atol=0.01)
        np.testing.assert_allclose(under[N // 2, N // 2 + 60], (0, 0, 1, 1), atol=0.01)

    def test_who_throws_one(self) -> None:
        lamp = light(ground="wall", ground_z=60.0, angle=0.0, steepness=45.0, softness=0.0, shadow=BLACK)
        place = (N // 2, N // 2 + 60, 3)
        self.assertGreater(frame(card(), lamp)[place], 0.9)
        for without in (card(casts=False), card(depth=False), card(visible=False), card(opacity=0.0)):
            self.assertEqual(frame(without, lamp)[place], 0.0)
        self.assertAlmostEqual(frame(card(opacity=40.0), lamp)[place], 0.4, delta=0.02)
        self.assertEqual(frame(card(), lamp.with_values(ground="none"))[place], 0.0)
        # Along the ground no shadow ever lands.
        self.assertTrue(np.isfinite(frame(card(), lamp.with_values(steepness=0.0))).all())

    def test_cameras_inside_it_and_extremes_give_pictures(self) -> None:
        for values in ({"position_z": -330.0}, {"size": (1e4, 1e4)}, {"deep": 0.0}, {"size": (0.0, 0.0)},
                       {"scale": (0.0, 100.0)}, {"position_z": -1e6}):  # fmt: skip
            for ground in ("floor", "wall"):
                shown = frame(box(**{"turn_y": 20.0, **values}), light(ground=ground, ground_y=150.0, ground_z=50.0))
                self.assertTrue(np.isfinite(shown).all(), values)


class ThicknessTest(unittest.TestCase):
    """Sides behind outlines."""

    SIDE = (0.2, 0.6, 0.9, 1.0)

    @settings(max_examples=15, deadline=None)
    @given(st.floats(-180, 180), st.floats(-180, 180))
    def test_a_thick_rectangle_is_a_box(self, x: float, y: float) -> None:
        lamp = light(angle=40.0, steepness=35.0)
        place = (N / 2 + 20, N / 2 - 10)
        thick = card(fill=self.SIDE, side_fill=self.SIDE, thickness=50.0, turn_x=x, turn_y=y, position=place)
        # A box turns about its middle, which lies behind the middle of the front.
        shift = about(1, y) @ about(0, x) @ (0, 0, 25)
        same = box(each=False, fill=self.SIDE, size=(60.0, 40.0), deep=50.0, turn_x=x, turn_y=y,
                   position=(place[0] + shift[0], place[1] + shift[1]), position_z=float(shift[2]))  # fmt: skip
        away = np.abs(frame(thick, lamp) - frame(same, lamp)).max(axis=2)
        # Only where edges are smoothed.
        self.assertLess((away > 0.02).sum(), 700)
        # Where two edges lie a pixel apart that is three pixels wide: as long as both are high at the most.
        self.assertLess((cv2.erode((away > 0.02).astype(np.uint8), np.ones((3, 3)))).sum(), 90)

    def test_it_needs_depth_and_keeps_the_front(self) -> None:
        np.testing.assert_array_equal(frame(card(thickness=40.0, depth=False)), frame(card(depth=False)))
        front = frame(card())
        thick = frame(card(thickness=40.0))
        # Straight from the front the sides lie behind it.
        np.testing.assert_allclose(thick[front[..., 3] > 0.99], front[front[..., 3] > 0.99], atol=1e-6)
        self.assertLess(np.abs(thick - front).sum(), 60)

    def test_holes_have_sides_and_the_back_is_seen_from_behind(self) -> None:
        ring = card(form="rectangle", size=(100.0, 100.0), fill=(0.0, 0.0, 0.0, 0.0), stroke=16.0, join="miter",
                    stroke_colour=(1.0, 0.0, 0.0, 1.0), side_fill=self.SIDE, thickness=60.0, turn_y=30.0)  # fmt: skip
        shown = frame(ring)
        inside = np.abs(shown[N // 2, :, :3] - self.SIDE[:3]).max(axis=1) < 0.02
        runs = np.flatnonzero(np.diff(np.concatenate([[0], inside.astype(int), [0]])))
        self.assertEqual(len(runs) // 2, 2, "one side outside, and the far one inside of the hole")
        words = Layer("W", "text", 0, 10).with_values(text="Fly", size=80.0, depth=True, position=(N / 2, N / 2),
                                                      turn_y=180.0, thickness=30.0, side_fill=self.SIDE)  # fmt: skip
        back = frame(words)
        self.assertGreater(((back[..., :3] > 0.98).all(axis=2)).sum(), 800, "its letters, from behind")

    def test_a_bevel_goes_out_and_back(self) -> None:
        away = N * 50 / 36
        shown = frame(card(thickness=30.0, bevel=8.0, bevel_fill=(0.0, 1.0, 0.0, 1.0)))
        row = shown[N // 2, :, 3].sum()
        self.assertAlmostEqual(row, (60 + 16) * away / (away + 8), delta=0.6)
        np.testing.assert_allclose(shown[N // 2, N // 2 + 33], (0, 1, 0, 1), atol=0.01)
        np.testing.assert_allclose(shown[N // 2, N // 2 + 27], (1, 1, 1, 1), atol=0.01)
        # A slope of 45° is as bright as the light falls on it.
        lit = frame(card(thickness=30.0, bevel=8.0, bevel_fill=(0.0, 0.5, 0.0, 1.0)),
                    light(angle=180.0, steepness=30.0, strength=80.0, ambient=10.0))  # fmt: skip
        way = (-math.cos(math.radians(30)), 0.0, math.sin(math.radians(30)))
        normal = np.array([1.0, 0.0, -1.0]) / math.sqrt(2)
        self.assertAlmostEqual(lit[N // 2, N // 2 + 33, 1], 0.5 * (0.1 + 0.8 * -np.dot(way, normal)), delta=0.01)

    def test_a_part_equals_the_whole(self) -> None:
        sample = piece(card(thickness=50.0, turn_x=20.0, turn_y=35.0, bevel=5.0))
        node = built(sample, sample.compositions[0], 0, Affine(), (0, 0, N, N)).items()[0].node
        whole, part = (0, 0, N, N), (71, 93, 140, 149)
        some, everything = (node.drawn_in(region).spread_over(region).data for region in (part, whole))
        np.testing.assert_array_equal(some, everything[93:149, 71:140])

    def test_its_shadow_is_as_thick(self) -> None:
        lamp = light(ground="wall", ground_z=90.0, angle=0.0, steepness=20.0, softness=3.0, shadow=BLACK)
        thin, thick = (frame(card(thickness=t), lamp)[N // 2, N // 2 + 34 :, 3] for t in (0.0, 40.0))
        self.assertGreater((thick > 0.5).sum(), (thin > 0.5).sum() + 25)
        self.assertGreater(thick[thick > 0.5].min(), 0.5)

    def test_nothing_and_extremes_give_pictures(self) -> None:
        for values in ({"size": (0.0, 0.0)}, {"position_z": -330.0}, {"position_z": -1e6}, {"turn_y": 90.0},
                       {"scale": (0.0, 0.0)}, {"thickness": 5000.0}, {"bevel": 500.0}):  # fmt: skip
            shown = frame(card(**{"thickness": 30.0, "turn_y": 20.0, **values}), light(ground="wall", ground_z=50.0))
            self.assertTrue(np.isfinite(shown).all(), values)


class KeptDepthTest(unittest.TestCase):
    """What is nested and keeps its depth is as if it hung on a carrier there."""

    def nested(self, *inside: Layer, **values: object) -> np.ndarray:
        inner = Composition("Inner", 100, 80, piece().compositions[0].rate, 10, layers=inside, id="inner")
        nest = Layer("Nest", "nested", 0, 10, id="nest").with_values(
            **{"composition": "inner", "depth": True, "keeps_depth": True, **PLACE, **values}
        )
        lamp = light(angle=40.0, steepness=50.0)
        sample = piece(nest, lamp)
        return render_frame(evolve(sample, compositions=(*sample.compositions, inner)), "Piece", 0)

    def test_its_layers_stand_where_they_would_on_a_carrier(self) -> None:
        near = evolve(card(position=(50.0, 30.0), position_z=-40.0, fill=(1.0, 0.0, 0.0, 1.0)), id="near", name="Near")
        flat = evolve(card(position=(60.0, 50.0), depth=False, rotation=20.0), id="flat", name="Flat")
        far = evolve(card(position=(30.0, 40.0), position_z=50.0, turn_y=-25.0, fill=(0.0, 0.0, 1.0, 1.0)), id="far",
                     name="Far")  # fmt: skip
        solid = evolve(box(size=(30.0, 20.0), deep=25.0, position=(80.0, 70.0), position_z=20.0), id="solid")
        carrier = Layer("Carrier", "carrier", 0, 10, id="c").with_values(depth=True, pivot=(0.0, 0.0), **PLACE)

        def hung(layer: Layer) -> Layer:
            x, y = layer.track("position").value
            return evolve(layer, parent="c").with_values(position=(x - 50.0, y - 40.0), depth=True)

        wanted = frame(*(hung(y) for y in (near, flat, far, solid)), carrier, light(angle=40.0, steepness=50.0))
        # The nearest covers the others, whatever the order in the list.
        made = self.nested(far, solid, flat, near)
        np.testing.assert_allclose(made, wanted, atol=1e-5)
        self.assertGreater(np.abs(made - self.nested(far, solid, flat, near, keeps_depth=False)).max(), 0.3)

    def test_flat_nests_and_the_page_stay(self) -> None:
        one = card(position=(50.0, 40.0), position_z=-60.0)
        np.testing.assert_array_equal(self.nested(one, depth=False), self.nested(one, depth=False, keeps_depth=False))
        faded = self.nested(one, opacity=50.0)
        np.testing.assert_allclose(faded, self.nested(one) / 2, atol=0.01)


class CrossingTest(unittest.TestCase):
    """Planes that go through each other against the nearest one at each pixel."""

    TINTS = ((1.0, 0.0, 0.0, 1.0), (0.0, 1.0, 0.0, 1.0), (0.0, 0.0, 1.0, 1.0))

    def nearest(self, cards: list[tuple[int, int, int, int]]) -> tuple[np.ndarray, np.ndarray]:
        """The colour of the nearest card at each pixel's middle, and how sure that is: by rays, one a pixel."""
        away = N * 50 / 36
        y, x = np.mgrid[0:N, 0:N] + 0.5
        rays = np.stack([x - N / 2, y - N / 2, np.full((N, N), away)], axis=-1)
        eye = np.array([N / 2, N / 2, -away])
        best, colour = np.full((N, N), np.inf), np.zeros((N, N, 4))
        edge = np.zeros((N, N), bool)
        depths = []
        for (turn_x, turn_y, dx, z), tint in zip(cards, self.TINTS, strict=False):
            turn = about(1, turn_y) @ about(0, turn_x)
            middle = np.array([N / 2 + dx, N / 2, z])
            share = ((middle - eye) @ turn[:, 2]) / (rays @ turn[:, 2])
            local = (eye + share[..., None] * rays - middle) @ turn
            inside = (np.abs(local[..., 0]) < 50) & (np.abs(local[..., 1]) < 40) & (share > 0)
            depth = np.where(inside, share, np.inf)
            edge |= cv2.morphologyEx(inside.astype(np.uint8), cv2.MORPH_GRADIENT, np.ones((5, 5))) > 0
            colour[depth < best] = tint
            best = np.minimum(best, depth)
            depths.append(depth)
        first = np.argmin(depths, axis=0).astype(np.uint8)
        edge |= cv2.morphologyEx(first, cv2.MORPH_GRADIENT, np.ones((5, 5))) > 0
        return colour, ~edge

    @settings(max_examples=15, deadline=None)
    @given(st.lists(st.tuples(st.integers(-70, 70), st.integers(-70, 70), st.integers(-30, 30), st.integers(-30, 30)),
                    min_size=2, max_size=3))  # fmt: skip
    def test_each_pixel_shows_the_nearest(self, cards: list[tuple[int, int, int, int]]) -> None:
        layers = [
            evolve(card(size=(100.0, 80.0), turn_x=x, turn_y=y, position=(N / 2 + dx, N / 2), position_z=z, fill=tint,
                        crosses=True), id=f"c{i}")
            for i, ((x, y, dx, z), tint) in enumerate(zip(cards, self.TINTS, strict=False))
        ]  # fmt: skip
        wanted, sure = self.nearest(cards)
        shown = frame(*layers)
        wrong = (np.abs(shown - wanted).max(axis=2) > 0.02) & sure
        self.assertLess(wrong.sum(), 80)

    def test_nothing_shows_at_the_line_and_without_the_switch_all_stays(self) -> None:
        cards = [evolve(card(size=(120.0, 120.0), turn_y=turn, fill=tint), id=f"c{turn}")
                 for turn, tint in ((40.0, self.TINTS[0]), (-40.0, self.TINTS[1]))]  # fmt: skip
        plain = frame(*cards)
        crossed = frame(cards[0].with_values(crosses=True), cards[1])
        self.assertGreater(crossed[N // 2 - 30 : N // 2 + 30, N // 2 - 35 : N // 2 + 35, 3].min(), 0.98)
        halves = [crossed[N // 2, N // 2 + side, :2] for side in (-30, 30)]
        self.assertGreater(np.abs(halves[0] - halves[1]).min(), 0.9, "each is in front on one side")
        self.assertLess(np.abs(plain[N // 2, N // 2 - 30] - plain[N // 2, N // 2 + 30]).max(), 0.05)
        self.assertEqual(len({tuple(np.round(row)) for row in crossed[N // 2, N // 2 - 30 : N // 2 + 30, :2]}), 2)

    def test_boxes_and_flat_layers_among_them_and_a_camera_inside(self) -> None:
        ground = backdrop(N, N, (0.2, 0.2, 0.2, 1.0))
        for z in (0.0, -320.0, -1e5):
            layers = [evolve(card(turn_y=40.0, crosses=True, position_z=z, size=(200.0, 200.0)), id="a"),
                      evolve(card(turn_y=-40.0), id="b"), box(turn_x=20.0), ground]  # fmt: skip
            self.assertTrue(np.isfinite(frame(*layers)).all())


class StraightTest(unittest.TestCase):
    """Outlines drawn straight into perspective."""

    def test_they_are_what_many_samples_show(self) -> None:
        star = card(form="star", size=(150.0, 150.0), turn_x=50.0, turn_y=20.0)
        sample = piece(star)
        fine = render_frame(sample, "Piece", 0, 8.0).reshape(N, 8, N, 8, 4).mean(axis=(1, 3))
        away = np.abs(render_frame(sample, "Piece", 0) - fine) * 255
        # As near as outlines are that lie flat.
        self.assertLess(away.max(), 28)
        self.assertLess(away.mean(), 0.08)


if __name__ == "__main__":
    unittest.main()
