"""Shapes, mattes, masks, cut-through, nesting and arranging against closed-form pictures."""

from __future__ import annotations

import math
import time
import unittest
from functools import partial

import numpy as np
from attrs import evolve
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.special import ndtr

from spiralis.core.editing.arranging import EDGES, aligned, distributed, fitted, flipped, seen_box
from spiralis.core.editing.combining import as_outlines, combined, gathered, simplified, would_lose
from spiralis.core.editing.contours import (
    as_drawing,
    controls,
    inserted,
    nearest,
    point_on,
    reshaped,
    segment_count,
    toggled,
    with_art_in_place,
    with_figure,
    with_handle,
    without,
)
from spiralis.core.editing.contours import moved as contour_moved
from spiralis.core.editing.matting import with_mask, with_matte, without_matte
from spiralis.core.editing.nesting import duplicate_composition, nest, open_up, own_copy
from spiralis.core.errors import ModelError
from spiralis.core.model import Key, Layer, Matte, Project, Track
from spiralis.core.model.art import Bundle, Contour, ContourPen, Figure, Stroke, contours_of
from spiralis.core.model.blocks import Block
from spiralis.core.render import render_frame
from spiralis.core.render.layers import Evaluated
from spiralis.core.storage.conversion import from_json, to_json
from tests.core.samples import backdrop, project

WIDTH, HEIGHT = 120, 90


def form(name: str, kind: str = "rectangle", **values: object) -> Layer:
    """Return a shape layer over the whole time; its id is its name in small letters."""
    made = Layer(name, "shape", 0, 20, id=name.lower())
    return made.with_values(form=kind, **{"position": (60.0, 45.0), "fill": (1.0, 0.0, 0.0, 1.0), **values})


def sample(*layers: Layer) -> Project:
    return project(*layers, width=WIDTH, height=HEIGHT)


def alpha(*layers: Layer, frame: int = 0) -> np.ndarray:
    return render_frame(sample(*layers), "Piece", frame)[..., 3]


class ShapeTest(unittest.TestCase):
    def test_areas_are_those_of_the_forms(self) -> None:
        wanted = {
            "rectangle": ({"size": (60.0, 40.0), "corners": 10.0}, 2400 - (4 - math.pi) * 100),
            "ellipse": ({"size": (80.0, 50.0)}, math.pi * 40 * 25),
            "polygon": ({"size": (80.0, 80.0), "sides": 6.0}, 6 * 0.5 * 40 * 40 * math.sin(math.pi / 3)),
            "star": ({"size": (80.0, 80.0), "sides": 5.0, "inner": 50.0}, 10 * 0.5 * 40 * 20 * math.sin(math.pi / 5)),
            "line": ({"size": (50.0, 0.0), "stroke": 6.0, "cap": "butt"}, 300.0),
        }
        for kind, (values, area) in wanted.items():
            with self.subTest(kind):
                self.assertAlmostEqual(float(alpha(form("A", kind, **values)).sum()), area, delta=0.012 * area)

    def test_the_drawn_part_of_a_stroke_runs_on_over_its_end(self) -> None:
        ring = {"size": (60.0, 60.0), "fill": (0.0, 0.0, 0.0, 0.0), "stroke": 4.0, "cap": "butt"}
        whole = float(alpha(form("A", "ellipse", **ring)).sum())
        for start, end, offset in ((0.0, 50.0, 0.0), (20.0, 45.0, 0.0), (0.0, 50.0, 75.0), (10.0, 90.0, 40.0)):
            part = form("A", "ellipse", **ring, drawn_from=start, drawn_to=end, drawn_offset=offset)
            self.assertAlmostEqual(float(alpha(part).sum()) / whole, (end - start) / 100, delta=0.01)

    def test_a_feathered_edge_is_a_gaussian_step(self) -> None:
        for sigma in (1.5, 6.0, 15.0):
            edge = alpha(form("A", size=(400.0, 400.0), position=(-140.0, 45.0), feather=(sigma, sigma)))[45]
            places = np.arange(WIDTH) + 0.5
            expected = np.array([0.5 * (1 - math.erf((x - 60) / (sigma * math.sqrt(2)))) for x in places])
            self.assertLess(float(np.abs(edge - expected).max()), 0.01, sigma)

    def test_an_uneven_feather_turns_with_its_shape(self) -> None:
        y, x = np.mgrid[0:160, 0:160] + 0.5
        for turn, scale, feather in ((30.0, 100.0, (2.0, 11.0)), (-45.0, 150.0, (9.0, 1.0)), (100.0, 80.0, (3.0, 8.0))):
            layer = form("A", size=(60.0, 50.0), position=(80.0, 80.0), feather=feather, rotation=turn)
            made = project(layer.with_values(scale=(scale, scale)), width=160, height=160)
            seen = render_frame(made, "Piece", 0)[..., 3]
            angle = np.radians(turn)
            across = ((x - 80) * np.cos(angle) + (y - 80) * np.sin(angle)) / scale * 100
            down = ((y - 80) * np.cos(angle) - (x - 80) * np.sin(angle)) / scale * 100
            edges = [
                ndtr((half - way) / soft) - ndtr((-half - way) / soft)
                for way, half, soft in ((across, 30, feather[0]), (down, 25, feather[1]))
            ]
            np.testing.assert_allclose(seen, edges[0] * edges[1], atol=0.02)

    def test_a_wide_feather_one_way_is_sharp_the_other_and_quick(self) -> None:
        layer = form("A", size=(90.0, 60.0), position=(300.0, 50.0), feather=(120.0, 0.0))
        made = project(layer, width=600, height=100)
        started = time.process_time()
        seen = render_frame(made, "Piece", 0)[..., 3]
        self.assertLess(time.process_time() - started, 2.0)
        x = np.arange(600) + 0.5
        step = ndtr((345 - x) / 120) - ndtr((255 - x) / 120)
        np.testing.assert_allclose(seen[50], step, atol=0.006)
        np.testing.assert_allclose(seen[[18, 82]], 0, atol=1e-3)
        np.testing.assert_allclose(seen[[22, 77]], np.tile(step, (2, 1)), atol=0.006)

    def test_a_feather_is_cut_off_nowhere(self) -> None:
        small = form("A", "ellipse", size=(10.0, 10.0), feather=(5.0, 5.0))
        self.assertAlmostEqual(float(alpha(small).sum()), math.pi * 25, delta=0.8)


