"""Layers in space against four-by-four matrices written out, and pages in perspective against fine sampling."""

import math
import tempfile
import unittest
import zipfile
from fractions import Fraction
from pathlib import Path

import numpy as np
from attrs import evolve
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image

from spiralis.core.geometry import Affine, Projection
from spiralis.core.media.pictures import picture_source
from spiralis.core.model import Composition, Key, Layer, Project, Source, Track
from spiralis.core.render.frame import render_frame
from spiralis.core.render.layers import Evaluated
from spiralis.core.render.space import by_distance, seen
from tests.core.samples import backdrop, png_bytes, project

W, H = 320, 240


def card(name: str, **values: object) -> Layer:
    shape = Layer(name, "shape", 0, 20, id=name).with_values(
        form="rectangle", size=(80.0, 60.0), position=(W / 2, H / 2), fill=(1.0, 0.0, 0.0, 1.0)
    )
    return shape.with_values(**values)


def sample(*layers: Layer, sources: tuple[Source, ...] = ()) -> Project:
    piece = Composition("Piece", W, H, Fraction(25), 20, layers=layers, id="piece")
    return Project("Sample", (piece,), sources)


def drawn(sample_: Project, at: float = 0, scale: float = 1.0) -> np.ndarray:
    return render_frame(sample_, "piece", at, scale)


def turn(axis: str, degrees: float) -> np.ndarray:
    c, s = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
    rows = {
        "x": [[1, 0, 0, 0], [0, c, -s, 0], [0, s, c, 0], [0, 0, 0, 1]],
        "y": [[c, 0, s, 0], [0, 1, 0, 0], [-s, 0, c, 0], [0, 0, 0, 1]],
        "z": [[c, -s, 0, 0], [s, c, 0, 0], [0, 0, 1, 0], [0, 0, 0, 1]],
    }
    return np.array(rows[axis])


def shift(x: float, y: float, z: float = 0.0) -> np.ndarray:
    made = np.eye(4)
    made[:3, 3] = x, y, z
    return made


def standing(layer: Layer) -> np.ndarray:
    """Return the map of a layer's own space, written out from the definition."""
    v = {name: layer.track(name).value for name in ("position", "scale", "rotation", "pivot", "position_z", "turn_x",
                                                    "turn_y")}  # fmt: skip
    size = np.diag([v["scale"][0] / 100, v["scale"][1] / 100, 1.0, 1.0])
    px, py = v["pivot"][0] / 100 * 80, v["pivot"][1] / 100 * 60
    whole = shift(*v["position"], v["position_z"]) @ turn("z", v["rotation"]) @ turn("y", v["turn_y"])
    return whole @ turn("x", v["turn_x"]) @ size @ shift(-px, -py)


def looked_at(points: np.ndarray, place: tuple[float, float, float], turned: np.ndarray, lens: float) -> np.ndarray:
    view = np.linalg.inv(shift(*place) @ turned)
    v = view @ points
    d = W * lens / 36
    return np.array([W / 2 + d * v[0] / v[2], H / 2 + d * v[1] / v[2]])


CORNERS = np.array([[0, 80, 80, 0], [0, 0, 60, 60], [0, 0, 0, 0], [1, 1, 1, 1]], dtype=float)
angle = st.floats(-70, 70)


