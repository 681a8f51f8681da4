"""Pieces broken on purpose: each fault is found, named with the right layer and property, and mended."""

from __future__ import annotations

import json
import tempfile
import unittest
from pathlib import Path

import numpy as np
from attrs import evolve
from click.testing import CliRunner

from spiralis.cli import cli
from spiralis.core.animation.easing import HOLD, LINEAR, CubicBezier
from spiralis.core.animation.tracks import value_at
from spiralis.core.checks.seam import (
    DOUBLED,
    GAP,
    JUMP,
    KINK,
    Cause,
    check,
    frame_changes,
    ignored,
    mended,
    mended_all,
    not_ignored,
)
from spiralis.core.checks.seam.case import Case
from spiralis.core.editing.linking import with_driver
from spiralis.core.errors import ModelError
from spiralis.core.media.pictures import picture_source
from spiralis.core.media.source_kinds.footage import sequence_source
from spiralis.core.model import Composition, Extend, Key, Layer, Project, Rule, Source, Track
from spiralis.core.model.drivers import Follow, Wobble
from spiralis.core.render.frame import render_frame
from spiralis.core.storage import load, save
from tests.core.samples import backdrop, piece, png_bytes, square_source

SOFT = CubicBezier(0.4, 0, 0.6, 1)
RED, BLUE = (1.0, 0.0, 0.0, 1.0), (0.0, 0.2, 1.0, 1.0)
LENGTH = 40
SIZE = {"width": 160, "height": 120, "length": LENGTH}


def keys(*pairs: tuple[int, object], ease: object = LINEAR) -> Track:
    return Track(pairs[0][1], tuple(Key(frame, value, ease) for frame, value in pairs))  # type: ignore[arg-type]


def square(name: str = "Square", **values: object) -> Layer:
    return Layer(name, "shape", 0, LENGTH, id=name.lower()).with_values(
        **{"form": "rectangle", "size": (30.0, 30.0), "position": (60.0, 60.0), "fill": RED, **values}
    )


def made(
    *layers: Layer, sources: tuple[Source, ...] = (), others: tuple[Composition, ...] = (), **more: object
) -> Project:
    ground = backdrop(160, 120, (0.1, 0.1, 0.2, 1.0))
    ground = evolve(ground, last=LENGTH, id="ground")
    first = piece(*layers, ground, **{**SIZE, **more})  # type: ignore[arg-type]
    return Project("Broken", (first, *others), sources)


def striped(width: int, height: int) -> Source:
    """Return a picture whose columns differ, so that sliding it is seen."""
    across = np.linspace(0, 255, width).astype(np.uint8)
    red, blue = (np.tile(row, (height, 1)) for row in (across, across[::-1]))
    green, alpha = (np.full((height, width), level, np.uint8) for level in (90, 255))
    pixels = np.dstack([red, green, blue, alpha])
    return picture_source(png_bytes(pixels), "stripes.png")


def clip(frames: int, there_and_back: bool = False) -> Source:
    """Return footage of a bar that moves across, 25 frames a second."""
    folder, paths = Path(tempfile.mkdtemp()), []
    for frame in range(frames):
        place = frame if not there_and_back else min(frame, frames - frame)
        picture = np.full((48, 64, 3), 20, np.uint8)
        left = int(place * 50 / frames)
        picture[:, left : left + 14] = (250, 220, 30)
        paths.append(folder / f"bar_{frame:03d}.png")
        paths[-1].write_bytes(png_bytes(picture))
    return sequence_source(paths)


