"""Cutting out against pictures of known alpha, filling against known textures; strokes that the project keeps."""

from __future__ import annotations

import tempfile
import unittest
from pathlib import Path
from unittest.mock import patch

import cv2
import numpy as np
from attrs import evolve

from spiralis.core.editing.sources import unused_removed
from spiralis.core.editing.touching import (
    area_behind,
    area_strokes,
    cut_source,
    filled_source,
    made_of,
    pixels_of,
    remade,
    touchable,
    with_cut_out,
    with_filled,
)
from spiralis.core.errors import Cancelled, ModelError, SpiralisError
from spiralis.core.media.filling import copied_over, filled, filled_behind
from spiralis.core.media.matting import cleaned, cut_out, cut_out_alpha, painted, rough_selection
from spiralis.core.media.pictures import picture_source
from spiralis.core.media.tiles import in_tiles
from spiralis.core.model import Layer
from spiralis.core.model.touching import AREA, COPY, CUT_OUT, DROP, FILL, KEEP, Stroke, Touched
from spiralis.core.raster.blurring import reach, softened
from spiralis.core.storage import load, save
from tests.core.flat_pictures import BELOW, MARKS, N, hole, subject, texture
from tests.core.samples import backdrop, png_bytes, project

AREAS = (Stroke(AREA, 16, ((110.0, 110.0), (130.0, 125.0))),)