class MatteTest(unittest.TestCase):
    def test_shape_and_brightness_straight_and_inverted(self) -> None:
        hole = form("Hole", "ellipse", size=(60.0, 60.0), fill=(0.5, 0.5, 0.5, 1.0))
        base = form("Base", size=(120.0, 90.0), fill=(0.0, 1.0, 0.0, 1.0))
        disc = alpha(hole)
        for by, share in (("shape", 1.0), ("brightness", 0.5)):
            for inverted in (False, True):
                got = alpha(hole, evolve(base, mattes=(Matte("hole", by, inverted),)))
                cover = disc * share
                np.testing.assert_allclose(got, 1 - cover if inverted else cover, atol=0.004)

    def test_several_are_put_together_in_order(self) -> None:
        a = form("A", size=(60.0, 60.0), position=(45.0, 45.0))
        b = form("B", size=(60.0, 30.0), position=(75.0, 45.0))
        base = form("Base", size=(120.0, 90.0))
        cover_a, cover_b = alpha(a), alpha(b)
        for mode, expected in (
            ("intersect", cover_a * cover_b),
            ("add", np.maximum(cover_a, cover_b)),
            ("subtract", cover_a * (1 - cover_b)),
        ):
            got = alpha(a, b, evolve(base, mattes=(Matte("a"), Matte("b", mode=mode))))
            np.testing.assert_allclose(got, expected, atol=0.005)

    def test_the_source_hides_itself_unless_it_is_shown(self) -> None:
        window = form("Window", size=(40.0, 40.0), fill=(0.0, 0.0, 1.0, 1.0))
        base = form("Base", size=(20.0, 20.0))
        hidden = render_frame(sample(window, evolve(base, mattes=(Matte("window"),))), "Piece", 0)
        self.assertEqual(float(hidden[30, 45, 3]), 0.0)
        np.testing.assert_allclose(hidden[45, 60], [1, 0, 0, 1], atol=0.004)
        shown = render_frame(sample(window, evolve(base, mattes=(Matte("window", shown=True),))), "Piece", 0)
        np.testing.assert_allclose(shown[30, 45], [0, 0, 1, 1], atol=0.004)

    def test_circles_are_refused_and_files_keep_mattes(self) -> None:
        a = evolve(form("A"), mattes=(Matte("b"),))
        b = evolve(form("B"), mattes=(Matte("a"),))
        with self.assertRaises(ModelError):
            sample(a, b)
        kept = sample(a, form("B"))
        self.assertEqual(from_json(to_json(kept), "x"), kept)

    def test_a_mask_moves_with_its_layer_or_stays_apart(self) -> None:
        base = form("Base", size=(60.0, 60.0))
        start = sample(base)
        for apart, centre in ((False, 80), (True, 60)):
            piece, made = with_mask(Evaluated(start, start.compositions[0], 0), "base", "rectangle", apart)
            moved = piece.with_layer(piece.layer("base").with_values(position=(80.0, 45.0)))
            columns = np.flatnonzero(alpha(*moved.layers)[45] > 0.5)
            wanted = (centre - 24, centre + 24) if not apart else (50, 90)
            np.testing.assert_allclose((columns[0], columns[-1] + 1), wanted, atol=1)
            bare = without_matte(piece, "base", made)
            self.assertEqual(bare.layer("base").mattes, ())

    def test_a_second_mask_shows_more_and_covers_the_middle(self) -> None:
        base = form("Base", size=(80.0, 60.0), position=(60.0, 45.0))
        start = sample(base)
        piece, first = with_mask(Evaluated(start, start.compositions[0], 0), "base", "rectangle")
        again = start.with_composition(piece)
        piece, second = with_mask(Evaluated(again, piece, 0), "base", "ellipse")
        self.assertEqual(["intersect", "add"], [matte.mode for matte in piece.layer("base").mattes])
        for mask in (first, second):
            self.assertEqual(((64.0, 48.0), "base"), (piece.layer(mask).track("size").value, piece.layer(mask).parent))
        self.assertEqual({"Base mask", "Base mask 2"}, {piece.layer(mask).name for mask in (first, second)})
        columns = np.flatnonzero(alpha(*piece.layers)[45] > 0.5)
        self.assertEqual((28, 91), (columns[0], columns[-1]))

    def test_a_window_cuts_nothing_of_what_is_seen_until_the_content_moves(self) -> None:
        base = form("Base", size=(40.0, 40.0), crop_down=(50.0, 0.0), crop_across=(0.0, 25.0), rotation=30.0,
                    scale=(50.0, 50.0))  # fmt: skip
        start = sample(base)
        piece, made = with_mask(Evaluated(start, start.compositions[0], 0), "base", "rectangle", apart=True)
        np.testing.assert_allclose(alpha(*piece.layers), alpha(base), atol=0.02)
        window = piece.layer(made)
        self.assertEqual(("Base window", None), (window.name, window.parent))
        # Upright around 15 by 10 pixels that are turned, which takes 18 by 16.2, on whole pixels.
        self.assertEqual([0.0, 0.0], [v % 1 for v in window.track("size").value])
        for size, needed in zip(window.track("size").value, (17.99, 16.16), strict=True):
            self.assertTrue(needed <= size < needed + 2)

    def test_a_window_is_no_larger_than_the_frame_unless_its_layer_lies_beside_it(self) -> None:
        for place, size, centre in (((60.0, 45.0), (120.0, 90.0), (60.0, 45.0)),
                                    ((200.0, 45.0), (20.0, 400.0), (200.0, 45.0))):  # fmt: skip
            start = sample(form("Base", size=(20.0 if place[0] > 120 else 500.0, 400.0), position=place))
            piece, made = with_mask(Evaluated(start, start.compositions[0], 0), "base", "rectangle", apart=True)
            window = piece.layer(made)
            self.assertEqual((size, centre), (window.track("size").value, window.track("position").value))

    def test_cut_through_removes_what_lies_beneath_within_its_nest_only(self) -> None:
        cutter = form("Cutter", size=(20.0, 20.0), blend="cut-through")
        base = form("Base", size=(60.0, 60.0))
        flat = sample(cutter, base, backdrop(WIDTH, HEIGHT, (0.0, 0.0, 1.0, 1.0)))
        self.assertEqual(float(render_frame(flat, "Piece", 0)[45, 60, 3]), 0.0)
        nested, _ = nest(flat, flat.compositions[0].id, ["cutter", "base"], "Nest")
        frame = render_frame(nested, "Piece", 0)
        np.testing.assert_allclose(frame[45, 60], [0, 0, 1, 1], atol=0.004)
        np.testing.assert_allclose(frame[30, 40], [1, 0, 0, 1], atol=0.004)