class ProjectionTest(unittest.TestCase):
    def assert_seen(self, sample_: Project, name: str, goal: np.ndarray) -> None:
        piece = sample_.compositions[0]
        map_ = seen(Evaluated(sample_, piece, 0.0), piece.layer(name))
        found = np.array([map_.apply(x, y) for x, y in CORNERS[:2].T]).T
        np.testing.assert_allclose(found, goal, atol=0.01)

    @settings(max_examples=40, deadline=None)
    @given(
        angle, angle, angle, st.floats(-100, 300), st.floats(40, 200), st.tuples(st.floats(0, 100), st.floats(0, 100))
    )
    def test_the_default_camera(
        self, x: float, y: float, z: float, depth: float, size: float, pivot: tuple[float, float]
    ) -> None:
        one = card("card", depth=True, turn_x=x, turn_y=y, rotation=z, position_z=depth, scale=(size, size / 2),
                   pivot=pivot)  # fmt: skip
        goal = looked_at(standing(one) @ CORNERS, (W / 2, H / 2, -W * 50 / 36), np.eye(4), 50.0)
        self.assert_seen(sample(one), "card", goal)

    @settings(max_examples=40, deadline=None)
    @given(angle, angle, angle, st.floats(15, 200), st.floats(-150, 150), st.floats(-700, -300))
    def test_a_camera_that_turns_and_rolls(
        self, x: float, y: float, z: float, lens: float, across: float, back: float
    ) -> None:
        eye = Layer("Eye", "camera", 0, 20, id="eye").with_values(
            depth=True, position=(W / 2 + across, 90.0), position_z=back, turn_x=x / 4, turn_y=y / 4, rotation=z,
            lens=lens,
        )  # fmt: skip
        one = card("card", depth=True, turn_y=y, position_z=40.0)
        turned = turn("z", z) @ turn("y", y / 4) @ turn("x", x / 4)
        goal = looked_at(standing(one) @ CORNERS, (W / 2 + across, 90.0, back), turned, lens)
        self.assert_seen(sample(eye, one), "card", goal)

    def test_a_camera_that_aims_has_its_point_in_the_middle_and_the_upright_upright(self) -> None:
        eye = Layer("Eye", "camera", 0, 20, id="eye").with_values(
            depth=True, position=(600.0, -200.0), position_z=-500.0, aims=True, looks_at=(100.0, 150.0),
            looks_at_z=80.0,
        )  # fmt: skip
        one = card("card", depth=True, position=(100.0, 150.0), position_z=80.0)
        piece = sample(eye, one).compositions[0]
        map_ = seen(Evaluated(sample(eye, one), piece, 0.0), one)
        np.testing.assert_allclose(map_.apply(40.0, 30.0), (W / 2, H / 2), atol=0.01)
        above, below = map_.apply(40.0, 10.0), map_.apply(40.0, 50.0)
        self.assertAlmostEqual(above[0], below[0], delta=0.01)
        self.assertLess(above[1], below[1])

    def test_positive_turns_bring_the_top_and_the_right_nearer(self) -> None:
        for values, nearer, farther in (({"turn_x": 40.0}, (0, 1), (3, 2)), ({"turn_y": 40.0}, (1, 2), (0, 3))):
            one = card("card", depth=True, **values)
            piece = sample(one).compositions[0]
            map_ = seen(Evaluated(sample(one), piece, 0.0), one)
            corners = [map_.apply(x, y) for x, y in CORNERS[:2].T]
            self.assertGreater(math.dist(*(corners[i] for i in nearer)), math.dist(*(corners[i] for i in farther)))

    def test_what_hangs_on_a_carrier_in_depth_turns_with_it(self) -> None:
        carrier = Layer("Carrier", "carrier", 0, 20, id="carrier").with_values(
            position=(W / 2, H / 2), depth=True, turn_y=50.0, position_z=30.0
        )
        own = evolve(card("card", position=(60.0, 0.0)), parent="carrier")
        found = sample(own, carrier)
        at = Evaluated(found, found.compositions[0], 0.0)
        left, top, right, bottom = at.box(carrier)
        middle = shift(-(left + right) / 2, -(top + bottom) / 2)
        whole = shift(W / 2, H / 2, 30.0) @ turn("y", 50.0) @ middle @ standing(own)
        self.assert_seen(found, "card", looked_at(whole @ CORNERS, (W / 2, H / 2, -W * 50 / 36), np.eye(4), 50.0))

    def test_cameras_count_while_they_are_on_the_one_in_front_first(self) -> None:
        def eye(name: str, first: int, last: int, lens: float) -> Layer:
            return Layer(name, "camera", first, last, id=name).with_values(
                depth=True, position=(W / 2, H / 2), position_z=-400.0, lens=lens
            )

        one = card("card", depth=True)
        found = sample(eye("a", 5, 10, 90.0), eye("b", 0, 20, 45.0), one)
        widths = []
        for at in (0, 7, 12):
            map_ = seen(Evaluated(found, found.compositions[0], at), one)
            widths.append(map_.apply(80, 0)[0] - map_.apply(0, 0)[0])
        np.testing.assert_allclose(widths, [80 * W * lens / 36 / 400 for lens in (45, 90, 45)], atol=0.01)


