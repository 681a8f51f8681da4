"""Formats that follow a piece: held to edges, scaled together, their own where somebody changed them."""

from __future__ import annotations

import tempfile
import unittest
from pathlib import Path

from attrs import evolve
from hypothesis import given, settings
from hypothesis import strategies as st

from spiralis.core.editing.duplicating import with_fresh_ids
from spiralis.core.editing.reframing import (
    add_format,
    derived,
    formats_of,
    guessed_hold,
    held,
    on_its_own,
    own_in,
    settled,
    with_hold,
    without_own,
)
from spiralis.core.errors import ModelError
from spiralis.core.model import Composition, Key, Layer, Project, Track
from spiralis.core.model.reframing import GONE, WHOLE, Hold
from spiralis.core.render.layers import Evaluated
from spiralis.core.storage import load, save
from tests.core.samples import backdrop, piece


def box(name: str, x: float, y: float, size: tuple[float, float] = (100.0, 100.0), **more: object) -> Layer:
    layer = Layer(name, "shape", 0, 50, id=name.lower())
    return layer.with_values(form="rectangle", size=size, position=(x, y), **more)


def origin(*layers: Layer) -> Project:
    made = piece(*layers, backdrop(1000, 1250, (0, 0, 0, 1.0)), width=1000, height=1250, length=50)
    return Project("P", (evolve(made, id="piece"),))


def where(project: Project, made: str, layer: str, frame: int = 0) -> tuple[float, ...]:
    comp = project.composition(made)
    at = Evaluated(project, comp, frame)
    one = comp.layer(layer)
    return tuple(round(v, 3) for v in at.matrix(one).box(at.box(one)))


def edited(project: Project, made: str, layer: Layer) -> Project:
    """An edit of one layer, as the window makes it."""
    return settled(project, project.with_composition(project.composition(made).with_layer(layer)))


class HoldTest(unittest.TestCase):
    """What is held where keeps its distance there."""

    def test_guesses(self) -> None:
        project = origin(
            box("Corner", 60, 60), box("Middle", 500, 600), box("Foot", 500, 1200), box("Right", 940, 600),
            box("Cover", 500, 625, (1000, 1250)),
        )  # fmt: skip
        comp = project.composition("piece")
        guesses = {y.name: guessed_hold(project, comp, y) for y in comp.layers}
        self.assertEqual(guesses["Corner"], Hold("corner", "left", "top", "fit"))
        self.assertEqual(guesses["Middle"], Hold("middle", "centre", "middle", "fit"))
        self.assertEqual(guesses["Foot"], Hold("foot", "centre", "bottom", "fit"))
        self.assertEqual(guesses["Cover"].size, "cover")
        self.assertEqual(guesses["Right"].across, "right")
        self.assertEqual(guesses["Ground"].size, "cover")

    def test_a_square_of_an_upright_piece(self) -> None:
        project, made = add_format(
            origin(box("Corner", 60, 60), box("Foot", 500, 1200), box("Cover", 500, 625, (1000, 1250))), "piece", 1000,
            1000,
        )  # fmt: skip
        # Everything is 0.8 times as large; edges keep 0.8 times their distance, the middle stays the middle.
        self.assertEqual(where(project, made, "corner"), (8, 8, 88, 88))
        self.assertEqual(where(project, made, "foot"), (460, 920, 540, 1000))
        left, top, right, bottom = where(project, made, "cover")
        self.assertTrue(left <= 0 and top <= 0 and right >= 1000 and bottom >= 1000)

    @given(
        st.sampled_from(["left", "centre", "right"]), st.sampled_from(["top", "middle", "bottom"]),
        st.sampled_from(["keep", "fit", "cover", "stretch"]), st.integers(200, 3000), st.integers(200, 3000),
    )  # fmt: skip
    @settings(max_examples=40, deadline=None)
    def test_distance_to_what_it_is_held_to(self, across: str, down: str, size: str, width: int, height: int) -> None:
        layer = box("One", 130, 1100)
        project = origin(layer)
        made = held(project, layer, Hold("one", across, down, size), (1000.0, 1250.0), (float(width), float(height)))
        x, y = made.track("position").value
        shares = (width / 1000, height / 1250)
        if size == "stretch":
            self.assertAlmostEqual(x, 130 * shares[0], places=6)
            self.assertAlmostEqual(y, 1100 * shares[1], places=6)
            return
        by = {"keep": 1, "fit": min(shares), "cover": max(shares)}[size]
        anchors = [("left", "centre", "right").index(across) / 2, ("top", "middle", "bottom").index(down) / 2]
        for now, before, new, old, edge in ((x, 130, width, 1000, anchors[0]), (y, 1100, height, 1250, anchors[1])):
            self.assertAlmostEqual(now - edge * new, by * (before - edge * old), places=6)

    def test_ways_and_their_handles_scale_along(self) -> None:
        keys = (Key(0, (100.0, 200.0), handle_out=(50.0, 10.0)), Key(40, (900.0, 1000.0)))
        project = origin(box("One", 0, 0).with_track("position", Track((0.0, 0.0), keys)))
        project, made = add_format(project, "piece", 500, 625)
        track = project.composition(made).layer("one").track("position")
        self.assertEqual([key.value for key in track.keys], [(50.0, 100.0), (450.0, 500.0)])
        self.assertEqual(track.keys[0].handle_out, (25.0, 5.0))

    def test_words_in_a_box_stretch_by_their_box(self) -> None:
        words = Layer("Words", "text", 0, 50, id="words").with_values(
            text="Up", flow="fit box", frame=(400.0, 200.0), position=(500.0, 300.0)
        )
        project, made = add_format(origin(words), "piece", 2000, 1250)
        project = with_hold(project, made, Hold("words", size="stretch"))
        layer = project.composition(made).layer("words")
        self.assertEqual(layer.track("frame").value, (800.0, 200.0))
        self.assertEqual(layer.track("scale").value, (100.0, 100.0))

    def test_what_hangs_on_another_stays_as_it_hangs(self) -> None:
        child = evolve(box("Child", 10, 20), parent="one")
        project, made = add_format(origin(box("One", 500, 600), child), "piece", 500, 500)
        self.assertEqual(project.composition(made).layer("child"), child)


