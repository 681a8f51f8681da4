"""Limits of the model, history, pure edits, reparenting."""

import subprocess
import sys
import unittest
from fractions import Fraction

import numpy as np
from attrs import evolve
from hypothesis import given
from hypothesis import strategies as st

from spiralis.core.animation.tracks import value_at
from spiralis.core.editing.duplicating import duplicated
from spiralis.core.editing.edits import (
    moved_in_time,
    put_key,
    reordered,
    set_value,
    toggle_key,
    unused_name,
    with_length,
)
from spiralis.core.editing.reformat import reformatted
from spiralis.core.editing.removing import removed
from spiralis.core.editing.reparenting import with_parent
from spiralis.core.errors import ModelError, SpiralisError, UnknownName
from spiralis.core.model import (
    Composition,
    History,
    Key,
    Kind,
    Layer,
    Project,
    Track,
    layer_kind,
    layer_kinds,
    register_kind,
)
from spiralis.core.model.art import Bundle, Figure, contours_of
from spiralis.core.model.drivers import DialJoin
from spiralis.core.render.frame import render_frame
from spiralis.core.render.layers import Evaluated
from spiralis.core.storage.conversion import from_json, to_json
from spiralis.demo.project import demo_project
from tests.core.samples import moving, piece, project, square_source


def layer(name: str = "A", **values: object) -> Layer:
    return evolve(Layer(name, "picture", 0, 20), id=name.lower(), **values)


class LimitsTest(unittest.TestCase):
    def test_formats_outside_the_limits_are_refused_with_the_value(self) -> None:
        for width, height, rate, length, word in (
            (0, 10, 25, 5, "width"), (10, 20_001, 25, 5, "height"), (10, 10, 0, 5, "rate"), (10, 10, 241, 5, "rate"),
            (10, 10, 25, 0, "frames"),
        ):  # fmt: skip
            with self.assertRaisesRegex(ModelError, word):
                Composition("a", width, height, Fraction(rate), length)

    def test_parents_in_a_circle_are_named(self) -> None:
        layers = (layer("A", parent="b"), layer("B", parent="c"), layer("C", parent="a"))
        with self.assertRaisesRegex(ModelError, "A → B → C → A"):
            piece(*layers)
        with self.assertRaises(ModelError):
            piece(layer("A", parent="a"))

    def test_values_outside_a_range_name_property_and_value(self) -> None:
        with self.assertRaisesRegex(ModelError, "Opacity takes between 0 and 100%, and '101"):
            layer().with_values(opacity=101.0)
        for name, value in (
            ("position", (1.0,)),
            ("scale", "big"),
            ("blend", "sparkle"),
            ("visible", 1),
            ("rotation", float("nan")),
        ):
            with self.assertRaises(ModelError):
                layer().with_values(**{name: value})

    def test_unknown_properties_and_kinds_list_the_known(self) -> None:
        with self.assertRaisesRegex(UnknownName, "position"):
            layer().with_values(sparkle=1)
        with self.assertRaisesRegex(UnknownName, "backdrop"):
            Layer("a", "hologram", 0, 5)
        with self.assertRaises(ValueError):
            register_kind(layer_kind("text"))

    def test_layers_are_frozen(self) -> None:
        with self.assertRaises(AttributeError):
            layer().name = "b"  # type: ignore[misc]
        with self.assertRaises(TypeError):
            layer().properties["opacity"] = Track(1.0)  # type: ignore[index]


class HistoryTest(unittest.TestCase):
    @given(st.lists(st.sampled_from(["edit", "undo", "redo", "drag"]), max_size=40))
    def test_undo_all_and_redo_all_return_start_and_end(self, moves: list[str]) -> None:
        history = History(Project("0"))
        for number, move in enumerate(moves, start=1):
            match move:
                case "undo":
                    history.undo()
                case "redo":
                    history.redo()
                case _:
                    history.commit(move, Project(str(number)), merge="d" if move == "drag" else None)
        while history.redo_name:
            history.redo()
        end = history.current
        while history.undo_name:
            history.undo()
        self.assertEqual(history.current.project, Project("0"))
        while history.redo_name:
            history.redo()
        self.assertIs(history.current, end)

    def test_a_drag_is_one_step_and_the_next_drag_another(self) -> None:
        history = History(Project("0"))
        for number in range(5):
            history.commit("Move", Project(f"a{number}"), merge="drag-1")
        history.close_step()
        history.commit("Move", Project("b"), merge="drag-1")
        self.assertEqual(history.undo().project.name, "a4")
        self.assertEqual(history.undo().project.name, "0")

    def test_no_two_histories_share_a_serial(self) -> None:
        first, second = History(Project("0")), History(Project("0"))
        first.commit("a", Project("1"))
        second.commit("a", Project("1"))
        serials = {first.current.serial, first.undo().serial, second.current.serial, second.undo().serial}
        self.assertEqual(len(serials), 4)

    def test_unsaved_follows_undo(self) -> None:
        history = History(Project("0"))
        self.assertFalse(history.unsaved)
        history.commit("a", Project("1"))
        self.assertTrue(history.unsaved)
        history.undo()
        self.assertFalse(history.unsaved)
        history.redo()
        history.mark_saved()
        self.assertFalse(history.unsaved)


