"""Pieces with faults of their own, on both sides of each threshold: found, named, mended."""

from __future__ import annotations

import json
import math
import tempfile
import unittest
from fractions import Fraction
from pathlib import Path

import numpy as np
from attrs import evolve
from click.testing import CliRunner

from spiralis.cli import cli
from spiralis.core.animation.easing import HOLD
from spiralis.core.checks.findings import Cause, ignored, mended, not_ignored
from spiralis.core.checks.piece import GRAVE, Findings, check_piece
from spiralis.core.checks.piece.finders.banding import banded_share
from spiralis.core.checks.piece.finders.reading_time import seconds_to_read
from spiralis.core.checks.piece.flashing import general_changes, red_changes, worst_flashing
from spiralis.core.checks.piece.word_list import read_word_list
from spiralis.core.checks.seam import check
from spiralis.core.colour import linear_to_srgb
from spiralis.core.compositing.kernels import light as light_kernels
from spiralis.core.errors import Cancelled, FileError, ModelError
from spiralis.core.media.pictures import picture_source
from spiralis.core.model import Composition, Key, Layer, Project, Track
from spiralis.core.storage import load, save
from tests.core.samples import backdrop, png_bytes

LENGTH, WIDTH, HEIGHT = 50, 540, 540
WHITE, BLACK = (1.0, 1.0, 1.0, 1.0), (0.0, 0.0, 0.0, 1.0)


def words(text: str = "WIND", **values: object) -> Layer:
    layer = Layer("Words", "text", 0, LENGTH, id="words")
    return layer.with_values(**{"text": text, "size": 80.0, "position": (270.0, 270.0), **values})


def made(*layers: Layer, ground: tuple[float, ...] = BLACK, **more: object) -> Project:
    floor = evolve(backdrop(WIDTH, HEIGHT, ground), last=LENGTH, id="ground")
    options = {"width": WIDTH, "height": HEIGHT, "length": LENGTH, **more}
    rate = options.pop("rate", Fraction(25))
    first = Composition(
        "Piece", options.pop("width"), options.pop("height"), rate, options.pop("length"),  # type: ignore[arg-type]
        layers=(*layers, floor), **options,  # type: ignore[arg-type]
    )  # fmt: skip
    return Project("Sample", (first,))


def found(project: Project, **options: object) -> Findings:
    return check_piece(project, project.compositions[0], **options)  # type: ignore[arg-type]


def names(findings: Findings) -> list[str]:
    return [cause.finder for cause in (*findings.causes, *findings.notes)]


def one(project: Project, name: str, **options: object) -> Cause:
    findings = found(project, **options)
    return next(cause for cause in (*findings.causes, *findings.notes) if cause.finder == name)


def flashing(times_a_second: float, low: float, high: float, side: float, colour: str = "grey") -> Project:
    """A square of a share of the frame that goes between two luminances, so often a second, for two seconds."""
    half = 25 / times_a_second / 2
    ways = {"grey": (1.0, 1.0, 1.0), "red": (1.0, 0.0, 0.0)}[colour]
    levels = [float(v) for v in linear_to_srgb(np.array([low, high]))]
    keys, turn, frame = [], 0, 0.0
    while round(frame) < LENGTH:
        level = levels[turn % 2]
        keys.append(Key(round(frame), (*(level * part for part in ways), 1.0), HOLD))
        turn, frame = turn + 1, frame + half
    lamp = Layer("Lamp", "shape", 0, LENGTH, id="lamp").with_values(
        form="rectangle", size=(WIDTH * side, HEIGHT * side), position=(270.0, 270.0)
    )
    return made(lamp.with_track("fill", Track(keys[0].value, tuple(keys))))


