"""What the core can do has its place in the window: paths and pictures of copies, limits, orders by place, moves."""

from unittest import mock

from attrs import evolve

from spiralis.app.details.linking import ask_follow
from spiralis.app.moves.chooser import MovesChooser
from spiralis.app.widgets.asking import LiveDialog
from spiralis.core.animation.easing import CubicBezier
from spiralis.core.editing.linking import with_driver
from spiralis.core.editing.looping import loop_closed
from spiralis.core.model import Key, Layer, Track
from spiralis.core.model.drivers import Follow
from spiralis.core.raster.kinds.copies import placements
from spiralis.core.render.layers import Evaluated
from tests.app.test_animate import AnimateTest


class CarriedThroughTest(AnimateTest):
    def add(self, *layers: Layer) -> None:
        self.session.edit("Add", lambda piece: evolve(piece, layers=(*layers, *piece.layers)))

    def test_copies_stand_along_a_chosen_shape(self) -> None:
        ring = Layer("Ring", "shape", 0, 50, id="ring").with_values(
            form="ellipse", size=(200.0, 200.0), position=(320.0, 240.0)
        )
        self.add(ring)
        self.session.select(["words"])
        self.act("Copies of the chosen layer")
        copies = self.session.layers[0].id
        self.session.set_property("count", 4.0, [copies])
        self.session.select([copies])
        self.act("Copies along the chosen path")
        self.assertIn("Choose the copies and the shape", self.said[-1])
        self.session.select([copies, "ring"])
        self.act("Copies along the chosen path")
        layer, at = self.layer(copies), self.session.evaluated()
        self.assertEqual(at.values(layer)["layout"], "path")
        for row in placements(at.values(layer)).matrices:
            x, y = at.matrix(layer).apply(*row[4:].tolist())
            self.assertAlmostEqual(((x - 320) ** 2 + (y - 240) ** 2) ** 0.5, 100.0, delta=1.0)

    def test_pictures_of_copies_are_ticked(self) -> None:
        self.session.select(["square"])
        self.act("Copies of the chosen layer")
        copies, source = self.session.layers[0].id, self.session.project.sources[0]
        self.settle(0.3)
        editor = self.editor.details.editors["pictures"]
        editor.menu.aboutToShow.emit()
        editor.menu.actions()[0].trigger()
        self.assertEqual(self.layer(copies).track("pictures").value, ((source.id, 1),))
        self.settle(0.2)
        editor.menu.aboutToShow.emit()
        self.assertTrue(editor.menu.actions()[0].isChecked())
        editor.menu.actions()[0].trigger()
        self.assertEqual(self.layer(copies).track("pictures").value, ())

    def test_what_follows_is_limited_and_takes_one_number(self) -> None:
        self.session.edit_layers(
            "Follow", lambda y: with_driver(y, "rotation", Follow("square", "position", component=0)), ["words"]
        )
        self.session.select(["words"])

        def person(dialog: LiveDialog) -> int:
            box = dialog.fields["limits"]
            box.setCurrentIndex(1)
            dialog.fields["low"].show_value(200.0)
            dialog.fields["high"].show_value(180.0)
            dialog.apply()
            dialog.accept()
            return 1

        with mock.patch.object(LiveDialog, "exec", person):
            ask_follow(self.session, "rotation", self.window)
        self.assertEqual((self.value("words", "rotation")), 180.0)
        self.session.go_to(20)
        self.assertEqual((self.value("words", "rotation")), 200.0)

        def other(dialog: LiveDialog) -> int:
            dialog.fields["of"].setCurrentIndex(1)
            dialog.fields["limits"].setCurrentIndex(0)
            dialog.apply()
            dialog.accept()
            return 1

        with mock.patch.object(LiveDialog, "exec", other):
            ask_follow(self.session, "rotation", self.window)
        self.assertEqual(self.value("words", "rotation"), 240.0)

    def test_stagger_by_place(self) -> None:
        spots = {"a": (500.0, 50.0), "b": (100.0, 400.0), "c": (320.0, 220.0)}
        self.add(*(Layer(name, "carrier", 0, 50, id=name).with_values(position=spot) for name, spot in spots.items()))
        for order, expected in (
            ("left to right", {"b": 0, "c": 5, "a": 10}), ("upwards", {"b": 0, "c": 5, "a": 10}),
            ("right to left", {"a": 0, "c": 5, "b": 10}), ("downwards", {"a": 0, "c": 5, "b": 10}),
        ):  # fmt: skip
            self.session.select(["a", "b", "c"])
            with self.live_choice(order=order, step=5.0):
                self.act("Stagger…")
            self.assertEqual({name: self.layer(name).first for name in spots}, expected, order)
            self.act("Undo")
        with self.live_choice(order="outwards", step=5.0):
            self.session.select(["a", "b", "c"])
            self.act("Stagger…")
        self.assertEqual(self.layer("c").first, 0)

    def live_choice(self, **values):  # type: ignore[no-untyped-def]
        def run(dialog: LiveDialog) -> int:
            for name, value in values.items():
                field = dialog.fields[name]
                field.setCurrentIndex(field.findData(value)) if isinstance(value, str) else field.show_value(value)
            dialog.apply()
            dialog.accept()
            return 1

        return mock.patch.object(LiveDialog, "exec", run)

    def test_a_loop_closes_within_the_play_span(self) -> None:
        keys = (Key(0, 0.0), Key(20, 100.0), Key(31, 70.0), Key(45, 5.0))
        layer = Layer("Turns", "carrier", 0, 50, id="turns").with_track("rotation", Track(0.0, keys))
        self.add(layer)
        piece = evolve(self.session.composition, play_span=(10, 32))
        made = loop_closed(piece, [("turns", "rotation")]).layer("turns").track("rotation")
        got = [(k.frame, round(k.value, 6)) for k in made.keys]
        self.assertEqual(got, [(0, 0.0), (20, 100.0), (32, 50.0), (45, 5.0)])
        smooth = loop_closed(evolve(piece, play_span=None), [("turns", "rotation")], True).layer("turns")
        first, last = smooth.track("rotation").keys[0], smooth.track("rotation").keys[-2]
        assert isinstance(first.easing, CubicBezier) and isinstance(last.easing, CubicBezier)
        self.assertEqual((first.easing.y1, last.easing.y2), (0.0, 1.0))
        way = Track((0.0, 0.0), (Key(0, (0.0, 0.0), handle_out=(5.0, -8.0)), Key(20, (40.0, 9.0)), Key(49, (1.0, 1.0))))
        piece = piece.with_layer(layer.with_track("position", way))
        ends = loop_closed(evolve(piece, play_span=None), [("turns", "position")], True).layer("turns")
        handles = [(key.frame, key.handle_in) for key in ends.track("position").keys]
        self.assertEqual([(0, None), (20, None), (50, (-5.0, 8.0))], handles)

    def test_a_loop_that_closes_moves_its_last_key_and_loses_none(self) -> None:
        layer = Layer("Turns", "carrier", 0, 50, id="turns")
        self.add(layer)
        for ends, closed in (((48, 49), [0, 48, 50]), ((47, 48, 49, 50), [0, 47, 48, 49, 50]), ((46,), [0, 46, 50])):
            keys = (Key(0, 5.0), *(Key(frame, float(frame)) for frame in ends))
            piece = self.session.composition.with_layer(layer.with_track("rotation", Track(0.0, keys)))
            made = loop_closed(piece, [("turns", "rotation")]).layer("turns").track("rotation").keys
            self.assertEqual(closed, [key.frame for key in made])
            self.assertEqual(5.0, made[-1].value)

    def test_a_round_that_closes_stays_a_round(self) -> None:
        layer = Layer("Turns", "carrier", 0, 50, id="turns")
        self.add(layer)
        for keys, end in (((0, 0.0), (20, 200.0), (50, 360.0)), 360.0), (((0, 10.0), (30, 700.0)), 730.0), (
            ((0, 0.0), (20, -80.0), (48, -5.0)), 0.0):  # fmt: skip
            turning = layer.with_track("rotation", Track(0.0, tuple(Key(frame, value) for frame, value in keys)))
            for smooth in (False, True):
                piece = loop_closed(self.session.composition.with_layer(turning), [("turns", "rotation")], smooth)
                last = piece.layer("turns").track("rotation").keys[-1]
                self.assertEqual((50, end), (last.frame, last.value))

    def test_a_move_beside_keys_goes_after_them_or_on_a_carrier(self) -> None:
        self.session.select(["square"])
        chooser = MovesChooser(self.window, self.session, self.window.player)
        chooser.show()
        self.addCleanup(chooser.close)
        before = [Evaluated(self.session.project, self.session.composition, f).matrix(self.layer("square"))
                  for f in (25, 49)]  # fmt: skip
        slide = chooser.tiles["fly-in"]
        self.click(slide)
        self.assertIn("has keys", chooser.note.text())
        self.assertTrue(chooser.carried.isVisible())
        self.click(chooser.carried)
        self.assertFalse(chooser.carried.isVisible())
        chooser.accept()
        square = self.layer("square")
        self.assertEqual([k.frame for k in square.track("position").keys], [0, 20])
        carrier = self.layer(square.parent)
        self.assertTrue(carrier.track("position").keys)
        last = carrier.moves[0].last
        for frame, expected in zip((25, 49), before, strict=True):
            if frame >= last:
                got = Evaluated(self.session.project, self.session.composition, frame).matrix(square)
                for part in "adef":
                    self.assertAlmostEqual(getattr(got, part), getattr(expected, part), places=3)
        self.act("Undo")
        self.assertIsNone(self.layer("square").parent)
        self.session.select(["square"])
        chooser = MovesChooser(self.window, self.session, self.window.player)
        chooser.show()
        self.addCleanup(chooser.close)
        self.click(chooser.tiles["fly-in"])
        self.click(chooser.after)
        chooser.accept()
        frames = [k.frame for k in self.layer("square").track("position").keys]
        self.assertEqual(frames[:3], [0, 20, 21])