class CutOutTest(unittest.TestCase):
    """On pictures whose alpha is known."""

    def test_the_matte_is_near_the_truth_and_nearer_than_graph_cuts_alone(self) -> None:
        for kind, touched in MARKS.items():
            pixels, truth = subject(kind)
            made = cut_out_alpha(pixels, touched)
            rough = rough_selection(np.ascontiguousarray(pixels[..., :3]), touched).astype(np.uint8)
            plain = cv2.resize(rough, (N, N), interpolation=cv2.INTER_NEAREST)
            error, other = float(np.abs(made - truth).mean()), float(np.abs(plain - truth).mean())
            self.assertLessEqual(error, 0.02, kind)
            self.assertLess(error, 0.75 * other, kind)
            edge = (truth > 0.02) & (truth < 0.98)
            self.assertLess(np.abs(made - truth)[edge].mean(), 0.7 * np.abs(plain - truth)[edge].mean(), kind)

    def test_strokes_have_the_last_word(self) -> None:
        pixels, _ = subject("hard")
        marks = (Stroke(DROP, 12, ((180.0, 200.0),)), Stroke(KEEP, 12, ((20.0, 20.0),)))
        made = cut_out_alpha(pixels, evolve(MARKS["hard"], strokes=marks))
        self.assertEqual((made[200, 180], made[20, 20]), (0.0, 1.0))

    def test_edge_feather_and_what_is_around(self) -> None:
        pixels, truth = subject("hard")
        plain = cut_out_alpha(pixels, MARKS["hard"])
        wide = cut_out_alpha(pixels, evolve(MARKS["hard"], shift=5.0))
        thin = cut_out_alpha(pixels, evolve(MARKS["hard"], shift=-5.0))
        row = [int((each[205] > 0.5).sum()) for each in (thin, plain, wide)]
        self.assertEqual(row, [row[1] - 10, row[1], row[1] + 10])
        soft = cut_out_alpha(pixels, evolve(MARKS["hard"], feather=16.0))
        between = [int(((each[205] > 0.05) & (each[205] < 0.95)).sum()) for each in (plain, soft)]
        self.assertGreater(between[1], between[0] + 20)
        around = cut_out_alpha(pixels, evolve(MARKS["hard"], inverted=True))
        np.testing.assert_allclose(around, 1 - plain, atol=1e-6)
        self.assertLess(abs(float(truth.sum() - plain.sum())) / truth.sum(), 0.03)

    def test_the_old_ground_leaves_the_edge(self) -> None:
        pixels, truth = subject("soft")
        edge = (truth > 0.1) & (truth < 0.6)
        kept = cleaned(pixels, truth.astype(np.float32), 0.0)[edge].astype(int)
        made = cleaned(pixels, truth.astype(np.float32), 1.0)[edge].astype(int)
        # The subject is warm (red far above blue), the ground is not.
        self.assertGreater((made[:, 0] - made[:, 2]).mean(), (kept[:, 0] - kept[:, 2]).mean() + 60)
        whole = cleaned(pixels, truth.astype(np.float32), 1.0)
        self.assertTrue((whole[truth > 0.97] == pixels[truth > 0.97, :3]).all())

    def test_pictures_with_nothing_to_choose_from(self) -> None:
        dot = np.array([[[255, 0, 0, 255]]], dtype=np.uint8)
        self.assertEqual(cut_out_alpha(dot, Touched("x", CUT_OUT, box=(0, 0, 1, 1))).shape, (1, 1))
        clear = np.zeros((60, 60, 4), dtype=np.uint8)
        self.assertFalse(cut_out(clear, Touched("x", CUT_OUT, box=(10, 10, 50, 50)))[..., 3].any())
        flat = np.full((60, 60, 4), 255, dtype=np.uint8)
        cut_out(flat, Touched("x", CUT_OUT, box=(10, 10, 50, 50)))
        with self.assertRaisesRegex(ModelError, "Draw a box around the subject"):
            cut_out(flat, Touched("x", CUT_OUT))
        source = picture_source(png_bytes(clear), "clear.png")
        with self.assertRaisesRegex(ModelError, "Nothing of the picture is the subject"):
            cut_source(source, Touched(source.id, CUT_OUT, box=(10, 10, 50, 50)))

    def test_it_can_be_stopped(self) -> None:
        with self.assertRaises(Cancelled):
            cut_out(subject("hard")[0], MARKS["hard"], lambda _: True)

    def test_large_pictures_are_solved_small_and_drawn_large(self) -> None:
        pixels, truth = subject("hard")
        large = cv2.resize(pixels, (5 * N, 5 * N), interpolation=cv2.INTER_CUBIC)
        below = evolve(BELOW, radius=40, points=tuple((5 * x, 5 * y) for x, y in BELOW.points))
        touched = Touched("x", CUT_OUT, (350, 350, 1450, 1700), (below,))
        made = cut_out_alpha(large, touched)
        self.assertEqual(made.shape, (5 * N, 5 * N))
        wanted = cv2.resize(truth, (5 * N, 5 * N), interpolation=cv2.INTER_CUBIC)
        self.assertLess(float(np.abs(made - wanted).mean()), 0.02)


    def test_a_picture_in_tiles_is_the_picture_as_a_whole(self) -> None:
        plane = np.zeros((300, 410), dtype=np.float32)
        cv2.circle(plane, (200, 130), 60, 1.0, -1, cv2.LINE_AA)
        with patch("spiralis.core.media.tiles._SIDE", 64):
            soft = in_tiles(plane, reach(9.0), lambda part, corner: softened(part, 9.0, 9.0, corner, repeat=True))
        np.testing.assert_allclose(soft, softened(plane, 9.0, 9.0, repeat=True), atol=2e-6)
        asked: list[float] = []
        with patch("spiralis.core.media.tiles._SIDE", 64):
            in_tiles(plane, 2, lambda part, _: part, lambda done: bool(asked.append(done)))
        self.assertEqual(asked, sorted(asked))
        self.assertTrue(all(0 <= done <= 1 for done in asked))

    def test_colours_of_an_edge_are_those_nearby_in_every_tile(self) -> None:
        rng = np.random.default_rng(4)
        pixels = rng.integers(0, 255, (300, 340, 3)).astype(np.uint8)
        alpha = np.zeros((300, 340), dtype=np.float32)
        alpha[:, 100:240] = 1.0
        alpha[:, 240:248] = np.linspace(0.9, 0.1, 8)
        sure = (alpha > 0.97).astype(np.float32)
        weight = cv2.GaussianBlur(sure, (0, 0), 1.5)
        total = cv2.GaussianBlur(pixels.astype(np.float32) * sure[..., None], (0, 0), 1.5)
        near = total / np.maximum(weight, 1e-9)[..., None]
        kept = (alpha**4)[..., None]
        wanted = kept * pixels + (1 - kept) * near
        band = (alpha > 0) & (alpha < 0.97) & (weight > 1e-3)
        self.assertGreater(band.sum(), 1000)
        made = cleaned(pixels, alpha, 1.0)
        self.assertLessEqual(np.abs(made[band] - wanted[band]).max(), 0.51)
        # Mist that lies far from anything sure has the colour of what is sure, too.
        pixels[:] = (10, 20, 200)
        pixels[:40, :40] = (240, 120, 10)
        alpha[:] = 0.5
        alpha[:40, :40] = 1.0
        made = cleaned(pixels, alpha, 1.0)
        far = made[-1, -1].astype(float)
        np.testing.assert_allclose(far, 0.5**4 * pixels[-1, -1] + (1 - 0.5**4) * pixels[0, 0], atol=1.5)

    def test_an_edge_moves_far_as_it_moves_near(self) -> None:
        pixels, _ = subject("hard")
        for shift in (30.0, -30.0):
            near = cut_out_alpha(pixels, MARKS["hard"])[205] > 0.5
            far = cut_out_alpha(pixels, evolve(MARKS["hard"], shift=shift))[205] > 0.5
            self.assertEqual(int(far.sum() - near.sum()), round(2 * shift))

    def test_what_is_done_only_grows(self) -> None:
        for work in (
            lambda stops: cut_out(subject("soft")[0], evolve(MARKS["soft"], shift=20.0, feather=9.0), stops),
            lambda stops: filled(texture("bricks"), Touched("x", FILL, strokes=AREAS), stops),
        ):
            asked: list[float] = []
            work(lambda done, asked=asked: bool(asked.append(done)))
            self.assertEqual(asked, sorted(asked))
            self.assertGreater(len(asked), 8)
            self.assertTrue(asked[0] < 0.1 and 0.7 < asked[-1] <= 1)
            # It can be stopped at any of them.
            for number in (0, len(asked) // 3, len(asked) - 1):
                left = iter(range(number))
                with self.assertRaises(Cancelled):
                    work(lambda _, left=left: next(left, None) is None)


class FillTest(unittest.TestCase):
    """On textures that are known where the hole is."""

    def test_textures_go_on_better_than_by_diffusion(self) -> None:
        area = hole()
        for kind in ("stripes", "bricks", "checks", "dots"):
            whole = texture(kind)
            broken = whole.copy()
            broken[area, :3] = 0
            made = filled_behind(broken, area)
            error = np.abs(made[area, :3].astype(float) - whole[area, :3]).mean()
            rgb, mask = np.ascontiguousarray(broken[..., :3]), area.astype(np.uint8)
            others = [cv2.inpaint(rgb, mask, 5, way) for way in (cv2.INPAINT_NS, cv2.INPAINT_TELEA)]
            best = min(np.abs(other[area].astype(float) - whole[area, :3]).mean() for other in others)
            self.assertLessEqual(error, 0.8 * best, kind)

    def test_the_rest_stays_bit_for_bit_and_the_same_comes_again(self) -> None:
        whole, area = texture("bricks"), hole(size=20)
        whole[..., 3] = 200
        first, second = filled_behind(whole, area), filled_behind(whole, area)
        self.assertTrue((first[~area] == whole[~area]).all())
        self.assertTrue((first == second).all())
        self.assertTrue((first[area, 3] == 255).all())

    def test_thin_holes_nothing_and_everything(self) -> None:
        whole = texture("stripes")
        thin = np.zeros(whole.shape[:2], dtype=bool)
        thin[100:103, 20:200] = True
        self.assertLess(np.abs(filled_behind(whole, thin)[thin].astype(int) - whole[thin]).mean(), 40)
        self.assertIs(filled_behind(whole, np.zeros_like(thin)), whole)
        with self.assertRaisesRegex(ModelError, "Nothing is left around"):
            filled_behind(whole, np.ones_like(thin))
        filled_behind(whole[:5, :5], np.eye(5, dtype=bool))
        with self.assertRaises(Cancelled):
            filled_behind(whole, hole(), lambda _: True)

    def test_a_brush_copies_from_elsewhere(self) -> None:
        whole = np.zeros((80, 80, 4), dtype=np.uint8)
        whole[..., 3] = 255
        whole[:, 40:, 0] = 255
        made = copied_over(whole, (Stroke(COPY, 6, ((10.0, 40.0),), (50.0, 0.0)),))
        self.assertGreater(made[40, 10, 0], 240)
        self.assertEqual(made[40, 28, 0], 0)
        self.assertTrue(0 < made[40, 16, 0] < 255, "its tip is soft")

    def test_copying_is_what_the_whole_picture_moved_gives(self) -> None:
        rng = np.random.default_rng(2)
        whole = np.dstack([rng.integers(0, 255, (90, 120, 3)), np.full((90, 120), 255)]).astype(np.uint8)
        strokes = (
            Stroke(COPY, 7, ((30.0, 40.0), (55.0, 48.0)), (30.5, -12.25)),
            Stroke(COPY, 9, ((2.0, 3.0),), (-40.0, 60.0)),
            Stroke(COPY, 5, ((500.0, 3.0),), (-40.0, 60.0)),
        )
        wanted = whole
        for stroke in strokes:
            hard = painted((120, 90), [stroke]).astype(np.float32) / 255
            mask = cv2.GaussianBlur(hard, (0, 0), stroke.radius / 3)[..., None]
            shift = np.array([[1, 0, -stroke.away[0]], [0, 1, -stroke.away[1]]])
            moved = cv2.warpAffine(wanted, shift, (120, 90), borderMode=cv2.BORDER_REPLICATE)
            wanted = np.round(wanted + (moved.astype(np.float32) - wanted) * mask).astype(np.uint8)
        made = copied_over(whole, strokes)
        self.assertLessEqual(np.abs(made.astype(int) - wanted).max(), 1)
        self.assertGreater((made != whole).any(axis=-1).sum(), 600)


class ProjectTest(unittest.TestCase):
    """What is made is a source of the project, and knows how it was made."""

    def setUp(self) -> None:
        pixels, _ = subject("hard")
        self.source = picture_source(png_bytes(pixels), "poster.png")
        layer = Layer("Poster", "picture", 0, 20, id="poster").with_values(
            source=self.source.id, position=(180.0, 180.0), scale=(80.0, 80.0)
        )
        self.project = project(layer, backdrop(N, N, (0, 0, 0, 1.0)), sources=(self.source,), width=N, height=N)
        self.piece = self.project.compositions[0]

    def test_cut_out_and_fill_behind(self) -> None:
        touched = evolve(MARKS["hard"], of=self.source.id)
        cut = cut_source(self.source, touched)
        made, subject_id = with_cut_out(self.project, self.piece, "poster", cut)
        piece = made.compositions[0]
        self.assertEqual([y.name for y in piece.layers], ["Poster cut out", "Poster", "Ground"])
        self.assertEqual(piece.layer(subject_id).track("scale").value, (80.0, 80.0))
        area = area_behind(made, piece, "poster")
        assert area is not None
        strokes = area_strokes(area)
        drawn = painted((N, N), strokes) > 0
        self.assertGreater((drawn & area).sum() / (drawn | area).sum(), 0.95)
        filled = filled_source(self.source, Touched(self.source.id, FILL, strokes=strokes))
        made = with_filled(made, piece, "poster", filled)
        shown = made.source(made.compositions[0].layer("poster").track("source").value)
        assert shown is not None and made.source(self.source.id) is not None
        inside = pixels_of(shown)[170:240, 150:210].astype(int)
        self.assertLess((inside[..., 0] - inside[..., 2]).max(), 40, "nothing warm is left in the middle")

    def test_a_cut_out_is_made_again_in_its_place(self) -> None:
        first = cut_source(self.source, evolve(MARKS["hard"], of=self.source.id))
        made, layer = with_cut_out(self.project, self.piece, "poster", first)
        again = cut_source(self.source, evolve(MARKS["hard"], of=self.source.id, shift=4.0))
        made, same = with_cut_out(made, made.compositions[0], layer, again)
        self.assertEqual((same, len(made.compositions[0].layers)), (layer, 3))

    def test_it_is_made_anew_of_another_picture_where_its_strokes_lie_then(self) -> None:
        strokes = (*MARKS["hard"].strokes, Stroke(KEEP, 6.0, ((180.0, 180.0), (190.0, 200.0))))
        touched = evolve(MARKS["hard"], of=self.source.id, strokes=strokes, feather=2.0)
        cut = cut_source(self.source, touched)
        pixels = np.ascontiguousarray(subject("hard")[0].repeat(2, axis=0).repeat(3, axis=1))
        larger = picture_source(png_bytes(pixels), "larger.png")
        again = remade(cut, larger, (N, N))
        self.assertEqual((cut.id, cut.name, 3 * N, 2 * N), (again.id, again.name, again.width, again.height))
        first, second = (pixels_of(source)[..., 3] > 127 for source in (cut, again))
        self.assertLess(float((first != second[::2, ::3]).mean()), 0.01)
        assert again.made is not None
        self.assertEqual(again.made, evolve(touched.scaled(3.0, 2.0), of=touched.of))
        self.assertEqual(((540.0, 360.0), (570.0, 400.0)), again.made.strokes[-1].points)
        with self.assertRaises(SpiralisError):
            remade(cut, picture_source(png_bytes(np.zeros((9, 9, 4), np.uint8)), "empty.png"), (N, N))

    def test_what_it_was_made_of_is_not_unused(self) -> None:
        cut = cut_source(self.source, evolve(MARKS["hard"], of=self.source.id))
        again = evolve(cut, id="again", made=evolve(cut.made, of=cut.id))
        made = evolve(self.project, sources=(self.source, cut, again))
        self.assertEqual((cut,), made_of(made, self.source.id))
        shown = made.with_composition(self.piece.with_layer(self.piece.layer("poster").with_values(source="again")))
        self.assertEqual(shown, unused_removed(shown))
        self.assertEqual((self.source,), unused_removed(made).sources)

    def test_the_file_keeps_the_strokes(self) -> None:
        touched = Touched(self.source.id, CUT_OUT, (70, 70, 290, 340), MARKS["hair"].strokes, 2.0, -1.0, 50.0, True)
        cut = evolve(cut_source(self.source, evolve(MARKS["hard"], of=self.source.id)), made=touched)
        made, _ = with_cut_out(self.project, self.piece, "poster", cut)
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "cut.spiralis"
            save(made, path)
            again = load(path)
        self.assertEqual([source.made for source in again.sources], [None, touched])

    def test_what_has_no_picture(self) -> None:
        with self.assertRaisesRegex(ModelError, "shows no picture"):
            touchable(self.project, self.piece.layers[-1])
        gone = evolve(self.project, sources=(evolve(self.source, data=None),))
        with self.assertRaisesRegex(ModelError, "is missing; find it first"):
            touchable(gone, self.piece.layer("poster"))
        for broken in (("keep", 0.0, ((0.0, 0.0),)), ("paint", 1.0, ((0.0, 0.0),)), ("keep", 1.0, ()),
                       ("keep", 1.0, ((float("nan"), 0.0),))):  # fmt: skip
            with self.assertRaises(SpiralisError):
                Stroke(*broken)  # type: ignore[arg-type]
        self.assertEqual(painted((4, 4), (Stroke(AREA, 1, ((-500.0, 2.0),)),)).sum(), 0)


if __name__ == "__main__":
    unittest.main()