class FlashTest(unittest.TestCase):
    """WCAG 2.3.1 on both sides of each of its numbers."""

    def flashes(self, project: Project) -> bool:
        return any(name in ("flashes", "red-flashes") for name in names(found(project)))

    def test_more_than_three_a_second_are_too_many(self) -> None:
        self.assertFalse(self.flashes(flashing(3, 0.0, 0.6, 0.8)))
        self.assertTrue(self.flashes(flashing(4, 0.0, 0.6, 0.8)))

    def test_a_change_of_a_tenth_of_the_luminance_counts(self) -> None:
        self.assertFalse(self.flashes(flashing(6, 0.3, 0.39, 0.8)))
        self.assertTrue(self.flashes(flashing(6, 0.3, 0.41, 0.8)))

    def test_a_darker_state_of_four_fifths_does_not(self) -> None:
        self.assertFalse(self.flashes(flashing(6, 0.82, 1.0, 0.8)))
        self.assertTrue(self.flashes(flashing(6, 0.78, 1.0, 0.8)))

    def test_area(self) -> None:
        # The piece fits a screen 768 px high: a quarter of 341 x 256 px there is a square of 148 px, 0.19 of its side.
        self.assertFalse(self.flashes(flashing(6, 0.0, 0.8, 0.12)))
        self.assertTrue(self.flashes(flashing(6, 0.0, 0.8, 0.24)))

    def test_saturated_red(self) -> None:
        # Too dark for a general flash, and red all the same.
        dim = flashing(5, 0.0, 0.3, 0.8, "red")
        self.assertEqual([name for name in names(found(dim)) if "flash" in name], ["red-flashes"])
        grey = flashing(5, 0.0, 0.09, 0.8)
        self.assertFalse(self.flashes(grey))

    def test_a_flash_over_the_seam_counts(self) -> None:
        # Eight changes within a second, but half of them before the seam and half after it.
        row = np.zeros((50, 20, 20, 3))
        row[[0, 2, 46, 48]] = 1.0
        changes = general_changes(row)
        self.assertIsNone(worst_flashing(changes, 25, (540, 540), loops=False))
        self.assertIsNotNone(worst_flashing(changes, 25, (540, 540), loops=True))

    def test_a_pattern_that_moves_within_itself_is_no_flash(self) -> None:
        y, x = np.mgrid[0:96, 0:96]
        frames = np.stack([((x + y + frame) % 2)[..., None].repeat(3, 2) for frame in range(50)]).astype(float)
        self.assertFalse(general_changes(frames).any())

    def test_ways_of_light_against_a_plain_count(self) -> None:
        rng = np.random.default_rng(4)
        lights = rng.random(60)
        frames = linear_to_srgb(lights)[:, None, None, None] * np.ones((1, 4, 4, 3))
        count, low, high, way = 0, lights[0], lights[0], 0
        for light in lights[1:]:
            if light - low >= 0.1 and low < 0.8 and way != 1:
                count, way, low, high = count + 1, 1, light, light
            elif high - light >= 0.1 and light < 0.8 and way != -1:
                count, way, low, high = count + 1, -1, light, light
            low, high = min(low, light), max(high, light)
        self.assertEqual(int(general_changes(frames)[:, 0, 0].sum()), count)
        self.assertFalse(red_changes(frames).any())

    def test_what_can_harm_is_grave_and_comes_first(self) -> None:
        project = flashing(6, 0.0, 0.8, 0.8)
        piece = project.compositions[0]
        small = words(size=8.0)
        findings = found(project.with_composition(evolve(piece, layers=(small, *piece.layers))))
        self.assertEqual((findings.causes[0].sort, findings.grave), (GRAVE, True))
        self.assertRegex(findings.causes[0].sentence, r"6 flashes within a second over 7\d % of the frame, frames 0 to")


