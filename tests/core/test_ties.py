"""Every sort of tie under every sort of edit: the picture stays, and no tie leads astray."""

from __future__ import annotations

import time
import unittest
from collections.abc import Iterable

import numpy as np
from attrs import evolve
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from spiralis.core.animation.drivers import values_over
from spiralis.core.editing.duplicating import duplicated, with_their_own
from spiralis.core.editing.effecting import with_effect
from spiralis.core.editing.grouping import grouped, ungrouped, unit_at
from spiralis.core.editing.nesting import duplicate_composition, own_copy
from spiralis.core.editing.pasting import put_in, taken_out
from spiralis.core.editing.reformat import cropped_everywhere, reformatted, retimed
from spiralis.core.editing.reframing import add_format
from spiralis.core.editing.removing import removed
from spiralis.core.editing.separating import separated
from spiralis.core.editing.spans import split
from spiralis.core.errors import ModelError
from spiralis.core.model import Composition, EdgePin, Key, Layer, Matte, Project, Track
from spiralis.core.model.art import Bundle, Figure, contours_of
from spiralis.core.model.blocks import Block
from spiralis.core.model.drivers import DialJoin, Follow, Roll, Wobble
from spiralis.core.model.poses import Pose, PoseStrip
from spiralis.core.model.references import Repointing, What, dependents, repointed, with_all_needed
from spiralis.core.render.frame import render_frame
from spiralis.core.render.layers import Evaluated
from tests.core.samples import square_source

WHITE, RED, BLUE, GREEN = (1.0, 1.0, 1.0, 1.0), (0.9, 0.1, 0.1, 1.0), (0.1, 0.2, 0.9, 1.0), (0.1, 0.8, 0.2, 1.0)
LENGTH = 20


def form(layer_id: str, x: float, y: float, fill: tuple[float, ...] = WHITE, **values: object) -> Layer:
    layer = Layer(layer_id.capitalize(), "shape", 0, LENGTH, id=layer_id)
    return layer.with_values(form="rectangle", size=(16.0, 12.0), position=(x, y), fill=fill, **values)


def keyed(layer: Layer, name: str, *pairs: tuple[int, object]) -> Layer:
    return layer.with_track(name, Track(pairs[0][1], tuple(Key(frame, value) for frame, value in pairs)))


def driven(layer: Layer, name: str, **parts: object) -> Layer:
    return layer.with_track(name, evolve(layer.track(name), **parts))