class ShortWayTest(unittest.TestCase):
    """What an edit did not touch is not worked out again, and yet all is as if it were."""

    @given(st.lists(st.tuples(st.integers(0, 7), st.integers(0, 3), st.floats(-300, 300)), min_size=1, max_size=8))
    @settings(max_examples=40, deadline=None)
    def test_a_format_is_what_it_would_be_from_the_beginning(self, edits: list[tuple[int, int, float]]) -> None:
        layers = [box("Corner", 60, 60), box("Middle", 500, 600), box("Foot", 500, 1200), box("Hung", 10, 10)]
        layers[3] = evolve(layers[3], parent="foot")
        project, made = add_format(origin(*layers), "piece", 1000, 1000)
        for number, (what, which, by) in enumerate(edits):
            home = project.composition("piece")
            layer = home.find(("corner", "middle", "foot", "hung")[which])
            other = project.composition(made).find(("corner", "middle", "foot", "hung")[which])
            if layer is None or other is None:
                continue
            match what:
                case 0:
                    changed = home.with_layer(layer.with_values(position=(500 + by, 600.0)))
                case 1:
                    changed = home.with_layer(layer.with_values(size=(abs(by) + 5, 90.0)))
                case 2:
                    gone = {layer.id, *(y.id for y in home.layers if y.parent == layer.id)}
                    changed = evolve(home, layers=tuple(y for y in home.layers if y.id not in gone))
                case 3:
                    changed = project.composition(made).with_layer(other.with_values(position=(by, 40.0)))
                case 4:
                    if layer.id != "corner" or home.find("middle") is None:
                        continue
                    changed = home.with_layer(evolve(layer, parent=None if layer.parent else "middle"))
                case 5:
                    changed = evolve(project.composition(made), width=1000 + int(by))
                case 6:
                    changed = evolve(home, height=1250 + int(by))
                case _:
                    new = box(f"New{number}", 200 + by, 300.0)
                    changed = evolve(home, layers=(new, *home.layers))
            project = settled(project, project.with_composition(changed))
            found = project.composition(made)
            self.assertEqual(derived(project, project.composition("piece"), found), found)