class WordsTest(unittest.TestCase):
    """Words have to be there long enough, large enough, clear enough, and within the frame."""

    def test_good_words_are_left_in_peace(self) -> None:
        self.assertEqual(names(found(made(words()))), [])

    def test_time_to_read(self) -> None:
        text = "six bows and one long cord"
        self.assertAlmostEqual(seconds_to_read(text), 2.0)
        short = evolve(words(text, size=30.0), first=5, last=30)
        project = made(short)
        cause = one(project, "reading-time")
        self.assertEqual((cause.layer, cause.mends, cause.frames), ("words", ("stay-longer",), (5, 29)))
        self.assertAlmostEqual(cause.size, 1.0, delta=0.05)
        self.assertIn("takes 2.0 s to read", cause.sentence)
        longer = mended(project, cause, "stay-longer")
        self.assertEqual(longer.compositions[0].layer("words").last, 50)
        self.assertNotIn("reading-time", names(found(made(evolve(short, first=0, last=50)))))

    def test_words_that_move_or_fade_are_not_read(self) -> None:
        sliding = words().with_track("position", Track((0.0, 0.0), (Key(0, (100.0, 270.0)), Key(49, (440.0, 270.0)))))
        self.assertIn("reading-time", names(found(made(sliding), drawn=False)))
        faint = words(opacity=50.0)
        self.assertIn("reading-time", names(found(made(faint), drawn=False)))

    def test_numbers_that_are_counted_through_need_not_be_read_one_by_one(self) -> None:
        text, keys = "only # left today", Track(0.0, (Key(0, 0.0), Key(49, 100.0)))
        counting = words(text, size=30.0, number_form="a number", number=60.0, number_from=10.0)
        counting = counting.with_track("number_counted", keys)
        self.assertNotIn("reading-time", names(found(made(counting), drawn=False)))
        # Words that are others each frame are read by nobody.
        changing = Track("", tuple(Key(n, ("no deeds today", "no today deeds")[n % 2], HOLD) for n in range(50)))
        self.assertIn("reading-time", names(found(made(words(size=30.0).with_track("text", changing)), drawn=False)))

    def test_words_that_change_have_to_be_there_long_enough_each(self) -> None:
        long, short = "six bows and one long cord", "two"
        swapped = Track("", (Key(0, long, HOLD), Key(20, short, HOLD)))
        project = made(evolve(words(size=30.0), last=40).with_track("text", swapped))
        cause = one(project, "reading-time")
        self.assertEqual((cause.mends, cause.frames), ((), (0, 19)))
        self.assertRegex(cause.sentence, f"^“{long}” takes 2.0 s to read and is clear, .* for 0.8 s only.$")
        thrice = Track("", (Key(0, long, HOLD), Key(20, short, HOLD), Key(30, "one cord and six bows", HOLD)))
        self.assertIn("2 others of its words lack", one(made(words(size=30.0).with_track("text", thrice)),
                                                        "reading-time").sentence)  # fmt: skip
        # That words of another width stand elsewhere is no movement: they need 17 frames, and have them.
        enough = Track("", (Key(0, "one cord", HOLD), Key(33, "six long bows", HOLD)))
        self.assertAlmostEqual(seconds_to_read("six long bows"), 1.0)
        self.assertIn("reading-time", names(found(made(words(size=30.0).with_track("text", enough)), drawn=False)))
        enough = Track("", (Key(0, "one cord", HOLD), Key(25, "six long bows", HOLD)))
        self.assertNotIn("reading-time", names(found(made(words(size=30.0).with_track("text", enough)), drawn=False)))

    def test_what_is_typed_key_by_key_is_read_once_it_is_whole(self) -> None:
        text = "six bows"
        keys = tuple(Key(n, text[: n + 1], HOLD) for n in range(len(text)))
        layer = words(size=30.0).with_track("text", Track("", keys))
        self.assertNotIn("reading-time", names(found(made(layer, loop=False), drawn=False)))

    def test_time_goes_on_round_the_seam(self) -> None:
        text = "one two three"  # 1 s
        hidden = Track(100.0, (Key(0, 100.0, HOLD), Key(14, 0.0, HOLD), Key(36, 100.0, HOLD)))
        layer = words(text, size=30.0).with_track("opacity", hidden)
        self.assertNotIn("reading-time", names(found(made(layer), drawn=False)))
        self.assertIn("reading-time", names(found(made(layer, loop=False), drawn=False)))

    def test_in_nested_compositions(self) -> None:
        inner = Composition("Inner", 540, 540, Fraction(25), LENGTH, layers=(words("far too small to see", size=7.0),))
        nested = Layer("Nest", "nested", 0, LENGTH).with_values(composition=inner.id, position=(270.0, 270.0))
        project = made(nested)
        project = evolve(project, compositions=(*project.compositions, inner))
        cause = one(project, "small-words")
        self.assertEqual((cause.piece, cause.layer, cause.mends), (inner.id, "words", ()))

    def test_small_words_become_larger(self) -> None:
        project = made(words(size=8.0))
        cause = one(project, "small-words")
        self.assertAlmostEqual(cause.size, 8.0 * 390 / 540, delta=0.01)
        self.assertNotIn("small-words", names(found(mended(project, cause, "larger-words"))))

    def test_words_beyond_the_edge_are_moved_in(self) -> None:
        project = made(words(position=(530.0, 270.0)))
        cause = one(project, "cut-words")
        self.assertGreater(cause.size, 50)
        moved = mended(project, cause, "into-the-frame")
        self.assertEqual(names(found(moved)), [])
        close = made(words(position=(430.0, 270.0)))
        self.assertEqual([c.finder for c in found(close).notes], ["safe-area"])
        self.assertTrue(found(close).clean, "what lies close to the edge is only worth knowing")
        with self.assertRaisesRegex(ModelError, "larger than what is free"):
            wide = made(words("A VERY WIDE WORD", position=(500.0, 270.0), size=200.0))
            mended(wide, one(wide, "cut-words"), "into-the-frame")

    def test_contrast(self) -> None:
        # Luminances of 0.2 and 0.05: (0.2 + 0.05) / (0.05 + 0.05) = 2.5, where large words need 3.
        ground, letters = (float(linear_to_srgb(np.array([v]))[0]) for v in (0.05, 0.2))
        project = made(words(fill=(letters, letters, letters, 1.0)), ground=(ground, ground, ground, 1.0))
        cause = one(project, "contrast")
        self.assertAlmostEqual(cause.size, 2.5, delta=0.05)
        self.assertIn("where 3 : 1 is enough", cause.sentence)
        clear = mended(project, cause, "clearer-fill")
        self.assertNotIn("contrast", names(found(clear)))
        self.assertNotIn("contrast", names(found(project, drawn=False)), "that takes drawing")

    def test_small_words_need_more_contrast(self) -> None:
        ground, letters = (float(linear_to_srgb(np.array([v]))[0]) for v in (0.05, 0.3))  # 3.5 : 1
        fill, colour = (letters, letters, letters, 1.0), (ground, ground, ground, 1.0)
        self.assertNotIn("contrast", names(found(made(words(fill=fill), ground=colour))))
        self.assertIn("where 4.5 : 1", one(made(words(fill=fill, size=30.0), ground=colour), "contrast").sentence)

    def test_words_are_read_on_their_plate(self) -> None:
        dark, pale = (0.45, 0.45, 0.45, 1.0), (0.5, 0.5, 0.5, 1.0)
        for fill, plate, ground, weak in ((BLACK, WHITE, WHITE, False), (dark, pale, BLACK, True)):
            project = made(words(fill=fill, plate="all lines", plate_colour=plate), ground=ground)
            self.assertEqual("contrast" in names(found(project)), weak, (fill, plate))

    def test_words_that_something_lies_over_are_not_measured(self) -> None:
        cover = Layer("Cover", "shape", 0, LENGTH).with_values(
            form="rectangle", size=(540.0, 540.0), position=(270.0, 270.0), fill=BLACK
        )
        self.assertNotIn("contrast", names(found(made(cover, words(fill=(0.1, 0.1, 0.1, 1.0))))))

    def test_spelling_by_a_word_list(self) -> None:
        project = made(words("The Kites’ WINND is up-wind", size=40.0))
        self.assertNotIn("spelling", names(found(project, drawn=False)))
        cause = one(project, "spelling", drawn=False, known=frozenset({"the", "kites", "wind", "is", "up"}))
        self.assertIn("“winnd”", cause.sentence)
        self.assertIn("“wind” is like it", cause.sentence)
        self.assertEqual(cause.size, 1)


