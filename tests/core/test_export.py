"""Exported files, read back with other libraries; identical files; failures that leave nothing behind."""

import hashlib
import resource
import signal
import tempfile
import unittest
from fractions import Fraction
from pathlib import Path
from unittest import mock

import av
import numpy as np
from attrs import evolve
from PIL import Image

from spiralis.core.errors import Cancelled, ExportError
from spiralis.core.media.exporters import ExportJob, export, exporter, exporters
from spiralis.core.media.exporters.gif import delays
from spiralis.core.media.exporters.numbered import frame_path
from spiralis.core.media.pictures import picture_source
from spiralis.core.model import Key, Layer, Project, Track
from spiralis.core.render.frame import render_straight8
from spiralis.core.render.sequence import in_order
from tests.core.samples import backdrop, moving, piece, png_bytes, project


def fading(
    width: int = 64, height: int = 48, length: int = 12, rate: Fraction = Fraction(25), **values: object
) -> Project:
    """Return a piece that fades from dark to light, so that every frame can be told from the others."""
    layer = backdrop(width, height, (1.0, 1.0, 1.0, 1.0))
    layer = layer.with_track("opacity", Track(0.0, (Key(0, 5.0), Key(length, 95.0))))
    base = piece(layer, width=width, height=height, length=length, background=(0.0, 0.0, 0.0, 1.0), **values)
    return Project("Sample", (evolve(base, rate=rate),))


