"""Frames drawn by the workers of a real scheduler: the same bytes as here, whatever becomes of a worker."""

from __future__ import annotations

import os
import signal
import tempfile
import unittest
import warnings
from pathlib import Path

from attrs import evolve
from click.testing import CliRunner

from spiralis.cli import cli
from spiralis.core.cluster import CHUNK, Cluster
from spiralis.core.editing.sources import linked
from spiralis.core.errors import Cancelled, ExportError
from spiralis.core.media.exporters import ExportJob, export, exporter
from spiralis.core.model import Layer, Project
from spiralis.core.storage import save
from tests.core.samples import moving, project, square_source

LENGTH = 36


def sample() -> Project:
    """Return a picture that moves over a gradient."""
    source = square_source(40)
    picture = Layer("Picture", "picture", 0, LENGTH, id="picture").with_values(source=source.id)
    ground = Layer("Ground", "backdrop", 0, LENGTH).with_values(position=(64.0, 48.0), style="linear")
    made = project(moving(picture, (30.0, 40.0), (100.0, 50.0), LENGTH), ground, width=128, height=96, length=LENGTH)
    return evolve(made, sources=(source,))


class ClusterTest(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        from distributed import LocalCluster

        warnings.simplefilter("ignore")
        cls.workers = LocalCluster(
            n_workers=2, threads_per_worker=1, processes=True, dashboard_address=None, host="127.0.0.1",
            silence_logs=50,
        )  # fmt: skip
        cls.addClassCleanup(cls.workers.close)
        cls.address = cls.workers.scheduler_address

    def setUp(self) -> None:
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))

    def job(self, made: Project, name: str, **more: object) -> ExportJob:
        return ExportJob(made, made.compositions[0].id, self.folder / name, 0, LENGTH, **more)  # type: ignore[arg-type]

    def cluster(self) -> Cluster:
        found = Cluster(self.address)
        self.addCleanup(found.close)
        return found

    def test_every_way_of_drawing_gives_the_same_bytes_as_here(self) -> None:
        cluster, made = self.cluster(), sample()
        for name, settings in (("mp4", {}), ("webm", {}), ("mov", {}), ("gif", {}), ("png", {"bits": "16"}),
                               ("sheet", {})):  # fmt: skip
            kind, files = exporter(name), []
            for place, draw in (("here", {}), ("there", {"draw": cluster.draw})):
                folder = self.folder / place
                folder.mkdir(exist_ok=True)
                export(kind, self.job(made, f"{place}/{name}{kind.suffix}", settings=settings, **draw))
                files.append({path.name: path.read_bytes() for path in folder.rglob("*") if path.is_file()})
            self.assertGreater(len(files[0]), 0)
            self.assertEqual(files[0], files[1], name)

    def test_linked_media_go_along(self) -> None:
        files = self.folder / "media"
        files.mkdir()
        made = linked(sample(), files)
        self.assertTrue(made.sources[0].linked)
        export(exporter("gif"), self.job(made, "here.gif"))
        cluster = self.cluster()
        # The workers cannot read it any more; what goes there holds the bytes themselves.
        job = self.job(made, "there.gif")
        drawn = []

        def draw(job, render, numbers):  # type: ignore[no-untyped-def]
            frames = cluster.draw(job, render, numbers)
            drawn.append(next(frames))
            for path in files.iterdir():
                path.rename(path.with_suffix(".away"))
            yield drawn[0]
            yield from frames

        job.draw = draw
        export(exporter("gif"), job)
        self.assertEqual((self.folder / "here.gif").read_bytes(), (self.folder / "there.gif").read_bytes())

    def test_a_lost_worker_costs_its_chunk_only(self) -> None:
        made, cluster = sample(), self.cluster()
        export(exporter("mp4"), self.job(made, "here.mp4"))
        workers = dict(cluster.client.run(os.getpid))
        told: list[int] = []

        def report(progress) -> None:  # type: ignore[no-untyped-def]
            told.append(progress.done)
            if progress.done == CHUNK + 1:
                os.kill(next(iter(workers.values())), signal.SIGKILL)

        export(exporter("mp4"), self.job(made, "there.mp4", draw=cluster.draw, progress=report))
        self.assertEqual(told, list(range(1, LENGTH + 1)))
        self.assertEqual((self.folder / "here.mp4").read_bytes(), (self.folder / "there.mp4").read_bytes())

    def test_cancel_is_heeded_and_leaves_nothing(self) -> None:
        asked = []

        def cancelled() -> bool:
            asked.append(1)
            return len(asked) > 3

        with self.assertRaises(Cancelled):
            export(exporter("mp4"), self.job(sample(), "a.mp4", draw=self.cluster().draw, cancelled=cancelled))
        self.assertEqual(list(self.folder.iterdir()), [])

    def test_the_command_line_draws_there(self) -> None:
        save(sample(), self.folder / "p.spiralis")
        asked = ["render", str(self.folder / "p.spiralis"), "-c", sample().compositions[0].name]
        for more in ((), ("--scheduler", self.address)):
            found = CliRunner().invoke(cli, [*asked, *more, "-o", str(self.folder / f"{len(more)}.gif")])
            self.assertEqual(found.exit_code, 0, found.output)
        self.assertEqual((self.folder / "0.gif").read_bytes(), (self.folder / "2.gif").read_bytes())


class NoClusterTest(unittest.TestCase):
    def test_where_nothing_answers_it_says_so(self) -> None:
        import spiralis.core.cluster as module

        self.addCleanup(setattr, module, "PATIENCE", module.PATIENCE)
        module.PATIENCE = 1
        for address in ("tcp://127.0.0.1:9", "nonsense://x", ""):
            with self.assertRaises(ExportError) as caught:
                Cluster(address)
            self.assertIn("--scheduler", str(caught.exception))
