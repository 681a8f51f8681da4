"""What holds what layers show: all of it, whatever reaches over the box of their content."""

from __future__ import annotations

import unittest
from fractions import Fraction

import numpy as np
from attrs import evolve
from hypothesis import given, settings
from hypothesis import strategies as st

from spiralis.core.editing.arranging import aligned, seen_box
from spiralis.core.editing.matting import with_mask
from spiralis.core.editing.nesting import nest
from spiralis.core.model import Composition, Key, Layer, Project, Track
from spiralis.core.model.blocks import Block
from spiralis.core.render.extent import around_shown, drawn_box, own_box
from spiralis.core.render.frame import render_frame
from spiralis.core.render.layers import Evaluated
from tests.core.samples import square_source

WIDTH, HEIGHT, LENGTH = 300, 220, 20
PLACE = (150.0, 110.0)
WAY = Track(PLACE, (Key(0, (110.0, 90.0)), Key(19, (190.0, 130.0))))
SQUARE = square_source()
#: What each of these shows beyond its box, or where its box is no measure of it.
CASES: dict[str, tuple[str, dict[str, object]]] = {
    "plain": ("shape", {"size": (80.0, 40.0), "form": "ellipse"}),
    "stroke": ("shape", {"size": (80.0, 40.0), "form": "rectangle", "stroke": 20.0}),
    "grown": ("shape", {"size": (80.0, 40.0), "form": "rectangle", "grow": 15.0}),
    "leaning": ("shape", {"size": (80.0, 40.0), "form": "rectangle", "depth": True, "turn_y": 50.0,
                          "position_z": -300.0}),
    "thick": ("shape", {"size": (80.0, 40.0), "form": "rectangle", "depth": True, "turn_y": 50.0, "thickness": 40.0}),
    "outlined words": ("text", {"text": "Kite", "size": 40.0, "stroke": 16.0}),
    "flying letters": ("text", {"text": "Kite", "size": 40.0, "spread_by": "letters", "spread": 40.0,
                                "spread_place": (50.0, -60.0)}),
    "blurred picture": ("picture", {"source": SQUARE.id, "motion_blur": True}),
    "copies": ("copies", {"of": "source", "spacing": (10.0, 30.0), "rotation": 15.0}),
    "late copies": ("copies", {"of": "source", "spacing": (0.0, 30.0), "delay": 3.0}),
    "copies about a ring": ("copies", {"of": "source", "layout": "ring", "radius": 60.0, "count": 8.0}),
}  # fmt: skip


def scene(name: str, *more: Layer) -> Project:
    kind, values = CASES[name]
    layer = Layer("Layer", kind, 0, LENGTH, id="layer").with_values(**values).with_track("position", WAY)
    turn = Track(0.0, (Key(0, 0.0), Key(10, 90.0)))
    source = Layer("Source", "shape", 0, LENGTH, id="source").with_values(
        form="rectangle", size=(120.0, 16.0), position=(60.0, 30.0)
    )
    layers = (layer, source.with_track("rotation", turn)) if kind == "copies" else (layer,)
    piece = Composition("piece", WIDTH, HEIGHT, Fraction(25), LENGTH, layers=(*more, *layers), id="piece")
    return Project(sources=(SQUARE,), compositions=(piece,))


def seen(project: Project, frame: int) -> tuple[float, ...]:
    """Return the box around the pixels of a frame of which anything is seen."""
    alpha = render_frame(project, "piece", frame)[:, :, 3] > 1 / 512
    rows, columns = np.flatnonzero(alpha.any(axis=1)), np.flatnonzero(alpha.any(axis=0))
    return float(columns[0]), float(rows[0]), columns[-1] + 1.0, rows[-1] + 1.0


def holds(outer: tuple[float, ...], inner: tuple[float, ...], by: float = 1.0) -> bool:
    return all(outer[i] <= inner[i] + by for i in (0, 1)) and all(outer[i] >= inner[i] - by for i in (2, 3))


class ExtentTest(unittest.TestCase):
    def test_what_is_drawn_is_found_to_the_pixel(self) -> None:
        for name in CASES:
            for frame in (0, 7):
                with self.subTest(name=name, frame=frame):
                    project = scene(name)
                    at = Evaluated(project, project.compositions[0], float(frame))
                    box = drawn_box(at, [at.composition.layer("layer")])
                    np.testing.assert_allclose(box, seen(project, frame), atol=0.01)

    def test_with_the_content_it_is_around_all_that_is_seen(self) -> None:
        for name in CASES:
            with self.subTest(name=name):
                project = scene(name)
                at = Evaluated(project, project.compositions[0], 7.0)
                box = around_shown(at, [at.composition.layer("layer")])
                self.assertTrue(box is not None and holds(box, seen(project, 7)))

    def test_plain_content_is_as_large_as_its_box(self) -> None:
        project = scene("plain")
        at = Evaluated(project, project.compositions[0], 0.0)
        self.assertEqual((70.0, 70.0, 150.0, 110.0), around_shown(at, [at.composition.layer("layer")]))

    def test_copies_are_grabbed_where_they_are_seen(self) -> None:
        for name in ("copies", "copies about a ring", "late copies"):
            with self.subTest(name=name):
                project = scene(name)
                at = Evaluated(project, project.compositions[0], 0.0)
                layer = at.composition.layer("layer")
                box = at.matrix(layer).box(own_box(at, layer))
                self.assertTrue(holds(box, seen(project, 0)), (box, seen(project, 0)))
                self.assertLess(box[2] - box[0], WIDTH * 1.2)

    def test_what_is_cropped_away_is_aligned_to_nothing(self) -> None:
        project = scene("plain")
        piece = project.compositions[0]
        half = evolve(piece.layer("layer"), properties={**piece.layer("layer").properties, "position": Track(PLACE)})
        half = half.with_values(crop_across=(25.0, 0.0), crop_down=(0.0, 50.0), rotation=0.0)
        piece = evolve(piece, layers=(half,))
        project = project.with_composition(piece)
        self.assertEqual((130.0, 90.0, 190.0, 110.0), seen_box(Evaluated(project, piece, 0.0), half))
        for how, axis, wanted in (("left", 0, 0.0), ("right", 2, float(WIDTH)), ("bottom", 3, float(HEIGHT))):
            made = aligned(project, piece, ["layer"], how, 0, "frame")
            box = seen_box(Evaluated(project.with_composition(made), made, 0.0), made.layer("layer"))
            self.assertAlmostEqual(wanted, box[axis])

    def test_copies_of_copies_and_of_nothing_have_a_box(self) -> None:
        rows = Layer("Rows", "copies", 0, LENGTH, id="rows").with_values(of="layer", spacing=(100.0, 0.0), count=3.0)
        project = scene("copies", rows.with_values(position=PLACE))
        at = Evaluated(project, project.compositions[0], 0.0)
        inner, outer = (own_box(at, at.composition.layer(name)) for name in ("layer", "rows"))
        self.assertGreater(outer[2] - outer[0], inner[2] - inner[0] + 150)
        nothing = scene("copies").compositions[0]
        nothing = evolve(nothing, layers=(nothing.layer("layer"),))
        at = Evaluated(Project(compositions=(nothing,)), nothing, 0.0)
        self.assertEqual(at.box(nothing.layer("layer")), own_box(at, nothing.layer("layer")))