def tied() -> Project:
    """Return a project whose first piece holds every sort of tie."""
    dial = Layer("Inner dial", "dial", 0, LENGTH, id="inner-dial").with_values(value=0.0)
    inner = Composition(
        "Inner", 24, 24, 25, LENGTH, id="inner",
        layers=(dial, driven(form("leaf", 12, 12, GREEN), "rotation",
                             driver=DialJoin("inner-dial", ((0.0, 0.0), (100.0, 90.0))))),
    )  # fmt: skip
    source = square_source(10)
    carrier = keyed(Layer("Carrier", "carrier", 0, LENGTH, id="carrier").with_values(position=(30.0, 20.0)),
                    "rotation", (0, 0.0), (19, 40.0))  # fmt: skip
    child = evolve(form("child", 60, 50, RED), parent="carrier")
    mask = evolve(form("mask", 8, 6), parent="photo").with_values(form="ellipse")
    photo = Layer("Photo", "picture", 0, LENGTH, id="photo", mattes=(Matte("mask"),))
    photo = keyed(photo.with_values(source=source.id), "position", (0, (20.0, 90.0)), (19, (70.0, 95.0)))
    dial = keyed(Layer("Dial", "dial", 0, LENGTH, id="dial"), "value", (0, 0.0), (19, 100.0))
    layers = (
        carrier, child, mask, photo, dial,
        driven(form("joined", 100, 20, BLUE), "rotation", driver=DialJoin("dial", ((0.0, 0.0), (100.0, 90.0)))),
        driven(form("follower", 100, 60, GREEN), "position", driver=Follow("photo", "position", 1.0, 6.0, 2.0)),
        driven(form("wheel", 20, 120, BLUE), "rotation", driver=Roll(8.0, "photo")),
        evolve(form("held", 10, 120, RED), edge_pins=(EdgePin("left", "right", "photo", 3.0),)),
        driven(form("wobbly", 110, 110, RED), "position", wobble=Wobble(9.0, 2.0)),
        form("stencil", 40, 44, WHITE), evolve(form("sheet", 44, 40, BLUE), mattes=(Matte("stencil", shown=True),)),
        form("tone", 60, 20, RED).with_values(form="ellipse"),
        form("bent", 64, 24, GREEN).with_block(Block("displace", id="bend")).with_values(
            **{"bend.map": "tone", "bend.across": 8.0}),
        form("rail", 40, 100, BLUE).with_values(form="ellipse"),
        Layer("Words", "text", 0, LENGTH, id="words").with_values(text="Round", size=9.0, path_layer="rail"),
        Layer("Copies", "copies", 0, LENGTH, id="copies").with_values(
            of="spark", position=(30.0, 70.0), count=3.0, spacing=(20.0, 0.0), delay=2.0),
        keyed(form("spark", 100, 100, GREEN), "opacity", (0, 20.0), (19, 100.0)),
        Layer("Nest", "nested", 0, LENGTH, id="nest", dial_values=(("inner-dial", 60.0),)).with_values(
            composition="inner", position=(60.0, 120.0)),
        keyed(Layer("Group", "group", 0, LENGTH, id="group").with_values(
            corner=(70.0, 70.0), size=(30.0, 30.0), position=(85.0, 85.0)), "rotation", (0, 0.0), (19, 45.0)),
        evolve(form("first", 78, 80, WHITE), parent="group"), evolve(form("second", 92, 92, RED), parent="group"),
    )  # fmt: skip
    strip = PoseStrip((Pose("A", (("child", "opacity", 100.0),)), Pose("B", (("child", "opacity", 100.0),))))
    return Project("Tied", (Composition("Piece", 128, 128, 25, LENGTH, id="piece", layers=layers, poses=strip), inner),
                   (source,))  # fmt: skip


IDS = [layer.id for layer in tied().compositions[0].layers]
SEEN = [i for i in IDS if i not in tied().compositions[0].kept_from_sight]
subsets = st.lists(st.sampled_from(IDS), min_size=1, max_size=6, unique=True)
FRAMES = (0, 7, 19)


def pictures(project: Project, piece: str) -> list[np.ndarray]:
    return [render_frame(project, piece, frame) for frame in FRAMES]


def only(piece: Composition, ids: Iterable[str]) -> Composition:
    """Hide what is not among the layers; mattes and sources of copies are out of sight already."""
    shown = set(ids)
    cut = tuple(evolve(y, mattes=tuple(evolve(m, shown=m.shown and m.layer in shown) for m in y.mattes))
                for y in piece.layers)  # fmt: skip
    piece = evolve(piece, layers=cut)
    away = piece.kept_from_sight
    groups = {piece.group_of[i] for i in shown if i in piece.group_of}
    layers = tuple(
        y if y.id in shown | away | groups else y.with_track("visible", Track(False)) for y in piece.layers
    )
    return evolve(piece, layers=layers)


