"""Keys that an edit would take away: they stay where they can, and where not, the person is told."""

from __future__ import annotations

from fractions import Fraction
from unittest import mock

from attrs import evolve
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtWidgets import QLabel, QToolTip

from spiralis.app.project.formats import FormatDialog
from spiralis.app.widgets.fields import NumberField
from spiralis.core.editing.keys import KeyRef, fewer_keys
from spiralis.core.model import Composition, Key, Marker, Track, new_id
from tests.app.harness import ALT, WindowTest


class KeysKeptTest(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        self.told: list[str] = []
        self.session.said.connect(self.told.append)

    def frames(self) -> list[int]:
        return [key.frame for key in self.layer("square").track("position").keys]

    def add_keys(self, *frames: int) -> None:
        def change(piece: Composition) -> Composition:
            layer = piece.layer("square")
            track = layer.track("position")
            for frame in frames:
                track = track.with_key(evolve(track.keys[0], frame=frame))
            return piece.with_layer(layer.with_track("position", track))

        self.session.edit("Keys", change)
        self.settle()

    def test_another_rate_says_first_which_keys_fall_together(self) -> None:
        self.add_keys(1, 3)
        before = self.session.composition
        said: list[str] = []

        def as_a_person(dialog: FormatDialog) -> int:
            said.append(dialog.problem.text())
            dialog.fields.rate.setEditText("12")
            said.append(dialog.problem.text())
            dialog.times.setCurrentIndex(dialog.times.findData("seconds"))
            said.append(dialog.problem.text())
            dialog.fields.rate.setEditText("50")
            said.append(dialog.problem.text())
            dialog.fields.rate.setEditText("5")
            said.append(dialog.problem.text())
            dialog._accept()
            return 1

        with mock.patch.object(FormatDialog, "exec", as_a_person):
            self.act("Format…")
        one = "With these, 1 key goes, as another comes to lie on its frame."
        self.assertEqual(["", "", one, "", one], said)
        self.assertEqual(self.frames(), [0, 1, 4])
        self.assertEqual(fewer_keys(before, self.session.composition), 1)
        self.session.undo()
        self.assertEqual(self.frames(), [0, 1, 3, 20])

    def test_nudged_keys_pass_over_others_which_stay(self) -> None:
        self.add_keys(22)
        self.session.select(["square"], {KeyRef("square", "position", 20)})
        rows = self.editor.timeline.rows
        for _ in range(2):
            self.press(rows, Qt.Key.Key_Right)
        self.assertEqual(self.frames(), [0, 22])
        self.assertEqual(self.told[-1], "1 key goes, as another comes to lie on its frame; undo brings back what went.")
        for _ in range(2):
            self.press(rows, Qt.Key.Key_Right)
        self.assertEqual(self.frames(), [0, 22, 24])
        self.press(rows, Qt.Key.Key_Left)
        self.assertEqual(self.frames(), [0, 22, 23])
        self.session.undo()
        self.assertEqual(self.frames(), [0, 20, 22])

    def test_an_undo_between_nudges_begins_anew(self) -> None:
        self.session.select(["square"], {KeyRef("square", "position", 20)})
        rows = self.editor.timeline.rows
        self.press(rows, Qt.Key.Key_Right)
        self.session.undo()
        self.session.select(["square"], {KeyRef("square", "position", 20)})
        self.press(rows, Qt.Key.Key_Right)
        self.press(rows, Qt.Key.Key_Right)
        self.assertEqual(self.frames(), [0, 22])

    def test_dragging_and_stretching_say_what_goes_while_it_can_be_left(self) -> None:
        self.add_keys(30)
        bead, goal = self.bead("square", "position", 20), self.bead("square", "position", 30)
        with mock.patch.object(QToolTip, "showText") as shown:
            self.drag(self.editor.timeline.rows, bead, goal)
            self.assertEqual("+10 frames, 1 key goes, as another comes to lie on its frame", shown.call_args.args[1])
            self.session.undo()
            self.add_keys(2, 4)
            self.session.select(["square"], {KeyRef("square", "position", f) for f in (0, 2, 4)})
            ruler, axis = self.editor.timeline.ruler, self.editor.timeline.axis()
            self.drag(ruler, QPointF(axis.x(4), 37), QPointF(axis.x(1), 37))
            self.assertIn("1 key goes", shown.call_args.args[1])

    def test_a_command_on_keys_says_what_went(self) -> None:
        self.add_keys(10)
        self.session.select(["square"], {KeyRef("square", "position", 20)})
        self.session.go_to(10)
        self.window.context.keys.to_playhead()
        self.assertEqual(self.frames(), [0, 10])
        self.assertIn("1 key goes", self.told[-1])

    def test_keys_that_change_places_among_themselves_say_nothing(self) -> None:
        self.add_keys(10, 30)
        self.session.select(["square"], {KeyRef("square", "position", frame) for frame in (0, 10, 20, 30)})
        self.window.context.keys.reverse()
        self.assertEqual(([0, 10, 20, 30], []), (self.frames(), self.told))

    def test_copies_of_keys_that_take_the_place_of_others_say_so(self) -> None:
        self.add_keys(30, 40)
        pair = {KeyRef("square", "position", frame) for frame in (0, 20)}
        self.session.select(["square"], pair)
        self.window.context.keys.mirror()
        self.assertEqual([0, 20, 30, 40], self.frames())
        self.assertEqual([], self.told, "the mirror's last key is what lay there")
        self.session.undo()
        self.session.select(["square"], {KeyRef("square", "position", 20)})
        self.act("Copy")
        self.session.go_to(30)
        self.act("Paste")
        self.assertEqual([0, 20, 30, 40], self.frames())
        self.assertIn("1 key goes, as another comes to lie on its frame", self.told[-1])
        self.session.undo()
        self.told.clear()
        self.session.go_to(33)
        self.act("Paste")
        self.assertEqual(([0, 20, 30, 33, 40], []), (self.frames(), self.told))
        bead, goal = self.bead("square", "position", 20), self.bead("square", "position", 40)
        with mock.patch.object(QToolTip, "showText") as shown:
            self.drag(self.editor.timeline.rows, bead, goal, ALT)
            self.assertEqual("+20 frames, 1 key goes, as another comes to lie on its frame", shown.call_args.args[1])

    def test_a_marker_does_not_push_another_out(self) -> None:
        markers = (Marker(5, "One"), Marker(10, "Two"))
        self.session.edit("Markers", lambda piece: evolve(piece, markers=markers))
        self.settle()
        ruler, axis = self.editor.timeline.ruler, self.editor.timeline.axis()
        self.drag(ruler, QPointF(axis.x(5), 24), QPointF(axis.x(10), 24))
        self.assertEqual([(9, "One"), (10, "Two")], [(m.frame, m.name) for m in self.session.composition.markers])

    def test_pasting_into_a_slower_piece_says_how_many_keys_fall_together(self) -> None:
        self.add_keys(1)
        self.session.select(["square"])
        self.act("Copy")
        slow = Composition("Slow", 640, 480, Fraction(10), 20, id=new_id())
        self.session.edit_project("Slow piece", self.session.project.with_composition(slow))
        self.session.show_composition(slow.id)
        self.act("Paste")
        self.assertIn("1 key goes, as another comes to lie on its frame", self.told[-1])


class ManyKeysTest(WindowTest):
    """What is typed or dragged in Details means all keys that are chosen, where several are."""

    def setUp(self) -> None:
        super().setUp()
        track = Track(0.0, tuple(Key(frame, 10.0 * number) for number, frame in enumerate((0, 10, 20, 30))))
        self.session.edit_layers("Keys", lambda layer: layer.with_track("rotation", track), ["words", "square"])
        self.session.select(["words"])
        self.session.go_to(40)
        self.settle()

    def values(self, layer: str = "words", name: str = "rotation") -> list[object]:
        return [key.value for key in self.layer(layer).track(name).keys]

    def choose(self, *frames: int, layers: tuple[str, ...] = ("words",), name: str = "rotation") -> None:
        self.session.select(layers, {KeyRef(layer, name, frame) for layer in layers for frame in frames})
        self.settle()

    def field(self, name: str = "rotation", index: int = 0) -> NumberField:
        return self.editor.details.editors[name].findChildren(NumberField)[index]

    def test_typing_gives_all_of_them_the_value_in_one_step(self) -> None:
        self.choose(10, 30)
        self.enter_number(self.field(), "55")
        self.assertEqual(self.values(), [0.0, 55.0, 20.0, 55.0])
        self.assertEqual(self.session.history.undo_name, "Rotation of 2 keys")
        self.session.undo()
        self.assertEqual(self.values(), [0.0, 10.0, 20.0, 30.0])

    def test_the_field_shows_the_first_of_them_and_details_say_how_many(self) -> None:
        self.choose(10, 30)
        self.assertEqual(self.field().value, 10.0)
        texts = [label.text() for label in self.editor.details.page.findChildren(QLabel)]
        self.assertTrue(any("2 keys chosen" in text for text in texts), texts)

    def test_by_as_much_changes_each_on_several_layers(self) -> None:
        self.choose(0, 20, layers=("square", "words"))
        self.editor.details.relative.setChecked(True)
        self.enter_number(self.field(), "7")
        self.assertEqual(self.values("words"), [7.0, 10.0, 27.0, 30.0])
        self.assertEqual(self.values("square"), [7.0, 10.0, 27.0, 30.0])
        self.enter_number(self.field(), "8")
        self.assertEqual(self.values("words"), [8.0, 10.0, 28.0, 30.0])

    def test_of_pairs_only_what_was_changed_changes(self) -> None:
        self.choose(0, 20, layers=("square",), name="position")
        self.enter_number(self.field("position", 1), "99")
        self.assertEqual(self.values("square", "position"), [(160.0, 99.0), (400.0, 99.0)])

    def test_one_key_or_none_means_the_playhead(self) -> None:
        self.choose(10)
        self.enter_number(self.field(), "5")
        self.assertEqual(self.values(), [0.0, 10.0, 20.0, 30.0, 5.0])

    def test_locked_layers_keep_theirs(self) -> None:
        self.choose(0, 20, layers=("square", "words"))
        self.session.edit_layers("Lock", lambda layer: evolve(layer, locked=True), ["words"])
        self.settle()
        self.enter_number(self.field(), "3")
        self.assertEqual(self.values("words"), [0.0, 10.0, 20.0, 30.0])
        self.assertEqual(self.values("square"), [3.0, 10.0, 3.0, 30.0])
