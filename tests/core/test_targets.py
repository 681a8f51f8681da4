"""One contract over every kind of file: frames, time, alpha, workers, cancel; other sizes, samples, limits."""

from __future__ import annotations

import hashlib
import tempfile
import unittest
from fractions import Fraction
from itertools import product
from pathlib import Path
from unittest import mock

import av
import cv2
import numpy as np
from attrs import evolve
from click.testing import CliRunner
from PIL import Image

from spiralis.cli import cli
from spiralis.core.errors import Cancelled, ExportError
from spiralis.core.media.encoding import planes_of
from spiralis.core.media.exporters import ExportJob, export, exporter, exporters
from spiralis.core.media.exporters.avif import without_times
from spiralis.core.media.exporters.base import drawn_here
from spiralis.core.media.exporters.png import straight16
from spiralis.core.media.fitting import fit, steps_for
from spiralis.core.media.framing import Framing, framed
from spiralis.core.media.playing import _fitted, frames_of
from spiralis.core.media.sampling import Drawn, guessed, pictured, sampled
from spiralis.core.model import Layer, Project
from spiralis.core.render.frame import render_frame, render_straight8, render_yuv420
from spiralis.core.storage import save
from tests.core.samples import moving, project

VIDEO = ("mp4", "webm", "mov")
ANIMATED = ("gif", "apng", "webp", "avif")
#: How far a decoded frame may be off on the whole, in levels.
NEAR = {"gif": 6.0, "apng": 0.6, "png": 0.6, "tiff": 0.6, "webp": 4.0, "avif": 5.0}


def bouncing(width: int = 96, height: int = 64, length: int = 12, ground: bool = True) -> Project:
    """Return a square that moves over a gradient, or over nothing."""
    square = Layer("Square", "shape", 0, length, id="square").with_values(
        form="rectangle", size=(24.0, 24.0), fill=(1.0, 0.3, 0.1, 1.0)
    )
    layers = [moving(square, (20.0, 32.0), (76.0, 32.0), length - 1)]
    if ground:
        place = (width / 2, height / 2)
        layers.append(Layer("Ground", "backdrop", 0, length).with_values(position=place, style="linear"))
    return project(*layers, width=width, height=height, length=length)


