"""Long runs are packed in parts: the same file whether they were interrupted or not, and goes on from what is there."""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path
from types import SimpleNamespace
from unittest import mock

import av
import numpy as np
from click.testing import CliRunner
from hypothesis import given
from hypothesis import strategies as st

from spiralis.cli import cli
from spiralis.core.errors import Cancelled, ExportError
from spiralis.core.media.encoding import _NONE_YET, _written
from spiralis.core.media.exporters import ExportJob, ExportProgress, export, exporter, video
from spiralis.core.media.exporters.webm import WEBM
from spiralis.core.media.placing import put_file
from spiralis.core.model import Layer, Project
from spiralis.core.render.frame import render_straight8
from spiralis.core.storage import save
from spiralis.core.storage.parts import parts_for, parts_root, sweep_parts
from tests.core.samples import moving, project

LENGTH, LONG, PART = 50, 24, 12
PIECE = "piece"


def sample(ground: bool = True) -> Project:
    """Return a square that moves, over a ground or over nothing."""
    square = Layer("Square", "shape", 0, LENGTH, id="s").with_values(form="rectangle", size=(24.0, 24.0))
    layers = [moving(square, (20.0, 32.0), (76.0, 32.0), LENGTH - 1)]
    if ground:
        layers.append(Layer("Ground", "backdrop", 0, LENGTH, id="g").with_values(position=(48.0, 32.0), style="linear"))
    return project(*layers, width=96, height=64, length=LENGTH, id=PIECE)


def kept(job: ExportJob) -> Path:
    """Return where a job's finished parts lie."""
    folder = job.parts()
    assert folder is not None
    return folder


