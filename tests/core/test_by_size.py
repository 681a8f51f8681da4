"""Videos by size: under what was asked for and near to it, whatever the codec; or a sentence, and nothing left."""

from __future__ import annotations

import tempfile
import unittest
from pathlib import Path

import av
import numpy as np

from spiralis.core.errors import Cancelled, ExportError
from spiralis.core.media.exporters import ExportJob, ExportProgress, export, exporter
from spiralis.core.media.exporters.video import read_video
from spiralis.core.media.sampling import Drawn, sampled
from spiralis.core.model import Key, Layer, Project, Track
from spiralis.core.render.frame import render_straight8
from tests.core.samples import project

WAYS = (("mp4", "H.264"), ("mp4", "H.265"), ("mp4", "AV1"), ("webm", "VP9"), ("webm", "AV1"))
COUNT = 24


def busy() -> Project:
    """Return fine clouds on the move, still in the first third: they take all the room that they get."""
    evolution = Track(0.0, (Key(8, 0.0), Key(COUNT, 360.0)))
    clouds = Layer("Clouds", "clouds", 0, COUNT).with_values(
        scale_px=(12.0, 12.0), detail=3.0, contrast=200.0, position=(80.0, 56.0)
    )
    return project(clouds.with_track("evolution", evolution), width=160, height=112, length=COUNT)


class BySizeTest(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        self.project = busy()

    def job(self, kind: str, codec: str, megabytes: float, **values: object) -> ExportJob:
        settings = {"codec": codec, "quality": "by size", "megabytes": megabytes}
        path = self.folder / f"a{exporter(kind).suffix}"
        return ExportJob(self.project, "Piece", path, 0, COUNT, settings=settings, workers=2, **values)  # type: ignore[arg-type]

    def off(self, path: Path) -> float:
        """Return the mean error of some frames of a file, in levels."""
        errors = []
        for index in (3, 14, 22):
            found = read_video(path, index)
            assert found is not None
            real = render_straight8(self.project, "Piece", index)
            errors.append(float(np.abs(found.astype(float) - real)[..., :3].mean()))
        return float(np.mean(errors))

    def test_under_the_size_near_to_it_and_better_with_more_room(self) -> None:
        for kind, codec in WAYS:
            found = []
            for megabytes in (0.02, 0.08):
                result = export(exporter(kind), self.job(kind, codec, megabytes))
                self.assertLessEqual(result.path.stat().st_size, megabytes * 1e6, codec)
                found.append(self.off(result.path))
                with av.open(str(result.path)) as held:
                    self.assertEqual(sum(1 for packet in held.demux(video=0) if packet.size), COUNT)
                if codec in ("H.264", "H.265"):
                    self.assertGreater(result.bytes, 0.8 * megabytes * 1e6, codec)
            self.assertLess(found[1], 0.8 * found[0], codec)

    def test_all_rounds_together_stay_under_it(self) -> None:
        for kind, codec in (("mp4", "H.264"), ("webm", "VP9")):
            result = export(exporter(kind), self.job(kind, codec, 0.1, repeat=3))
            self.assertLessEqual(result.bytes, 100_000)
            self.assertEqual(result.frames, 3 * COUNT)

    def test_any_number_of_workers_writes_the_same(self) -> None:
        written = set()
        for workers in (1, 2, 4):
            job = self.job("mp4", "H.264", 0.05)
            job.workers = workers
            written.add(export(exporter("mp4"), job).path.read_bytes())
        self.assertEqual(len(written), 1)

    def test_what_cannot_be_is_a_sentence_and_leaves_nothing(self) -> None:
        with self.assertRaisesRegex(ExportError, r"H.264 does not get under 0.01 MB here: the smallest .* MB"):
            export(exporter("mp4"), self.job("mp4", "H.264", 0.01, repeat=9))
        self.assertEqual(list(self.folder.iterdir()), [])

    def test_progress_goes_up_to_the_end_and_cancel_is_heeded_in_the_second_pass(self) -> None:
        told: list[ExportProgress] = []
        export(exporter("mp4"), self.job("mp4", "H.264", 0.05, progress=told.append))
        shares = [each.done / each.total for each in told]
        self.assertEqual(shares[-1], 1.0)
        self.assertGreaterEqual(len(told), 2 * COUNT)
        told.clear()
        with self.assertRaises(Cancelled):
            cancelled = lambda: len(told) > COUNT + 5  # noqa: E731
            export(exporter("mp4"), self.job("mp4", "H.264", 0.05, progress=told.append, cancelled=cancelled))
        self.assertFalse((self.folder / "a.webm").exists())
        self.assertEqual([path.name for path in self.folder.iterdir()], ["a.mp4"])

    def test_a_sample_says_no_more_than_was_asked_for(self) -> None:
        for kind, codec in WAYS:
            found = sampled(exporter(kind), self.job(kind, codec, 0.06), 15)
            self.assertTrue(12_000 < found.bytes <= 60_000, (codec, found.bytes))
            self.assertIsNotNone(found.pixels)

    def test_more_rounds_leave_less_room_for_a_sample(self) -> None:
        drawn, given = Drawn(), []
        for repeat in (1, 3):
            job = self.job("mp4", "H.264", 0.06, repeat=repeat)
            given.append(drawn.prepared(exporter("mp4"), job).given["bit_rate"])
        self.assertLess(given[1], 0.5 * given[0])


if __name__ == "__main__":
    unittest.main()