class BrokenTest(unittest.TestCase):
    """``break_`` builds each; ``expect`` says what must be found, ``mend`` in which ways it must become clean."""

    def broken(self, project: Project, sort: str, layer: str, name: str = "", mends: tuple[str, ...] = ()) -> Cause:
        """Check that exactly this is found, that each way mends it, and that mending everything does."""
        first = project.compositions[0]
        verdict = check(project, first, full=True)
        got = [(c.sort, c.layer, c.name) for c in verdict.causes]
        self.assertEqual(got, [(sort, layer, name)], [c.sentence for c in verdict.causes])
        self.assertEqual(verdict.sort, sort)
        cause = verdict.causes[0]
        holder = project.composition(cause.piece)
        if layer:
            self.assertIn(holder.layer(layer).name, cause.sentence)
        for way in mends or cause.mends:
            self.assertIn(way, cause.mends)
            after = mended(project, cause, way)
            left = check(after, after.composition(first.id), full=True)
            self.assertTrue(left.clean, (way, [c.sentence for c in left.causes]))
        after, done, problems = mended_all(project, first.id)
        self.assertEqual((len(done), problems), (1, []))
        self.assertTrue(check(after, after.composition(first.id), full=True).clean)
        return cause

    # -- values that jump --------------------------------------------------------------------------------

    def test_01_position(self) -> None:
        layer = square().with_track("position", keys((0, (40.0, 60.0)), (30, (100.0, 60.0))))
        cause = self.broken(made(layer), JUMP, "square", "position")
        self.assertEqual((cause.size, cause.unit), (60.0, "px"))
        self.assertIn("60 px", cause.sentence)

    def test_02_position_in_two_threads(self) -> None:
        layer = square(separate=True).with_track("position_x", keys((0, 40.0), (39, 100.0)))
        self.broken(made(layer.with_values(position_y=60.0)), JUMP, "square", "position_x", ("set-last-to-first",))

    def test_03_scale(self) -> None:
        self.broken(made(square().with_track("scale", keys((0, (100.0, 100.0)), (35, (160.0, 160.0))))), JUMP, "square",
                    "scale")  # fmt: skip

    def test_04_rotation_that_is_no_whole_turn(self) -> None:
        project = made(square().with_track("rotation", keys((0, 0.0), (40, 335.0))))
        cause = self.broken(project, JUMP, "square", "rotation")
        self.assertEqual(cause.size, 25.0)
        after = mended(project, cause, "make-it-loop")
        self.assertEqual(after.compositions[0].layer("square").track("rotation").keys[-1].value, 360.0)

    def test_04_keys_that_lie_later_than_the_loop(self) -> None:
        shifted = square().with_track("opacity", keys((6, 100.0), (20, 10.0), (46, 100.0)))
        project = made(shifted)
        cause = self.broken(project, JUMP, "square", "opacity", ("go-round",))
        after = mended(project, cause, "go-round").compositions[0].layer("square").track("opacity")
        self.assertEqual((Rule.REPEAT, Rule.REPEAT), (after.before.rule, after.after.rule))
        self.assertEqual(shifted.track("opacity").keys, after.keys)
        # What takes less time than the loop rests until it comes again.
        for first in (-5, 30):
            pulse = square().with_track("opacity", keys((first, 100.0), (first + 8, 10.0), (first + 20, 100.0)))
            project = made(pulse)
            cause = self.broken(project, JUMP, "square", "opacity", ("go-round",))
            track = mended(project, cause, "go-round").compositions[0].layer("square").track("opacity")
            parameter = pulse.parameter("opacity")
            for frame in range(LENGTH):
                alike = [value_at(pulse.track("opacity"), parameter, frame + by) for by in (-LENGTH, 0, LENGTH)]
                self.assertAlmostEqual(min(alike), value_at(track, parameter, frame))
        # Keys that end elsewhere do not come round by going on.
        other = made(square().with_track("opacity", keys((-5, 100.0), (5, 10.0), (35, 90.0))))
        ways = [way for cause in check(other, other.compositions[0]).causes for way in cause.mends]
        self.assertIn("set-last-to-first", ways)
        self.assertNotIn("go-round", ways)

    def test_04_a_cross_fade_closes_what_is_blurred_or_delayed_too(self) -> None:
        moving = keys((0, (40.0, 60.0)), (30, (100.0, 60.0)))
        blurred = square(motion_blur=True).with_track("position", moving)
        self.broken(made(blurred), JUMP, "square", "position", ("cross-fade",))
        # Beside it something blurred, and copies with a delay, come round by themselves.
        around = keys((0, (20.0, 20.0)), (20, (140.0, 100.0)), (40, (20.0, 20.0)))
        beside = square("Beside", motion_blur=True).with_track("position", around)
        copies = Layer("Copies", "copies", 0, LENGTH, id="copies").with_values(of="beside", count=3, delay=4.0)
        self.broken(made(blurred, beside, copies), JUMP, "square", "position", ("cross-fade",))
        self.assertTrue(Case(made(beside, copies), made(beside, copies).compositions[0]).meets)

    def test_04_keys_that_repeat_out_of_step_rest_until_the_loop_comes(self) -> None:
        blink = evolve(keys((0, 30.0), (10, 80.0), (30, 30.0)), after=Extend(Rule.REPEAT))
        project = made(square().with_track("opacity", blink))
        cause = self.broken(project, JUMP, "square", "opacity", ("go-round",))
        track = mended(project, cause, "go-round").compositions[0].layer("square").track("opacity")
        self.assertEqual([0, 10, 30, 40], [key.frame for key in track.keys])

    def test_04_what_cannot_fade_is_not_offered_to(self) -> None:
        turn = keys((0, 0.0), (30, 40.0))
        carrier = Layer("Carrier", "carrier", 0, LENGTH, id="carrier").with_track("rotation", turn)
        held = evolve(square("Held"), parent="carrier")
        led, leader = evolve(square("Led"), parent="square"), square().with_track("rotation", turn)
        for project, name in ((made(held, carrier), "carrier"), (made(led, leader), "square")):
            (cause,) = check(project, project.compositions[0]).causes
            self.assertEqual((name, "rotation"), (cause.layer, cause.name))
            self.assertNotIn("cross-fade", cause.mends)

    def test_04_keys_that_a_rule_brings_back_are_played(self) -> None:
        way = keys((45, 10.0), (55, 80.0), (70, 30.0), (85, 10.0))
        for rule, count in ((Rule.ONCE, 1), (Rule.REPEAT, 0)):
            thread = evolve(way, before=Extend(rule), after=Extend(rule))
            project = made(square().with_track("opacity", thread))
            notes = check(project, project.compositions[0]).notes
            self.assertEqual(count, len([note for note in notes if note.finder == "keys-outside"]), rule)

    def test_05_opacity(self) -> None:
        layer = square().with_track("opacity", keys((0, 100.0), (38, 20.0)))
        self.broken(made(layer), JUMP, "square", "opacity")

    def test_06_colour(self) -> None:
        cause = self.broken(made(square().with_track("fill", keys((0, RED), (40, BLUE)))), JUMP, "square", "fill")
        self.assertEqual((round(cause.size), cause.unit), (255, "levels"))

    def test_07_words(self) -> None:
        words = Layer("Words", "text", 0, LENGTH, id="words").with_values(size=40.0, position=(80.0, 60.0))
        layer = words.with_track("text", keys((0, "Now"), (20, "Then"), ease=HOLD))
        self.broken(made(layer), JUMP, "words", "text", ("set-last-to-first", "cross-fade"))

    def test_08_an_eye_that_shuts(self) -> None:
        layer = square().with_track("visible", keys((0, True), (30, False), ease=HOLD))
        project = made(layer)
        found = check(project, project.compositions[0]).causes
        self.assertEqual([(c.sort, c.name) for c in found], [(JUMP, "visible")])
        self.assertTrue(check(made(layer.with_track("visible", keys((0, True), (20, False), (40, True), ease=HOLD))),
                              piece(layer, **SIZE)).causes)  # fmt: skip

    def test_09_almost_where_it_began(self) -> None:
        layer = square().with_track("position", keys((0, (40.0, 60.0)), (20, (90.0, 60.0)), (40, (40.6, 60.0))))
        cause = self.broken(made(layer), JUMP, "square", "position", ("set-last-to-first",))
        self.assertAlmostEqual(cause.size, 0.6)

    def test_10_gradients_of_unlike_length(self) -> None:
        one = ((0.0, *RED), (1.0, *BLUE))
        three = ((0.0, *BLUE), (0.4, *RED), (1.0, *BLUE))
        layer = square(paint="linear").with_track("stops", keys((0, one), (20, three)))
        self.broken(made(layer), JUMP, "square", "stops", ("set-last-to-first",))

    def test_11_clouds_that_drift_away(self) -> None:
        clouds = Layer("Clouds", "clouds", 0, LENGTH, id="clouds")
        layer = clouds.with_values(position=(80.0, 60.0))
        layer = layer.with_track("drift", keys((0, (0.0, 0.0)), (40, (130.0, 20.0))))
        self.broken(made(layer), JUMP, "clouds", "drift", ("set-last-to-first", "cross-fade"))

    def test_12_an_evolution_that_does_not_loop(self) -> None:
        clouds = Layer("Clouds", "clouds", 0, LENGTH, id="clouds").with_values(position=(80.0, 60.0))
        layer = clouds.with_track("evolution", keys((0, 0.0), (40, 500.0)))
        cause = self.broken(made(layer), JUMP, "clouds", "evolution")
        self.assertEqual(cause.mends[0], "make-it-loop")

    def test_13_what_follows_is_mended_where_it_comes_from(self) -> None:
        source = square("Source").with_track("rotation", keys((0, 0.0), (40, 50.0)))
        follower = with_driver(square("Follower", position=(120.0, 60.0)), "rotation", Follow("source", "rotation"))
        self.broken(made(source, follower), JUMP, "source", "rotation", ("set-last-to-first",))

    def test_14_a_carrier(self) -> None:
        carrier = Layer("Carrier", "carrier", 0, LENGTH, id="carrier").with_values(size=(60.0, 60.0))
        carrier = carrier.with_track("position", keys((0, (50.0, 60.0)), (40, (100.0, 60.0))))
        child = evolve(square(position=(30.0, 30.0)), parent="carrier")
        self.broken(made(child, carrier), JUMP, "carrier", "position", ("set-last-to-first", "ping-pong"))

    def test_15_within_the_play_span_only(self) -> None:
        layer = square().with_track("position", keys((0, (40.0, 60.0)), (20, (100.0, 60.0)), (40, (40.0, 60.0))))
        self.assertTrue(check(made(layer), made(layer).compositions[0]).clean)
        self.broken(made(layer, play_span=(0, 30)), JUMP, "square", "position", ("set-last-to-first",))

    # -- doubled frames ----------------------------------------------------------------------------------

    def test_16_the_last_frame_is_the_first(self) -> None:
        layer = square().with_track(
            "position", keys((0, (40.0, 60.0)), (20, (110.0, 60.0)), (39, (40.0, 60.0)))
        )  # fmt: skip
        cause = self.broken(made(layer), DOUBLED, "square", "position")
        self.assertEqual(cause.mends, ("move-last-key", "drop-frame"))

    def test_17_a_whole_turn_a_frame_too_early(self) -> None:
        hand = square(size=(50.0, 6.0)).with_track("rotation", keys((0, 0.0), (39, 360.0)))
        self.broken(made(hand), DOUBLED, "square", "rotation")

    # -- speed -------------------------------------------------------------------------------------------

    def test_18_a_kink(self) -> None:
        ease = CubicBezier(0.0, 0.0, 0.4, 1.0)
        track = Track((40.0, 60.0), (Key(0, (40.0, 60.0), ease), Key(20, (110.0, 60.0), SOFT), Key(40, (40.0, 60.0))))
        cause = self.broken(made(square().with_track("position", track)), KINK, "square", "position")
        self.assertEqual(cause.unit, "px a frame")

    def test_19_a_turn_that_slows_down_and_starts_at_once(self) -> None:
        ease = CubicBezier(0.5, 0.5, 0.7, 1.0)
        track = Track(0.0, (Key(0, 0.0, LINEAR), Key(20, 180.0, ease), Key(40, 360.0)))
        self.broken(made(square(size=(50.0, 6.0)).with_track("rotation", track)), KINK, "square", "rotation")

    def test_20_what_rests_before_it_starts_is_no_kink(self) -> None:
        rests = Track(0.0, (Key(0, 0.0, LINEAR), Key(20, 90.0, SOFT), Key(30, 0.0), Key(40, 0.0)))
        zigzag = keys((0, (40.0, 60.0)), (20, (110.0, 60.0)), (40, (40.0, 60.0)))
        for layer in (square().with_track("rotation", rests), square().with_track("position", zigzag)):
            self.assertTrue(check(made(layer), made(layer).compositions[0], full=True).clean)

    # -- bars and edges ----------------------------------------------------------------------------------

    def test_21_a_bar_that_ends_early(self) -> None:
        cause = self.broken(made(evolve(square(), last=37)), GAP, "square")
        self.assertEqual((cause.size, cause.unit), (3.0, "frames"))

    def test_22_a_bar_that_begins_late(self) -> None:
        self.broken(made(evolve(square(), first=4)), GAP, "square")

    def test_23_a_cut_is_no_gap(self) -> None:
        one, other = evolve(square(), last=36), evolve(square("Other"), first=36)
        project = made(one, other)
        self.assertNotIn(GAP, [c.sort for c in check(project, project.compositions[0]).causes])

    def test_24_an_edge_that_comes_into_view(self) -> None:
        source = striped(200, 120)
        layer = Layer("Wall", "picture", 0, LENGTH, id="wall").with_values(source=source.id)
        swing = keys((0, (80.0, 60.0)), (15, (90.0, 60.0)), (20, (150.0, 60.0)), (25, (90.0, 60.0)), (40, (80.0, 60.0)))
        project = made(layer.with_track("position", swing), sources=(source,))
        bare = project.with_composition(evolve(project.compositions[0], layers=project.compositions[0].layers[:1]))
        cause = self.broken(bare, GAP, "wall")
        self.assertAlmostEqual(cause.size, 50.0, delta=6)
        self.assertTrue(check(project, project.compositions[0]).clean)  # A backdrop lies behind it.

    # -- pictures with a time of their own ---------------------------------------------------------------

    def test_25_footage_that_does_not_come_back(self) -> None:
        source = clip(30, there_and_back=True)
        layer = Layer("Clip", "footage", 0, LENGTH, id="clip").with_values(source=source.id, position=(80.0, 60.0))
        self.broken(made(layer, sources=(source,)), JUMP, "clip", "", ("make-it-loop", "run-there-and-back"))

    def test_26_footage_whose_own_ends_do_not_meet(self) -> None:
        source = clip(LENGTH)
        layer = Layer("Clip", "footage", 0, LENGTH, id="clip").with_values(source=source.id, position=(80.0, 60.0))
        cause = self.broken(made(layer, sources=(source,)), JUMP, "clip", "")
        self.assertEqual((cause.finder, cause.mends), ("picture-jump", ("cross-fade", "run-there-and-back")))

    def test_27_a_flipbook(self) -> None:
        sources = tuple(evolve(square_source(20, (shade, 200, 40, 255)), id=f"s{shade}") for shade in (10, 120, 240))
        layer = Layer("Flip", "flipbook", 0, LENGTH, id="flip").with_values(
            drawings=tuple((s.id, 3) for s in sources), own_rate=25.0, position=(80.0, 60.0)
        )
        self.broken(made(layer, sources=sources), JUMP, "flip", "", ("make-it-loop",))

    def test_28_a_nest_that_does_not_come_round(self) -> None:
        track = keys((0, (40.0, 60.0)), (15, (110.0, 60.0)), (30, (40.0, 60.0)))
        inner = evolve(piece(evolve(square(), id="in").with_track("position", track), width=160, height=120, length=30),
                       id="inner", name="Inner")  # fmt: skip
        nest = Layer("Nest", "nested", 0, LENGTH, id="nest").with_values(composition="inner", position=(80.0, 60.0))
        self.broken(made(nest, others=(inner,)), JUMP, "nest", "", ("make-it-loop",))

    def test_29_what_jumps_within_a_nest(self) -> None:
        track = keys((0, (40.0, 60.0)), (20, (110.0, 60.0)))
        inner = evolve(piece(evolve(square(), id="in").with_track("position", track), width=160, height=120, length=20),
                       id="inner", name="Inner")  # fmt: skip
        nest = Layer("Nest", "nested", 0, LENGTH, id="nest").with_values(composition="inner", position=(80.0, 60.0))
        project = made(nest, others=(inner,))
        cause = self.broken(project, JUMP, "in", "position", ("set-last-to-first", "ping-pong"))
        self.assertEqual(cause.piece, "inner")
        self.assertIn("Within Nest", cause.sentence)


