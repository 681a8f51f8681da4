"""Many plain layers drawn together: bit for bit what each gives by itself, after any edit and at any frame."""

from __future__ import annotations

import unittest
from unittest import mock

import numpy as np
from attrs import evolve
from hypothesis import given, settings
from hypothesis import strategies as st

from spiralis.core.animation.easing import HOLD, CubicBezier
from spiralis.core.geometry import Affine, placement
from spiralis.core.model import Key, Layer, Project, Track
from spiralis.core.model.drivers import Follow, Wobble
from spiralis.core.model.track import Extend, Rule
from spiralis.core.render import plan, render_frame
from spiralis.core.render.crowd import FEWEST, _bytes, _drawn, _sizes, crowd, member_of
from spiralis.core.render.frame import render_region8, render_rgba8
from spiralis.core.render.layers import Evaluated
from tests.core.samples import piece, square_source

FORMS = ("rectangle", "ellipse", "star", "line")


def crowded(seed: int, count: int = 3 * FEWEST, words: bool = True) -> Project:
    """Return small layers of all sorts that move in all ways that a crowd knows, some of them over the edge."""
    random = np.random.default_rng(seed)

    def pair(low: float, high: float) -> tuple[float, float]:
        x, y = random.uniform(low, high, 2).tolist()
        return x, y

    layers = []
    for number in range(count):
        ease = CubicBezier(*random.uniform(0, 1, 4).round(2).tolist())
        keys = (Key(3, pair(-8, 72), ease), Key(20, pair(-8, 56)), Key(31, pair(0, 50), ease))
        if words and number % 5 == 4:
            layer = Layer("Word", "text", 0, 40, id=f"y{number}").with_values(text="kite", size=9.0 + number)
        else:
            layer = Layer("Kite", "shape", 0, 40, id=f"y{number}").with_values(
                form=FORMS[number % 4], size=pair(4, 20), fill=(*random.uniform(0, 1, 3).tolist(), 0.8),
                stroke=1.0 + number % 3, blend=("normal", "multiply", "screen")[number % 3],
            )  # fmt: skip
        skew = pair(-30, 30) if number % 4 else (0.0, 0.0)
        layer = layer.with_values(position=pair(0, 60), pivot=pair(0, 100), skew=skew)
        if number % 3:
            layer = layer.with_track("position", Track((0.0, 0.0), keys))
            layer = layer.with_track("rotation", Track(0.0, (Key(0, 0.0, ease), Key(20, 90.0), Key(40, -33.0))))
        if number % 4 == 1:
            sizes, over = (Key(0, (20.0, 150.0), ease), Key(30, (90.0, 80.0))), CubicBezier(0.5, -3.0, 0.5, 3.0)
            layer = layer.with_track("scale", Track((100.0, 100.0), sizes))
            layer = layer.with_track("opacity", Track(80.0, (Key(4, 0.0, over), Key(30, 90.0))))
        layers.append(layer)
    return Project("Crowd", (piece(*layers, length=40),))


def by_itself(project: Project, frame: float) -> np.ndarray:
    """Return a frame whose layers are all drawn one by one."""
    with mock.patch.object(plan, "FEWEST", 10_000):
        return render_frame(project, project.compositions[0].id, frame, 0.9)


def together(project: Project, frame: float) -> np.ndarray:
    return render_frame(project, project.compositions[0].id, frame, 0.9)


