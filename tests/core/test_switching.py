"""Switches and choices that take other values along: what is seen stays, and nothing goes."""

from __future__ import annotations

import unittest
from fractions import Fraction

import numpy as np
from attrs import evolve

from spiralis.core.editing.linking import set_seen_value
from spiralis.core.editing.switching import switched, takes_along
from spiralis.core.model import Composition, Key, Kind, Layer, Project, Source, Track, layer_kinds
from spiralis.core.raster.kinds.shape import FORMS
from spiralis.core.raster.typesetting import FLOWS
from spiralis.core.render.frame import render_frame
from spiralis.core.render.layers import Evaluated
from tests.core.samples import backdrop, square_source

LENGTH = 40


def clip(count: int, **values: object) -> tuple[Project, Layer]:
    """Return a project and a flipbook whose drawings stay for unequal times."""
    drawings = tuple((f"drawing {n}", 1 + (n * 5) % 3) for n in range(count))
    layer = Layer("Book", "flipbook", 3, LENGTH, id="book")
    return Project(), layer.with_values(**{"drawings": drawings, **values})


class RetimeTest(unittest.TestCase):
    def shown(self, project: Project, layer: Layer) -> list[object]:
        piece = project.compositions[0].with_layer(layer)
        start = Evaluated(project.with_composition(piece), piece, 0.0)
        return [start.at_frame(frame).own_frame(piece.layer(layer.id)) for frame in range(layer.first, layer.last)]

    def switched(self, project: Project, layer: Layer, on: bool = True) -> tuple[Project, Layer]:
        piece = Composition("piece", 32, 32, Fraction(25), LENGTH, layers=(layer,), id="piece")
        project = evolve(project, compositions=(*project.compositions, piece))
        project = evolve(project, compositions=(piece, *(c for c in project.compositions if c is not piece)))
        made, said = switched(Evaluated(project, piece, 5.0), [layer.id], "retime", on)
        self.assertEqual("", said)
        return project, made.layer(layer.id)

    def test_what_shows_when_stays(self) -> None:
        cases = (
            {}, {"speed": 40.0}, {"speed": 230.0}, {"reverse": True}, {"ends": "ping-pong"}, {"ends": "hold"},
            {"own_rate": 25.0}, {"own_rate": 24.0, "start": 2.0}, {"fit": True},
            {"step_time": 3.0}, {"own_rate": 7.0, "reverse": True, "ends": "hold"},
        )  # fmt: skip
        for values in cases:
            with self.subTest(values=values):
                project, made = self.switched(*(given := clip(7, **values)))
                self.assertEqual(self.shown(project, given[1]), self.shown(project, made))

    def test_an_even_way_is_two_keys(self) -> None:
        even = tuple((f"drawing {n}", 1) for n in range(60))
        _, made = self.switched(*clip(0, drawings=even, own_rate=24.0, start=3.0))
        keys = [(key.frame, key.value) for key in made.track("own_frame").keys]
        self.assertEqual([(3, 0.0), (40, 35.52)], keys)

    def test_footage_that_is_cut_and_loops(self) -> None:
        source = Source("clip", "0" * 64, ".mp4", 8, 8, "footage", id="clip", frames=90, rate=Fraction(30), data=b"-")
        layer = Layer("Clip", "footage", 0, LENGTH, id="clip").with_values(source="clip", start=1.0)
        for values in ({}, {"in": 12.0, "out": 25.0}, {"in": 12.0, "out": 25.0, "ends": "ping-pong", "speed": 250.0}):
            with self.subTest(values=values):
                start = Project(sources=(source,)), layer.with_values(**values)
                project, made = self.switched(*start)
                self.assertEqual(self.shown(project, start[1]), self.shown(project, made))

    def test_a_nested_composition_of_another_rate(self) -> None:
        inner = Composition("inner", 8, 8, Fraction(30), 12, id="inner", loop=True)
        layer = Layer("Nest", "nested", 4, 31, id="nest").with_values(composition="inner", start=6.0)
        project, made = self.switched(Project(compositions=(inner,)), layer)
        shown = [float(each) for each in self.shown(project, made)]  # type: ignore[arg-type]
        before = [float(each) for each in self.shown(project, layer)]  # type: ignore[arg-type]
        np.testing.assert_allclose(before, shown, atol=1e-5)
        self.assertEqual([4, 31], [key.frame for key in made.track("own_frame").keys])

    def test_own_frames_that_were_set_come_back(self) -> None:
        keys = (Key(3, 6.0), Key(20, 1.0))
        project, layer = clip(7)
        layer = layer.with_values(retime=True).with_track("own_frame", Track(0.0, keys))
        _, off = self.switched(project, layer, False)
        self.assertFalse(off.track("retime").value)
        _, on = self.switched(project, off)
        self.assertEqual(layer, on)