class OrderTest(unittest.TestCase):
    def order(self, *layers: Layer) -> list[str]:
        found = sample(*layers)
        at = Evaluated(found, found.compositions[0], 0.0)
        return [layer.id for layer in by_distance(at, list(reversed(layers)))]

    def test_the_far_ones_come_first_and_equals_keep_their_order(self) -> None:
        near, far = card("n", depth=True, position_z=-50.0), card("f", depth=True, position_z=90.0)
        same, other = card("s", depth=True), card("o", depth=True)
        self.assertEqual(self.order(far, near, other, same), ["f", "s", "o", "n"])

    def test_flat_layers_keep_their_places(self) -> None:
        a, b = card("a", depth=True, position_z=50.0), card("b", depth=True, position_z=-50.0)
        self.assertEqual(self.order(a, card("flat"), b), ["b", "flat", "a"])
        self.assertEqual(self.order(a, b, card("flat")), ["flat", "a", "b"])

    def test_what_shows_nothing_parts_nothing(self) -> None:
        a, b = card("a", depth=True, position_z=50.0), card("b", depth=True, position_z=-50.0)
        for kind in ("carrier", "dial", "camera"):
            between = Layer("Between", kind, 0, 20, id="between")
            self.assertEqual(self.order(a, between, b), ["between", "a", "b"], kind)
        # Shadows lie where their light does.
        self.assertEqual(self.order(a, Layer("Light", "light", 0, 20, id="light"), b), ["b", "light", "a"])

    def test_the_near_card_covers_the_far_one(self) -> None:
        far = card("far", depth=True, position_z=60.0, fill=(0.0, 0.0, 1.0, 1.0))
        near = card("near", depth=True, position_z=-60.0, fill=(0.0, 1.0, 0.0, 1.0))
        np.testing.assert_allclose(drawn(sample(far, near))[H // 2, W // 2], (0, 1, 0, 1), atol=1e-3)


class SameAsFlatTest(unittest.TestCase):
    def test_switching_depth_on_changes_no_pixel(self) -> None:
        def piece(depth: bool) -> Project:
            more = {"depth": True} if depth else {}
            words = Layer("Words", "text", 0, 20, id="words").with_values(
                text="kite", size=60.0, position=(90.0, 80.0), rotation=12.0, **more
            )
            one = card("card", rotation=20.0, scale=(120.0, 80.0), skew=(10.0, 0.0), pivot=(20.0, 70.0), **more)
            return sample(words, one, backdrop(W, H, (0.2, 0.3, 0.4, 1.0)))

        np.testing.assert_array_equal(drawn(piece(True)), drawn(piece(False)))

    def test_adding_a_camera_as_it_comes_changes_no_pixel(self) -> None:
        from spiralis.core.model import layer_kind

        eye = Layer("Eye", "camera", 0, 20, id="eye").with_values(
            position=(W / 2, H / 2), **layer_kind("camera").adds[0].values(W, H)
        )
        one = card("card", depth=True, turn_y=30.0)
        np.testing.assert_allclose(drawn(sample(eye, one)), drawn(sample(one)), atol=1e-5)

    def test_a_turn_about_the_normal_is_the_flat_turn(self) -> None:
        one = card("card", rotation=30.0)
        np.testing.assert_array_equal(drawn(sample(one.with_values(depth=True))), drawn(sample(one)))


class PageTest(unittest.TestCase):
    def page(self) -> tuple[Project, np.ndarray]:
        """Return a page of small letters that leans back by 60 degrees, and its pixels."""
        words = Layer("Words", "text", 0, 20, id="words").with_values(
            text="the quick kite\nflies over the\nlong grey sands\nall day long", size=40.0, position=(160.0, 100.0),
            fill=(1.0, 1.0, 1.0, 1.0),
        )  # fmt: skip
        flat = render_frame(project(words, width=320, height=200), "Piece", 0, 2.0)
        pixels = np.round(flat * 255).astype(np.uint8)
        source = picture_source(png_bytes(pixels), "page.png")
        leaning = Layer("Page", "picture", 0, 20, id="page").with_values(
            source=source.id, position=(W / 2, H / 2), scale=(40.0, 40.0), depth=True, turn_x=-60.0
        )
        return sample(leaning, sources=(source,)), pixels

    def test_a_leaning_page_is_what_eight_by_eight_samples_a_pixel_show(self) -> None:
        found, pixels = self.page()
        piece = found.compositions[0]
        map_ = seen(Evaluated(found, piece, 0.0), piece.layers[0])
        self.assertIsInstance(map_, Projection)
        fine = (np.arange(8) + 0.5) / 8
        xs, ys = (np.arange(W)[:, None] + fine).reshape(-1), (np.arange(H)[:, None] + fine).reshape(-1)
        x, y = np.meshgrid(xs, ys)
        back = np.linalg.inv(map_.array)
        u, v, w = (row[0] * x + row[1] * y + row[2] for row in back)
        source = np.pad(pixels[..., 3].astype(np.float64) / 255, 2)
        u, v = u / w + 1.5, v / w + 1.5
        inside = (u > 0) & (v > 0) & (u < source.shape[1] - 2) & (v < source.shape[0] - 2) & (w > 0)
        u, v = np.where(inside, u, 0), np.where(inside, v, 0)
        i, j = np.floor(v).astype(int), np.floor(u).astype(int)
        fy, fx = v - i, u - j
        value = (source[i, j] * (1 - fx) + source[i, j + 1] * fx) * (1 - fy)
        value += (source[i + 1, j] * (1 - fx) + source[i + 1, j + 1] * fx) * fy
        goal = (value * inside).reshape(H, 8, W, 8).mean(axis=(1, 3))
        off = np.abs(drawn(found)[..., 3] - goal) * 255
        self.assertGreater(goal.max(), 0.8)
        self.assertLess(off.mean(), 0.5)
        self.assertLess(off.max(), 4.0)

    def test_a_small_move_of_the_page_does_not_shimmer(self) -> None:
        found, _ = self.page()
        piece = found.compositions[0]
        sums = []
        for step in np.linspace(0, 1, 5):
            moved = piece.with_layer(piece.layers[0].with_values(position=(W / 2 + step, H / 2)))
            sums.append(drawn(found.with_composition(moved))[..., 3].sum())
        self.assertLess(np.ptp(sums) / np.mean(sums), 0.002)


class OddPlacesTest(unittest.TestCase):
    def test_cameras_behind_inside_and_far_away_give_pictures_without_holes(self) -> None:
        for values in (
            {"position_z": -2000.0}, {"turn_y": 90.0}, {"turn_x": 90.0}, {"position_z": -W * 50 / 36},
            {"turn_y": 89.999, "position_z": -W * 50 / 36}, {"position_z": 1e6}, {"position_z": -1e6},
            {"turn_y": 80.0, "scale": (2000.0, 2000.0)},
        ):  # fmt: skip
            for lens in (4.0, 50.0, 2000.0):
                with self.subTest(values, lens=lens):
                    eye = Layer("Eye", "camera", 0, 20, id="eye").with_values(
                        depth=True, position=(W / 2, H / 2), position_z=-W * 50 / 36, lens=lens
                    )
                    self.assertTrue(np.isfinite(drawn(sample(eye, card("card", depth=True, **values)))).all())

    def test_what_is_behind_the_camera_is_not_seen(self) -> None:
        self.assertEqual(drawn(sample(card("card", depth=True, position_z=-W * 50 / 36 - 10))).max(), 0.0)

    def test_a_part_equals_the_whole(self) -> None:
        from spiralis.core.render.building import built

        found = sample(card("card", depth=True, turn_y=50.0, turn_x=20.0))
        piece = found.compositions[0]
        node = built(found, piece, 0, Affine(), (0, 0, W, H)).whole(piece.layers[0])
        whole, part = (0, 0, W, H), (131, 97, 190, 141)
        some, all_ = (node.drawn_in(region).spread_over(region).data for region in (part, whole))
        np.testing.assert_array_equal(some, all_[97:141, 131:190])


class LensTest(unittest.TestCase):
    def eye(self, **values: object) -> Layer:
        return Layer("Eye", "camera", 0, 20, id="eye").with_values(
            depth=True, position=(W / 2, H / 2), position_z=-400.0, **values
        )

    def test_what_is_in_focus_is_sharp_and_the_rest_a_disc_as_wide_as_the_lens_says(self) -> None:
        # A point of light at 800 px, in focus at 400: half of the aperture wide.
        dot = card("dot", size=(2.0, 2.0), depth=True, position_z=400.0)
        wide = drawn(sample(self.eye(aperture=80.0, focus=400.0), dot))[..., 3]
        lit = (wide > wide.max() * 0.5).any(axis=0).nonzero()[0]
        self.assertAlmostEqual(int(np.ptp(lit)) + 1, 40, delta=2)
        self.assertAlmostEqual(float(wide.sum()), float(drawn(sample(self.eye(), dot))[..., 3].sum()), delta=0.2)
        sharp = card("sharp", depth=True)
        np.testing.assert_array_equal(
            drawn(sample(self.eye(aperture=80.0, focus=400.0), sharp)), drawn(sample(self.eye(), sharp))
        )

    def test_highlights_are_round_and_even(self) -> None:
        dot = card("dot", size=(2.0, 2.0), depth=True, position_z=400.0)
        wide = drawn(sample(self.eye(aperture=80.0, focus=400.0), dot))[..., 3]
        y, x = np.mgrid[:H, :W] + 0.5
        away = np.hypot(x - W / 2, y - H / 2)
        inside = wide[away < 17]
        self.assertLess(np.ptp(inside) / inside.mean(), 0.1)
        self.assertLess(wide[away > 23].max(), 1e-6)

    def test_a_larger_picture_is_as_soft(self) -> None:
        dot = card("dot", size=(2.0, 2.0), depth=True, position_z=400.0)
        made = sample(self.eye(aperture=80.0, focus=400.0), dot)
        widths = []
        for scale in (1.0, 2.0):
            alpha = drawn(made, scale=scale)[..., 3]
            widths.append(int(np.ptp((alpha > alpha.max() * 0.5).any(axis=0).nonzero()[0])) + 1)
        self.assertAlmostEqual(widths[1] / widths[0], 2.0, delta=0.1)

    def test_things_fade_by_their_distance(self) -> None:
        eye = self.eye(fade_from=300.0, fade_to=500.0)
        for z, left in ((-150.0, 1.0), (0.0, 0.5), (50.0, 0.25), (150.0, 0.0)):
            middle = drawn(sample(eye, card("card", depth=True, position_z=z)))[H // 2, W // 2, 3]
            self.assertAlmostEqual(float(middle), left, delta=0.01)


class StackTest(unittest.TestCase):
    def test_one_number_spreads_what_hangs_on_a_carrier(self) -> None:
        carrier = Layer("Carrier", "carrier", 0, 20, id="carrier").with_values(
            position=(W / 2, H / 2), depth=True, stack=100.0
        )
        cards = [evolve(card(f"c{n}", position=(50.0, 50.0)), parent="carrier") for n in range(3)]
        found = sample(*cards, carrier)
        at = Evaluated(found, found.compositions[0], 0.0)
        reach = W * 50 / 36
        for n, each in enumerate(cards):
            map_ = seen(at, each)
            wide = map_.apply(80.0, 30.0)[0] - map_.apply(0.0, 30.0)[0]
            self.assertAlmostEqual(wide, 80 * reach / (reach + 100 * n), delta=0.01)


class FilesTest(unittest.TestCase):
    def test_a_frame_as_svg_and_as_openraster_looks_as_it_is_seen(self) -> None:
        from spiralis.core.media.layered_files import layers_of
        from spiralis.core.media.stills import write_still
        from spiralis.core.media.svg.fallback import draw_document

        eye = Layer("Eye", "camera", 0, 20, id="eye").with_values(
            depth=True, position=(W / 2 + 60, H / 2), position_z=-420.0
        )
        cut = card("cut", position=(60.0, 200.0), crop_across=(50.0, 0.0), fill=(0.0, 1.0, 0.0, 1.0))
        line = card("line", position=(250.0, 200.0), fill=(0.0, 0.0, 0.0, 0.0), stroke=6.0,
                    stroke_colour=(0.0, 0.0, 1.0, 1.0), drawn_to=50.0)  # fmt: skip
        made = sample(eye, card("card", depth=True, turn_y=50.0), cut, line)
        goal = drawn(made)
        goal[..., :3] += 1 - goal[..., 3:]
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "a.svg"
            write_still(made, "piece", 0, path)
            picture = np.asarray(draw_document(path.read_bytes()), dtype=np.float64) / 255
            found = picture[..., :3] * picture[..., 3:] + 1 - picture[..., 3:]
            self.assertLess(np.abs(found - goal[..., :3]).mean(), 0.003)
            raster = Path(folder) / "a.ora"
            write_still(made, "piece", 0, raster)
            self.assertEqual(len([p for p in layers_of(raster.read_bytes(), "a.ora").parts if p.name == "card"]), 1)
            with zipfile.ZipFile(raster) as archive, archive.open("mergedimage.png") as file:
                merged = np.asarray(Image.open(file).convert("RGBA"), dtype=np.float64) / 255
            over = merged[..., :3] * merged[..., 3:] + 1 - merged[..., 3:]
            self.assertLess(np.abs(over - goal[..., :3]).mean(), 0.003)

    def test_an_effect_layer_that_svg_cannot_say_is_named(self) -> None:
        from spiralis.core.media.stills import write_still

        made = sample(Layer("Shake", "effect", 0, 20, id="fx").with_values(position=(W / 2, H / 2)), card("card"))
        with tempfile.TemporaryDirectory() as folder:
            notes = write_still(made, "piece", 0, Path(folder) / "a.svg")
        self.assertTrue(any("Shake" in note for note in notes), notes)


class WithTheRestTest(unittest.TestCase):
    def test_an_edit_of_the_camera_is_seen_in_every_layer(self) -> None:
        eye = Layer("Eye", "camera", 0, 20, id="eye").with_values(
            depth=True, position=(W / 2, H / 2), position_z=-400.0
        )
        found = sample(eye, card("card", depth=True))
        before = drawn(found).copy()
        piece = found.compositions[0]
        after = drawn(found.with_composition(piece.with_layer(piece.layer("eye").with_values(position_z=-800.0))))
        self.assertLess((after[..., 3] > 0.5).sum(), 0.5 * (before[..., 3] > 0.5).sum())
        np.testing.assert_array_equal(drawn(found), before)

    def test_a_mask_that_hangs_on_the_layer_leans_with_it(self) -> None:
        from spiralis.core.model import Matte

        mask = evolve(card("mask", size=(40.0, 60.0), position=(60.0, 30.0)), parent="card")
        one = evolve(card("card", depth=True, turn_y=55.0), mattes=(Matte("mask"),))
        half = drawn(sample(mask, one))[..., 3]
        whole = drawn(sample(card("card", depth=True, turn_y=55.0)))[..., 3]
        shown = (half > 0.5).any(axis=0).nonzero()[0]
        all_ = (whole > 0.5).any(axis=0).nonzero()[0]
        # The right half alone, the one that has come nearer.
        self.assertEqual(shown.max(), all_.max())
        self.assertAlmostEqual(shown.min(), W / 2, delta=1.5)
        self.assertLess(all_.min(), W / 2 - 15)

    def test_motion_blur_follows_the_true_way(self) -> None:
        turning = Track(0.0, (Key(0, 0.0), Key(4, 80.0)))
        moving = card("card", depth=True, motion_blur=True).with_track("turn_y", turning)
        found = sample(moving)
        piece = evolve(found.compositions[0], shutter_angle=180.0)
        blurred = drawn(found.with_composition(piece), 2)[..., 3]
        sharp = drawn(found.with_composition(piece.with_layer(moving.with_values(motion_blur=False))), 2)[..., 3]
        self.assertGreater(((blurred > 0.02) & (blurred < 0.98)).sum(), 1.5 * ((sharp > 0.02) & (sharp < 0.98)).sum())

    def test_effects_work_upright_on_it(self) -> None:
        from spiralis.core.model.blocks import Block

        soft = card("card", depth=True, turn_y=60.0).with_block(Block("gaussian-blur", "b"))
        alpha = drawn(sample(soft))[..., 3]
        self.assertTrue(0 < alpha[H // 2, W // 2 - 30] < 1 or 0 < alpha[H // 2, W // 2 + 30] < 1)
        self.assertGreater(alpha.sum(), 100)

    def test_a_nest_is_seen_as_a_page(self) -> None:
        green = backdrop(80, 60, (0.0, 1.0, 0.0, 1.0))
        inner = Composition("Inner", 80, 60, Fraction(25), 20, layers=(green,), id="inner")
        nest = Layer("Nest", "nested", 0, 20, id="nest").with_values(
            composition="inner", position=(W / 2, H / 2), depth=True, turn_y=40.0
        )
        found = sample(nest)
        found = evolve(found, compositions=(*found.compositions, inner))
        same = drawn(sample(card("card", depth=True, turn_y=40.0, fill=(0.0, 1.0, 0.0, 1.0))))
        # The rim of a nest is cut twice, by its frame and by its ground, so it is fainter than a shape's.
        self.assertAlmostEqual(float(drawn(found).sum() / same.sum()), 1.0, delta=0.01)
        inner_ = (same[..., 3] > 0.99)
        np.testing.assert_allclose(drawn(found)[inner_][:, 1], 1.0, atol=0.4)
        self.assertGreater(float(np.median(drawn(found)[inner_][:, 1])), 0.999)


if __name__ == "__main__":
    unittest.main()