class PartsTest(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        cache = self.enterContext(tempfile.TemporaryDirectory())
        self.enterContext(mock.patch.dict(os.environ, {"XDG_CACHE_HOME": cache}))
        for name, value in (("LONG", LONG), ("PART", PART)):
            self.enterContext(mock.patch.object(video, name, value))

    def job(self, name: str, made: Project | None = None, **more: object) -> ExportJob:
        job = ExportJob(made or sample(), PIECE, self.folder / name, 0, LENGTH, **more)  # type: ignore[arg-type]
        folder = parts_for(exporter(name.rpartition(".")[2]), job)
        job.parts = lambda: folder
        return job

    def stopped(self, name: str, after: int, **more: object) -> ExportJob:
        """Return a job that was stopped after so many frames."""
        job = self.job(name, **more)
        seen: list[int] = []
        job.progress = lambda progress: seen.append(progress.done)
        job.cancelled = lambda: len(seen) >= after
        with self.assertRaises(Cancelled):
            export(exporter(name.rpartition(".")[2]), job)
        return job

    def test_an_interrupted_run_goes_on_and_ends_in_the_same_bytes(self) -> None:
        for suffix in ("mp4", "webm", "mov"):
            kind = exporter(suffix)
            export(kind, self.job(f"whole.{suffix}"))
            job = self.stopped(f"a.{suffix}", 2 * PART + 3)
            self.assertEqual(len(list(kept(job).glob(f"0*.{suffix}"))), 2, suffix)
            self.assertFalse((self.folder / f"a.{suffix}").exists())
            again, told = self.job(f"a.{suffix}"), list[ExportProgress]()
            again.progress = told.append
            export(kind, again)
            self.assertEqual([p.done for p in told], list(range(2 * PART + 1, LENGTH + 1)), suffix)
            self.assertTrue(all(p.before == 2 * PART and p.total == LENGTH for p in told), suffix)
            same = (self.folder / f"a.{suffix}").read_bytes() == (self.folder / f"whole.{suffix}").read_bytes()
            self.assertTrue(same, suffix)
            self.assertEqual(list(parts_root().iterdir()), [], suffix)

    def test_every_frame_is_right_and_at_its_time(self) -> None:
        for suffix in ("mp4", "webm", "mov"):
            for codec in {"mp4": ("H.264", "H.265", "AV1"), "webm": ("VP9", "AV1")}.get(suffix, ("",)):
                settings = {"codec": codec} if codec else {}
                result = export(exporter(suffix), self.job(f"a.{suffix}", settings=settings))
                self.assertEqual((result.frames, round(result.seconds, 2)), (LENGTH, LENGTH / 25))
                with av.open(str(result.path)) as held:
                    frames = list(held.decode(video=0))
                self.assertEqual(len(frames), LENGTH)
                times = np.diff([float(frame.pts * frame.time_base) for frame in frames])
                self.assertLess(float(np.abs(times - 0.04).max()), 0.0015, (suffix, codec))
                for index in (0, PART - 1, PART, 2 * PART + 1, LENGTH - 1):
                    drawn = render_straight8(sample(), PIECE, index)[..., :3].astype(float)
                    far = np.abs(frames[index].to_ndarray(format="rgb24") - drawn).mean()
                    self.assertLess(float(far), 7.0, (suffix, codec, index))

    @given(st.lists(st.one_of(st.none(), st.integers(-70, 70), st.integers(-(1 << 62), 1 << 62)), max_size=3))
    def test_moments_of_decoding_are_such_as_a_file_may_hold(self, moments: list[int | None]) -> None:
        packets = [SimpleNamespace(pts=pts, dts=dts) for pts, dts in enumerate(moments)]
        muxed: list[SimpleNamespace] = []
        count, _ = _written(SimpleNamespace(mux=muxed.append), packets, _NONE_YET)
        self.assertEqual(count, len(muxed))
        self.assertTrue(all(packet.dts <= packet.pts for packet in muxed), muxed)
        self.assertTrue(all(a.dts < b.dts for a, b in zip(muxed, muxed[1:], strict=False)), muxed)

    def test_frames_that_are_decoded_before_others_they_need_stay_in_that_order(self) -> None:
        held = [(0, -2), (4, -1), (2, 0), (1, 1), (3, 3), (8, 4), (6, 5)]
        packets = [SimpleNamespace(pts=pts, dts=dts) for pts, dts in held]
        state = _written(SimpleNamespace(mux=lambda packet: None), packets[:3], _NONE_YET)
        _written(SimpleNamespace(mux=lambda packet: None), packets[3:], state)
        self.assertEqual([(packet.pts, packet.dts) for packet in packets], held)

    def test_a_few_frames_have_moments_of_decoding_whatever_lies_in_memory(self) -> None:
        code = """
import sys, av, av.logging, numpy as np
from fractions import Fraction
from pathlib import Path
from spiralis.core.media.encoding import encode
from spiralis.core.media.exporters.mp4 import CODECS
av.logging.set_level(av.logging.WARNING)
grey = [np.full((32, 32), 90, np.uint8), *[np.full((16, 16), 128, np.uint8)] * 2]
for name, codec in CODECS.items():
    for count in (1, 2, 3, 5):
        path = Path(sys.argv[1]) / f"{name}{count}.mp4"
        with av.logging.Capture() as said:
            encode(path, "mp4", codec, "yuv420p", codec.options("30"), (32, 32), Fraction(25), [grey] * count)
        assert not [line for line in said if "pts" in line[2] or "Timestamps" in line[2]], (name, count, said)
        with av.open(str(path)) as held:
            stream = held.streams.video[0]
            times = [float(p.dts * stream.time_base * 25) for p in held.demux(stream) if p.size]
        assert len(times) == count and np.allclose(np.diff(times), 1, atol=0.01) and abs(times[0]) < 9, (name, times)
"""
        for value in ("1", "165"):
            # Fresh memory is full of this byte.
            told = subprocess.run(
                [sys.executable, "-c", code, str(self.folder)], env={**os.environ, "MALLOC_PERTURB_": value},
                capture_output=True, text=True, timeout=120, check=False,
            )  # fmt: skip
            self.assertEqual(told.returncode, 0, told.stderr[-800:])

    def test_alpha_is_kept_in_every_part(self) -> None:
        result = export(WEBM, self.job("a.webm", sample(ground=False)))
        for index in (0, PART, LENGTH - 1):
            pixels = WEBM.read(result.path, index)
            assert pixels is not None
            self.assertEqual((int(pixels[2, 2, 3]), int(pixels[32, round(20 + 56 * index / 49), 3]) > 240), (0, True))

    def test_other_frames_settings_and_projects_have_other_parts(self) -> None:
        kind, job = exporter("mp4"), self.job("a.mp4")
        changed = sample().compositions[0].layers[0].with_values(size=(25.0, 24.0))
        others = [
            self.job("a.mp4", settings={"quality": "best"}),
            self.job("a.mp4", scale=0.5),
            self.job("a.mp4", project(changed, width=96, height=64, length=LENGTH, id=PIECE)),
            ExportJob(sample(), PIECE, self.folder / "a.mp4", 0, LENGTH - 1),
        ]
        folders = {parts_for(kind, each) for each in [job, *others]}
        self.assertEqual(len(folders), 5)
        self.assertEqual(parts_for(kind, job), parts_for(kind, self.job("elsewhere.mp4")))

    def test_the_command_goes_on_from_what_an_interrupted_one_left(self) -> None:
        written = self.folder / "sample.spiralis"
        save(sample(), written)
        command = ["render", str(written), "-c", PIECE, "-o", str(self.folder / "a.mp4")]
        placed: list[Path] = []

        def put(temporary: Path, path: Path) -> None:
            if len(placed) == 1:
                raise KeyboardInterrupt
            put_file(temporary, path)
            placed.append(path)

        with mock.patch.object(video, "put_file", put):
            self.assertEqual(CliRunner().invoke(cli, command).exit_code, 1)
            placed *= 2
            made = CliRunner().invoke(cli, command)
        self.assertEqual(made.exit_code, 0, made.output)
        self.assertEqual([path.stem for path in placed[2:]], [f"{first:06d}" for first in range(PART, LENGTH, PART)])
        self.assertEqual(list(parts_root().iterdir()), [])

    def test_a_full_disk_keeps_what_is_finished_for_the_next_time(self) -> None:
        job = self.stopped("a.mp4", PART + 1)
        with mock.patch("os.fsync", side_effect=OSError(28, "No space left on device")), \
                self.assertRaises(ExportError):  # fmt: skip
            export(exporter("mp4"), self.job("a.mp4"))
        self.assertEqual(len(list(kept(job).glob("0*.mp4"))), 1)
        self.assertEqual(list(self.folder.iterdir()), [])

    def test_parts_that_nobody_came_back_for_go(self) -> None:
        parts = kept(self.stopped("a.mp4", PART + 1))
        sweep_parts()
        self.assertTrue(parts.exists())
        os.utime(parts, (0, 0))
        sweep_parts()
        self.assertFalse(parts.exists())