class ThereAndBackTest(unittest.TestCase):
    """Whatever a switch or a choice of any kind of layer is set to, setting it back shows what was seen before."""

    def set(self, project: Project, layer: Layer, name: str, value: object) -> Project:
        piece = project.composition("piece")
        if takes_along([layer], name):
            return project.with_composition(switched(Evaluated(project, piece, 4.0), [layer.id], name, value)[0])
        return project.with_composition(piece.with_layer(set_seen_value(piece, layer, name, value, 4)))

    def test_each_switch_and_choice_of_each_kind(self) -> None:
        blue = backdrop(30, 20, (0.2, 0.5, 0.9, 1.0))
        inner = Composition("inner", 30, 20, Fraction(30), 7, id="inner", layers=(blue,))
        ground = Layer("Ground", "backdrop", 0, LENGTH, id="ground")
        moved = Track((20.0, 30.0), (Key(0, (20.0, 30.0)), Key(9, (50.0, 25.0))))
        square = square_source()
        content = {"source": square.id, "composition": "inner", "text": "Kite", "form": "star", "of": "ground",
                   "drawings": ((square.id, 3),), "shape_layer": "ground"}  # fmt: skip
        asked = 0
        for kind in layer_kinds():
            if kind.name == "footage":
                continue  # Its picture needs a file; what shows when is looked at above.
            layer = Layer("Layer", kind.name, 0, LENGTH, id="layer").with_track("position", moved)
            layer = layer.with_values(rotation=20.0, **{n: v for n, v in content.items() if layer.has(n)})
            piece = Composition("piece", 64, 48, Fraction(25), LENGTH, layers=(layer, ground), id="piece")
            start = Project(sources=(square,), compositions=(piece, inner))
            before = [render_frame(start, "piece", frame) for frame in (0, 13)]
            for parameter in kind.parameters:
                if parameter.kind not in (Kind.SWITCH, Kind.CHOICE):
                    continue
                now = layer.track(parameter.name).value
                others = (not now,) if parameter.kind is Kind.SWITCH else parameter.choices
                for value in [each for each in others if each != now]:
                    with self.subTest(kind=kind.name, name=parameter.name, value=value):
                        there = self.set(start, layer, parameter.name, value)
                        changed = there.composition("piece").layer("layer")
                        self.assertEqual(value, changed.track(parameter.name).value)
                        back = self.set(there, changed, parameter.name, now)
                        for frame, seen in zip((0, 13), before, strict=True):
                            off = np.abs(render_frame(back, "piece", frame) - seen).max()
                            self.assertLess(float(off), 1e-4)
                        asked += 1
        self.assertGreater(asked, 300)


class FlowTest(unittest.TestCase):
    """Words set in lines, in a box, fitted or stretched."""

    def setUp(self) -> None:
        place = {"position": (150.0, 90.0), "pivot": (20.0, 90.0), "rotation": 25.0, "scale": (120.0, 80.0)}
        words = Layer("Words", "text", 0, LENGTH, id="words").with_values(text="Lift off", size=40.0, **place)
        self.words = words.with_track("position", Track((150.0, 90.0), (Key(0, (150.0, 90.0)), Key(9, (120.0, 80.0)))))
        self.hung = Layer("Hung", "shape", 0, LENGTH, id="hung", parent="words").with_values(
            form="rectangle", size=(20.0, 8.0), position=(30.0, 70.0), fill=(1.0, 0.0, 0.0, 1.0)
        )

    def piece(self, *layers: Layer) -> Composition:
        return Composition("piece", 300, 180, Fraction(25), LENGTH, layers=layers, id="piece")

    def set(self, piece: Composition, *flows: str) -> Composition:
        for flow in flows:
            piece = switched(Evaluated(Project(compositions=(piece,)), piece, 0.0), ["words"], "flow", flow)[0]
        return piece

    def off(self, first: Composition, second: Composition, frame: int = 0) -> float:
        one, other = (render_frame(Project(compositions=(piece,)), "piece", frame) for piece in (first, second))
        return float(np.abs(one - other).max())

    def test_nothing_is_seen_to_change_where_nobody_has_set_a_box(self) -> None:
        start = self.piece(self.words, self.hung)
        for flows in ((flow,) for flow in FLOWS[1:]):
            for frame in (0, 6):
                with self.subTest(flows=flows, frame=frame):
                    self.assertLess(self.off(start, self.set(start, *flows), frame), 0.05)

    def test_nor_on_the_way_from_one_to_the_other(self) -> None:
        start = self.piece(self.words, self.hung)
        for flows in (FLOWS[1:], FLOWS[:0:-1], ("stretch", "box"), ("fit width", "stretch", "fit box", "lines")):
            with self.subTest(flows=flows):
                self.assertLess(self.off(start, self.set(start, *flows)), 0.05)

    def test_a_box_that_was_set_stays_and_the_letters_keep_their_middle(self) -> None:
        start = self.piece(self.words.with_values(frame=(170.0, 70.0), rotation=0.0))
        for flow in FLOWS[1:]:
            made = self.set(start, flow)
            self.assertEqual((170.0, 70.0), made.layer("words").track("frame").value)
            middles = []
            for piece in (start, made):
                seen = render_frame(Project(compositions=(piece,)), "piece", 0)[:, :, 3]
                middles.append([(a[0] + a[-1]) / 2 for a in (np.flatnonzero(seen.max(axis)) for axis in (0, 1))])
            np.testing.assert_allclose(middles[0], middles[1], atol=2.5)

    def test_a_fitted_size_is_kept_but_not_over_keys(self) -> None:
        start = self.piece(self.words.with_values(frame=(200.0, 40.0), rotation=0.0, scale=(100.0, 100.0)))
        wide = self.set(start, "fit width")
        lines = self.set(wide, "lines")
        self.assertGreater(lines.layer("words").track("size").value, 45.0)
        self.assertLess(self.off(wide, lines), 0.05)
        keyed = self.piece(start.layer("words").with_track("size", Track(40.0, (Key(0, 40.0), Key(9, 50.0)))))
        self.assertEqual(
            keyed.layer("words").track("size"), self.set(keyed, "fit width", "lines").layer("words").track("size")
        )

    def test_a_box_with_keys_stays(self) -> None:
        track = Track((90.0, 60.0), (Key(0, (90.0, 60.0)), Key(20, (120.0, 60.0))))
        start = self.piece(self.words.with_track("frame", track))
        self.assertEqual(track, self.set(start, "box", "stretch", "lines").layer("words").track("frame"))