class FollowingTest(unittest.TestCase):
    """Changes of the piece arrive; changes of the format stay."""

    def setUp(self) -> None:
        self.project, self.made = add_format(origin(box("One", 200, 300), box("Two", 500, 600)), "piece", 500, 625)

    def layer(self, name: str, made: str | None = None) -> Layer:
        return self.project.composition(made or self.made).layer(name)

    def test_changes_of_the_piece_go_along(self) -> None:
        one = self.layer("one", "piece").with_values(fill=(1.0, 0.0, 0.0, 1.0), position=(400.0, 500.0))
        self.project = edited(self.project, "piece", one)
        self.assertEqual(self.layer("one").track("fill").value, (1.0, 0.0, 0.0, 1.0))
        self.assertEqual(self.layer("one").track("position").value, (200.0, 250.0))
        longer = evolve(self.project.composition("piece"), length=80)
        self.project = settled(self.project, self.project.with_composition(longer))
        self.assertEqual(self.project.composition(self.made).length, 80)

    def test_new_layers_and_lost_ones_go_along(self) -> None:
        comp = self.project.composition("piece")
        more = evolve(comp, layers=(box("Three", 10, 10), *comp.layers[1:]))
        self.project = settled(self.project, self.project.with_composition(more))
        names = [y.id for y in self.project.composition(self.made).layers]
        self.assertEqual(names, [y.id for y in more.layers])

    def test_what_is_changed_in_the_format_is_its_own(self) -> None:
        moved = self.layer("one").with_values(position=(7.0, 8.0))
        self.project = edited(self.project, self.made, moved)
        self.assertEqual(own_in(self.project.composition(self.made)), (("one", "position"),))
        elsewhere = self.layer("one", "piece").with_values(position=(900.0, 900.0), fill=(0.0, 1.0, 0.0, 1.0))
        self.project = edited(self.project, "piece", elsewhere)
        self.assertEqual(self.layer("one").track("position").value, (7.0, 8.0))
        self.assertEqual(self.layer("one").track("fill").value, (0.0, 1.0, 0.0, 1.0), "the rest still follows")
        self.project = without_own(self.project, self.made, "one")
        self.assertEqual(self.layer("one").track("position").value, (450.0, 450.0))

    def test_layers_of_its_own_and_layers_it_does_without(self) -> None:
        comp = self.project.composition(self.made)
        extra = box("Extra", 50, 50)
        self.project = settled(
            self.project, self.project.with_composition(evolve(comp, layers=(comp.layers[0], extra, *comp.layers[2:])))
        )
        now = self.project.composition(self.made)
        self.assertEqual([y.id for y in now.layers][:2], ["one", "extra"])
        self.assertEqual(set(own_in(now)), {("extra", WHOLE), ("two", GONE)})
        again = self.layer("one", "piece").with_values(opacity=50.0)
        self.project = edited(self.project, "piece", again)
        self.assertEqual([y.id for y in self.project.composition(self.made).layers][:2], ["one", "extra"])
        self.assertEqual(self.layer("one").track("opacity").value, 50.0)

    def test_a_layer_changed_beyond_its_threads_is_wholly_its_own(self) -> None:
        self.project = edited(self.project, self.made, evolve(self.layer("one"), last=20))
        self.project = edited(self.project, "piece", self.layer("one", "piece").with_values(opacity=10.0))
        self.assertEqual((self.layer("one").last, self.layer("one").track("opacity").value), (20, 100.0))

    def test_marks_of_work_are_no_change(self) -> None:
        self.project = edited(self.project, self.made, evolve(self.layer("one"), folded=True, tint="rose"))
        self.assertEqual(own_in(self.project.composition(self.made)), ())
        self.assertEqual((self.layer("one").folded, self.layer("one").tint), (True, "rose"))

    def test_what_did_not_change_stays_the_same_object(self) -> None:
        two = self.layer("two")
        self.project = edited(self.project, "piece", self.layer("one", "piece").with_values(opacity=50.0))
        self.assertIs(self.layer("two"), two)
        made = self.project.composition(self.made)
        other = Composition("Other", 10, 10, made.rate, 5)
        self.assertIs(settled(self.project, self.project.with_composition(other)).composition(self.made), made)

    def test_a_format_whose_piece_is_gone_stands_by_itself(self) -> None:
        alone = evolve(self.project, compositions=(self.project.composition(self.made),))
        made = settled(self.project, alone).composition(self.made)
        self.assertIsNone(made.follows)
        self.assertEqual(made.layers, self.project.composition(self.made).layers)

    def test_no_format_of_a_format(self) -> None:
        with self.assertRaisesRegex(ModelError, "is a format of “Piece” itself"):
            add_format(self.project, self.made, 100, 100)

    def test_copies_and_those_set_free_follow_nothing(self) -> None:
        self.assertIsNone(with_fresh_ids(self.project.composition(self.made))[0].follows)
        free = on_its_own(self.project, self.made)
        changed = edited(free, "piece", self.layer("one", "piece").with_values(opacity=50.0))
        self.assertEqual(changed.composition(self.made).layer("one").track("opacity").value, 100.0)

    def test_the_file_keeps_it(self) -> None:
        project = with_hold(edited(self.project, self.made, self.layer("one").with_values(opacity=3.0)), self.made,
                            Hold("two", "right", "bottom", "keep"))  # fmt: skip
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "formats.spiralis"
            save(project, path)
            again = load(path)
        self.assertEqual(again.composition(self.made).follows, project.composition(self.made).follows)
        self.assertEqual([c.id for c in formats_of(again, again.composition("piece"))], [self.made])


if __name__ == "__main__":
    unittest.main()