class CrowdTest(unittest.TestCase):
    @given(st.integers(0, 10_000), st.sampled_from((0.0, 3.0, 7.5, 20.0, 31.0, 39.0)))
    @settings(max_examples=25, deadline=None)
    def test_a_crowd_is_what_its_layers_are(self, seed: int, frame: float) -> None:
        project = crowded(seed)
        np.testing.assert_array_equal(together(project, frame), by_itself(project, frame))

    def test_the_whole_of_it_is_drawn_together(self) -> None:
        project = crowded(1)
        at = Evaluated(project, project.compositions[0], 8.0)
        self.assertTrue(all(member_of(at, layer) is not None for layer in project.compositions[0].layers))

    @given(st.lists(st.tuples(st.integers(0, 5), st.integers(0, 23)), min_size=1, max_size=6))
    @settings(max_examples=25, deadline=None)
    def test_after_edits_nothing_of_before_is_left(self, edits: list[tuple[int, int]]) -> None:
        project = crowded(7)
        together(project, 8.0)
        for what, which in edits:
            held = project.compositions[0]
            layer = held.layers[min(which, len(held.layers) - 1)]
            match what:
                case 0:
                    changed = held.with_layer(layer.with_values(pivot=(which * 3.0, 20.0)))
                case 1:
                    colour = (which / 24, 0.5, 0.1, 1.0)
                    changed = held.with_layer(layer.with_values(fill=colour))
                case 2:
                    changed = evolve(held, layers=tuple(reversed(held.layers)))
                case 3:
                    changed = held.with_layer(layer.with_values(visible=False))
                case 4:
                    changed = held.with_layer(evolve(layer, first=20))
                case _:
                    changed = held.with_layer(layer.with_values(motion_blur=True))
            project = project.with_composition(changed)
            np.testing.assert_array_equal(together(project, 8.0), by_itself(project, 8.0))
            np.testing.assert_array_equal(together(project, 9.0), by_itself(project, 9.0))

    def test_parts_of_a_frame_are_as_the_whole_is(self) -> None:
        project = crowded(3)
        whole = render_rgba8(project, project.compositions[0].id, 12, 2.0)
        for box in ((0, 0, 61, 47), (30, 20, 90, 80), (61, 47, 128, 96)):
            part = render_region8(project, project.compositions[0].id, 12, 2.0, box)
            # Dithering begins at the corner of what is drawn.
            np.testing.assert_allclose(part.astype(int), whole[box[1] : box[3], box[0] : box[2]], atol=1)

    def test_what_stands_alike_is_drawn_once(self) -> None:
        project = crowded(5)
        still = tuple(
            Layer("Dot", "shape", 0, 40, id=f"d{n}").with_values(
                form="ellipse", size=(4.0, 4.0), position=(8.0 + 2 * n, 20.0)
            )
            for n in range(FEWEST)
        )  # fmt: skip
        project = project.with_composition(evolve(project.compositions[0], layers=still))
        together(project, 0.0)
        with mock.patch("spiralis.core.render.crowd.rasterised", side_effect=AssertionError("drawn again")):
            together(project, 5.0)
        moved = project.with_composition(project.compositions[0].with_layer(still[2].with_values(position=(9.3, 21.1))))
        with mock.patch("spiralis.core.render.crowd.rasterised") as drawn:
            together(moved, 5.0)
        self.assertEqual(drawn.call_count, 1)

    def test_a_move_within_a_pixel_is_drawn_anew(self) -> None:
        dots = tuple(
            Layer("Dot", "shape", 0, 40, id=f"d{n}").with_values(
                form="ellipse", size=(6.0, 6.0), position=(9.5 + 5 * n, 20.5)
            )
            for n in range(FEWEST)
        )  # fmt: skip
        slow = Track((0.0, 0.0), (Key(0, (24.5, 20.5)), Key(39, (24.9, 20.7))))
        project = Project("Dots", (piece(*dots[:3], dots[3].with_track("position", slow), *dots[4:], length=40),))
        for frame in range(0, 39, 4):
            np.testing.assert_array_equal(together(project, frame), by_itself(project, frame))

    def test_where_none_is_seen_others_still_mix_with_all_that_is_there(self) -> None:
        away = tuple(
            Layer("Dot", "shape", 0, 40, id=f"d{n}").with_values(
                form="ellipse", size=(4.0, 4.0), position=(-90.0 - n, 20.0)
            )
            for n in range(FEWEST)
        )  # fmt: skip
        hole = Layer("Hole", "shape", 0, 40, id="hole").with_values(
            form="ellipse", size=(20.0, 20.0), position=(30.0, 20.0), blend="keep-within"
        )
        project = Project("Away", (piece(hole, *away, length=40),))
        np.testing.assert_array_equal(together(project, 3.0), by_itself(project, 3.0))

    def test_what_is_kept_holds_little_more_memory_than_it_takes(self) -> None:
        random = np.random.default_rng(4)
        dots = []
        for n in range(40):
            stop = Key(n + 1, (float(random.uniform(4, 60)), float(random.uniform(4, 44))))
            dot = Layer("Dot", "shape", 0, 40, id=f"d{n}").with_values(form="star", size=(6.0, 6.0))
            dots.append(dot.with_track("position", Track((0.0, 0.0), (Key(0, (0.3, 0.7)), stop))))
        project = Project("Stopping", (piece(*dots, length=40),))
        with mock.patch.multiple("spiralis.core.render.crowd", _LITTLE=1):
            for frame in range(40):
                np.testing.assert_array_equal(together(project, frame), by_itself(project, frame))
                held = next(reversed(list(_drawn._held.values()))).value
                needed = _sizes(held.areas[held.addresses != 0]).sum()
                self.assertLessEqual(_bytes(held.holders), 6 * needed, frame)

    def test_other_sources_make_other_stamps(self) -> None:
        project = crowded(2)
        word = project.compositions[0].layers[4]
        before = member_of(Evaluated(project, project.compositions[0], 0.0), word)
        other = evolve(project, sources=(square_source(),))
        after = member_of(Evaluated(other, other.compositions[0], 0.0), word)
        self.assertTrue(before is not None and after is not None and before is not after)

    def test_maps_are_those_of_geometry(self) -> None:
        project = crowded(11)
        held, grid = project.compositions[0], Affine(0.7, 0.0, 0.0, 0.7, 3.0, -2.0)
        for frame in (0.0, 4.3, 20.0, 33.3):
            at = Evaluated(project, held, frame)
            members = [member for layer in held.layers if (member := member_of(at, layer)) is not None]
            with mock.patch("spiralis.core.render.crowd._around", side_effect=InterruptedError) as seen:
                self.assertRaises(InterruptedError, crowd, at, grid, (0.0, 0.0, 64.0, 48.0), held.layers, members)
            for layer, made in zip(held.layers, seen.call_args.args[0].tolist(), strict=True):
                values = at.values(layer)
                left, top, right, bottom = at.box(layer)
                x, y = values["pivot"]
                pivot = (left + (right - left) * x / 100, top + (bottom - top) * y / 100)
                own = placement(values["position"], values["scale"], values["rotation"], values["skew"], pivot)
                self.assertEqual(tuple(made), tuple(grid @ own))

    def test_what_takes_more_is_left_alone(self) -> None:
        plain = Layer("Kite", "shape", 0, 40, id="kite").with_values(form="star")
        keys = (Key(0, 0.0), Key(9, 90.0))
        path = (Key(0, (0.0, 0.0), handle_out=(9.0, 9.0)), Key(9, (9.0, 0.0)))
        other = Layer("Other", "shape", 0, 40, id="other")
        for name, layer in {
            "x and y apart": plain.with_values(separate=True, position_x=4.0),
            "turned along its way": plain.with_values(along_path=True),
            "soft": plain.with_values(feather=(2.0, 2.0)),
            "hangs on another": evolve(plain, parent="other"),
            "repeats": plain.with_track("rotation", Track(0.0, keys, after=Extend(Rule.REPEAT))),
            "follows": plain.with_track("rotation", Track(0.0, driver=Follow("other", "rotation"))),
            "wobbles": plain.with_track("rotation", Track(0.0, wobble=Wobble(2.0, 3.0))),
            "bent": plain.with_track("position", Track((0.0, 0.0), path)),
            "holds": plain.with_track("rotation", Track(0.0, (Key(0, 0.0, HOLD), Key(9, 90.0)))),
            "another colour": plain.with_track("stroke", Track(0.0, (Key(0, 0.0), Key(9, 5.0)))),
            "reaches beyond itself": plain.with_values(blend="keep-within"),
            "hidden": plain.with_values(visible=False),
            "in depth": plain.with_values(depth=True),
        }.items():
            project = Project("One", (piece(layer, other, length=40),))
            self.assertIsNone(member_of(Evaluated(project, project.compositions[0], 0.0), layer), name)


if __name__ == "__main__":
    unittest.main()