def busy() -> Project:
    turn = Track(0.0, (Key(0, 0.0), Key(20, 90.0)))
    first = form("First", "star", size=(30.0, 30.0), position=(40.0, 40.0)).with_track("rotation", turn)
    second = evolve(form("Second", size=(12.0, 12.0), position=(15.0, 15.0), fill=(0.0, 0.5, 1.0, 1.0)), parent="first")
    third = form("Third", "ellipse", size=(30.0, 20.0), position=(80.0, 60.0), opacity=60.0)
    return sample(second, first, third, backdrop(WIDTH, HEIGHT, (0.2, 0.2, 0.2, 1.0)))


class NestTest(unittest.TestCase):
    def gap(self, one: Project, other: Project, frame: int) -> float:
        return float(np.abs(render_frame(one, "Piece", frame) - render_frame(other, "Piece", frame)).max())

    def test_nesting_and_opening_up_change_no_pixel(self) -> None:
        start = busy()
        outer = start.compositions[0].id
        for cropped in (False, True):
            nested, shown = nest(start, outer, ["second", "first", "third"], "Inside", cropped)
            opened, ids = open_up(nested, outer, shown)
            self.assertEqual(len(ids), 3)
            for frame in (0, 7, 19):
                self.assertLess(self.gap(start, nested, frame), 1 / 255)
                self.assertLess(self.gap(start, opened, frame), 1 / 255)
            if cropped:
                inner = nested.composition("Inside")
                self.assertLess(inner.width, WIDTH)

    def test_opening_up_a_placed_nest_hangs_its_layers_on_a_carrier(self) -> None:
        start = busy()
        nested, shown = nest(start, start.compositions[0].id, ["second", "first"], "Inside", True)
        piece = nested.composition("Piece")
        grow = Track((100.0, 100.0), (Key(0, (100.0, 100.0)), Key(19, (140.0, 140.0))))
        layer = piece.layer(shown).with_values(rotation=25.0, position=(60.0, 50.0)).with_track("scale", grow)
        placed = nested.with_composition(piece.with_layer(layer))
        opened, _ = open_up(placed, piece.id, shown)
        self.assertEqual([y.kind for y in opened.composition("Piece").layers].count("carrier"), 1)
        for frame in (0, 10, 19):
            self.assertLess(self.gap(placed, opened, frame), 2 / 255)

    def test_what_would_change_the_picture_is_refused_by_name(self) -> None:
        start = busy()
        outer = start.compositions[0].id
        with self.assertRaises(ModelError) as caught:
            nest(start, outer, ["first"], "Inside")
        self.assertIn("“Second”", str(caught.exception))
        nested, shown = nest(start, outer, ["second", "first"], "Inside")
        piece = nested.composition("Piece")
        faded = nested.with_composition(piece.with_layer(piece.layer(shown).with_values(opacity=50.0)))
        with self.assertRaises(ModelError) as caught:
            open_up(faded, outer, shown)
        self.assertIn("Inside", str(caught.exception))

    def test_own_copies_part_from_what_they_were_shared_with(self) -> None:
        start = busy()
        nested, shown = nest(start, start.compositions[0].id, ["second", "first"], "Inside")
        piece = nested.composition("Piece")
        twin = evolve(piece.layer(shown), id="twin", name="Twin")
        shared = nested.with_composition(evolve(piece, layers=(twin, *piece.layers)))
        parted, copied = own_copy(shared, piece.id, "twin")
        changed = parted.composition(copied)
        emptied = parted.with_composition(evolve(changed, layers=()))
        self.assertEqual(len(emptied.composition("Inside").layers), 2)
        self.assertEqual(parted.composition(copied).name, "Inside 2")
        deep, second = nest(parted, piece.id, ["twin"], "Outside")
        again, top = own_copy(deep, piece.id, second, deep=True)
        inner_ids = {layer.track("composition").value for layer in again.composition(top).layers}
        self.assertNotIn(copied, inner_ids)
        double, new = duplicate_composition(again, piece.id)
        self.assertEqual(double.composition(new).name, "Piece 2")
        np.testing.assert_array_equal(render_frame(double, new, 5), render_frame(double, piece.id, 5))