class KeepsThePicture(unittest.TestCase):
    def assert_alike(self, first: list[np.ndarray], second: list[np.ndarray], what: object = "") -> None:
        for frame, a, b in zip(FRAMES, first, second, strict=True):
            self.assertLess(float(np.abs(a - b).max()), 4 / 255, (frame, what))

    def test_own_copies_and_copies_of_compositions_look_the_same_and_tie_to_themselves(self) -> None:
        start = tied()
        before = pictures(start, "piece")
        copied, new = duplicate_composition(start, "piece")
        self.assert_alike(before, pictures(copied, new))
        piece = copied.composition(new)
        own = set(piece.by_id)
        for layer in piece.layers:
            for tie in layer.ties:
                if tie.what is What.LAYER:
                    self.assertIn(tie.target, own, (layer.name, tie.name))
        self.assertTrue(all(row[0] in own for pose in piece.poses.poses for row in pose.values))
        self.assertEqual([(pose.name, len(pose.values)) for pose in piece.poses.poses], [("A", 1), ("B", 1)])
        nested, inner = own_copy(start, "piece", "nest")
        self.assert_alike(before, pictures(nested, "piece"))
        self.assertNotEqual(inner, "inner")

    @settings(max_examples=25, deadline=None, suppress_health_check=[HealthCheck.too_slow])
    @given(st.lists(st.sampled_from(SEEN), min_size=1, max_size=6, unique=True))
    def test_copies_look_like_what_they_are_copies_of(self, ids: list[str]) -> None:
        start = tied()
        piece = start.composition("piece")
        wanted = pictures(start.with_composition(only(piece, with_their_own(piece, ids))), "piece")
        changed, made = duplicated(piece, ids)
        alone = set(changed.by_id) - set(piece.by_id)
        self.assertLessEqual(set(made), alone)
        self.assert_alike(wanted, pictures(start.with_composition(only(changed, alone)), "piece"), ids)

    @settings(max_examples=25, deadline=None, suppress_health_check=[HealthCheck.too_slow])
    @given(st.lists(st.sampled_from(SEEN), min_size=1, max_size=6, unique=True), st.booleans())
    def test_pasting_elsewhere_keeps_the_picture(self, ids: list[str], other_project: bool) -> None:
        start = tied()
        piece = start.composition("piece")
        chosen = with_their_own(piece, ids)
        drawn = with_all_needed(piece, chosen)
        wanted = pictures(start.with_composition(only(piece, chosen)), "piece")
        empty = Composition("Empty", 128, 128, 25, LENGTH, id="empty")
        target = Project("Other", (empty,)) if other_project else start.with_composition(empty)
        pasted = put_in(target, "empty", taken_out(start, "piece", ids), 0)
        if "group" in drawn - chosen:
            # A layer alone leaves its group; what the group does to all of it is not the layer's own.
            self.assertTrue(pasted.layers)
        self.assert_alike(wanted, pictures(pasted.project, "empty"), (ids, pasted.notes))
        made = pasted.project.composition("empty")
        for layer in made.layers:
            self.assertTrue(all(t.target in made.by_id for t in layer.ties if t.what is What.LAYER), layer.name)

    def test_pasting_in_the_same_piece_keeps_ties_to_what_stays(self) -> None:
        start = tied()
        pasted = put_in(start, "piece", taken_out(start, "piece", ["child", "follower"]), 0)
        made = {y.name: y for i in pasted.layers for y in (pasted.project.composition("piece").layer(i),)}
        self.assertEqual("carrier", made["Child 2"].parent)
        self.assertEqual("photo", made["Follower 2"].track("position").driver.layer)
        self.assertEqual((), pasted.notes)

    def test_a_file_of_the_same_id_and_another_content_is_another_file(self) -> None:
        start = tied()
        empty = Composition("Empty", 128, 128, 25, LENGTH, id="empty")
        held = taken_out(start, "piece", ["photo"])
        wanted = pictures(put_in(Project("Other", (empty,)), "empty", held, 0).project, "empty")
        other = evolve(square_source(14), id=start.sources[0].id)
        pasted = put_in(Project("Other", (empty,), (other,)), "empty", held, 0).project
        self.assertEqual(2, len(pasted.sources))
        self.assert_alike(wanted, pictures(pasted, "empty"))
        again = put_in(put_in(start, "piece", held, 0).project, "piece", held, 0)
        self.assertEqual(1, len(again.project.sources))
        names = [layer.name for layer in again.project.composition("piece").layers]
        self.assertEqual(len(set(names)), len(names))

    def test_pasting_into_another_rate_keeps_seconds(self) -> None:
        start = tied()
        fast = Composition("Fast", 128, 128, 50, 2 * LENGTH, id="fast")
        pasted = put_in(start.with_composition(fast), "fast", taken_out(start, "piece", IDS), 0)
        piece = pasted.project.composition("fast")
        photo = next(y for y in piece.layers if y.name == "Photo")
        self.assertEqual([0, 38], [key.frame for key in photo.track("position").keys])
        follower = next(y for y in piece.layers if y.name == "Follower")
        self.assertEqual(4.0, follower.track("position").driver.delay)
        self.assertEqual(4.0, next(y for y in piece.layers if y.name == "Copies").track("delay").value)
        rates = "The keys keep their seconds, as the pieces run at 25 and 50 frames a second."
        self.assertIn(rates, pasted.notes)

    @settings(max_examples=25, deadline=None, suppress_health_check=[HealthCheck.too_slow])
    @given(subsets)
    def test_deleting_leaves_the_rest_as_it_was(self, ids: list[str]) -> None:
        start = tied()
        piece = start.composition("piece")
        removal = removed(start, piece, ids, 5)
        left = set(removal.piece.by_id)
        for layer in removal.piece.layers:
            self.assertTrue(all(t.target in left for t in layer.ties if t.what is What.LAYER), layer.name)
        if any(word in note for note in removal.notes for word in ("no longer cut", "shows itself again", "empty now")):
            return
        seen = left - {i for i in ids if any("stays, out of sight" in note for note in removal.notes)}
        wanted = pictures(start.with_composition(only(piece, seen)), "piece")
        self.assert_alike(wanted, pictures(start.with_composition(removal.piece), "piece"), (ids, removal.notes))

    def test_poses_stay_without_what_was_deleted(self) -> None:
        start = tied()
        piece = start.composition("piece")
        pose = Pose("A", (("child", "opacity", 100.0), ("spark", "opacity", 40.0)))
        piece = evolve(piece, poses=PoseStrip((pose, Pose("B", (("child", "opacity", 100.0),)))))
        left = removed(start.with_composition(piece), piece, ["child"]).piece
        self.assertEqual([p.values for p in left.poses.poses], [(("spark", "opacity", 40.0),), ()])

    def test_deleting_says_who_depends(self) -> None:
        start = tied()
        piece = start.composition("piece")
        said = " ".join(removed(start, piece, ["photo", "carrier", "dial", "spark"]).notes)
        for words in ("Held", "Follower: Position", "Wheel: Rotation", "Joined: Rotation", "Child", "Copies"):
            self.assertIn(words, said)
        self.assertIn("mask", removed(start, piece, ["photo"]).gone, "a mask nobody else needs goes along")
        self.assertIn("no longer cut", removed(start, piece, ["mask"]).notes[0])
        self.assertEqual({"first", "second", "group"}, removed(start, piece, ["group"]).gone)
        stencil = removed(start, piece, ["stencil"])
        self.assertEqual(frozenset(), stencil.gone, "what cuts another layer stays, out of sight")
        self.assertIn("because it cuts “Sheet”", stencil.notes[0])
        self.assertEqual({"stencil", "sheet"}, removed(start, piece, ["stencil", "sheet"]).gone)

    @settings(max_examples=12, deadline=None, suppress_health_check=[HealthCheck.too_slow])
    @given(st.lists(st.sampled_from(["child", "joined", "wobbly", "held", "photo"]), min_size=1, unique=True))
    def test_grouping_and_parting_move_nothing(self, ids: list[str]) -> None:
        start = tied()
        piece = start.composition("piece")
        before = pictures(start, "piece")
        made, group = grouped(start, piece, ids, 7)
        if not {"child", "photo"} & set(ids):
            self.assert_alike(before, pictures(start.with_composition(made), "piece"), ids)
        at, was = (Evaluated(start, p, 7.0) for p in (made, piece))
        for layer in piece.layers:
            np.testing.assert_allclose(_numbers(at, made.layer(layer.id)), _numbers(was, layer), atol=1e-6)
        parted = ungrouped(start, made, group, 7).piece
        self.assertIsNone(parted.find(group))
        after = Evaluated(start, parted, 7.0)
        for layer in piece.layers:
            np.testing.assert_allclose(_numbers(after, parted.layer(layer.id)), _numbers(was, layer), atol=1e-5)

    def test_a_click_means_the_group_one_step_within_the_one_that_one_works_in(self) -> None:
        start = tied()
        piece = start.composition("piece")
        inner, middle = grouped(start, piece, ["first", "second"], 7, "Middle")
        self.assertEqual("group", inner.layer(middle).parent)
        wanted = {None: "group", "group": middle, middle: "first", "photo": "group", "first": "group"}
        self.assertEqual(wanted, {inside: unit_at(inner, "first", inside) for inside in wanted})
        self.assertEqual("photo", unit_at(inner, "photo", "group"))

    def test_what_is_one_picture_is_not_parted(self) -> None:
        start = tied()
        piece = start.composition("piece")
        with self.assertRaisesRegex(ModelError, "“Photo” is no group"):
            ungrouped(start, piece, "photo", 7)
        group = piece.layer("group")
        cases = (
            ("opacity", keyed(group, "opacity", (0, 100.0), (9, 100.0))), ("opacity", group.with_values(opacity=50.0)),
            ("blend", group.with_values(blend="multiply")), ("switched off", group.with_values(visible=False)),
            ("crop", group.with_values(crop_across=(10.0, 0.0))), ("crop", group.with_values(crop_down=(0.0, 10.0))),
            ("motion blur", group.with_values(motion_blur=True)), ("cut", evolve(group, mattes=(Matte("wheel"),))),
            ("effects", with_effect(group, "invert")),
        )  # fmt: skip
        for reason, changed in cases:
            with self.subTest(reason), self.assertRaisesRegex(ModelError, rf"shown as one picture \({reason}\)"):
                ungrouped(start, piece.with_layer(changed), "group", 7)

    @settings(max_examples=40, deadline=None, suppress_health_check=[HealthCheck.too_slow])
    @given(subsets, st.integers(1, LENGTH - 1))
    def test_splitting_changes_nothing_in_sight(self, ids: list[str], frame: int) -> None:
        start = tied()
        piece = start.composition("piece")
        for name, span in (("second", {"first": 9}), ("first", {"last": 9})):
            piece = piece.with_layer(evolve(piece.layer(name), **span))
        start = start.with_composition(piece)
        changed, later = split(Evaluated(start, piece, 0.0), ids, frame)
        frames = sorted({*FRAMES, frame - 1, frame})
        for at in frames:
            before = render_frame(start, "piece", at)
            after = render_frame(start.with_composition(changed), "piece", at)
            self.assertLess(float(np.abs(before - after).max()), 4 / 255, (at, frame, ids))
        if "group" in ids:
            self.assertTrue(changed.members(next(y.id for y in changed.layers if y.id in later and y.gathers)))
        for name in ("photo", "group"):
            self.assertEqual(name in ids, changed.layer(name).last == frame)

    def test_a_mask_is_split_with_its_wearer_only(self) -> None:
        piece = tied().composition("piece")
        at = Evaluated(tied(), piece, 0.0)
        self.assertEqual(split(at, ["mask"], 10), (piece, []))
        changed, later = split(at, ["mask", "photo"], 10)
        photo = next(changed.layer(i) for i in later if changed.layer(i).kind == "picture")
        self.assertIn(photo.mattes[0].layer, later)

    def test_a_group_with_something_locked_in_it_stays_whole(self) -> None:
        piece = tied().composition("piece")
        piece = piece.with_layer(evolve(piece.layer("first"), locked=True))
        self.assertEqual(split(Evaluated(tied(), piece, 0.0), ["group"], 10), (piece, []))

    def test_another_size_of_the_same_shape_shows_the_same_picture(self) -> None:
        start = tied()
        ring = Layer("Ring", "copies", 0, LENGTH, id="ring").with_values(
            of="spark", layout="ring", position=(50.0, 50.0), count=5.0, radius=30.0)  # fmt: skip
        arc = Bundle((Figure(contours_of("M0 0 L30 20 L60 0"), None),))
        row = Layer("Row", "copies", 0, LENGTH, id="row").with_values(
            of="spark", layout="path", position=(60.0, 90.0), count=4.0, along=arc)  # fmt: skip
        apart = separated(driven(form("apart", 90, 30, GREEN), "position"))
        apart = driven(apart, "position_x", wobble=Wobble(9.0, 2.0))
        apart = driven(apart, "position_y", driver=Follow("carrier", "rotation", 0.5, 30.0))
        stops = ((0.0, (50.0, 90.0)), (100.0, (120.0, 80.0)))
        sized = driven(form("sized", 30, 60, RED), "scale", driver=DialJoin("dial", stops))
        piece = start.composition("piece")
        start = start.with_composition(evolve(piece, layers=(ring, row, apart, sized, *piece.layers)))
        piece = start.composition("piece")
        before = pictures(start, "piece")
        large = start.with_composition(reformatted(piece, 256, 256, piece.rate, LENGTH, "fit"))
        stretched, made = add_format(start, "piece", 256, 256)
        for project, name in ((large, "piece"), (stretched, made)):
            seen = [render_frame(project, name, frame, 0.5) for frame in FRAMES]
            self.assert_alike(before, seen, name)

    def test_cropping_a_nested_frame_moves_nothing_outside(self) -> None:
        start = tied()
        before = pictures(start, "piece")
        self.assert_alike(before, pictures(cropped_everywhere(start, "inner", (-6, -2, 40, 28)), "piece"))

    def test_another_rate_takes_everything_that_counts_frames_along(self) -> None:
        piece = tied().composition("piece")
        fast = retimed(piece, piece.rate * 2)
        self.assertEqual(2 * LENGTH, fast.length)
        self.assertEqual(4.0, fast.layer("follower").track("position").driver.delay)
        self.assertEqual(4.0, fast.layer("copies").track("delay").value)
        self.assertEqual((12, 16), (fast.poses.poses[0].stay, fast.poses.poses[0].between))
        self.assertEqual(fast, reformatted(piece, 128, 128, piece.rate * 2, 2 * LENGTH, times="seconds"))