def drifting(width: int, height: int) -> Project:
    """Return a piece of much detail that moves over a gradient, so that an encoder has to search."""
    pixels = np.random.default_rng(1).integers(0, 256, (height // 3, width // 3, 4), dtype=np.uint8)
    source = picture_source(png_bytes(pixels), "speckles.png")
    detail = Layer("Speckles", "picture", 0, 16).with_values(source=source.id)
    ground = Layer("Ground", "backdrop", 0, 16).with_values(position=(width / 2, height / 2), style="linear")
    layers = (moving(detail, (width * 0.3, height * 0.3), (width * 0.7, height * 0.6), 15), ground)
    return project(*layers, sources=(source,), width=width, height=height, length=16)


def levels(frames: list[np.ndarray]) -> list[float]:
    return [float(frame[..., :3].mean()) for frame in frames]


class ExportTest(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))

    def job(self, sample: Project, name: str, **values: object) -> ExportJob:
        composition = sample.compositions[0]
        values = {"first": 0, "last": composition.length, "workers": 2, **values}
        return ExportJob(sample, composition.id, self.folder / name, **values)  # type: ignore[arg-type]

    def left(self) -> list[str]:
        return sorted(path.name for path in self.folder.iterdir())

    def test_mp4_holds_the_right_frames_rate_and_tags(self) -> None:
        sample = fading(rate=Fraction(30000, 1001))
        result = export(exporter("mp4"), self.job(sample, "a.mp4"))
        self.assertEqual((result.frames, result.width, result.height), (12, 64, 48))
        with av.open(str(self.folder / "a.mp4")) as container:
            stream = container.streams.video[0]
            self.assertEqual(stream.average_rate, Fraction(30000, 1001))
            context = stream.codec_context
            self.assertEqual(
                (context.color_primaries, context.color_trc, context.colorspace, context.color_range), (1, 1, 1, 1)
            )
            self.assertEqual(context.pix_fmt, "yuv420p")
            frames = [frame.to_ndarray(format="rgb24") for frame in container.decode(stream)]
        self.assertEqual(len(frames), 12)
        expected = levels([render_straight8(sample, "Piece", n) for n in range(12)])
        np.testing.assert_allclose(levels(frames), expected, atol=3)

    def test_mp4_has_its_index_at_the_front(self) -> None:
        export(exporter("mp4"), self.job(fading(), "a.mp4"))
        data = (self.folder / "a.mp4").read_bytes()
        self.assertLess(data.index(b"moov"), data.index(b"mdat"))

    def test_mp4_of_an_odd_size_says_so(self) -> None:
        result = export(exporter("mp4"), self.job(fading(33, 17), "a.mp4"))
        self.assertEqual((result.width, result.height), (34, 18))
        self.assertIn("33 × 17 became 34 × 18", result.notes[0])

    def test_mp4_of_a_clear_piece_says_so(self) -> None:
        sample = project(length=5)
        self.assertIn("transparency", export(exporter("mp4"), self.job(sample, "a.mp4")).notes[0])

    def test_gif_holds_the_right_pictures_loops_and_lasts_exactly(self) -> None:
        sample = fading(rate=Fraction(30))
        result = export(exporter("gif"), self.job(sample, "a.gif", settings={"colours": 64.0}))
        with Image.open(self.folder / "a.gif") as image:
            self.assertEqual(image.info["loop"], 0)
            frames, waits = [], []
            for index in range(image.n_frames):
                image.seek(index)
                waits.append(image.info["duration"] // 10)
                frames.append(np.array(image.convert("RGB")))
        self.assertEqual((len(frames), sum(waits)), (12, 40))
        self.assertEqual(result.seconds, 0.4)
        np.testing.assert_allclose(
            levels(frames), levels([render_straight8(sample, "Piece", n) for n in range(12)]), atol=3
        )

    def test_gif_delays_add_up(self) -> None:
        for count, rate in ((100, Fraction(30000, 1001)), (7, Fraction(24)), (60, Fraction(60)), (1, Fraction(25))):
            for step in (1, 2):
                self.assertEqual(sum(delays(count, rate, step)), round(Fraction(100 * count) / rate))

    def test_gif_above_fifty_pictures_a_second_takes_every_second_frame(self) -> None:
        result = export(exporter("gif"), self.job(fading(rate=Fraction(60)), "a.gif"))
        self.assertEqual(result.frames, 6)
        self.assertIn("second frame", result.notes[0])

    def test_gif_keeps_see_through_parts(self) -> None:
        layer = backdrop(64, 48, (1.0, 0.0, 0.0, 1.0), scale=(50.0, 50.0))
        export(exporter("gif"), self.job(project(layer, length=3), "a.gif"))
        with Image.open(self.folder / "a.gif") as image:
            pixels = np.array(image.convert("RGBA"))
        self.assertEqual((pixels[0, 0, 3], pixels[24, 32, 3]), (0, 255))

    def test_png_of_one_frame_and_of_all(self) -> None:
        sample = fading()
        export(exporter("png"), self.job(sample, "one.png", first=4, last=5))
        with Image.open(self.folder / "one.png") as image:
            np.testing.assert_array_equal(np.array(image.convert("RGBA")), render_straight8(sample, "Piece", 4))
        result = export(exporter("png"), self.job(sample, "all.png"))
        self.assertEqual((result.frames, result.path.name), (12, "all-0000.png"))
        self.assertEqual(len(list((self.folder / "all").iterdir())), 12)
        self.assertEqual(frame_path(Path("a.png"), 7, 150).name, "a-0007.png")

    def test_a_span_and_a_scale(self) -> None:
        result = export(exporter("mp4"), self.job(fading(), "a.mp4", first=2, last=8, scale=0.5))
        self.assertEqual((result.frames, result.width, result.height), (6, 32, 24))

    def test_one_and_two_workers_write_identical_files(self) -> None:
        for kind in exporters():
            digests = set()
            for workers in (1, 2):
                path = f"{workers}{kind.suffix}"
                last = 1 if kind.many_files else 12
                export(kind, self.job(fading(), path, workers=workers, last=last))
                digests.add(hashlib.sha256((self.folder / path).read_bytes()).hexdigest())
            self.assertEqual(len(digests), 1, kind.name)

    def test_files_of_one_piece_are_the_same_whenever_they_are_written(self) -> None:
        for width, height in ((270, 270), (272, 270), (162, 202), (64, 48), (176, 144)):
            sample = drifting(width, height)
            for kind in exporters():
                last, runs = (1, 2) if kind.many_files else (16, 10 if kind.name == "mp4" else 3)
                digests = set()
                for run in range(runs):
                    path = self.folder / f"a{kind.suffix}"
                    export(kind, self.job(sample, path.name, workers=(1, 2, 4)[run % 3], last=last))
                    digests.add(hashlib.sha256(path.read_bytes()).hexdigest())
                self.assertEqual(len(digests), 1, (kind.name, width, height))

    def test_progress_counts_to_the_end(self) -> None:
        seen: list[tuple[int, int]] = []
        job = self.job(fading(), "a.gif")
        job.progress = lambda progress: seen.append((progress.done, progress.total))
        export(exporter("gif"), job)
        self.assertEqual(seen, [(n, 12) for n in range(1, 13)])

    def test_cancel_leaves_nothing(self) -> None:
        for kind in exporters():
            job = self.job(fading(), f"a{kind.suffix}")
            calls = iter(range(100))
            job.cancelled = lambda calls=calls: next(calls) >= 4
            with self.assertRaises(Cancelled):
                export(kind, job)
            self.assertEqual(self.left(), [], kind.name)

    def refused(self, kind: str, job: ExportJob) -> str:
        with self.assertRaises(ExportError) as caught:
            export(exporter(kind), job)
        self.assertTrue(str(caught.exception).endswith("."))
        return str(caught.exception)

    def test_targets_that_cannot_be_written(self) -> None:
        sample = fading()
        job = self.job(sample, "a.mp4")
        for path, word in (
            (self.folder / "none" / "a.mp4", "not there"), (self.folder, "folder"), (Path("/proc/a.mp4"), ""),
            (Path("/sys/a.mp4"), "may not be written"),
        ):  # fmt: skip
            job.path = path
            self.assertIn(word, self.refused("mp4", job))
        job.path = self.folder / "a.mp4"
        with mock.patch("os.access", return_value=False):
            self.assertIn("may not be written", self.refused("mp4", job))
        self.assertEqual(self.left(), [])

    def test_a_full_disk_is_one_sentence_and_leaves_nothing(self) -> None:
        sample = fading(640, 480, 40)
        noise = backdrop(640, 480, (1, 1, 1, 1)).with_values(style="linear", angle=33.0)
        sample = sample.with_composition(
            evolve(sample.compositions[0], layers=(noise, *sample.compositions[0].layers[:0]))
        )
        kept = resource.getrlimit(resource.RLIMIT_FSIZE), signal.signal(signal.SIGXFSZ, signal.SIG_IGN)
        try:
            resource.setrlimit(resource.RLIMIT_FSIZE, (3000, kept[0][1]))
            for kind in ("mp4", "gif", "png"):
                last = 1 if kind == "png" else 40
                sentence = self.refused(kind, self.job(sample, f"a.{kind}", last=last))
                self.assertRegex(sentence, "disk|space", kind)
        finally:
            resource.setrlimit(resource.RLIMIT_FSIZE, kept[0])
            signal.signal(signal.SIGXFSZ, kept[1])
        self.assertEqual(self.left(), [])

    def test_spans_outside_the_piece(self) -> None:
        for first, last in ((-1, 4), (3, 3), (0, 13)):
            self.refused("gif", self.job(fading(), "a.gif", first=first, last=last))

    def test_an_old_file_survives_a_failed_export(self) -> None:
        (self.folder / "a.gif").write_bytes(b"old")
        job = self.job(fading(), "a.gif")
        job.cancelled = lambda: True
        with self.assertRaises(Cancelled):
            export(exporter("gif"), job)
        self.assertEqual((self.folder / "a.gif").read_bytes(), b"old")


class SequenceTest(unittest.TestCase):
    def test_results_come_in_order_whatever_finishes_first(self) -> None:
        import time

        def slow(frame: int) -> int:
            time.sleep(0.01 * (frame % 3))
            return frame

        self.assertEqual(list(in_order(slow, range(20), 4)), list(range(20)))

    def test_those_that_draw_stand_back_behind_whoever_takes_what_they_draw(self) -> None:
        import os
        import threading

        def nice(_: float = 0) -> int:
            return os.getpriority(os.PRIO_PROCESS, threading.get_native_id())

        own = nice()
        self.assertEqual(set(in_order(nice, range(6), 2, niceness=3)), {min(own + 3, 19)})
        self.assertEqual(set(in_order(nice, range(6), 2)), {own})
        self.assertEqual(set(in_order(nice, range(6), 2, niceness=90)), {19})
        job = ExportJob(project(backdrop(16, 16, (1.0, 0.0, 0.0, 1.0))), "Piece", Path("a.mp4"), 0, 6, niceness=2)
        self.assertEqual(set(job.draw(job, lambda _, moment: nice(moment), range(6))), {min(own + 2, 19)})
        self.assertEqual(nice(), own)

    def test_an_error_in_a_worker_reaches_the_consumer(self) -> None:
        def broken(frame: int) -> int:
            if frame == 3:
                raise ZeroDivisionError
            return frame

        with self.assertRaises(ZeroDivisionError):
            list(in_order(broken, range(9), 2))