class NotesTest(unittest.TestCase):
    def notes(self, *layers: Layer, **more: object) -> list[tuple[str, str, str]]:
        project = made(*layers, **more)
        verdict = check(project, project.compositions[0])
        self.assertTrue(verdict.clean)
        return [(c.finder, c.layer, c.name) for c in verdict.notes]

    def test_layers_that_never_show(self) -> None:
        clear, away = square("Clear", opacity=0.0), square("Away", position=(900.0, 60.0))
        short = evolve(square("Short"), first=17, last=18)
        found = [note[:2] for note in self.notes(clear, away, short)]
        self.assertEqual(found, [("never-shows", "clear"), ("never-shows", "away")])
        # In depth it counts where it is seen, not where it would lie flat.
        near = square("Near", depth=True, position=(900.0, 60.0), position_z=5000.0)
        gone = square("Gone", depth=True, position_z=-1e5)
        self.assertEqual([note[:2] for note in self.notes(near, gone)], [("never-shows", "gone")])
        project = made(clear)
        after = mended(project, check(project, project.compositions[0]).notes[0], "hide-layer")
        self.assertEqual(check(after, after.compositions[0]).notes, ())

    def test_keys_that_nobody_sees_are_deleted_without_a_change_or_played(self) -> None:
        track = Track(0.0, tuple(Key(f, v, SOFT) for f, v in ((0, 0.0), (30, 90.0), (50, 0.0), (80, 70.0))))
        layer = square(size=(50.0, 6.0)).with_track("rotation", evolve(track, after=Extend(Rule.ONCE)))
        project = made(layer)
        first = project.compositions[0]
        cause = next(c for c in check(project, first).notes if c.finder == "keys-outside")
        after = mended(project, cause, "delete-keys")
        self.assertEqual([k.frame for k in after.compositions[0].layer("square").track("rotation").keys], [0, 30, 40])
        for frame in (0, 33, 39):
            np.testing.assert_allclose(
                render_frame(project, first.id, frame), render_frame(after, first.id, frame), atol=2e-3
            )
        self.assertEqual(mended(project, cause, "lengthen").compositions[0].length, 80)

    def test_a_piece_that_plays_once_is_not_alarmed_about(self) -> None:
        layer = square().with_track("position", keys((0, (40.0, 60.0)), (30, (100.0, 60.0))))
        project = made(layer, loop=False)
        verdict = check(project, project.compositions[0])
        self.assertEqual((verdict.sort, verdict.clean, verdict.words), ("once", True, "Plays once"))

    def test_wobbles_and_rules_that_come_round_are_clean(self) -> None:
        wobbling = square()
        wobbling = wobbling.with_track("rotation", evolve(wobbling.track("rotation"), wobble=Wobble(20.0, 2.0, 3)))
        there = keys((0, (40.0, 60.0)), (20, (90.0, 60.0)))
        swinging = square("Swing").with_track("position", evolve(there, after=Extend(Rule.PING_PONG)))
        self.assertEqual(self.notes(wobbling, swinging), [])


