"""Sound: files read, layers mixed as their definitions say, files of video that hold it."""

from __future__ import annotations

import itertools
import tempfile
import unittest
from fractions import Fraction
from pathlib import Path
from typing import Any
from unittest import mock

import av
import numpy as np
from attrs import evolve
from hypothesis import given, settings
from hypothesis import strategies as st

from spiralis.core.animation.drivers import values_over
from spiralis.core.animation.easing import CubicBezier
from spiralis.core.animation.source_time import Span
from spiralis.core.animation.tracks import evaluate, value_at
from spiralis.core.checks.findings import Cause, mended
from spiralis.core.checks.seam.verdict import check
from spiralis.core.contents import contents_lines, contents_of
from spiralis.core.editing.grouping import grouped
from spiralis.core.editing.hearing import marked_by, with_loudness
from spiralis.core.editing.importing import Gathered, brought_in, new_project
from spiralis.core.editing.nesting import nest, open_up
from spiralis.core.editing.reformat import retimed
from spiralis.core.editing.slots import open_slots, with_slot
from spiralis.core.editing.sources import replaced
from spiralis.core.editing.spans import split
from spiralis.core.errors import FileError, ModelError
from spiralis.core.media.exporters import ExportJob, ExportResult, export, exporter
from spiralis.core.media.sampling import guessed, sampled
from spiralis.core.media.sources import read_source
from spiralis.core.model import Composition, Key, Layer, Marker, Project, Source, Track, layer_kind, layer_kinds
from spiralis.core.model.slots import Slot, Variant
from spiralis.core.raster.layer_image import Scene
from spiralis.core.render.frame import render_frame
from spiralis.core.render.layers import Evaluated
from spiralis.core.sound import reading
from spiralis.core.sound.listening import attacks, loudness_of
from spiralis.core.sound.mixing import heard_of, loudness, mixed, sounds
from spiralis.core.sound.outline import FINE, heights, peaks_of
from spiralis.core.sound.reading import RATE, has_sound, read_sound, samples_of
from spiralis.core.storage import load, save
from spiralis.core.variants.cells import filled_by
from spiralis.core.variants.problems import slot_problem
from tests.core.clips import encode
from tests.core.samples import png_bytes, square_source
from tests.core.sounds import clip_with_sound, piece_with, sound, tone, wav, write_wav

#: What 16 bits round off, twice.
NEAR = 1e-4


def heard(project: Project, first: float = 0, last: float | None = None, piece: str = "piece") -> np.ndarray:
    """Return the left side of what a piece sounds like."""
    composition = project.composition(piece)
    return mixed(project, composition, first, composition.length if last is None else last)[:, 0]


class _InFolder(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))


class ReadingTest(_InFolder):
    def test_samples_come_as_they_are_one_channel_from_both_sides(self) -> None:
        own = tone(0.3)
        found = read_sound(wav(own), "Tune.wav")
        self.assertEqual((len(own), 2), found.shape)
        for side in (0, 1):
            np.testing.assert_allclose(found[:, side], own, atol=NEAR)

    def test_two_channels_keep_their_sides(self) -> None:
        both = np.stack([tone(0.2, 300), tone(0.2, 900, 0.25)], axis=1)
        np.testing.assert_allclose(read_sound(wav(both), "Tune.wav"), both, atol=NEAR)

    def test_another_rate_keeps_length_and_pitch(self) -> None:
        own = 0.5 * np.sin(2 * np.pi * 440 * np.arange(22_050) / 22_050)
        found = read_sound(wav(own, 22_050), "Tune.wav")[:, 0]
        self.assertAlmostEqual(RATE, len(found), delta=64)
        loudest = np.argmax(np.abs(np.fft.rfft(found))) * RATE / len(found)
        self.assertAlmostEqual(440, loudest, delta=2)

    def test_what_is_no_sound_is_said_in_a_sentence(self) -> None:
        for data, words in ((b"nothing", "is no sound that can be read"), (silent_clip(), "holds no sound; choose")):
            with self.subTest(words), self.assertRaisesRegex(FileError, f"“Odd.wav” {words}"):
                read_sound(data, "Odd.wav")

    def test_what_begins_late_in_a_clip_is_heard_as_late(self) -> None:
        found = read_sound(clip_with_sound(tone(0.5), late=0.2), "Clip.mov")[:, 0]
        self.assertEqual(0.0, float(np.abs(found[: round(0.199 * RATE)]).max()))
        np.testing.assert_allclose(found[round(0.2 * RATE) :], tone(0.5), atol=NEAR)

    def test_more_than_may_be_held_is_refused(self) -> None:
        with mock.patch.object(reading, "LONGEST", 0.5), self.assertRaisesRegex(FileError, "longer than"):
            read_sound(wav(tone(1.0)), "Tune.wav")

    def test_a_source_tells_its_length_and_is_read_once(self) -> None:
        source = sound(self.folder, tone(1.5))
        self.assertEqual(("sound", Fraction(3, 2), 0, 0), (source.kind, source.seconds, source.width, source.height))
        self.assertTrue(has_sound(source))
        self.assertIs(samples_of(source), samples_of(source))

    def test_a_missing_file_is_silent(self) -> None:
        source = evolve(sound(self.folder, tone(0.7, 77)), data=None, digest="gone")
        self.assertEqual(0, len(samples_of(source)))
        project = piece_with(Layer("Tune", "sound", 0, 50).with_values(source=source.id), source=source)
        self.assertFalse(sounds(project, project.composition("piece")))

    def test_large_files_stay_where_they_are(self) -> None:
        path = write_wav(self.folder / "Long.wav", tone(0.4, 123))
        with mock.patch("spiralis.core.media.files.MOST_EMBEDDED", 1000):
            source = sound(self.folder, tone(0.4, 123), "Long.wav")
        self.assertEqual((True, None, path), (source.linked, source.data, source.place))
        self.assertAlmostEqual(0.5, float(np.abs(samples_of(source)).max()), places=2)