def _numbers(at: Evaluated, layer: Layer) -> list[float]:
    matrix = at.matrix(layer)
    return [matrix.a, matrix.b, matrix.c, matrix.d, matrix.e, matrix.f]


class CopiesTakeAlong(unittest.TestCase):
    """A copy takes a mask along that hangs on what is copied and cuts nothing else; others cut the copy as well."""

    def piece(self, *more: Layer, shown: bool = False, hangs: str | None = "photo") -> Composition:
        mask = evolve(form("mask", 8, 6), parent=hangs)
        photo = evolve(form("photo", 60, 60), mattes=(Matte("mask", shown=shown),))
        return Composition("Piece", 128, 128, 25, LENGTH, id="piece", layers=(mask, photo, *more, form("other", 9, 9)))

    def test_a_mask_of_its_own_comes_along(self) -> None:
        piece = self.piece()
        self.assertEqual(with_their_own(piece, ["photo"]), {"photo", "mask"})
        changed, (copy,) = duplicated(piece, ["photo"])
        mask = changed.layer(copy).mattes[0].layer
        self.assertNotIn(mask, piece.by_id)
        self.assertEqual(changed.layer(mask).parent, copy)
        self.assertEqual(changed.layer("photo").mattes[0].layer, "mask")

    def test_a_mask_that_cuts_something_else_too_stays_one(self) -> None:
        piece = self.piece(evolve(form("second", 20, 20), mattes=(Matte("mask"),)))
        self.assertEqual(with_their_own(piece, ["photo"]), {"photo"})
        self.assertEqual(with_their_own(piece, ["photo", "second"]), {"photo", "second", "mask"})
        changed, (copy,) = duplicated(piece, ["photo"])
        self.assertEqual(changed.layer(copy).mattes[0].layer, "mask")

    def test_a_layer_that_shows_or_hangs_elsewhere_stays_one(self) -> None:
        self.assertEqual(with_their_own(self.piece(shown=True), ["photo"]), {"photo"})
        self.assertEqual(with_their_own(self.piece(hangs="other"), ["photo"]), {"photo"})
        self.assertEqual(with_their_own(self.piece(hangs=None), ["photo"]), {"photo"})
        self.assertEqual(with_their_own(self.piece(), ["other"]), {"other"})

    def test_a_group_is_copied_above_itself_as_one_and_a_layer_in_it_above_itself(self) -> None:
        group = Layer("Group", "group", 0, LENGTH, id="group")
        inner = evolve(Layer("Inner", "group", 0, LENGTH, id="inner"), parent="group")
        one, two = evolve(form("one", 9, 9), parent="inner"), evolve(form("two", 30, 9), parent="group")
        layers = (form("above", 5, 5), group, inner, one, two, form("below", 50, 50))
        piece = Composition("Piece", 128, 128, 25, LENGTH, id="piece", layers=layers)

        def names(*ids: str) -> str:
            return ", ".join(layer.name for layer in duplicated(piece, ids)[0].layers)

        self.assertEqual(names("group"), "Above, Group 2, Inner 2, One 2, Two 2, Group, Inner, One, Two, Below")
        self.assertEqual(names("two", "below"), "Above, Group, Inner, One, Two 2, Two, Below 2, Below")


