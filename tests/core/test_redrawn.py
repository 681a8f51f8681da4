"""Only what changed is drawn again: bit for bit the whole frame, after any edit, and little more than it touched."""

from __future__ import annotations

import unittest
from unittest import mock

import numpy as np
from attrs import evolve
from hypothesis import given, settings
from hypothesis import strategies as st

from spiralis.core.model import Composition, Layer, Project
from spiralis.core.render import redrawn
from spiralis.core.render.frame import render_region8, render_rgba8
from spiralis.core.render.plan import plan_frame
from spiralis.core.render.redrawn import Redrawn, changed
from spiralis.demo.stored import stored_demo
from tests.core.samples import piece

WIDE, HIGH = 160, 120
EDITS = ("move", "fade", "remove", "add", "raise", "ground", "blur", "mix", "matte", "paint", "nothing")


def dot(number: int, x: float, y: float, size: float = 16.0) -> Layer:
    """Return a soft-edged shape at a place."""
    shade = (0.1 + 0.13 * number % 0.9, 0.4, 0.9 - 0.1 * number % 0.8, 0.7)
    return Layer(f"Dot {number}", "shape", 0, 40, id=f"d{number}").with_values(
        form=("ellipse", "star", "rectangle")[number % 3], size=(size, size), position=(x, y), fill=shade,
        blend=("normal", "multiply", "overlay", "difference")[number % 4],
    )  # fmt: skip


def dots(count: int = 6) -> Composition:
    """Return dots in a row on a gradient."""
    ground = Layer("Ground", "backdrop", 0, 40, id="ground")
    return piece(*(dot(n, 14.3 + 26 * n, 30.6 + 9 * (n % 3)) for n in range(count)), ground, width=WIDE, height=HIGH,
                 length=40)  # fmt: skip


def edited(composition: Composition, edit: str, which: int, amount: float) -> Composition:
    """Return a composition after an edit of one of its dots."""
    own = [y for y in composition.layers if y.id != "ground"]
    if edit == "ground":
        return evolve(composition, background=(amount, 0.2, 0.4, 1.0))
    if edit == "add" or not own:
        taken = {y.id for y in composition.layers}
        unused = next(name for name in (f"n{n}" for n in range(len(taken) + 1)) if name not in taken)
        fresh = evolve(dot(which + 7, 150 * amount, 100 * (1 - amount)), id=unused)
        return evolve(composition, layers=(fresh, *composition.layers))
    layer = own[which % len(own)]
    if edit == "remove":
        return evolve(composition, layers=tuple(y for y in composition.layers if y is not layer))
    if edit == "raise":
        return evolve(composition, layers=(layer, *(y for y in composition.layers if y is not layer)))
    values = {
        "move": {"position": (amount * WIDE, HIGH - amount * HIGH)}, "fade": {"opacity": 100 * amount},
        "mix": {"blend": "screen"}, "paint": {"fill": (amount, 1 - amount, 0.5, 0.6)}, "nothing": {},
        "blur": {"size": (40 * amount, 9.0)}, "matte": {"rotation": 90 * amount},
    }[edit]  # fmt: skip
    return composition.with_layer(layer.with_values(**values))


def covered(boxes: list[tuple[int, int, int, int]]) -> np.ndarray:
    """Return which pixels lie in boxes, bool (h, w)."""
    mask = np.zeros((HIGH, WIDE), dtype=bool)
    for left, top, right, bottom in boxes:
        mask[top:bottom, left:right] = True
    return mask