class ArrangeTest(unittest.TestCase):
    @settings(max_examples=30, deadline=None)
    @given(st.sampled_from(sorted(EDGES)), st.floats(-170, 170), st.floats(30, 200))
    def test_any_edge_of_any_layer_meets_the_frame(self, edge: str, turn: float, size: float) -> None:
        start = sample(form("A", "star", size=(30.0, 24.0), rotation=turn, scale=(size, size), position=(13.0, 71.0)))
        done = aligned(start, start.compositions[0], ["a"], edge, 0)
        box = seen_box(Evaluated(start, done, 0), done.layer("a"))
        axis, share = EDGES[edge]
        wanted = share * (WIDTH if axis == 0 else HEIGHT)
        self.assertAlmostEqual(box[axis] + share * (box[axis + 2] - box[axis]), wanted, places=5)

    def test_to_the_choice_to_a_layer_and_with_equal_gaps(self) -> None:
        layers = [form(n, size=(10.0 + 4 * i, 8.0), position=(20.0 + 17 * i * i, 30.0)) for i, n in enumerate("ABCD")]
        start = sample(*layers)
        piece = start.compositions[0]
        even = distributed(start, piece, ["a", "b", "c", "d"], 0, 0)
        at = Evaluated(start, even, 0)
        boxes = [seen_box(at, even.layer(name)) for name in "abcd"]
        gaps = [right[0] - left[2] for left, right in zip(boxes, boxes[1:], strict=False)]
        np.testing.assert_allclose(gaps, gaps[0], atol=1e-6)
        self.assertEqual(even.layer("a"), piece.layer("a"))
        top = aligned(start, piece, ["a", "b"], "left", 0, to="b")
        self.assertEqual(top.layer("b"), piece.layer("b"))
        left = [seen_box(Evaluated(start, top, 0), top.layer(name))[0] for name in "ab"]
        self.assertAlmostEqual(left[0], left[1])
        self.assertAlmostEqual(left[1], seen_box(Evaluated(start, piece, 0), piece.layer("b"))[0])

    def test_fits_and_flips(self) -> None:
        start = sample(form("A", size=(40.0, 20.0), position=(10.0, 10.0)))
        piece = start.compositions[0]
        for how, size in (("contain", (120, 60)), ("cover", (180, 90)), ("width", (120, 60)), ("height", (180, 90))):
            done = fitted(start, piece, ["a"], how, 0)
            box = seen_box(Evaluated(start, done, 0), done.layer("a"))
            np.testing.assert_allclose((box[2] - box[0], box[3] - box[1]), size, atol=1e-6)
            np.testing.assert_allclose(((box[0] + box[2]) / 2, (box[1] + box[3]) / 2), (60, 45), atol=1e-6)
        self.assertEqual(flipped(flipped(piece.layer("a"), 0), 0), piece.layer("a").with_values(scale=(100.0, 100.0)))

    def test_a_straight_line_is_fitted_by_the_side_it_has(self) -> None:
        start = sample(form("A", "line", size=(30.0, 0.0), stroke=2.0, position=(10.0, 10.0)))
        piece = start.compositions[0]
        for how in ("width", "contain", "cover"):
            done = fitted(start, piece, ["a"], how, 0)
            box = seen_box(Evaluated(start, done, 0), done.layer("a"))
            np.testing.assert_allclose(box, (0, 45, 120, 45), atol=0.01, err_msg=how)
        with self.assertRaisesRegex(ModelError, "“A” has no height"):
            fitted(start, piece, ["a"], "height", 0)

    def test_a_second_matte_from_one_layer_takes_the_place_of_the_first(self) -> None:
        piece = sample(form("A"), form("B")).compositions[0]
        once = with_matte(piece, "b", "a")
        again = with_matte(once, "b", "a", Matte("a", inverted=True))
        self.assertEqual(again.layer("b").mattes, (Matte("a", inverted=True),))