class RepointingTest(unittest.TestCase):
    def test_ties_go_to_new_ids_stay_with_what_is_known_and_are_cut_where_it_is_lost(self) -> None:
        copies = Layer("Copies", "copies", 0, LENGTH, id="copies")
        of, to = copies.parameter("of"), Repointing(layers={"old": "new"}, known={"kept"})
        self.assertEqual([to.value(of, name) for name in ("old", "kept", "lost")], ["new", "kept", ""])
        self.assertEqual([to.layer(name) for name in ("old", "kept", "lost", None)], ["new", "kept", None, None])
        self.assertEqual(to.driver(Follow("old", "opacity")), Follow("new", "opacity"))
        join = DialJoin("kept", ((0.0, 1.0), (100.0, 2.0)))
        self.assertEqual((to.driver(join), to.driver(evolve(join, dial="old"))), (join, evolve(join, dial="new")))
        self.assertIsNone(to.driver(Roll(8.0, "lost")))
        self.assertEqual(to.driver(Roll(8.0, "")), Roll(8.0, ""))
        layer = evolve(form("one", 1, 1), parent="lost", mattes=(Matte("lost"), Matte("old")),
                       edge_pins=(EdgePin("left", "left", "lost", 0.0), EdgePin("top", "top", "", 0.0)))  # fmt: skip
        made = repointed(layer, to)
        self.assertEqual((made.parent, [m.layer for m in made.mattes]), (None, ["new"]))
        self.assertEqual([(pin.edge, pin.layer) for pin in made.edge_pins], [("top", "")])


