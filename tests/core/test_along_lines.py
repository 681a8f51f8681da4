"""Layers that go along the outline of a shape: where they are, how they turn, what edits do to them."""

from __future__ import annotations

import math
import unittest

import numpy as np
import skia
from attrs import evolve
from hypothesis import given
from hypothesis import strategies as st

from spiralis.core.animation.easing import LINEAR
from spiralis.core.checks.findings import mended
from spiralis.core.checks.seam import check
from spiralis.core.editing.along_paths import going_along, path_among
from spiralis.core.editing.edge_pinning import let_go_of, pin_as_it_stands, with_pins_along
from spiralis.core.errors import ModelError
from spiralis.core.model import Composition, EdgePin, Key, Layer, Project, Track
from spiralis.core.model.art import Bundle, Figure, Stroke, contours_of
from spiralis.core.model.edge_pins import LINE_ENDS
from spiralis.core.raster.vectors import skia_path
from spiralis.core.render.layers import Evaluated, matrices_over
from spiralis.core.storage.conversion import from_json, to_json

END, BEGINNING = LINE_ENDS
WAVE = "M 0 60 C 40 -40 80 -40 120 60 C 160 160 180 60 200 40"


def line(data: str = WAVE, **values: object) -> Layer:
    art = Bundle((Figure(contours_of(data), None, stroke=Stroke((1.0, 1.0, 1.0, 1.0), 2.0)),))
    look = {"form": "drawing", "art": art, "position": (150.0, 100.0), "stroke": 0.0, "fill": (0.0,) * 4}
    return Layer("Line", "shape", 0, 40, id="line").with_values(**(look | values))


def dot(name: str = "dot", to: str = BEGINNING, along: float = 0.0, **values: object) -> Layer:
    pins = tuple(EdgePin(edge, to, "line", along=along) for edge in ("pivot across", "pivot down"))
    look = {"form": "rectangle", "size": (20.0, 8.0), "position": (10.0, 10.0)} | values
    return Layer(name.capitalize(), "shape", 0, 40, id=name, edge_pins=pins).with_values(**look)


def at_of(*layers: Layer, frame: float = 0.0) -> Evaluated:
    made = Composition("Piece", 300, 200, 25, 40, id="piece", layers=layers)
    return Evaluated(Project("P", (made,)), made, frame)


def pivot(at: Evaluated, name: str = "dot") -> tuple[float, float]:
    layer = at.composition.layer(name)
    left, top, right, bottom = at.box(layer)
    across, down = at.values(layer)["pivot"]
    return at.matrix(layer).apply(left + (right - left) * across / 100, top + (bottom - top) * down / 100)


def turn(at: Evaluated, name: str = "dot") -> float:
    x, y = at.matrix(at.composition.layer(name)).apply_direction(1, 0)
    return math.degrees(math.atan2(y, x))


def measured(shape: Layer, share: float) -> tuple[tuple[float, float], float]:
    """Return the place and the direction in degrees at a share of a drawing's line, by Skia's measure of it."""
    at = at_of(shape)
    (figure,) = at.values(shape)["art"].items
    measure = skia.PathMeasure(skia_path(figure), False, 64.0)
    point, tangent = measure.getPosTan(share * measure.getLength())
    matrix = at.matrix(shape)
    x, y = matrix.apply_direction(tangent.x(), tangent.y())
    return matrix.apply(point.x(), point.y()), math.degrees(math.atan2(y, x))