class LeftAloneTest(unittest.TestCase):
    def setUp(self) -> None:
        self.project = made(square().with_track("position", keys((0, (40.0, 60.0)), (30, (100.0, 60.0)))))
        self.first = self.project.compositions[0]
        self.cause = check(self.project, self.first).causes[0]

    def test_a_reason_is_remembered_in_the_file_and_taken_back(self) -> None:
        left = ignored(self.first, self.cause, "  it is a cut  ")
        verdict = check(self.project, left)
        self.assertTrue(verdict.clean)
        self.assertEqual([(c.key, why) for c, why in verdict.ignored], [(self.cause.key, "it is a cut")])
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "a.spiralis"
            save(self.project.with_composition(left), path)
            self.assertEqual(load(path).compositions[0].left_alone, left.left_alone)
        self.assertFalse(check(self.project, not_ignored(left, self.cause)).clean)

    def test_locked_layers_are_not_mended(self) -> None:
        locked = self.project.with_composition(
            self.first.with_layer(evolve(self.first.layer("square"), locked=True))
        )
        with self.assertRaisesRegex(ModelError, "locked"):
            mended(locked, self.cause, "set-last-to-first")
        after, done, problems = mended_all(locked, self.first.id)
        self.assertEqual((done, after), ([], locked))
        self.assertTrue(problems)

    def test_the_change_from_frame_to_frame_shows_the_seam(self) -> None:
        changes = frame_changes(self.project, self.first)
        self.assertEqual(len(changes), LENGTH)
        self.assertEqual(int(np.argmax(changes)), LENGTH - 1)
        stopped = frame_changes(self.project, self.first, lambda done, count: done < 5)
        self.assertEqual(int(np.isnan(stopped).sum()), LENGTH - 4)


class CommandLineTest(unittest.TestCase):
    def run_seam(self, project: Project, *more: str) -> tuple[int, str]:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "a.spiralis"
            save(project, path, b"")
            result = CliRunner().invoke(cli, ["seam", str(path), *more])
        return result.exit_code, result.output

    def test_it_names_what_breaks_and_exits_with_1(self) -> None:
        broken = made(square().with_track("position", keys((0, (40.0, 60.0)), (30, (100.0, 60.0)))))
        code, text = self.run_seam(broken, "--composition", "Piece")
        self.assertEqual(code, 1)
        self.assertIn("Square: Position ends 60 px away", text)
        code, text = self.run_seam(broken, "--json")
        data = json.loads(text)
        self.assertEqual((code, data["verdict"], data["causes"][0]["property"]), (1, "jump", "Position"))
        code, text = self.run_seam(made(square()))
        self.assertEqual((code, "Loop is clean" in text), (0, True))



if __name__ == "__main__":
    unittest.main()