def ground(kind: str, **values: object) -> Layer:
    return Layer("Ground", kind, 0, 20, id="ground").with_values(position=(WIDTH / 2, HEIGHT / 2), **values)


class CropTest(unittest.TestCase):
    def test_each_edge_is_cut_by_its_part_of_the_box(self) -> None:
        made = form("A", size=(100.0, 50.0), crop_across=(10.0, 25.0), crop_down=(0.0, 40.0))
        cover = alpha(made) > 0.5
        columns, rows = np.flatnonzero(cover.any(axis=0)), np.flatnonzero(cover.any(axis=1))
        self.assertEqual((columns[0], columns[-1] + 1, rows[0], rows[-1] + 1), (20, 85, 20, 50))

    def test_a_soft_crop_is_a_gaussian_step_and_leaves_the_other_edges_hard(self) -> None:
        made = form("A", size=(100.0, 60.0), crop_across=(50.0, 0.0), crop_softness=5.0)
        row = alpha(made)[45]
        expected = [0.5 * (1 + math.erf((x + 0.5 - 60) / (5 * math.sqrt(2)))) for x in range(40, 80)]
        np.testing.assert_allclose(row[40:80], expected, atol=0.01)
        np.testing.assert_allclose(row[108:110], 1.0, atol=0.004)
        self.assertEqual(float(row[111]), 0.0)

    def test_a_crop_turns_with_its_layer_and_takes_all_when_it_meets(self) -> None:
        turned = form("A", size=(80.0, 40.0), rotation=30.0, crop_across=(50.0, 0.0))
        self.assertAlmostEqual(float(alpha(turned).sum()), 40 * 40, delta=20)
        self.assertEqual(float(alpha(form("A", crop_across=(60.0, 40.0))).sum()), 0.0)


class GroundTest(unittest.TestCase):
    def test_a_colour_field_shows_each_colour_at_its_place(self) -> None:
        made = ground("field", points=2.0, place_1=(20.0, 50.0), colour_1=(1.0, 0.0, 0.0, 1.0), softness=20.0,
                      place_2=(80.0, 50.0), colour_2=(0.0, 0.0, 1.0, 1.0))  # fmt: skip
        frame = render_frame(sample(made), "Piece", 0)
        np.testing.assert_allclose(frame[45, 24], [1, 0, 0, 1], atol=0.04)
        np.testing.assert_allclose(frame[45, 96], [0, 0, 1, 1], atol=0.04)
        self.assertGreater(float(frame[..., 3].min()), 1 - 1e-6)
        steps = np.abs(np.diff(frame[45, :, 0]))
        self.assertLess(float(steps.max()), 0.08)

    def test_patterns_cover_their_share(self) -> None:
        for kind, share, part in (("stripes", 30.0, 0.3), ("checks", 50.0, 0.5), ("dots", 80.0, math.pi * 0.16)):
            made = ground(
                "pattern", pattern=kind, share=share, spacing=(15.0, 15.0), fill=(1.0, 1.0, 1.0, 1.0), angle=0.0
            )
            self.assertAlmostEqual(float(alpha(made).mean()), part, delta=0.006, msg=kind)

    def test_a_whole_step_brings_a_pattern_back_and_words_repeat(self) -> None:
        for kind in ("stripes", "checks", "dots", "word"):
            values: dict[str, object] = {"pattern": kind, "spacing": (30.0, 18.0), "fill": (1.0, 1.0, 1.0, 1.0)}
            start = alpha(ground("pattern", **values, angle=20.0))
            self.assertGreater(float(start.mean()), 0.02)
            again = alpha(ground("pattern", **values, angle=20.0, shift=(100.0, -200.0)))
            np.testing.assert_allclose(again, start, atol=0.006)
            half = alpha(ground("pattern", **values, angle=20.0, shift=(50.0, 0.0)))
            self.assertGreater(float(np.abs(half - start).max()), 0.3)

    def test_edges_of_stripes_stay_sharp_at_any_scale(self) -> None:
        made = ground("pattern", spacing=(20.0, 20.0), fill=(1.0, 1.0, 1.0, 1.0))
        large = render_frame(sample(made), "Piece", 0, 4.0)[180, :, 3]
        self.assertLess(float(np.mean((large > 0.02) & (large < 0.98))), 0.02)