class PlaceTest(unittest.TestCase):
    @given(st.floats(0, 99.9), st.floats(-180, 180), st.floats(40, 200), st.floats(40, 200))
    def test_it_stands_on_the_line_wherever_that_is(self, share: float, angle: float, wide: float, high: float) -> None:
        shape = line(rotation=angle, scale=(wide, -high), drawn_offset=share)
        (x, y), way = measured(shape, share / 100)
        at = at_of(dot(along_path=True, rotation=15.0, pivot=(20.0, 90.0)), shape)
        np.testing.assert_allclose(pivot(at), (x, y), atol=0.15)
        self.assertLess(abs((turn(at) - 15.0 - way + 180) % 360 - 180), 1.5)

    def test_it_goes_with_what_is_drawn(self) -> None:
        for values, to, along, share in (
            ({"drawn_to": 30.0}, END, 0.0, 0.3), ({"drawn_to": 30.0}, BEGINNING, 0.0, 0.0),
            ({"drawn_from": 20.0, "drawn_to": 70.0}, BEGINNING, 5.0, 0.25), ({}, END, 0.0, 1.0),
            ({"drawn_from": 70.0, "drawn_to": 20.0}, END, 0.0, 0.7), ({"drawn_offset": 40.0}, END, 0.0, 0.4),
            ({"drawn_offset": -25.0}, BEGINNING, 0.0, 0.75), ({"drawn_offset": 10.0}, BEGINNING, -30.0, 0.8),
        ):  # fmt: skip
            shape = line(**values)
            at = at_of(dot(to=to, along=along), shape)
            np.testing.assert_allclose(pivot(at), measured(line(), share)[0], atol=0.15, err_msg=str((values, to)))

    def test_round_a_circle_at_an_even_speed(self) -> None:
        ring = Layer("Ring", "shape", 0, 40, id="line").with_values(
            form="ellipse", size=(100.0, 100.0), position=(150.0, 100.0)
        ).with_track("drawn_offset", Track(0.0, (Key(0, 0.0, LINEAR), Key(40, 100.0))))  # fmt: skip
        places = np.array([pivot(at_of(dot(), ring, frame=frame)) for frame in range(41)]) - (150, 100)
        np.testing.assert_allclose(np.hypot(*places.T), 50, atol=0.05)
        steps = np.diff(np.unwrap(np.arctan2(places[:, 1], places[:, 0])))
        np.testing.assert_allclose(np.abs(steps), 2 * math.pi / 40, atol=2e-3)
        np.testing.assert_allclose(places[0], places[-1], atol=1e-6)

    def test_what_either_hangs_on_moves_it_no_further(self) -> None:
        carrier = Layer("Carrier", "carrier", 0, 40, id="carrier").with_values(position=(30.0, 20.0), rotation=70.0)
        shape = line(drawn_offset=35.0)
        for layers in (
            (evolve(dot(along_path=True), parent="carrier"), shape, carrier),
            (dot(along_path=True), evolve(shape, parent="carrier"), carrier),
        ):
            at = at_of(*layers)
            seen = at.matrix(at.composition.layer("line"))
            free = at_of(shape)
            own = (free.matrix(shape).inverse() or seen).apply(*measured(line(), 0.35)[0])
            np.testing.assert_allclose(pivot(at), seen.apply(*own), atol=0.15)
            x, y = seen.apply_direction(*(free.matrix(shape).inverse() or seen).apply_direction(
                *(f(math.radians(measured(line(), 0.35)[1])) for f in (math.cos, math.sin))))  # fmt: skip
            self.assertAlmostEqual((turn(at) - math.degrees(math.atan2(y, x)) + 180) % 360 - 180, 0, delta=1.0)

    def test_it_turns_round_where_it_goes_back(self) -> None:
        keys = Track(0.0, (Key(0, 10.0, LINEAR), Key(20, 60.0, LINEAR), Key(40, 10.0)))
        shape = line().with_track("drawn_offset", keys)
        turns = [turn(at_of(dot(along_path=True), shape, frame=frame)) for frame in (8, 32)]
        self.assertAlmostEqual(abs(turns[0] - turns[1]), 180, delta=0.01)
        still = [turn(at_of(dot(), shape, frame=frame)) for frame in (8, 32)]
        self.assertEqual(still, [0.0, 0.0])

    def test_an_edge_and_a_gap_of_its_own(self) -> None:
        pins = (EdgePin("left", BEGINNING, "line", 3.0), EdgePin("bottom", BEGINNING, "line", -2.0))
        at = at_of(evolve(dot(), edge_pins=pins), line(drawn_offset=50.0))
        left, _, _, bottom = at.matrix(at.composition.layer("dot")).box(at.box(at.composition.layer("dot")))
        np.testing.assert_allclose((left - 3, bottom + 2), measured(line(), 0.5)[0], atol=0.15)

    def test_it_is_blurred_along_the_line(self) -> None:
        shape = line().with_track("drawn_offset", Track(0.0, (Key(0, 0.0, LINEAR), Key(40, 100.0))))
        at = at_of(dot(along_path=True), shape, frame=12)
        times = np.array([11.75, 12.0, 12.25])
        for time, matrix in zip(times, matrices_over(at, at.composition.layer("dot"), times), strict=True):
            there = at_of(dot(along_path=True), shape, frame=float(time))
            np.testing.assert_allclose(matrix, there.matrix(there.composition.layer("dot")), atol=1e-9)

    def test_what_has_no_outline_holds_nothing(self) -> None:
        picture = Layer("Line", "clouds", 0, 40, id="line")
        for others in ((picture,), (), (line("M 0 0"),)):
            self.assertEqual(pivot(at_of(dot(along_path=True), *others)), (10.0, 10.0))

    def test_what_makes_no_sense_is_refused(self) -> None:
        for given_ in (("left", END, ""), ("pivot across", "top", "line"), ("drawn end", "left", "line")):
            with self.assertRaises(ModelError):
                EdgePin(*given_)
        with self.assertRaises(ModelError):
            EdgePin("left", END, "line", along=math.nan)
        with self.assertRaisesRegex(ModelError, "circle"):
            at_of(dot(), evolve(line(), parent="dot"))