class FormTest(unittest.TestCase):
    def setUp(self) -> None:
        place = {"position": (30.0, 34.0), "pivot": (20.0, 90.0), "rotation": 30.0, "scale": (120.0, 80.0)}
        star = Layer("Form", "shape", 0, LENGTH, id="form").with_values(size=(40.0, 24.0), form="star")
        self.layer = star.with_values(**place)

    def piece(self, *layers: Layer) -> Composition:
        return Composition("piece", 64, 64, Fraction(25), LENGTH, layers=layers, id="piece")

    def chosen(self, piece: Composition, name: str, value: str) -> tuple[Composition, str]:
        at = Evaluated(Project(compositions=(piece,)), piece, 0.0)
        return switched(at, [layer.id for layer in piece.layers], name, value)

    def picture(self, piece: Composition) -> np.ndarray:
        return render_frame(Project(compositions=(piece,)), piece.id, 0)

    def test_a_form_becomes_a_drawing_and_a_form_again_where_it_is_seen(self) -> None:
        for form in FORMS[1:]:
            with self.subTest(form=form):
                before = self.piece(self.layer.with_values(form=form, stroke=3.0))
                drawn, said = self.chosen(before, "form", "drawing")
                self.assertEqual("", said)
                self.assertEqual("drawing", drawn.layer("form").track("form").value)
                back, _ = self.chosen(drawn, "form", form)
                for made in (drawn, back):
                    self.assertLess(float(np.abs(self.picture(before) - self.picture(made)).max()), 3 / 255)

    def test_a_drawing_that_was_there_comes_back(self) -> None:
        drawn, _ = self.chosen(self.piece(self.layer), "form", "drawing")
        art = drawn.layer("form").track("art").value
        other, _ = self.chosen(drawn, "form", "ellipse")
        again, _ = self.chosen(other, "form", "drawing")
        self.assertEqual(art, again.layer("form").track("art").value)

    def test_a_drawing_without_a_size_gives_the_form_its_own(self) -> None:
        drawn, _ = self.chosen(self.piece(self.layer), "form", "drawing")
        layer = drawn.layer("form")
        bare = evolve(layer, properties={n: t for n, t in layer.properties.items() if n != "size"})
        made, _ = self.chosen(self.piece(bare), "form", "rectangle")
        left, top, right, bottom = Evaluated(Project(), self.piece(bare), 0.0).box(bare)
        size = made.layer("form").track("size").value
        np.testing.assert_allclose((right - left, bottom - top), size, atol=0.01)

    def test_what_rests_is_said(self) -> None:
        grows = self.layer.with_track("size", Track((10.0, 10.0), (Key(0, (10.0, 10.0)), Key(9, (40.0, 40.0)))))
        drawn, said = self.chosen(self.piece(grows), "form", "drawing")
        self.assertEqual("The drawing is the form of this frame; what moved that rests: Form: Size.", said)
        self.assertEqual(2, len(drawn.layer("form").track("size").keys))

    def test_keys_are_set_as_ever(self) -> None:
        keyed = self.layer.with_track("form", Track("star", (Key(0, "star"), Key(9, "line"))))
        self.assertTrue(takes_along([self.layer], "form"))
        self.assertFalse(takes_along([keyed], "form"))
        self.assertFalse(takes_along([self.layer, keyed], "form"))
        self.assertFalse(takes_along([self.layer], "corners"))