def contour_of(data: str) -> Contour:
    return contours_of(data)[0]


class ContourTest(unittest.TestCase):
    curve = contour_of("M0 0C30 -20 60 40 90 10C110 -10 120 60 60 80C40 90 -10 40 0 0Z")

    def test_inserting_a_point_changes_no_shape(self) -> None:
        for segment in range(segment_count(self.curve)):
            for t in (0.2, 0.5, 0.83):
                more = inserted(self.curve, segment, t)
                self.assertEqual(len(more.vertices), len(self.curve.vertices) + 1)
                for probe in (0.1, 0.6, 0.95):
                    x, y = point_on(controls(self.curve, segment), probe)
                    self.assertLess(nearest(more, x, y)[2], 0.03)

    def test_the_nearest_place_is_found(self) -> None:
        for segment, t in ((0, 0.3), (1, 0.75), (2, 0.5)):
            x, y = point_on(controls(self.curve, segment), t)
            found = nearest(self.curve, x, y)
            self.assertEqual(found[0], segment)
            self.assertAlmostEqual(found[1], t, delta=0.002)
            self.assertLess(found[2], 0.03)

    def test_points_move_turn_soft_and_go(self) -> None:
        away = contour_moved(self.curve, 1, 5.0, -3.0)
        self.assertEqual(away.vertices[1][:2], (95.0, 7.0))
        self.assertEqual(contour_moved(away, 1, -5.0, 3.0), self.curve)
        corner = toggled(self.curve, 1)
        self.assertEqual(corner.vertices[1], (90.0, 10.0) * 3)
        self.assertNotEqual(toggled(corner, 1).vertices[1][2:4], (90.0, 10.0))
        # Handles lie along the way from one neighbour to the other; the ends of an open line have but one.
        for closed, ways in ((False, ((10, 0), (20, 10), (10, 10))), (True, ((-10, -10), (20, 10), (-10, 0)))):
            bare = Contour(((0.0, 0.0) * 3, (60.0, 0.0) * 3, (120.0, 60.0) * 3), closed)
            for index, (dx, dy) in enumerate(ways):
                x, y = bare.vertices[index][:2]
                self.assertEqual(toggled(bare, index).vertices[index], (x, y, x - dx, y - dy, x + dx, y + dy))
        self.assertEqual(len(without(self.curve, 0).vertices), 2)
        pulled = with_handle(self.curve, 1, True, (100.0, 30.0), mirrored=True)
        self.assertEqual(pulled.vertices[1][2:4], (80.0, -10.0))

    def test_an_open_line_has_a_curve_less_than_a_closed_one(self) -> None:
        for count in (1, 2, 5):
            vertices = tuple((float(i), 0.0) * 3 for i in range(count))
            for closed in (False, True):
                self.assertEqual(segment_count(Contour(vertices, closed)), count if closed else count - 1)

    def test_a_pen_keeps_every_handle(self) -> None:
        pen = ContourPen()
        pen.moveTo((0.0, 0.0))
        pen.curveTo((1.0, 2.0), (3.0, 4.0), (5.0, 6.0))
        pen.qCurveTo((8.0, 6.0), (11.0, 9.0))
        pen.lineTo((0.0, 9.0))
        pen.closePath()
        (made,) = pen.contours
        self.assertEqual(controls(made, 0), ((0.0, 0.0), (1.0, 2.0), (3.0, 4.0), (5.0, 6.0)))
        np.testing.assert_allclose(controls(made, 1), ((5.0, 6.0), (7.0, 6.0), (9.0, 7.0), (11.0, 9.0)))
        self.assertEqual(controls(made, 2), ((11.0, 9.0), (11.0, 9.0), (0.0, 9.0), (0.0, 9.0)))
        self.assertEqual((made.closed, segment_count(made)), (True, 4))

    def test_a_pulled_curve_passes_through_where_it_was_pulled_to(self) -> None:
        x, y = point_on(controls(self.curve, 0), 0.4)
        pulled = reshaped(self.curve, 0, 0.4, 7.0, 11.0)
        np.testing.assert_allclose(point_on(controls(pulled, 0), 0.4), (x + 7, y + 11), atol=1e-9)
        self.assertEqual(pulled.vertices[0][:2], self.curve.vertices[0][:2])

    def test_changing_a_point_leaves_the_others_where_they_are_seen(self) -> None:
        art = Bundle((Figure((self.curve,), (1.0, 0.0, 0.0, 1.0)),))
        made = Layer("A", "shape", 0, 20, id="a").with_values(art=art, rotation=40.0, scale=(80.0, 120.0))
        start = sample(made)
        at = Evaluated(start, start.compositions[0], 0)
        before = at.matrix(made).apply(0.0, 0.0)
        longer = with_figure(art, (0,), Figure((contour_moved(self.curve, 1, 60.0, 25.0),), (1.0, 0.0, 0.0, 1.0)))
        after = with_art_in_place(at, made, longer)
        changed = sample(after)
        np.testing.assert_allclose(Evaluated(changed, changed.compositions[0], 0).matrix(after).apply(0.0, 0.0), before)

    def test_a_plain_form_becomes_a_drawing_where_it_is(self) -> None:
        for kind in ("rectangle", "star", "line"):
            made = form("A", kind, size=(50.0, 30.0), rotation=25.0, stroke=4.0, pivot=(20.0, 90.0))
            start = sample(made)
            drawn = as_drawing(Evaluated(start, start.compositions[0], 0), made)
            self.assertEqual(drawn.track("form").value, "drawing")
            np.testing.assert_allclose(alpha(drawn), alpha(made), atol=0.012)