class EditsTest(unittest.TestCase):
    def test_setting_a_value_keys_only_what_has_keys(self) -> None:
        plain = set_value(layer(), "opacity", 50.0, 7)
        self.assertEqual((plain.track("opacity").value, plain.track("opacity").keys), (50.0, ()))
        keyed = set_value(toggle_key(layer(), "opacity", 0), "opacity", 50.0, 7)
        self.assertEqual([key.frame for key in keyed.track("opacity").keys], [0, 7])

    def test_a_key_put_between_others_takes_the_ease_it_splits(self) -> None:
        from spiralis.core.animation.easing import HOLD

        start = moving(layer(), (0.0, 0.0), (10.0, 0.0), 10)
        track = evolve(
            start.track("position"), keys=tuple(evolve(k, easing=HOLD) for k in start.track("position").keys)
        )
        self.assertEqual(put_key(track, start, "position", 5, (1.0, 1.0)).keys[1].easing, HOLD)

    def test_toggling_twice_changes_nothing_to_see(self) -> None:
        keyed = toggle_key(toggle_key(layer(), "rotation", 4), "rotation", 4)
        self.assertEqual(keyed.track("rotation"), layer().track("rotation"))

    def test_order_copies_and_removal(self) -> None:
        composition = piece(layer("A"), layer("B", parent="a"), layer("C", parent="b"))
        self.assertEqual([y.name for y in reordered(composition, ["c"], 0).layers], ["C", "A", "B"])
        self.assertEqual([y.name for y in reordered(composition, ["a"], 3).layers], ["B", "C", "A"])
        copied, ids = duplicated(composition, ["a", "b"])
        self.assertEqual([y.name for y in copied.layers], ["A 2", "A", "B 2", "B", "C"])
        self.assertEqual(copied.layer(ids[1]).parent, ids[0])
        left = removed(Project("P", (composition,)), composition, ["b"]).piece
        self.assertEqual(left.layer("c").parent, "a")
        self.assertEqual(unused_name("A 2", {"A 2", "A 3"}), "A 4")

    def test_a_composition_is_found_by_its_id_before_any_name(self) -> None:
        named, meant = evolve(piece(), id="one", name="two"), evolve(piece(), id="two", name="Other")
        project = Project("P", (named, meant))
        self.assertIs(project.composition("two"), meant)
        self.assertIs(project.composition("Other"), meant)
        self.assertIs(project.composition("one"), named)
        self.assertIsNone(project.find("Other"))
        with self.assertRaisesRegex(UnknownName, "“three”.*“two”, “Other”"):
            project.composition("three")
        again = project.with_composition(evolve(meant, name="New"))
        self.assertEqual([c.name for c in again.compositions], ["two", "New"])
        self.assertEqual(len(again.with_composition(evolve(meant, id="three")).compositions), 3)

    def test_moving_in_time_takes_the_keys_along(self) -> None:
        moved = moved_in_time(moving(layer(), (0.0, 0.0), (9.0, 0.0), 9), 5)
        self.assertEqual((moved.first, moved.last), (5, 25))
        self.assertEqual([key.frame for key in moved.track("position").keys], [5, 14])

    def test_a_longer_piece_stretches_the_layers_that_filled_it(self) -> None:
        composition = piece(layer("A"), evolve(layer("B"), last=9), play_span=(3, 18))
        longer = with_length(composition, 30)
        self.assertEqual([y.last for y in longer.layers], [30, 9])
        self.assertEqual(with_length(composition, 10).play_span, (3, 10))

    def test_another_format_keeps_the_distance_from_the_middle(self) -> None:
        composition = piece(moving(layer(), (32.0, 24.0), (40.0, 24.0), 9))
        changed = reformatted(composition, 100, 100, Fraction(30), 40)
        self.assertEqual(changed.layers[0].track("position").keys[0].value, (50.0, 50.0))
        self.assertEqual((changed.width, changed.rate, changed.length), (100, 30, 40))