class EditingTest(unittest.TestCase):
    def along(self, shape: Layer, *layers: Layer) -> Composition:
        return going_along(at_of(*layers, shape), layers, shape)

    def free(self, name: str, **values: object) -> Layer:
        return evolve(dot(name, **values), edge_pins=())

    def test_a_whole_line_gets_keys_that_leave_it_as_it_is(self) -> None:
        made = self.along(line(), self.free("one"), self.free("two"))
        track = made.layer("line").track("drawn_offset")
        self.assertEqual([(key.frame, key.value) for key in track.keys], [(0, 0.0), (40, 100.0)])
        self.assertEqual([pin.to for pin in made.layer("one").edge_pins], [BEGINNING] * 2)
        self.assertEqual([made.layer(name).edge_pins[0].along for name in ("one", "two")], [0.0, -50.0])
        at = Evaluated(Project("P", (made,)), made, 10)
        np.testing.assert_allclose(pivot(at, "one"), measured(line(), 0.25)[0], atol=0.15)
        np.testing.assert_allclose(pivot(at, "two"), measured(line(), 0.75)[0], atol=0.15)

    def test_a_line_that_is_drawn_takes_it_along_at_its_end(self) -> None:
        shape = line().with_track("drawn_to", Track(0.0, (Key(0, 0.0, LINEAR), Key(20, 100.0))))
        made = self.along(shape, self.free("one"))
        self.assertEqual(made.layer("line"), shape)
        self.assertEqual([pin.to for pin in made.layer("one").edge_pins], [END] * 2)
        moves = Track(0.0, (Key(0, 0.0), Key(20, 50.0)))
        for moved in (line().with_track("drawn_offset", moves), shape.with_track("drawn_offset", moves)):
            made = self.along(moved, self.free("one"))
            self.assertEqual(made.layer("line"), moved)
            self.assertEqual([pin.to for pin in made.layer("one").edge_pins], [BEGINNING] * 2)

    def test_which_of_the_chosen_is_the_line(self) -> None:
        arrow, clouds = self.free("arrow"), Layer("Clouds", "clouds", 0, 40, id="clouds")
        self.assertEqual(path_among([clouds, arrow], "clouds"), arrow)
        self.assertEqual(path_among([arrow, line()], "arrow"), line())
        other = self.free("other")
        self.assertEqual(path_among([arrow, other], "other"), other)
        self.assertIsNone(path_among([clouds], "clouds"))
        with self.assertRaisesRegex(ModelError, "no outline"):
            self.along(line("M 0 0"), arrow)

    def test_where_the_line_goes_it_goes_on_by_keys(self) -> None:
        shape = line().with_track("drawn_offset", Track(0.0, (Key(0, 0.0, LINEAR), Key(40, 60.0))))
        at = at_of(dot(along_path=True), shape)
        made, names = let_go_of(at, ["line"])
        self.assertEqual(names, ["Dot"])
        bare = evolve(made, layers=tuple(y for y in made.layers if y.id != "line"))
        for frame in (0, 13, 40):
            before = at_of(dot(along_path=True), shape, frame=frame)
            after = Evaluated(Project("P", (bare,)), bare, frame)
            np.testing.assert_allclose(pivot(after), pivot(before), atol=1e-3)
            self.assertAlmostEqual(turn(after), turn(before), places=3)

    def test_pins_are_kept_in_the_file(self) -> None:
        start = at_of(with_pins_along(dot(to=END), 12.5), line()).scene.project
        kept = from_json(to_json(start), "x")
        self.assertEqual(kept.compositions, start.compositions)
        self.assertEqual([pin.along for pin in kept.compositions[0].layer("dot").edge_pins], [12.5, 12.5])

    def test_only_what_lies_on_the_line_goes_along_it(self) -> None:
        pins = (EdgePin("left", "left", gap=4.0), EdgePin("bottom", END, "line"))
        made = with_pins_along(evolve(dot(), edge_pins=pins), 30.0)
        self.assertEqual(made.edge_pins, (pins[0], evolve(pins[1], along=30.0)))

    def test_pinning_by_hand(self) -> None:
        at = at_of(self.free("one"), line())
        one = at.composition.layer("one")
        self.assertEqual(pin_as_it_stands(at, one, "middle", END, "line"), EdgePin("middle", END, "line"))
        pivoted = pin_as_it_stands(at, one, "pivot across", "left", "")
        self.assertEqual(pivoted.gap, 10.0)
        with self.assertRaisesRegex(ModelError, "no outline"):
            pin_as_it_stands(at_of(one, line("M 0 0")), one, "middle", END, "line")