class CombineTest(unittest.TestCase):
    def test_areas_follow_the_algebra_of_sets(self) -> None:
        a = form("A", size=(60.0, 40.0), position=(50.0, 45.0))
        b = form("B", size=(30.0, 60.0), position=(70.0, 45.0), rotation=10.0)
        cover_a, cover_b = alpha(a), alpha(b)
        both = float((cover_a * cover_b).sum())
        wanted = {
            "union": float(cover_a.sum() + cover_b.sum()) - both, "intersect": both,
            "subtract": float(cover_a.sum()) - both, "exclude": float(cover_a.sum() + cover_b.sum()) - 2 * both,
        }  # fmt: skip
        start = sample(b, a)
        for how, area in wanted.items():
            piece, made = combined(start, start.compositions[0], ["a", "b"], how, 0)
            self.assertEqual([layer.id for layer in piece.layers], [made])
            self.assertAlmostEqual(float(alpha(*piece.layers).sum()), area, delta=0.01 * area, msg=how)
        apart = sample(b.with_values(position=(400.0, 45.0)), a)
        with self.assertRaises(ModelError):
            combined(apart, apart.compositions[0], ["a", "b"], "intersect", 0)

    def test_gathered_shapes_look_as_before_and_what_was_tied_to_them_is_tied_to_their_layer(self) -> None:
        front = form("Front", "ellipse", size=(40.0, 30.0), position=(50.0, 40.0), opacity=80.0)
        back = form("Back", size=(50.0, 40.0), position=(65.0, 50.0), rotation=20.0, fill=(0.0, 1.0, 0.0, 1.0))
        hung = evolve(form("Hung", size=(8.0, 8.0), position=(3.0, -6.0)), parent="back")
        cut = evolve(form("Cut", size=(90.0, 20.0), position=(60.0, 70.0)), mattes=(Matte("front", shown=True),))
        ground = backdrop(WIDTH, HEIGHT, (0.0, 0.0, 0.3, 1.0))
        start = sample(hung, front, back, ground, cut)
        for make in (gathered, partial(combined, how="union")):
            piece, made = make(start, start.compositions[0], ["front", "back"], frame=0)
            self.assertEqual({"hung", made, "cut", ground.id}, set(piece.by_id))
            self.assertEqual((made, made), (piece.layer("hung").parent, piece.layer("cut").mattes[0].layer))
            at, was = (Evaluated(start.with_composition(p), p, 0.0) for p in (piece, start.compositions[0]))
            np.testing.assert_allclose(at.matrix(piece.layer("hung")), was.matrix(hung), atol=1e-5)
        piece, made = gathered(start, start.compositions[0], ["front", "back"], 0)
        whole = [evolve(p, layers=tuple(y for y in p.layers if y.id != "cut")) for p in (start.compositions[0], piece)]
        frames = [render_frame(start.with_composition(p), p.id, 0) for p in whole]
        np.testing.assert_allclose(frames[1], frames[0], atol=0.012)

    def test_what_new_outlines_could_not_keep_is_told_by_layer(self) -> None:
        turning = form("A").with_track("rotation", Track(0.0, (Key(0, 0.0), Key(9, 90.0))))
        turning = turning.with_track("fill", Track((1.0,) * 4, (Key(0, (1.0,) * 4), Key(9, (0.0, 0.0, 0.0, 1.0)))))
        piece = sample(turning, evolve(turning, id="b", name="B"), form("C")).compositions[0]
        (lost,) = would_lose(piece, ["a", "c"])
        self.assertEqual({"Rotation", "Fill"}, set(lost.removeprefix("A: ").split(", ")))
        self.assertEqual(["A: Fill", "B: Fill"], would_lose(piece, ["a", "b"], {"fill", "size"}))
        self.assertEqual([], would_lose(piece, ["a", "b"], {"size"}))
        worn = form("Worn", crop_down=(20.0, 0.0), depth=True).with_block(Block("halo"))
        worn = evolve(worn, mattes=(Matte("c"),))
        piece = sample(worn, form("C", opacity=50.0)).compositions[0]
        self.assertEqual(["Worn: Crop down, In depth, effects, mattes"], would_lose(piece, ["worn", "c"]))
        self.assertEqual([], would_lose(piece, ["worn", "c"], {"fill"}))

    def test_shapes_put_together_have_the_look_of_the_backmost(self) -> None:
        back = form("Back", opacity=40.0, blend="screen", fill=(0.0, 1.0, 0.0, 1.0))
        start = sample(form("Front", opacity=90.0, position=(70.0, 45.0)), back)
        piece, made = combined(start, start.compositions[0], ["front", "back"], "union", 0)
        values = Evaluated(start.with_composition(piece), piece, 0.0).values(piece.layer(made))
        self.assertEqual((40.0, "screen"), (values["opacity"], values["blend"]))

    def test_outlines_of_words_keep_effects_and_depth(self) -> None:
        words = Layer("W", "text", 0, 20, id="w").with_values(
            text="Kit", size=40.0, position=(60.0, 45.0), fill=(1.0, 1.0, 1.0, 1.0), depth=True, position_z=30.0,
            turn_y=25.0, content_opacity=70.0,
        )  # fmt: skip
        words = words.with_block(Block("drop-shadow", id="s")).with_values(**{"s.colour": (1.0, 0.0, 0.0, 1.0)})
        words = words.with_track("s.distance", Track(5.0, (Key(0, 5.0), Key(10, 15.0))))
        start = sample(words)
        shape = as_outlines(Evaluated(start, start.compositions[0], 0), words)
        for frame in (0, 6):
            pictures = [render_frame(sample(layer), "Piece", frame) for layer in (words, shape)]
            # Letters and shapes are not smoothed by the same hand.
            np.testing.assert_allclose(pictures[1], pictures[0], atol=0.1)
            self.assertLess(float(np.abs(pictures[1] - pictures[0]).mean()), 0.001)
            self.assertGreater(float(pictures[0][..., 0].max() - pictures[0][..., 1].min()), 0.3)

    def test_words_become_outlines_where_they_are(self) -> None:
        words = Layer("W", "text", 0, 20, id="w").with_values(
            text="Kit", size=40.0, position=(60.0, 45.0), rotation=15.0, pivot=(20.0, 70.0), fill=(1.0, 1.0, 1.0, 1.0)
        )
        start = sample(words)
        shape = as_outlines(Evaluated(start, start.compositions[0], 0), words)
        self.assertEqual(shape.kind, "shape")
        # Letters and shapes are not smoothed by the same hand.
        self.assertLess(float(np.abs(alpha(shape) - alpha(words)).mean()), 0.0012)

    def test_simplifying_keeps_what_is_filled(self) -> None:
        star = contours_of("M60 10L84 80L24 36L96 36L36 80Z")
        made = Layer("S", "shape", 0, 20, id="s").with_values(
            art=Bundle((Figure(star, (1.0, 0.0, 0.0, 1.0)),)), position=(60.0, 45.0)
        )
        start = sample(made)
        plain = simplified(made, Evaluated(start, start.compositions[0], 0))
        self.assertGreater(sum(len(c.vertices) for c in plain.track("art").value.items[0].contours), 5)
        self.assertLess(float(np.abs(alpha(plain) - alpha(made)).mean()), 0.001)

    def test_simplifying_leaves_open_lines_alone(self) -> None:
        stroke = Stroke((1.0, 0.0, 0.0, 1.0), 6.0)
        lines = Figure(contours_of("M10 10L80 80M80 10L10 80"), None, stroke=stroke)
        star = contours_of("M60 10L84 80L24 36L96 36L36 80Z")
        both = Figure((*contours_of("M10 10L80 80"), *star), None, stroke=stroke)
        filled = evolve(both, fill=(0.0, 1.0, 0.0, 1.0))
        for figure, kept in ((lines, 2), (both, 1), (filled, 2)):
            made = Layer("S", "shape", 0, 20, id="s").with_values(art=Bundle((figure,)), position=(60.0, 45.0))
            plain = simplified(made, Evaluated(sample(made), sample(made).compositions[0], 0))
            contours = plain.track("art").value.items[0].contours
            self.assertEqual([c for c in figure.contours if not c.closed], [c for c in contours if not c.closed])
            if figure is not both:
                self.assertEqual(figure.contours, contours)
            else:
                self.assertGreater(len(contours), kept)

    def test_a_reference_is_seen_and_never_written(self) -> None:
        sketch = evolve(form("Sketch"), reference=True)
        start = sample(sketch)
        self.assertGreater(float(alpha(sketch).sum()), 100)
        self.assertEqual(float(render_frame(start.without_references(), "Piece", 0).sum()), 0.0)