class ReparentingTest(unittest.TestCase):
    @given(st.floats(-170, 170), st.floats(20, 300), st.floats(-170, 170))
    def test_hanging_a_layer_on_another_moves_nothing(self, turn: float, size: float, own: float) -> None:
        source = square_source()
        parent = layer("P").with_values(source=source.id, rotation=turn, scale=(size, size), position=(20.0, 30.0))
        child = layer("K").with_values(source=source.id, rotation=own, position=(40.0, 12.0), scale=(80.0, 120.0))
        sample = project(child, parent, sources=(source,))
        composition = sample.composition("Piece")
        before = Evaluated(sample, composition, 0).matrix(composition.layer("k"))
        hung = composition.with_layer(with_parent(Evaluated(sample, composition, 0), composition.layer("k"), "p"))
        after = Evaluated(sample.with_composition(hung), hung, 0).matrix(hung.layer("k"))
        for x, y in ((0, 0), (20, 0), (0, 20)):
            np.testing.assert_allclose(after.apply(x, y), before.apply(x, y), atol=1e-3)


class KindsContractTest(unittest.TestCase):
    def test_every_kind_keeps_the_contract(self) -> None:
        kinds = {"backdrop", "carrier", "field", "flipbook", "footage", "nested", "pattern", "picture", "shape"}
        kinds |= {"text", "clouds", "effect", "dial", "copies", "group", "particles", "camera", "box", "light", "sound"}
        self.assertEqual({kind.name for kind in layer_kinds()}, kinds)
        source = square_source()
        for kind in layer_kinds():
            with self.subTest(kind.name):
                self._check(kind.name, source.id, project(sources=(source,)))

    def _check(self, kind: str, source_id: str, sample: Project) -> None:
        made = Layer("x", kind, 0, 9)
        for parameter in layer_kind(kind).parameters:
            self.assertEqual(parameter.check(parameter.default), parameter.default, parameter.name)
            self.assertTrue(parameter.help and parameter.label, parameter.name)
            self.assertTrue(parameter.group)
            self.assertEqual(value_at(made.track(parameter.name), parameter, 3), parameter.default)
            if parameter.numeric:
                self.assertEqual(parameter.from_array(parameter.to_array(parameter.default)), parameter.default)
            if parameter.kind is not Kind.SOURCE:
                made = made.with_track(parameter.name, Track(parameter.default, (Key(1, parameter.default),)))
        if kind == "picture":
            made = made.with_values(source=source_id)
        if kind == "flipbook":
            made = made.with_values(drawings=((source_id, 3), (source_id, 1)))
        if kind == "shape":
            square = Figure(contours_of("M0 0L9 0L9 9L0 9Z"), (1.0, 0.0, 0.0, 1.0))
            made = made.with_values(art=Bundle((square,)))
        full = sample.with_composition(evolve(sample.compositions[0], layers=(made,)))
        self.assertEqual(from_json(to_json(full), "x").compositions, full.compositions)
        frame = render_frame(full, "Piece", 0)
        self.assertEqual((frame.shape, frame.dtype), ((48, 64, 4), np.float32))
        self.assertTrue(np.all(np.isfinite(frame)) and np.all(frame[..., :3] <= frame[..., 3:] + 1e-6))


    def test_a_value_of_another_sort_is_refused_wherever_it_stands(self) -> None:
        for kind in layer_kinds():
            made = Layer("x", kind.name, 0, 9)
            for parameter in made.parameters:
                wrong, right = object(), parameter.default
                tracks = [Track(wrong), Track(right, (Key(1, right), Key(2, wrong)))]
                if parameter.numeric:
                    tracks.append(Track(right, driver=DialJoin("dial", ((0.0, right), (1.0, wrong)))))
                for track in tracks:
                    with self.assertRaises(ModelError, msg=f"{kind.name} {parameter.name}"):
                        made.with_track(parameter.name, track)


class QtFreeTest(unittest.TestCase):
    def test_the_core_works_where_qt_cannot_be_imported(self) -> None:
        code = (
            "import sys; sys.modules['PyQt6'] = None\n"
            "import pkgutil, importlib, spiralis.core\n"
            "names = [m.name for m in pkgutil.walk_packages(spiralis.core.__path__, 'spiralis.core.')]\n"
            "[importlib.import_module(name) for name in names]\n"
            "from spiralis.demo.project import demo_project\n"
            "print(len(demo_project().compositions))"
        )
        done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=False)
        count = str(len(demo_project().compositions))
        self.assertEqual((done.stdout.strip(), done.returncode), (count, 0), done.stderr[-500:])


class ErrorsTest(unittest.TestCase):
    def test_every_error_is_also_a_built_in_one(self) -> None:
        for kind in SpiralisError.__subclasses__():
            if kind.__name__ != "Cancelled":
                self.assertTrue(issubclass(kind, ValueError | OSError | KeyError), kind)