class CirclesTest(unittest.TestCase):
    def piece(self, *layers: Layer) -> Composition:
        return Composition("Piece", 64, 64, 25, LENGTH, layers=layers)

    def copies(self, of: str) -> Layer:
        return Layer("Copies", "copies", 0, LENGTH, id="copies").with_values(of=of, show_source=True)

    def test_a_layer_cut_by_copies_of_itself_is_refused_with_the_chain(self) -> None:
        with self.assertRaisesRegex(ModelError, "“Star” is cut by “Copies”, which shows “Star”"):
            self.piece(evolve(form("star", 1, 1), mattes=(Matte("copies"),)), self.copies("star"))

    def test_so_is_one_cut_by_copies_of_what_it_hangs_on(self) -> None:
        hung = evolve(form("star", 1, 1), parent="carrier", mattes=(Matte("copies", shown=True),))
        with self.assertRaisesRegex(ModelError, "circle"):
            self.piece(hung, self.copies("carrier"), Layer("Carrier", "carrier", 0, LENGTH, id="carrier"))

    def test_so_is_a_layer_cut_by_its_own_group(self) -> None:
        with self.assertRaisesRegex(ModelError, "circle"):
            self.piece(Layer("Group", "group", 0, LENGTH, id="group"),
                       evolve(form("star", 1, 1), parent="group", mattes=(Matte("group"),)))  # fmt: skip

    def test_properties_that_follow_each_other_are_refused_by_their_names(self) -> None:
        first = driven(form("first", 1, 1), "rotation", driver=Follow("second", "opacity"))
        second = driven(form("second", 1, 1), "opacity", driver=Follow("first", "rotation"))
        with self.assertRaisesRegex(ModelError, "in a circle: First: Rotation → Second: Opacity → First: Rotation"):
            self.piece(first, second)

    def test_chains_of_any_length_work(self) -> None:
        carriers = [Layer(f"C{i}", "carrier", 0, LENGTH, id=f"c{i}", parent=f"c{i - 1}" if i else None)
                    .with_values(position=(51.0, 50.0)) for i in range(3000)]  # fmt: skip
        long = self.piece(*reversed(carriers))
        at = Evaluated(Project("P", (long,)), long, 0.0)
        self.assertAlmostEqual(3000.0 + 50, at.matrix(long.layer("c2999")).apply(50, 50)[0], places=6)
        with self.assertRaisesRegex(ModelError, "parents"):
            long.with_layer(evolve(long.layer("c0"), parent="c2999"))
        chain = [keyed(form("f0", 0, 0), "rotation", (0, 0.0), (10, 10.0))]
        chain += [driven(form(f"f{i}", 0, 0), "rotation", driver=Follow(f"f{i - 1}", "rotation", 1.0, 0.5, 0.001))
                  for i in range(1, 1000)]  # fmt: skip
        chain += [driven(form("odd", 0, 0), "position", driver=Follow("f999", "rotation", component=0, into=1))]
        followers = self.piece(*chain)
        values = values_over(followers, followers.layer("odd"), "position", np.array([6.0]))
        np.testing.assert_allclose(values, [[0.0, 5.001 + 999 * 0.5]], atol=1e-9)

    def test_a_chain_costs_what_one_link_costs(self) -> None:
        chain = [keyed(form("f0", 0, 0), "rotation", (0, 0.0), (10, 10.0))]
        chain += [driven(form(f"f{i}", 0, 0), "rotation", driver=Follow(f"f{i - 1}", "rotation", 1.0, 0.5, 1.0))
                  for i in range(1, 161)]  # fmt: skip
        piece, frames = self.piece(*chain), np.arange(40.0)

        def cost(name: str) -> float:
            layer, best = piece.layer(name), 1.0
            for _ in range(60):
                start = time.thread_time()
                values_over(piece, layer, "rotation", frames)
                best = min(best, time.thread_time() - start)
            return best

        values_over(piece, piece.layer("f160"), "rotation", frames)
        self.assertLess(cost("f160"), 2 * cost("f1"))

    def test_a_clamp_inside_a_chain_counts(self) -> None:
        piece = self.piece(
            keyed(form("a", 0, 0), "rotation", (0, 0.0), (10, 100.0)),
            driven(form("b", 0, 0), "rotation", driver=Follow("a", "rotation", 2.0, 0.0, 0.0, 20.0, 90.0)),
            driven(form("c", 0, 0), "rotation", driver=Follow("b", "rotation", -1.0, 5.0, 1.0, -70.0, None)),
        )
        frames = np.arange(12.0)
        a = np.clip((frames - 1) * 10, 0, 100)
        np.testing.assert_allclose(
            values_over(piece, piece.layer("c"), "rotation", frames)[:, 0], np.maximum(5 - np.clip(2 * a, 20, 90), -70)
        )

    def test_dependents_are_found_whatever_the_tie(self) -> None:
        piece = tied().composition("piece")
        self.assertEqual({"follower", "wheel", "held", "mask"}, {t.owner for t in dependents(piece, ["photo"])})
        self.assertEqual({"copies"}, {t.owner for t in dependents(piece, ["spark"])})


if __name__ == "__main__":
    unittest.main()