def silent_clip() -> bytes:
    """Return a clip that is silent."""

    return encode("libx264", "mp4", "yuv420p", count=3)


#: A file whose samples rise from 0 to 1: each says where it is.
RISE = np.linspace(0, 1, RATE, endpoint=False)


def naive(second: float, layer: Layer, rate: float, length: float = 1.0) -> float | None:
    """Return where in a file one is at a moment of the composition, in seconds; None for nowhere."""
    value = {name: layer.track(name).value for name in ("start", "in", "out", "ends")}
    end = min(value["out"] or length, length)
    gone = second - value["start"] / rate
    span = end - value["in"]
    if span <= 0:
        return None
    if value["ends"] == "loop":
        gone %= span
    return value["in"] + gone if 0 <= gone < span else None


class MixingTest(_InFolder):
    @settings(deadline=None, max_examples=40)
    @given(
        st.integers(-60, 60), st.sampled_from((0.0, 0.1, 0.25)), st.sampled_from((0.0, 0.5, 0.9, 3.0)),
        st.sampled_from(("once", "loop")), st.integers(0, 20), st.integers(25, 50), st.sampled_from((24, 25, 30)),
    )  # fmt: skip
    def test_each_moment_is_heard_where_the_numbers_say(
        self, start: int, begin: float, end: float, ends: str, first: int, last: int, rate: int
    ) -> None:
        with tempfile.TemporaryDirectory() as folder:
            source = sound(Path(folder), RISE)
        layer = Layer("Rise", "sound", first, last, id="rise")
        layer = layer.with_values(source=source.id, start=float(start), ends=ends, **{"in": begin, "out": end})
        found = heard(piece_with(layer, source=source, rate=Fraction(rate)))
        for second in np.arange(0.011, 50 / rate, 0.07):
            place = naive(float(second), layer, rate)
            near_edge = min(abs(second - edge / rate) for edge in (first, last)) < 0.004
            if near_edge or (place is not None and min(place - begin, abs((end or 1) - place), 1 - place) < 0.002):
                continue
            there = first / rate <= second < last / rate and place is not None
            self.assertAlmostEqual(place if there else 0.0, float(found[round(second * RATE)]), delta=2e-4)

    def test_volume_goes_by_its_keys_and_layers_add_up(self) -> None:
        source = sound(self.folder, np.full(2 * RATE, 0.25))
        loud = Track(100.0, (Key(0, 0.0), Key(50, 200.0)))
        one = Layer("One", "sound", 0, 50).with_values(source=source.id).with_track("volume", loud)
        other = Layer("Other", "sound", 0, 50).with_values(source=source.id, volume=50.0)
        found = heard(piece_with(one, other, source=source))

        frames = np.array([5.0, 25.0, 40.0])
        wanted = 0.125 + 0.25 * evaluate(loud, one.parameter("volume"), frames)[:, 0] / 100
        np.testing.assert_allclose(found[(frames * RATE / 25).astype(int)], wanted, atol=1e-3)

    def test_it_fades_at_the_ends_of_its_bar(self) -> None:
        source = sound(self.folder, np.full(2 * RATE, 0.5))
        layer = Layer("Tune", "sound", 10, 40).with_values(source=source.id, fades=(0.4, 0.2))
        found = heard(piece_with(layer, source=source))
        for second, wanted in ((0.3, 0), (0.6, 0.25), (0.9, 0.5), (1.35, 0.5), (1.5, 0.25), (1.7, 0)):
            self.assertAlmostEqual(wanted, float(found[round(second * RATE)]), delta=0.01)

    def test_nothing_clicks_where_a_bar_begins_or_ends(self) -> None:
        source = sound(self.folder, np.full(2 * RATE, 0.5))
        layer = Layer("Tune", "sound", 10, 40).with_values(source=source.id)
        found = heard(piece_with(layer, source=source))
        self.assertLess(float(np.abs(np.diff(found)).max()), 0.02)
        self.assertEqual(0.0, float(np.abs(found[: round(0.398 * RATE)]).max()))
        self.assertEqual(0.0, float(np.abs(found[round(1.602 * RATE) :]).max()))
        whole = heard(piece_with(evolve(layer, first=0, last=50), source=source))
        self.assertAlmostEqual(0.5, float(whole.min()), places=3)

    def test_edits_that_change_nothing_in_sight_change_nothing_that_is_heard(self) -> None:
        source = sound(self.folder, tone(1.7, 333))
        path = self.folder / "Clip.mov"
        path.write_bytes(clip_with_sound(tone(1.0, 800)))
        clip = read_source(path)
        tune = Layer("Tune", "sound", 3, 44, id="tune")
        tune = tune.with_values(source=source.id, start=5.0, ends="loop", fades=(0.2, 0.3))
        film = Layer("Film", "footage", 0, 50, id="film").with_values(source=clip.id, fit=True, position=(32.0, 24.0))
        project = piece_with(tune, film, source=source).with_source(clip)[0]
        before, piece = heard(project), project.composition("piece")
        self.assertGreater(float(np.abs(before).max()), 0.5)
        cut, _ = split(Evaluated(project, piece, 21), ["tune", "film"], 21)
        self.assertEqual(4, len(cut.layers))
        group, _ = grouped(project, piece, ["tune", "film"], 0)
        nested, outer = nest(project, "piece", ["tune", "film"], "Inner")
        opened, _ = open_up(nested, "piece", outer)
        changed = [project.with_composition(cut), project.with_composition(group), nested, opened]
        changed.append(project.with_composition(retimed(piece, Fraction(50))))
        for made in changed:
            np.testing.assert_allclose(heard(made), before, atol=0.01)

    @given(
        st.integers(1, 39), st.integers(1, 39), st.just(0.0) | st.floats(0.01, 3), st.just(0.0) | st.floats(0.01, 3),
        st.floats(0, 1), st.floats(0, 1),
    )  # fmt: skip
    def test_cut_anywhere_and_again_it_fades_as_it_did(
        self, at: int, again: int, come: float, go: float, before: float, after: float
    ) -> None:
        layer = Layer("Tune", "sound", 5, 45, id="tune").with_values(fades=(come, go), beyond=(before, after))
        project = piece_with(layer, source=sound(self.folder, np.zeros(RATE)))
        piece, moments = project.composition("piece"), np.linspace(0, 49.99, 140)
        whole = loudness(piece, layer, moments)
        for frame in (5 + at, 5 + again):
            every = [each.id for each in piece.layers]
            piece, _ = split(Evaluated(project.with_composition(piece), piece, frame), every, frame)
        parts = sum(loudness(piece, each, moments) for each in piece.layers)
        np.testing.assert_allclose(parts, whole, atol=1e-6)

    def test_a_part_that_no_fade_reaches_has_none(self) -> None:
        layer = Layer("Tune", "sound", 0, 50, id="tune").with_values(fades=(0.4, 0.6))
        project = piece_with(layer, source=sound(self.folder, np.zeros(RATE)))
        parts, _ = split(Evaluated(project, project.composition("piece"), 25), ["tune"], 25)
        told = [(y.first, y.track("fades").value, y.track("beyond").value) for y in parts.layers]
        self.assertEqual([(25, (0.0, 0.6), (0.0, 0.0)), (0, (0.4, 0.0), (0.0, 0.0))], told)

    def test_shown_alone_it_is_heard_alone_until_it_is_written(self) -> None:
        source = sound(self.folder, np.full(2 * RATE, 0.5))
        group = Layer("Group", "group", 0, 50, id="group")
        inside = Layer("Inside", "sound", 0, 50, id="inside", parent="group").with_values(source=source.id, volume=50.0)
        other = Layer("Other", "sound", 0, 50, id="other").with_values(source=source.id, volume=20.0)
        picture = Layer("Words", "text", 0, 50, id="words")
        for alone, wanted in (((), 0.35), (("inside",), 0.25), (("group",), 0.25), (("other",), 0.1), (("words",), 0.0),
                              (("words", "other"), 0.1)):  # fmt: skip
            layers = [evolve(y, solo=y.id in alone) for y in (group, inside, other, picture)]
            project = piece_with(*layers, source=source)
            self.assertAlmostEqual(wanted, float(heard(project)[RATE]), places=4)
            self.assertAlmostEqual(0.35, float(heard(project.without_references())[RATE]), places=4)

    def test_what_is_hidden_or_in_a_hidden_group_is_silent(self) -> None:
        source = sound(self.folder, np.full(2 * RATE, 0.5))
        group = Layer("Group", "group", 0, 50, id="group")
        layer = Layer("Tune", "sound", 0, 50, parent="group").with_values(source=source.id)
        blinking = Track(True, (Key(0, True), Key(25, False)))
        for shown, wanted in ((Track(True), (0.5, 0.5)), (Track(False), (0, 0)), (blinking, (0.5, 0))):
            hidden = (group.with_track("visible", shown), layer.with_track("visible", shown))
            for layers in ((hidden[0], layer), (group, hidden[1])):
                found = heard(piece_with(*layers, source=source))
                np.testing.assert_allclose(found[[RATE // 2, 3 * RATE // 2]], wanted, atol=NEAR)

    def nest(self, inner: Composition, source: Source, **values: Any) -> Project:
        layer = Layer("Nest", "nested", 0, 100, id="nest").with_values(composition=inner.id, **values)
        outer = Composition("Outer", 64, 48, Fraction(25), 100, id="outer", layers=(layer,))
        project = Project("Heard").with_source(source)[0]
        return project.with_composition(inner).with_composition(outer)

    def test_nests_are_heard_go_round_and_have_a_volume(self) -> None:
        source = sound(self.folder, RISE)
        layer = Layer("Rise", "sound", 0, 30).with_values(source=source.id)
        inner = Composition("Inner", 64, 48, Fraction(30), 30, id="inner", layers=(layer,))
        found = heard(self.nest(inner, source, start=25.0, volume=50.0), piece="outer")
        for second in (1.2, 1.7, 2.2, 3.4, 0.3):
            self.assertAlmostEqual(0.5 * (second % 1), float(found[round(second * RATE)]), delta=1e-3)
        once = heard(self.nest(evolve(inner, loop=False), source, start=25.0), piece="outer")
        self.assertAlmostEqual(0.5, float(once[round(1.5 * RATE)]), delta=1e-3)
        self.assertEqual((0.0, 0.0), (float(once[round(0.5 * RATE)]), float(once[round(2.5 * RATE)])))

    def test_a_nest_of_silent_layers_is_silent(self) -> None:
        inner = Composition("Inner", 64, 48, Fraction(30), 30, id="inner", layers=(Layer("Ground", "backdrop", 0, 30),))
        project = self.nest(inner, sound(self.folder, RISE))
        self.assertFalse(sounds(project, project.composition("outer")))

    def test_a_retimed_nest_is_heard_as_its_keys_run(self) -> None:
        source = sound(self.folder, RISE)
        layer = Layer("Rise", "sound", 0, 30).with_values(source=source.id)
        inner = Composition("Inner", 64, 48, Fraction(30), 30, id="inner", layers=(layer,))
        project = self.nest(inner, source, retime=True)
        keys = (Key(0, 24.0), Key(40, 4.0), Key(60, 4.0), Key(80, 16.0))
        piece = project.composition("outer")
        layer = piece.layer("nest").with_track("own_frame", Track(24.0, keys))
        project = project.with_composition(piece.with_layer(layer))
        found = heard(project, piece="outer")
        for frame, own in ((10, 19.0), (30, 9.0), (65, 7.0), (75, 13.0)):
            self.assertAlmostEqual(own / 30, float(found[round(frame / 25 * RATE)]), delta=0.005)
        # Where it rests there is no sound.
        self.assertEqual(0.0, float(np.abs(found[round(42 / 25 * RATE) : round(58 / 25 * RATE)]).max()))

    def test_a_part_of_a_piece_sounds_as_it_does_in_the_whole(self) -> None:
        source = sound(self.folder, tone(1.7, 333))
        layer = Layer("Tune", "sound", 3, 44).with_values(source=source.id, start=5.0, ends="loop", fades=(0.2, 0.3))
        project = piece_with(layer, source=source)
        whole, part = heard(project), heard(project, 10, 30)
        np.testing.assert_allclose(part, whole[round(0.4 * RATE) : round(1.2 * RATE)], atol=1e-5)

    def test_the_place_in_the_file_is_a_whole_sample_for_the_whole_run(self) -> None:
        """Where a layer begins between two samples none is heard twice, and none is left out."""
        own = 0.4 * np.random.default_rng(2).choice((-1.0, 1.0), RATE)
        source = sound(self.folder, own)
        layer = Layer("Hiss", "sound", 0, 20).with_values(source=source.id, start=1.0)
        found = heard(piece_with(layer, source=source, length=20, rate=Fraction(30_000, 1001)))
        begins = round(RATE * 1001 / 30_000)
        np.testing.assert_allclose(found[begins + 200 : 20_000], own[200 : 20_000 - begins], atol=NEAR)


class FootageTest(_InFolder):
    """The sound of clips goes along with their pictures."""

    def setUp(self) -> None:
        super().setUp()
        path = self.folder / "Clip.mov"
        path.write_bytes(clip_with_sound(RISE))

        self.source = read_source(path)

    def found(self, **values: Any) -> np.ndarray:
        layer = Layer("Clip", "footage", 0, 50).with_values(source=self.source.id, **values)
        return heard(piece_with(layer, source=self.source))

    def assert_at(self, found: np.ndarray, **places: float) -> None:
        for second, place in places.items():
            self.assertAlmostEqual(place, float(found[round(int(second[1:]) / 100 * RATE)]), delta=2e-3)

    def test_it_runs_loops_and_is_cut_as_its_pictures_are(self) -> None:
        self.assertEqual("footage", self.source.kind)
        self.assert_at(self.found(), s20=0.2, s120=0.2)
        self.assert_at(self.found(ends="once"), s20=0.2, s120=0)
        self.assert_at(self.found(ends="hold"), s20=0.2, s120=0)
        self.assert_at(self.found(ends="ping-pong"), s20=0.2, s120=0.8)
        self.assert_at(self.found(start=10.0), s60=0.2)
        self.assert_at(self.found(**{"in": 5.0, "out": 15.0}), s10=0.3, s50=0.3)

    def test_it_is_faster_and_backwards_as_its_pictures_are(self) -> None:
        self.assert_at(self.found(speed=200.0), s20=0.4, s60=0.2)
        self.assert_at(self.found(own_rate=12.5), s40=0.2)
        self.assert_at(self.found(reverse=True), s20=0.8)
        self.assert_at(self.found(fit=True), s40=0.2, s160=0.8)
        self.assert_at(self.found(volume=50.0), s40=0.2)

    def test_where_keys_say_what_shows_they_say_what_is_heard(self) -> None:
        layer = Layer("Clip", "footage", 0, 50).with_values(source=self.source.id, retime=True)
        layer = layer.with_track("own_frame", Track(0.0, (Key(0, 20.0), Key(20, 5.0), Key(50, 50.0))))
        found = heard(piece_with(layer, source=self.source))
        self.assert_at(found, s40=0.5, s60=0.35, s100=0.5, s160=0.4)

    def test_an_ease_that_comes_as_far_as_the_clip_runs_is_heard_as_an_ease(self) -> None:
        ease = CubicBezier(0.6, 0, 0.4, 1)
        layer = Layer("Clip", "footage", 0, 25).with_values(source=self.source.id, retime=True)
        layer = layer.with_track("own_frame", Track(0.0, (Key(0, 0.0, ease), Key(25, 25.0))))
        found = heard(piece_with(layer, source=self.source), 0, 25)
        for frame in (5, 10, 15, 20):
            own = value_at(layer.track("own_frame"), layer.parameter("own_frame"), frame)
            self.assertGreater(abs(own - frame), 0.9)
            self.assertAlmostEqual(own / 25, float(found[round(frame / 25 * RATE)]), delta=2e-3)

    def test_pictures_and_sound_show_the_same_moment(self) -> None:
        """By an independent way: which frame shows tells where in the clip one is."""

        ways = ({}, {"speed": 150.0}, {"start": 7.0}, {"reverse": True}, {"in": 4.0, "out": 20.0}, {"fit": True})
        for values in ways:
            layer = Layer("Clip", "footage", 0, 50).with_values(source=self.source.id, **values)
            project = piece_with(layer, source=self.source)
            now = {p.name: layer.track(p.name).value for p in layer.parameters}
            found = heard(project)
            for frame in (9, 21, 33):
                scene = Scene(project, 64, 48, span=Span(Fraction(frame), Fraction(25), 0, 50))
                index = layer_kind("footage").own_frame(now, scene)
                self.assertAlmostEqual(index / 25, float(found[round((frame + 0.02) * RATE / 25)]), delta=0.041)

    def test_silent_clips_have_no_volume_to_set(self) -> None:
        silent = self.folder / "Silent.mp4"
        silent.write_bytes(silent_clip())

        for source, wanted in ((self.source, True), (read_source(silent), False)):
            layer = Layer("Clip", "footage", 0, 50).with_values(source=source.id)
            project = piece_with(layer, source=source)
            now = {p.name: layer.track(p.name).value for p in layer.parameters}
            kind = next(kind for kind in layer_kinds() if kind.name == "footage")
            self.assertEqual(wanted, kind.matters(layer.parameter("volume"), now, project))
            self.assertEqual(wanted, sounds(project, project.composition("piece")))


class KindsTest(_InFolder):
    def test_whatever_is_heard_has_a_volume_and_nothing_else_does(self) -> None:
        for kind in layer_kinds():
            named = {parameter.name for parameter in kind.parameters}
            self.assertEqual(kind.hears is not None, "volume" in named, kind.name)

    def test_what_is_only_heard_has_neither_place_nor_look(self) -> None:
        source = sound(self.folder, tone(0.1))
        layer = Layer("Tune", "sound", 0, 50).with_values(source=source.id)
        project = piece_with(layer, source=source)
        now = {p.name: layer.track(p.name).value for p in layer.parameters}
        kind = next(kind for kind in layer_kinds() if kind.name == "sound")
        shown = {p.name for p in kind.parameters if kind.matters(p, now, project)}
        self.assertEqual({"source", "volume", "fades", "beyond", "start", "in", "out", "ends", "visible"}, shown)

    def test_a_new_layer_without_a_file_is_silent(self) -> None:
        layer = Layer("Tune", "sound", 0, 50)
        project = piece_with(layer, source=sound(self.folder, tone(0.1)))
        self.assertIsNone(heard_of(project, project.composition("piece"), layer))


    def test_pictures_beside_it_are_drawn_as_they_are_without_it(self) -> None:
        source, picture = sound(self.folder, tone(0.1)), square_source(40)
        shown = Layer("Kite", "picture", 0, 50).with_values(source=picture.id, position=(30.0, 20.0))
        tunes = [Layer(f"Tune {n}", "sound", 0, 50).with_values(source=source.id) for n in range(2)]
        project = piece_with(shown, *tunes, source=source).with_source(picture)[0]
        alone = project.with_composition(evolve(project.composition("piece"), layers=(shown,)))
        with mock.patch("spiralis.core.render.pictures_ahead.prepare") as decoded:
            np.testing.assert_array_equal(render_frame(project, "piece", 3), render_frame(alone, "piece", 3))
        self.assertFalse(decoded.called)  # One picture needs none beside it, and sounds are none.

    def test_a_nest_is_not_opened_up_where_that_would_change_its_loudness(self) -> None:
        source = sound(self.folder, tone(0.1))
        inner = piece_with(Layer("Tune", "sound", 0, 50).with_values(source=source.id), source=source)
        nest = Layer("Nest", "nested", 0, 50, id="nest").with_values(composition="piece", position=(32.0, 24.0))
        outer = Composition("Outer", 64, 48, Fraction(25), 50, id="outer", layers=(nest,))
        for layer, refused in ((nest, False), (nest.with_values(volume=40.0), True)):
            project = inner.with_composition(evolve(outer, layers=(layer,)))
            if refused:
                with self.assertRaisesRegex(ModelError, "set its volume to 100 %"):
                    open_up(project, "outer", "nest")
            else:
                made, _ = open_up(project, "outer", "nest")
                np.testing.assert_allclose(heard(made, piece="outer"), heard(project, piece="outer"), atol=NEAR)


class OutlineTest(_InFolder):
    def test_it_is_the_loudest_of_each_piece(self) -> None:
        own = tone(0.5) * np.linspace(0, 1, RATE // 2)
        peaks = peaks_of(sound(self.folder, own))
        step = RATE // FINE
        wanted = [np.abs(own[at : at + step]).max() for at in range(0, len(own), step)]
        np.testing.assert_allclose(peaks, wanted, atol=NEAR)

    def test_it_stands_where_it_is_heard_as_loud_as_it_is_heard(self) -> None:
        own = np.zeros(RATE)
        own[RATE // 2 : RATE // 2 + 200] = 0.8
        source = sound(self.folder, own)
        layer = Layer("Click", "sound", 0, 50).with_values(source=source.id, start=10.0, volume=50.0)
        project = piece_with(layer, source=source)
        piece = project.composition("piece")
        moments = np.linspace(0, 50, 101)
        found = heights(peaks_of(source), heard_of(project, piece, layer), piece, layer, moments)
        self.assertAlmostEqual(0.4, float(found.max()), places=3)
        self.assertAlmostEqual(10 + 12.5, float(moments[int(np.argmax(found))]), delta=0.6)
        self.assertLessEqual(int((found > 0).sum()), 3)
        # What is short is not passed over, however far apart one looks.
        coarse = heights(peaks_of(source), heard_of(project, piece, layer), piece, layer, np.linspace(0, 50, 11))
        self.assertAlmostEqual(0.4, float(coarse.max()), places=3)


class ProjectTest(_InFolder):
    def test_it_comes_in_as_a_layer_and_is_the_same_once_saved(self) -> None:
        source = sound(self.folder, tone(0.8, 500))
        project = Project("New").with_composition(Composition("Piece", 64, 48, Fraction(25), 50, id="piece"))
        made = brought_in(project, "piece", Gathered([source]))
        layer = made.project.composition("piece").layer(made.layers[0])
        self.assertEqual(("Tune", "sound", 0, 50), (layer.name, layer.kind, layer.first, layer.last))
        save(made.project, self.folder / "Heard.spiralis")
        again = load(self.folder / "Heard.spiralis")
        np.testing.assert_array_equal(heard(made.project), heard(again))
        self.assertGreater(float(np.abs(heard(again)).max()), 0.4)
        lines = contents_lines(contents_of(self.folder / "Heard.spiralis"))
        self.assertIn("    Tune.wav (sound, 38400 samples, used 1 ×)", lines)

    def test_a_slot_takes_another_sound_from_a_table(self) -> None:
        source = sound(self.folder, tone(1.0, 300))
        write_wav(self.folder / "Other.wav", tone(1.0, 700))
        (self.folder / "Kite.png").write_bytes(png_bytes(np.full((4, 4, 4), 200, dtype=np.uint8)))
        layer = Layer("Tune", "sound", 0, 50, id="tune").with_values(source=source.id, volume=50.0)
        project = piece_with(layer, source=source)
        project = with_slot(project, project.composition("piece"), "tune", Slot("Music", "source"))
        piece = project.composition("piece")
        (slot,) = open_slots(project, piece)
        made = filled_by(project, "piece", (slot,), Variant((("Music", "Other.wav"),)), self.folder)
        np.testing.assert_allclose(heard(made)[:RATE], tone(1.0, 700) / 2, atol=NEAR)
        self.assertEqual("", slot_problem(project, slot, "Other.wav", self.folder))
        self.assertIn("There is no sound “gone.wav”", slot_problem(project, slot, "gone.wav", self.folder))
        self.assertIn("a sound is wanted", slot_problem(project, slot, "Kite.png", self.folder))

    def test_a_file_replaced_is_heard_as_the_one_before_was(self) -> None:
        source, other = sound(self.folder, tone(1.0, 300)), sound(self.folder, tone(1.0, 700), "Other.wav")
        layer = Layer("Tune", "sound", 0, 50, id="tune").with_values(source=source.id, volume=50.0)
        made = replaced(piece_with(layer, source=source), source.id, other)
        np.testing.assert_allclose(heard(made)[:RATE], tone(1.0, 700) / 2, atol=NEAR)

    def test_artwork_and_a_sound_make_a_project_as_large_as_the_artwork(self) -> None:

        picture = self.folder / "Kite.png"
        picture.write_bytes(png_bytes(np.full((40, 30, 4), 200, dtype=np.uint8)))

        both = Gathered([sound(self.folder, tone(0.2)), read_source(picture)])
        made, _ = new_project(both, "Kite")
        self.assertEqual((30, 40), (made.compositions[0].width, made.compositions[0].height))
        alone, _ = new_project(Gathered([sound(self.folder, tone(0.2))]), "Tune")
        self.assertEqual((1080, 1080), (alone.compositions[0].width, alone.compositions[0].height))


class ExportTest(_InFolder):
    def setUp(self) -> None:
        super().setUp()
        source = sound(self.folder, tone(1.5, 600) * np.linspace(0, 1, RATE * 3 // 2))
        layer = Layer("Tune", "sound", 5, 45, id="tune").with_values(source=source.id, start=5.0, fades=(0.1, 0.3))
        ground = Layer("Ground", "backdrop", 0, 50)
        self.project = piece_with(layer, ground, source=source)

    def written(self, kind: str, name: str = "out", repeat: int = 1, **settings: Any) -> ExportResult:
        path = self.folder / f"{name}{exporter(kind).suffix}"
        return export(exporter(kind), ExportJob(self.project, "piece", path, 0, 50, repeat=repeat, settings=settings))

    def assert_heard(self, path: Path, wanted: np.ndarray, apart: float) -> None:
        """The file's sound is that, where it is, but for what packing leaves out."""
        found = read_sound(path.read_bytes(), path.name)[:, 0]
        self.assertLess(abs(len(found) - len(wanted)), 1100)
        count = min(len(found), len(wanted))
        self.assertLess(float(np.sqrt(np.mean((found[:count] - wanted[:count]) ** 2))), apart)

    def test_videos_hold_what_is_heard_to_the_sample(self) -> None:
        for kind, apart in (("mp4", 0.005), ("webm", 0.01), ("mov", NEAR)):
            with self.subTest(kind):
                result = self.written(kind)
                self.assertEqual((50, 2.0), (result.frames, result.seconds))
                self.assert_heard(result.path, heard(self.project), apart)

    def test_each_round_is_heard(self) -> None:
        result = self.written("mp4", repeat=3)
        self.assertEqual(150, result.frames)
        self.assert_heard(result.path, np.tile(heard(self.project), 3), 0.005)

    def test_a_part_of_a_piece_begins_with_its_own_sound(self) -> None:
        path = self.folder / "part.mov"
        export(exporter("mov"), ExportJob(self.project, "piece", path, 20, 40))
        self.assert_heard(path, heard(self.project, 20, 40), NEAR)

    def test_another_rate_changes_nothing_of_it(self) -> None:
        path = self.folder / "other.mov"
        export(exporter("mov"), ExportJob(self.project, "piece", path, 0, 50, rate=Fraction(30)))
        self.assert_heard(path, heard(self.project), NEAR)

    def test_it_may_be_left_out_and_silent_pieces_have_none(self) -> None:
        self.assertEqual(1, self.streams(self.written("mp4", sound=False).path))
        self.project = self.project.with_composition(evolve(self.project.composition("piece"), layers=()))
        self.assertEqual(1, self.streams(self.written("mp4").path))

    def streams(self, path: Path) -> int:
        with av.open(str(path)) as held:
            return len(held.streams)

    def test_what_is_only_a_reference_is_not_written(self) -> None:
        piece = self.project.composition("piece")
        self.project = self.project.with_composition(piece.with_layer(evolve(piece.layer("tune"), reference=True)))
        self.assertEqual(1, self.streams(self.written("mp4").path))

    def test_the_same_piece_gives_the_same_file(self) -> None:
        for kind in ("mp4", "webm", "mov"):
            first, second = (self.written(kind, name).path.read_bytes() for name in ("one", "two"))
            self.assertEqual(first, second, kind)

    def test_players_need_not_look_far_for_what_belongs_together(self) -> None:
        """Pictures and sound of one moment lie beside each other in the file."""
        for kind in ("mp4", "webm", "mov"):
            with av.open(str(self.written(kind).path)) as held:
                reached = {"video": 0.0, "audio": 0.0}
                for packet in held.demux():
                    if packet.size:
                        reached[packet.stream.type] = float((packet.dts or 0) * packet.time_base)
                        self.assertLess(abs(reached["video"] - reached["audio"]), 1.1, kind)

    def test_a_limit_of_bytes_counts_it(self) -> None:
        # Pictures that change wholly with every frame fill whatever they may.
        drift = Track((0.0, 0.0), (Key(0, (0.0, 0.0)), Key(49, (4900.0, 3100.0))))
        busy = Layer("Busy", "clouds", 0, 50).with_values(scale_px=(8.0, 8.0), position=(32.0, 24.0))
        busy = busy.with_track("drift", drift)
        piece = self.project.composition("piece")
        self.project = self.project.with_composition(evolve(piece, layers=(piece.layer("tune"), busy)))
        for kind, most in (("mp4", 0.05), ("webm", 0.05)):
            for silent in ({}, {"sound": False}):
                result = self.written(kind, quality="by size", megabytes=most, **silent)
                self.assertLessEqual(result.bytes, most * 1e6)
                self.assertGreater(result.bytes, 0.75 * most * 1e6, (kind, silent))
                self.assertEqual(2 - len(silent), self.streams(result.path))

    def test_pictures_looked_at_by_size_leave_room_for_it(self) -> None:
        for kind in ("mp4", "webm"):
            rates = []
            for silent in ({}, {"sound": False}):
                own = {"quality": "by size", "megabytes": 0.1, **silent}
                job = ExportJob(self.project, "piece", self.folder / "x", 0, 50, settings=own)
                rates.append(exporter(kind).prepare(job).given["bit_rate"])
            size = self.written(kind).bytes - self.written(kind, sound=False).bytes
            self.assertAlmostEqual(1, (rates[1] - rates[0]) * 2 / 8 / size, delta=0.1)

    def test_estimates_count_it(self) -> None:
        for kind in ("mp4", "webm", "mov"):
            size = self.written(kind).bytes - self.written(kind, sound=False).bytes
            for look in (guessed, sampled):
                jobs = [
                    ExportJob(self.project, "piece", self.folder / "x", 0, 50, settings=own)
                    for own in ({}, {"sound": False})
                ]
                said = [look(exporter(kind), job, 9).bytes for job in jobs]
                self.assertAlmostEqual(1, (said[0] - said[1]) / size, delta=0.1)

    def test_what_cannot_hold_it_says_so(self) -> None:
        self.assertTrue(any("GIF keeps no sound" in note for note in self.written("gif").notes))
        still = ExportJob(self.project, "piece", self.folder / "still.png", 7, 8)
        self.assertEqual((), export(exporter("png"), still).notes)

    def test_what_is_too_loud_is_said(self) -> None:
        quiet = self.written("mp4").notes
        self.assertFalse(any("louder" in note for note in quiet))
        source = sound(self.folder, tone(2.0, 440), "Loud.wav")
        loud = Layer("Loud", "sound", 0, 50).with_values(source=source.id, volume=400.0)
        self.project = piece_with(loud, source=source)
        result = self.written("mp4")
        self.assertTrue(any("louder" in note for note in result.notes))
        self.assertLessEqual(float(np.abs(read_sound(result.path.read_bytes(), "x")).max()), 1.2)

    def test_a_long_run_in_parts_holds_it(self) -> None:
        with mock.patch.multiple("spiralis.core.media.exporters.video", LONG=20, PART=15):
            result = self.written("mp4")
        self.assertEqual((50, 2), (result.frames, self.streams(result.path)))
        self.assert_heard(result.path, heard(self.project), 0.005)


def struck(moments: list[float], seconds: float, rng: np.random.Generator) -> np.ndarray:
    """Return tones and hisses that begin at moments and die away."""
    whole = np.zeros(round(seconds * RATE))
    for moment in moments:
        gone = np.arange(len(whole)) / RATE - moment
        there = gone >= 0
        kept = gone[there]
        body = np.sin(2 * np.pi * rng.uniform(80, 900) * kept) if rng.random() < 0.7 else rng.normal(size=len(kept)) / 2
        whole[there] += rng.uniform(0.15, 0.35) * np.exp(-kept * rng.uniform(6, 20)) * body
    return np.clip(whole, -1, 1)


class ListeningTest(_InFolder):
    def test_each_beginning_is_heard_at_its_time_and_nothing_else(self) -> None:
        for seed in range(12):
            rng = np.random.default_rng(seed)
            moments = np.cumsum(rng.uniform(0.2, 0.7, 8)).tolist()
            own = struck(moments, moments[-1] + 0.5, rng)
            found = attacks(np.stack([own, own], axis=1).astype(np.float32))
            self.assertEqual(len(moments), len(found), seed)
            np.testing.assert_allclose(found, moments, atol=0.012)

    def test_silence_and_an_even_tone_have_none_but_their_beginning(self) -> None:
        self.assertEqual(0, len(attacks(np.zeros((RATE, 2), dtype=np.float32))))
        self.assertEqual(0, len(attacks(np.zeros((0, 2), dtype=np.float32))))
        even = np.repeat(tone(2.0)[:, None], 2, axis=1).astype(np.float32)
        np.testing.assert_allclose(attacks(even), [0.0], atol=0.012)

    def test_loudness_is_the_root_mean_square_of_each_part(self) -> None:
        rng = np.random.default_rng(3)
        own = rng.normal(size=(RATE, 2)).astype(np.float32)
        edges = np.array([0.0, 0.1, 0.35, 1.0])
        wanted = [np.sqrt(np.mean(own[round(a * RATE) : round(b * RATE)] ** 2)) for a, b in itertools.pairwise(edges)]
        np.testing.assert_allclose(loudness_of(own, edges), wanted, rtol=1e-5)

    def heard_piece(self, own: np.ndarray, *markers: Marker, **values: Any) -> tuple[Project, Composition, Layer]:
        source = sound(self.folder, own)
        layer = Layer("Tune", "sound", 0, 50, id="tune").with_values(source=source.id, **values)
        project = piece_with(layer, Layer("Ground", "backdrop", 0, 50), source=source)
        piece = evolve(project.composition("piece"), markers=markers)
        return project.with_composition(piece), piece, layer

    def test_markers_stand_on_its_beats_and_those_that_are_there_stay(self) -> None:
        own = struck([0.2, 0.84, 1.52], 2.0, np.random.default_rng(1))
        project, piece, layer = self.heard_piece(own, Marker(21, "drop"), Marker(30, "own"))
        made = marked_by(project, piece, layer)
        self.assertEqual([5, 21, 30, 38], [marker.frame for marker in made.markers])
        self.assertEqual(["drop", "own"], [marker.name for marker in made.markers[1:3]])
        self.assertEqual(made, marked_by(project, made, layer))

    def test_they_stand_where_it_is_heard_in_the_piece(self) -> None:
        own = struck([0.2, 0.84], 2.0, np.random.default_rng(1))
        project, piece, layer = self.heard_piece(own, start=10.0)
        self.assertEqual([15, 31], [marker.frame for marker in marked_by(project, piece, layer).markers])

    def test_silence_is_said(self) -> None:
        for make in (marked_by, with_loudness):
            with self.assertRaisesRegex(ModelError, "“Tune” is silent"):
                make(*self.heard_piece(tone(1.0), volume=0.0))

    def test_a_dial_goes_by_how_loud_it_is(self) -> None:
        own = tone(2.0, 500, 0.8) * np.interp(np.arange(2 * RATE) / RATE, (0, 1, 2), (0, 1, 0.25))
        project, piece, layer = self.heard_piece(own)
        made, dial_id = with_loudness(project, piece, layer)
        dial = made.layer(dial_id)
        self.assertEqual(("dial", "Loudness of Tune", 0), (dial.kind, dial.name, made.place_of[dial_id]))
        found = values_over(made, dial, "value", np.arange(50.0))[:, 0]
        wanted = np.interp((np.arange(50) + 0.5) / 25, (0, 1, 2), (0, 100, 25))
        np.testing.assert_allclose(found, wanted, atol=7.5)
        self.assertEqual(100.0, max(key.value for key in dial.track("value").keys))
        self.assertLess(len(dial.track("value").keys), 12)
        self.assertEqual(piece.layers, tuple(y for y in made.layers if y.id != dial_id))


class SeamTest(_InFolder):
    def found(self, project: Project) -> list[Cause]:
        verdict = check(project, project.composition("piece"))
        return [cause for cause in verdict.causes if cause.finder == "sound-jump"]

    def test_what_is_cut_off_at_the_seam_is_found_and_mended(self) -> None:
        # 100.25 rounds of a tone: it ends at its height, and begins anew at zero.
        source = sound(self.folder, tone(3.0, 100.25 / 2))
        layer = Layer("Hum", "sound", 0, 50, id="hum").with_values(source=source.id)
        project = piece_with(layer, source=source)
        (cause,) = self.found(project)
        self.assertEqual("hum", cause.layer)
        self.assertAlmostEqual(50, cause.size, delta=2)
        self.assertIn("Hum: its sound is cut off", cause.sentence)
        made = mended(project, cause, "fade-sound")
        self.assertEqual([], self.found(made))
        self.assertEqual((0.05, 0.05), made.composition("piece").layer("hum").track("fades").value)
        apart = np.abs(heard(made) - heard(project))
        self.assertLess(float(apart[round(0.06 * RATE) : -round(0.06 * RATE)].max()), NEAR)

    def test_mending_leaves_what_a_cut_within_a_fade_left_beyond_the_other_end(self) -> None:
        source = sound(self.folder, tone(3.0, 100.25 / 2))
        layer = Layer("Hum", "sound", 20, 50, id="hum")
        layer = layer.with_values(source=source.id, fades=(1.0, 1.0), beyond=(0.4, 0.4))
        project = piece_with(layer, source=source)
        made = mended(project, self.found(project)[0], "fade-sound")
        self.assertEqual([], self.found(made))
        hum = made.composition("piece").layer("hum")
        self.assertEqual((1.0, 0.4), (hum.track("fades").value[0], hum.track("beyond").value[0]))
        self.assertAlmostEqual(0.6, hum.track("fades").value[1])

    def test_what_goes_round_begins_late_or_is_only_a_reference_is_left_alone(self) -> None:
        source, cut = sound(self.folder, tone(3.0, 50.0)), sound(self.folder, tone(3.0, 100.25 / 2), "Cut.wav")
        for layer in (
            Layer("Whole rounds", "sound", 0, 50).with_values(source=source.id),
            Layer("Within", "sound", 3, 47).with_values(source=cut.id),
            Layer("Softly", "sound", 0, 50).with_values(source=cut.id, fades=(0.1, 0.1)),
            evolve(Layer("Sketch", "sound", 0, 50).with_values(source=cut.id), reference=True),
            Layer("Silent", "sound", 0, 50).with_values(source=cut.id, volume=0.0),
        ):
            project = piece_with(layer, source=source).with_source(cut)[0]
            self.assertEqual([], self.found(project), layer.name)


if __name__ == "__main__":
    unittest.main()