class CroppedTest(unittest.TestCase):
    """A nest or a window as large as what it holds changes nothing that is seen."""

    def test_a_nest_cropped_to_its_content_loses_nothing(self) -> None:
        for name, (kind, _) in CASES.items():
            with self.subTest(name=name):
                project = scene(name)
                chosen = ["layer", "source"] if kind == "copies" else ["layer"]
                made, _ = nest(project, "piece", chosen, "Nest", cropped=True)
                for frame in (0, 7, 19):
                    off = np.abs(render_frame(project, "piece", frame) - render_frame(made, "piece", frame))
                    self.assertLess(float(off.max()), 0.01)

    def test_nor_where_a_camera_sees_what_is_nested(self) -> None:
        camera = Layer("Camera", "camera", 0, LENGTH, id="camera").with_values(position=(100.0, 60.0))
        for name in ("leaning", "thick"):
            project = scene(name, camera)
            for cropped in (True, False):
                made, nested = nest(project, "piece", ["layer"], "Nest", cropped=cropped)
                self.assertTrue(made.composition("piece").layer(nested).track("keeps_depth").value)
                off = np.abs(render_frame(project, "piece", 7) - render_frame(made, "piece", 7))
                self.assertLess(float(off.max()), 0.06, (name, cropped))
            # What is nested with its camera is a page.
            page, nested = nest(project, "piece", ["layer", "camera"], "Nest")
            self.assertFalse(page.composition("piece").layer(nested).track("keeps_depth").value)
            off = np.abs(render_frame(project, "piece", 7) - render_frame(page, "piece", 7))
            self.assertLess(float(off.max()), 0.01)

    def test_what_fills_the_frame_is_cropped_to_it(self) -> None:
        stripes = Layer("Stripes", "pattern", 0, LENGTH, id="stripes").with_values(position=PLACE)
        project = scene("stroke")
        piece = project.compositions[0]
        project = project.with_composition(evolve(piece, layers=(*piece.layers, stripes)))
        made, _ = nest(project, "piece", ["layer", "stripes"], "Nest", cropped=True)
        off = np.abs(render_frame(project, "piece", 7) - render_frame(made, "piece", 7))
        self.assertLess(float(off.max()), 1e-6)

    @settings(max_examples=10)
    @given(st.floats(0, 40), st.floats(0, 30))
    def test_nor_one_of_what_glows(self, radius: float, stroke: float) -> None:
        project = scene("stroke")
        piece = project.compositions[0]
        glowing = piece.layer("layer").with_values(stroke=stroke).with_block(Block("halo"))
        project = project.with_composition(piece.with_layer(glowing))
        made, _ = nest(project, "piece", ["layer"], "Nest", cropped=True)
        off = np.abs(render_frame(project, "piece", 7) - render_frame(made, "piece", 7))
        self.assertLess(float(off.max()), 0.01)

    def test_a_window_shows_no_more_than_a_mask_lets_through(self) -> None:
        project = scene("stroke")
        for apart in (False, True):
            piece = project.compositions[0]
            masked, _ = with_mask(Evaluated(project, piece, 7.0), "layer", "ellipse", apart=apart)
            start = project.with_composition(masked)
            made, _ = with_mask(Evaluated(start, masked, 7.0), "layer", "rectangle", apart=True)
            off = np.abs(render_frame(start, "piece", 7) - render_frame(start.with_composition(made), "piece", 7))
            self.assertLess(float(off.max()), 0.01)

    def test_a_window_shows_all_that_was_seen(self) -> None:
        for name in CASES:
            with self.subTest(name=name):
                project = scene(name)
                piece = project.compositions[0]
                made, _ = with_mask(Evaluated(project, piece, 7.0), "layer", "rectangle", apart=True)
                off = np.abs(
                    render_frame(project, "piece", 7) - render_frame(project.with_composition(made), "piece", 7)
                )
                self.assertLess(float(off.max()), 0.01)


if __name__ == "__main__":
    unittest.main()