class OthersTest(unittest.TestCase):
    """Colours, bands, hidden layers; what is left alone; the command."""

    def test_colours_outside_the_swatches(self) -> None:
        project = evolve(made(words(fill=(0.98, 0.5, 0.1, 0.8))), swatches=((1.0, 0.4, 0.0, 1.0), BLACK))
        cause = one(project, "off-swatches", drawn=False)
        self.assertEqual((cause.layer, cause.name), ("words", "fill"))
        changed = mended(project, cause, "nearest-swatch")
        self.assertEqual(changed.compositions[0].layer("words").track("fill").value, (1.0, 0.4, 0.0, 0.8))
        self.assertNotIn("off-swatches", names(found(changed, drawn=False)))
        self.assertNotIn("off-swatches", names(found(evolve(project, swatches=()), drawn=False)))

    def test_bands(self) -> None:
        ramp = np.linspace(0, 255, 480)
        fine = np.repeat(ramp[None, :, None], 270, 0).repeat(3, 2)
        coarse = np.round(fine / 6) * 6
        self.assertEqual(banded_share(fine / 255), 0.0)
        self.assertGreater(banded_share(coarse / 255), 0.3)
        source = picture_source(png_bytes(coarse.astype(np.uint8)), "ramp.png")
        layer = Layer("Ramp", "picture", 0, LENGTH).with_values(source=source.id, position=(270.0, 270.0))
        project = evolve(made(layer), sources=(source,))
        cause = one(project, "banding")
        self.assertNotIn("banding", names(found(mended(project, cause, "add-grain"))))

    def test_hidden_layers_and_locked_ones(self) -> None:
        project = made(words(position=(2000.0, 270.0)))
        cause = one(project, "never-shows", drawn=False)
        self.assertFalse(mended(project, cause, "hide-layer").compositions[0].layer("words").track("visible").value)
        locked = project.with_composition(project.compositions[0].with_layer(evolve(words(), locked=True)))
        with self.assertRaisesRegex(ModelError, "is locked"):
            mended(locked, cause, "hide-layer")

    def test_left_alone_with_a_reason_that_the_file_remembers(self) -> None:
        project = made(words(size=8.0))
        cause = one(project, "small-words")
        left = project.with_composition(ignored(project.compositions[0], cause, "a mark of the maker"))
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "left.spiralis"
            save(left, path)
            left = load(path)
        findings = found(left, drawn=False)
        self.assertEqual((findings.clean, findings.ignored[0][1]), (True, "a mark of the maker"))
        again = left.with_composition(not_ignored(left.compositions[0], cause))
        self.assertFalse(found(again, drawn=False).clean)

    def test_it_can_be_stopped(self) -> None:
        with self.assertRaises(Cancelled):
            found(made(words()), stops=lambda: True)
        # Also in the midst of reading the words of every frame, and of the pictures at a seam.
        project = made(words())
        for look, least in (
            (lambda stops: found(project, drawn=False, stops=stops), LENGTH),
            (lambda stops: check(project, project.compositions[0], stops=stops), 3),
        ):  # fmt: skip
            asked: list[int] = []

            def counts(asked: list[int] = asked) -> bool:
                asked.append(1)
                return False

            look(counts)
            self.assertGreater(len(asked), least)
            for last in (1, len(asked) // 2, len(asked)):
                begun: list[int] = []

                def after(begun: list[int] = begun, last: int = last) -> bool:
                    begun.append(1)
                    return len(begun) >= last

                with self.assertRaises(Cancelled):
                    look(after)
                self.assertEqual(len(begun), last)

    def test_the_command(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path, wordlist = Path(folder) / "one.spiralis", Path(folder) / "words.txt"
            save(made(words()), path)
            wordlist.write_text("kite\n")
            run = CliRunner().invoke(cli, ["check", str(path)])
            self.assertEqual((run.exit_code, run.output), (0, "Piece, frames 0 to 49: Nothing found\n"))
            run = CliRunner().invoke(cli, ["check", str(path), "-c", "Piece", "--words", str(wordlist), "--json"])
            data = json.loads(run.output)
            self.assertEqual((run.exit_code, data["clean"]), (1, False))
            self.assertEqual(data["findings"][0]["check"], "spelling")
            self.assertEqual(data["findings"][0]["layer"], "Words")

    def test_word_lists_that_are_none(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "list.txt"
            for data, sentence in ((b"\xff\xfe\x00", "no plain text"), (b"12 34", "holds no words")):
                path.write_bytes(data)
                with self.assertRaisesRegex(FileError, sentence):
                    read_word_list(path)

    def test_light_over_what_is_hardly_there_stays_finite(self) -> None:
        pixels = np.array([[1e-3, 0.0, 1e-30, 1e-38], [0.5, 0.2, 0.1, 1e-12], [0, 0, 0, 0]], dtype=np.float32)
        linear = np.empty(pixels.size, dtype=np.float32)
        light_kernels.decode_premultiplied(pixels.reshape(-1), np.float32(1), linear)
        self.assertTrue(np.isfinite(linear).all())
        light_kernels.encode_premultiplied(linear)
        self.assertTrue(np.isfinite(linear).all())
        self.assertTrue(math.isclose(linear[7], 1e-12, rel_tol=1e-3))


if __name__ == "__main__":
    unittest.main()