class SeamTest(unittest.TestCase):
    def causes(self, shape: Layer, *layers: Layer):
        made = Composition("Piece", 300, 200, 25, 40, id="piece", layers=(*layers, shape))
        project = Project("P", (made,))
        return project, made, [cause for cause in check(project, made).causes if cause.finder == "line-jump"]

    def test_an_open_line_jumps_and_is_mended_and_a_closed_one_does_not(self) -> None:
        keys = Track(0.0, (Key(0, 0.0, LINEAR), Key(40, 100.0)))
        ring = line("M 0 0 L 60 0 L 60 60 L 0 60 Z").with_track("drawn_offset", keys)
        self.assertEqual(self.causes(ring, dot())[2], [])
        project, _, causes = self.causes(line().with_track("drawn_offset", keys), dot())
        (cause,) = causes
        ends = [measured(line(), share)[0] for share in (0, 1)]
        self.assertAlmostEqual(cause.size, math.dist(*ends), delta=0.5)
        self.assertIn("Dot: it ends", cause.sentence)
        after = mended(project, cause, cause.mends[0])
        back = after.composition("piece")
        self.assertEqual([c for c in check(after, back).causes if c.finder == "line-jump"], [])

    def test_what_jumps_by_its_drawn_part_is_told_once(self) -> None:
        keys = Track(0.0, (Key(0, 0.0, LINEAR), Key(40, 100.0)))
        self.assertEqual(self.causes(line().with_track("drawn_to", keys), dot(to=END))[2], [])


if __name__ == "__main__":
    unittest.main()