class ContractTest(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))

    def job(self, sample: Project, name: str, **values: object) -> ExportJob:
        piece = sample.compositions[0]
        values = {"first": 0, "last": piece.length, "workers": 2, **values}
        return ExportJob(sample, piece.id, self.folder / name, **values)  # type: ignore[arg-type]

    def test_every_kind_shows_the_right_frames(self) -> None:
        sample = bouncing()
        for kind in exporters():
            if kind.name == "sheet":
                continue
            job = self.job(sample, f"{kind.name}{kind.suffix}")
            result = export(kind, job)
            for index in (0, 7):
                path = result.path
                if kind.many_files:
                    path = path.with_name(f"{kind.name}-{index:04d}{kind.suffix}")
                got = kind.read(path, 0 if kind.many_files else index)
                assert got is not None
                expected = render_straight8(sample, job.composition_id, index)
                far = np.abs(got.astype(float) - expected)[..., :3].mean()
                self.assertLess(float(far), NEAR.get(kind.name, 7.0), (kind.name, index))
            if not kind.many_files:
                self.assertEqual((result.frames, round(result.seconds, 2)), (12, 0.48), kind.name)

    def test_every_kind_that_keeps_alpha_keeps_it(self) -> None:
        sample = bouncing(ground=False)
        for kind in exporters():
            job = self.job(sample, f"a{kind.suffix}", last=12 if not kind.many_files else 1)
            export(kind, job)
            pixels = kind.read(job.path, 0)
            assert pixels is not None
            if kind.alpha and kind.name != "sheet":
                self.assertEqual(int(pixels[5, 90, 3]), 0, kind.name)
                self.assertEqual(int(pixels[32, 20, 3]), 255, kind.name)

    def test_rate_and_rounds(self) -> None:
        sample = bouncing()
        for kind in exporters():
            if kind.many_files or kind.name == "sheet":
                continue
            more = {"repeat": 3} if kind.plays_once else {}
            result = export(kind, self.job(sample, f"a{kind.suffix}", rate=Fraction(50), **more))
            rounds = more.get("repeat", 1)
            self.assertEqual(round(result.seconds, 2), round(0.48 * rounds, 2), kind.name)
            # Animated WebP puts pictures together that are alike.
            self.assertIn(result.frames, {24 * rounds} if kind.name != "webp" else range(20, 25), kind.name)

    def test_frames_between_are_drawn_at_their_own_time(self) -> None:
        sample = bouncing()
        result = export(exporter("apng"), self.job(sample, "a.apng", rate=Fraction(50)))
        got = exporter("apng").read(result.path, 5)
        assert got is not None
        expected = render_straight8(sample, sample.compositions[0].id, 2.5)
        self.assertLess(float(np.abs(got[..., :3].astype(float) - expected[..., :3]).mean()), 0.6)

    def test_a_repeated_video_shows_the_same_frames_again(self) -> None:
        for name in VIDEO:
            result = export(exporter(name), self.job(bouncing(), f"a.{name}", repeat=2))
            first, again = (exporter(name).read(result.path, index) for index in (3, 15))
            assert first is not None and again is not None
            np.testing.assert_array_equal(first, again, name)

    def test_one_two_and_four_workers_write_the_same_bytes(self) -> None:
        for kind in exporters():
            digests = set()
            for workers in (1, 2, 4):
                path = self.folder / f"{workers}{kind.suffix}"
                export(kind, self.job(bouncing(), path.name, workers=workers, last=1 if kind.many_files else 12))
                digests.add(hashlib.sha256(path.read_bytes()).hexdigest())
            self.assertEqual(len(digests), 1, kind.name)

    def test_cancel_leaves_nothing_of_any_kind(self) -> None:
        for kind in exporters():
            count = 0

            def cancelled() -> bool:
                nonlocal count
                count += 1
                return count > 3

            with self.assertRaises(Cancelled, msg=kind.name):
                export(kind, self.job(bouncing(), f"a{kind.suffix}", cancelled=cancelled))
            self.assertEqual(list(self.folder.iterdir()), [], kind.name)

    def test_codecs_depths_and_qualities(self) -> None:
        sizes: dict[str, list[int]] = {}
        for codec, bits, number in product(("H.264", "H.265", "AV1"), ("8", "10"), (10.0, 90.0)):
            settings = {"codec": codec, "bits": bits, "quality": "by number", "number": number}
            result = export(exporter("mp4"), self.job(bouncing(320, 192), "a.mp4", settings=settings))
            sizes.setdefault(f"{codec} {bits}", []).append(result.bytes)
            with av.open(str(result.path)) as held:
                context = held.streams.video[0].codec_context
                self.assertEqual("10le" in str(context.pix_fmt), bits == "10", codec)
                self.assertEqual(int(context.colorspace), 1)
        for name, (small, best) in sizes.items():
            self.assertLess(small, best, name)

    def test_sixteen_bits_keep_every_shade(self) -> None:
        sample = bouncing()
        exact = straight16(render_frame(sample, sample.compositions[0].id, 3))
        export(exporter("png"), self.job(sample, "a.png", first=3, last=4, settings={"bits": "16"}))
        export(exporter("tiff"), self.job(sample, "a.tiff", first=3, last=4))
        png = cv2.imread(str(self.folder / "a.png"), cv2.IMREAD_UNCHANGED)
        tiff = cv2.imread(str(self.folder / "a.tiff"), cv2.IMREAD_UNCHANGED)
        np.testing.assert_array_equal(png[..., ::-1], exact[..., :3])
        np.testing.assert_array_equal(tiff[..., [2, 1, 0, 3]], exact)

    def test_a_contact_sheet_holds_frames_in_order(self) -> None:
        settings = {"columns": 3.0, "rows": 2.0, "gap": 4.0}
        result = export(exporter("sheet"), self.job(bouncing(), "a.png", settings=settings, scale=4.0))
        with Image.open(result.path) as image:
            sheet = np.array(image.convert("RGBA"))
        width = (384 - 16) // 3
        self.assertEqual(sheet.shape[1], 4 + 3 * (width + 4))
        red = [int((sheet[:, 4 + c * (width + 4) : 4 + c * (width + 4) + width // 2, 0] > 240).sum()) for c in (0, 2)]
        self.assertGreater(red[0], red[1])

    def test_planes_of_eight_bits_are_those_of_the_renderer(self) -> None:
        sample = bouncing()
        ours = planes_of(render_frame(sample, sample.compositions[0].id, 2), 8, True, False)
        theirs = render_yuv420(sample, sample.compositions[0].id, 2)
        for one, other in zip(ours, theirs, strict=True):
            self.assertLessEqual(int(np.abs(one.astype(int) - other.astype(int)).max()), 2)

    def test_files_say_nothing_of_when_they_were_made(self) -> None:
        result = export(exporter("avif"), self.job(bouncing(), "a.avif"))
        data = result.path.read_bytes()
        self.assertEqual(without_times(data), data)

    def test_an_encoder_of_avif_that_gives_up_is_a_sentence(self) -> None:
        for gives_up in ("add", "finish"):
            encoder = mock.Mock(**{f"{gives_up}.side_effect": RuntimeError("Encoding of color planes failed")})
            encoder.finish.return_value = b""
            with (
                mock.patch("spiralis.core.media.exporters.avif._avif.AvifEncoder", return_value=encoder),
                self.assertRaisesRegex(ExportError, "^AVIF takes no frames of 96 × 64 px, or memory is too small"),
            ):
                export(exporter("avif"), self.job(bouncing(), "a.avif"))
            self.assertEqual(list(self.folder.iterdir()), [])

    def test_settings_are_read_from_words_and_refused_in_a_sentence(self) -> None:
        kind = exporter("gif")
        self.assertEqual(kind.read_settings(["colours=16", "pattern=ordered"]), {"colours": 16.0, "pattern": "ordered"})
        self.assertEqual(exporter("webp").read_settings(["lossless=true"]), {"lossless": True})
        for wrong in ("colours=lots", "colours=1000", "pattern=wild", "shine=3"):
            with self.assertRaises(ExportError):
                kind.read_settings([wrong])

    def test_the_command_line_takes_all_of_it(self) -> None:
        path, out = self.folder / "a.spiralis", self.folder / "b.webm"
        save(bouncing(), path, b"")
        arguments = ["render", str(path), "-c", "Piece", "--rate", "50", "--repeat", "2", "--set", "quality=small"]
        done = CliRunner().invoke(cli, [*arguments, "-o", str(out)])
        self.assertEqual((done.exit_code, "48 frames, 0.96 s" in done.output), (0, True), done.output)
        sheet = CliRunner().invoke(
            cli, ["render", str(path), "-c", "Piece", "--target", "sheet", "-o", str(self.folder / "s.png")]
        )
        self.assertEqual(sheet.exit_code, 0, sheet.output)
        listed = CliRunner().invoke(cli, ["targets"]).output
        for kind in exporters():
            self.assertIn(f"{kind.name} ({kind.suffix})", listed)


class FramingTest(unittest.TestCase):
    def drawn(self, framing: Framing) -> np.ndarray:
        sample = bouncing()
        made, piece, scale = framed(sample, sample.compositions[0], framing)
        return render_frame(made, piece.id, 0, scale)

    def test_its_own_shape_is_the_piece_itself(self) -> None:
        sample = bouncing()
        made, piece, scale = framed(sample, sample.compositions[0], Framing(48, 32))
        self.assertIs(made, sample)
        self.assertEqual((piece, scale), (sample.compositions[0], 0.5))

    def test_filled_stretched_and_barred(self) -> None:
        filled, stretched = self.drawn(Framing(64, 64)), self.drawn(Framing(64, 64, "stretch"))
        self.assertTrue(np.all(filled[..., 3] == 1) and np.all(stretched[..., 3] == 1))
        barred = self.drawn(Framing(64, 64, "fit with bars", ground=(0.0, 0.0, 1.0, 1.0)))
        np.testing.assert_allclose(barred[2, 30], [0, 0, 1, 1], atol=1e-3)
        np.testing.assert_allclose(barred[32, 30], stretched[32, 30], atol=0.08)
        left, right = self.drawn(Framing(64, 64, across=-100)), self.drawn(Framing(64, 64, across=100))
        whole = self.drawn(Framing(96, 64))
        np.testing.assert_allclose(left, whole[:, :64], atol=2e-3)
        np.testing.assert_allclose(right, whole[:, 32:], atol=2e-3)

    def test_impossible_sizes_are_a_sentence(self) -> None:
        with self.assertRaisesRegex(ExportError, "cannot be written"):
            self.drawn(Framing(0, 10))


class OddSizesTest(unittest.TestCase):
    """Icons and the strips of light boards: what a kind of file or a codec does not take is a sentence."""

    def test_every_target_writes_any_size_or_says_why_not(self) -> None:
        folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        refused = set()
        for width, height in ((1, 1), (9000, 16), (17_000, 8)):
            piece = bouncing(width, height, 2)
            for kind in exporters():
                codecs = next((each.choices for each in kind.settings if each.name == "codec"), ())
                for words in ([f"codec={codec}"] for codec in codecs) if codecs else [[]]:
                    out = folder / f"{kind.name}{len(list(folder.iterdir()))}" / f"a{kind.suffix}"
                    out.parent.mkdir(exist_ok=True)
                    job = ExportJob(piece, "Piece", out, 0, 2, settings=kind.read_settings(tuple(words)), workers=1)
                    with self.subTest(kind=kind.name, words=words, size=(width, height)):
                        try:
                            self.assertTrue(export(kind, job).path.exists())
                        except ExportError as error:
                            self.assertRegex(str(error), r"px.*; choose another codec or|px.*; choose a smaller size")
                            self.assertFalse(out.exists())
                            refused.add((kind.name, *words, width))
        self.assertLessEqual({("mp4", "codec=H.265", 9000), ("webp", 17_000), ("webm", "codec=AV1", 1)}, refused)
        self.assertNotIn(("mp4", "codec=H.264", 9000), refused)


class LimitTest(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        self.sample = bouncing(320, 240, 40)

    def job(self, suffix: str, **values: object) -> ExportJob:
        return ExportJob(self.sample, "Piece", self.folder / f"a{suffix}", 0, 40, workers=2, **values)  # type: ignore[arg-type]

    def test_a_sample_shows_the_frame_and_comes_near_in_size(self) -> None:
        for name in (*VIDEO, *ANIMATED):
            kind = exporter(name)
            job = self.job(kind.suffix)
            found = sampled(kind, job, 25, runs=3)
            real = export(kind, job).bytes
            assert found.pixels is not None
            expected = render_straight8(self.sample, job.composition_id, 25)
            self.assertLess(float(np.abs(found.pixels.astype(float) - expected)[..., :3].mean()), 7.0, name)
            self.assertFalse(found.exact)
            self.assertTrue(0.5 < found.bytes / real < 2.0, (name, found.bytes, real))
        short = sampled(exporter("gif"), evolve(self.job(".gif"), last=8), 3)
        self.assertTrue(short.exact)

    def test_a_first_guess_comes_near_and_draws_nothing_more(self) -> None:
        for name in (*VIDEO, *ANIMATED):
            kind, drawn = exporter(name), Drawn()
            job = self.job(kind.suffix)
            pictured(kind, job, 25, drawn)
            with mock.patch("spiralis.core.media.sampling.drawn_here", side_effect=lambda *a: iter(())):
                found = guessed(kind, job, 25, drawn)
            real = export(kind, job).bytes
            self.assertTrue(0.4 < found.bytes / real < 2.5, (name, found.bytes, real))

    def test_every_kind_of_file_is_shown_and_guessed_at_with_frames_kept(self) -> None:
        for kind in exporters():
            job, drawn = evolve(self.job(kind.suffix), path=self.folder / f"{kind.name}{kind.suffix}"), Drawn()
            for look in (pictured, guessed):
                look(kind, job, 25, drawn)
            found = sampled(kind, job, 25, runs=2, drawn=drawn)
            real = export(kind, job).bytes
            self.assertTrue(0.4 < found.bytes / real < 2.5, (kind.name, found.bytes, real))

    def test_whether_a_gif_is_see_through_is_told_by_what_its_palette_is_made_of(self) -> None:
        for ground in (True, False):
            job = evolve(self.job(".gif"), project=bouncing(320, 240, 40, ground=ground))
            made = exporter("gif").prepare(job)
            with mock.patch("spiralis.core.media.see_through.render_frame", side_effect=AssertionError("drawn")):
                self.assertEqual(made.see_through, not ground)

    def test_looking_again_draws_nothing_again_and_shows_the_same(self) -> None:
        for name in ("mp4", "gif"):
            kind, drawn = exporter(name), Drawn()
            counted: list[float] = []

            def counting(job, render, numbers, counted=counted):  # type: ignore[no-untyped-def]
                counted.extend(numbers)
                return drawn_here(job, render, numbers)

            with mock.patch("spiralis.core.media.sampling.drawn_here", counting):
                first = pictured(kind, self.job(kind.suffix), 25, drawn)
                once = len(counted)
                self.assertGreater(once, 0)
                again = pictured(kind, self.job(kind.suffix), 25, drawn)
                self.assertEqual(len(counted), once, name)
                np.testing.assert_array_equal(first, again)
                other = evolve(self.job(kind.suffix), project=bouncing(320, 240, 40, ground=False))
                pictured(kind, other, 25, drawn)
                self.assertEqual(len(counted), 2 * once, name)
                pictured(kind, self.job(kind.suffix, scale=0.5), 25, drawn)
                self.assertGreater(len(counted), 2 * once, name)
            assert first is not None
            alone = pictured(kind, self.job(kind.suffix), 25)
            np.testing.assert_array_equal(first, alone)

    def test_what_fits_is_the_best_that_was_seen_to_fit(self) -> None:
        for name, limit in (("gif", 20_000), ("mp4", 9_000), ("webp", 30_000)):
            kind = exporter(name)
            told: list[str] = []
            found = fit(kind, self.job(kind.suffix), limit, told=told.append)
            chosen = found.chosen
            assert chosen is not None
            self.assertTrue(chosen.exact and chosen.bytes <= limit, name)
            self.assertTrue(told)
            ladder = [step.words for step in steps_for(kind)]
            better = [c for c in found.candidates if ladder.index(c.step.words) < ladder.index(chosen.step.words)]
            self.assertTrue(all(c.bytes > limit for c in better), name)
            result = export(kind, evolve(chosen.job, path=self.folder / f"b{kind.suffix}"))
            self.assertEqual(result.bytes, chosen.bytes, name)

    def test_what_is_pinned_is_in_every_step(self) -> None:
        kind = exporter("gif")
        held = {"colours": 200.0, "steady": 1.0, "pattern": "ordered"}
        for step in steps_for(kind, ("colours", "pattern", "size", "rate"), held):
            self.assertEqual((step.settings["colours"], step.settings["pattern"]), (200.0, "ordered"))
            self.assertEqual((step.scale, step.rate), (1.0, 1.0))
        self.assertLess(len(steps_for(kind, ("size", "rate"))), len(steps_for(kind)))

    def test_what_never_fits_says_how_small_it_gets_and_cancel_is_heeded(self) -> None:
        with self.assertRaisesRegex(ExportError, "does not get under"):
            fit(exporter("gif"), self.job(".gif"), 100)
        with self.assertRaises(Cancelled):
            fit(exporter("gif"), self.job(".gif"), 20_000, cancelled=lambda: True)

    def test_a_written_file_plays_at_its_own_pace(self) -> None:
        for name in ("mp4", "gif", "webp", "apng"):
            kind = exporter(name)
            result = export(kind, self.job(kind.suffix))
            found = frames_of(result.path, 160)
            self.assertEqual((len(found.pictures), float(found.seconds)), (40, 1.6), name)
            self.assertEqual(found.pictures[0].shape, (120, 160, 4))
            self.assertEqual([found.at(Fraction(t, 100)) for t in (0, 3, 4, 81, 159)], [0, 0, 1, 20, 39], name)
            self.assertIsNone(found.sound)

    def test_its_sound_begins_with_its_pictures_and_is_as_long(self) -> None:
        for length in (30, 48_000, 90_000):
            samples = np.arange(2 * length, dtype=np.float32).reshape(length, 2)
            found = _fitted(samples, Fraction(1))
            self.assertEqual((48_000, 2), found.shape)
            np.testing.assert_array_equal(found[:length], samples[:48_000])
            self.assertFalse(found[length:].any())


if __name__ == "__main__":
    unittest.main()