class RedrawnTest(unittest.TestCase):
    @settings(max_examples=40, deadline=None)
    @given(st.lists(st.tuples(st.sampled_from(EDITS), st.integers(0, 9), st.floats(0, 1)), min_size=1, max_size=8))
    def test_after_any_edits_a_frame_is_as_if_drawn_whole(self, edits: list[tuple[str, int, float]]) -> None:
        drawing, composition = Redrawn(), dots()
        for edit, which, amount in [("nothing", 0, 0.0), *edits]:
            composition = edited(composition, edit, which, amount)
            project = Project("Dots", (composition,))
            made = drawing.rgba8(project, composition.id, 3, 1.0)
            np.testing.assert_array_equal(made, render_rgba8(project, composition.id, 3), edit)

    def test_every_piece_of_the_demo_frame_after_frame(self) -> None:
        demo, drawing = stored_demo(), Redrawn()
        for composition in demo.compositions:
            for frame in (composition.length // 4, composition.length // 4 + 1, composition.length // 2):
                made = drawing.rgba8(demo, composition.id, frame, 0.2)
                np.testing.assert_array_equal(made, render_rgba8(demo, composition.id, frame, 0.2), composition.name)

    def test_only_the_place_of_before_and_that_of_now_are_drawn(self) -> None:
        before = dots()
        after = before.with_layer(before.layer("d1").with_values(position=(40.3, 90.0)))
        plans = [plan_frame(Project("Dots", (c,)), c.id, 3) for c in (before, after)]
        places = changed(*plans)
        self.assertEqual(len(places), 2)
        self.assertLess(int(covered(places).sum()), 2 * 24 * 24)
        pictures = [render_rgba8(Project("Dots", (c,)), c.id, 3) for c in (before, after)]
        other = (pictures[0] != pictures[1]).any(axis=2)
        self.assertGreater(int(other.sum()), 100)
        self.assertTrue((covered(places) | ~other).all())

    def test_nothing_is_drawn_where_nothing_changed_and_all_where_the_size_did(self) -> None:
        project, drawing = Project("Dots", (dots(),)), Redrawn()
        name = project.compositions[0].id
        first = drawing.rgba8(project, name, 3, 1.0).copy()
        with mock.patch.object(redrawn, "rgba8_of", side_effect=AssertionError):
            np.testing.assert_array_equal(drawing.rgba8(project, name, 3, 1.0), first)
        self.assertEqual(drawing.rgba8(project, name, 3, 0.5).shape, (HIGH // 2, WIDE // 2, 4))
        np.testing.assert_array_equal(drawing.rgba8(project, name, 3, 1.0), first)

    def test_a_layer_more_at_one_place_leaves_the_rest(self) -> None:
        before = dots()
        for place in (0, 3, 6):
            layers = list(before.layers)
            layers.insert(place, evolve(dot(8, 100.2, 96.0), id="more"))
            after = evolve(before, layers=tuple(layers))
            plans = [plan_frame(Project("Dots", (c,)), c.id, 3) for c in (before, after)]
            for pair in (plans, plans[::-1]):
                self.assertLess(int(covered(changed(*pair)).sum()), 24 * 24, place)

    def test_one_more_of_several_that_are_alike_shows(self) -> None:
        one = dot(1, 60.0, 60.0)
        counts = [evolve(dots(0), layers=tuple(evolve(one, id=f"s{n}") for n in range(count))) for count in (2, 3)]
        plans = [plan_frame(Project("Dots", (c,)), c.id, 3) for c in counts]
        for pair in (plans, plans[::-1]):
            self.assertGreater(int(covered(changed(*pair)).sum()), 16 * 16 - 1)

    def test_places_that_lie_over_each_other_are_drawn_once(self) -> None:
        before = dots()
        after = before.with_layer(before.layer("d1").with_values(position=(43.3, 40.6)))
        self.assertEqual(len(changed(*(plan_frame(Project("Dots", (c,)), c.id, 3) for c in (before, after)))), 1)

    def test_where_drawing_fails_half_way_the_next_frame_is_drawn_whole(self) -> None:
        before, drawing = dots(), Redrawn()
        after = before.with_layer(before.layer("d1").with_values(position=(40.3, 90.0)))
        drawing.rgba8(Project("Dots", (before,)), before.id, 3, 1.0)
        real, calls = redrawn.rgba8_of, []

        def failing(plan: object) -> np.ndarray:
            calls.append(plan)
            if len(calls) == 2:
                raise MemoryError
            return real(plan)  # type: ignore[arg-type]

        with mock.patch.object(redrawn, "rgba8_of", failing), self.assertRaises(MemoryError):
            drawing.rgba8(Project("Dots", (after,)), before.id, 3, 1.0)
        made = drawing.rgba8(Project("Dots", (before,)), before.id, 3, 1.0)
        np.testing.assert_array_equal(made, render_rgba8(Project("Dots", (before,)), before.id, 3))

    def test_more_places_than_are_worth_it_become_one(self) -> None:
        before = evolve(dots(0), layers=tuple(dot(n, 4 + 16 * (n % 10), 5 + 16 * (n // 10), 5.0) for n in range(60)))
        after = evolve(before, layers=tuple(y.with_values(opacity=50.0) for y in before.layers))
        plans = [plan_frame(Project("Dots", (c,)), c.id, 3) for c in (before, after)]
        self.assertEqual(len(changed(*plans)), 1)

    def test_a_part_is_dithered_as_the_whole_is(self) -> None:
        project = Project("Dots", (dots(),))
        whole = render_rgba8(project, project.compositions[0].id, 3)
        self.assertGreater(len(np.unique(whole.reshape(-1, 4), axis=0)), 100)
        for left, top, right, bottom in ((1, 0, 50, 40), (37, 61, 160, 120), (5, 3, 6, 4)):
            part = render_region8(project, project.compositions[0].id, 3, 1.0, (left, top, right, bottom))
            np.testing.assert_array_equal(part, whole[top:bottom, left:right])
