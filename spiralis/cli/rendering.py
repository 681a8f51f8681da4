"""Commands that write frames, videos and pictures."""

from __future__ import annotations

import sys
from contextlib import ExitStack, closing
from functools import partial
from pathlib import Path
from typing import Any

import click

from spiralis.cli.base import NICENESS, cli, say


@cli.command()
@click.argument("file", type=click.Path(path_type=Path))
@click.option("--composition", "-c", help="Its name or id; can be left out where there is one piece.")
@click.option("--at", "at", type=int, required=True, help="Frame number, from 0.")
@click.option("--scale", type=click.FloatRange(0.01, 1000), default=1.0, help="Size beside the composition's.")
@click.option("-o", "output", type=click.Path(path_type=Path), required=True, help="The file: .png, .ora, .svg…")
def frame(file: Path, composition: str | None, at: int, scale: float, output: Path) -> None:
    """Write one frame as PNG, or its layers as OpenRaster or SVG."""
    from spiralis.core.media.stills import still_suffixes, write_still
    from spiralis.core.model.pieces import asked_for
    from spiralis.core.storage import load

    if output.suffix.lower() in still_suffixes() and output.suffix.lower() != ".png":
        project = load(file, composition)
        for note in write_still(project, asked_for(project, composition).id, at, output):
            say(note, err=True)
        say(f"Wrote {output}.")
        return
    if output.suffix.lower() != ".png":
        raise click.UsageError(f"The output of `frame` ends in {', '.join(still_suffixes())}.")
    _render(file, composition, (at, at + 1), scale, None, output)


@cli.command()
@click.argument("file", type=click.Path(path_type=Path))
@click.option("--composition", "-c", help="Its name or id; can be left out where there is one piece.")
@click.option("--frames", "span", default=None, metavar="A:B", help="Frames A to B - 1; default is the play span.")
@click.option("--scale", type=click.FloatRange(0.01, 1000), default=1.0, help="Size beside the composition's.")
@click.option("--workers", type=click.IntRange(1, 64), default=None, help="Render threads; default one a core.")
@click.option("--rate", default=None, help="Frames per second of the file: 30, 30000/1001; default is the piece's own.")
@click.option("--repeat", type=click.IntRange(1, 1000), default=1, help="How many times the piece plays in the file.")
@click.option("--target", default=None, help="Kind of file, where the output's ending does not say it: sheet, say.")
@click.option("--set", "settings", multiple=True, metavar="NAME=VALUE", help="A setting of the kind of file.")
@click.option("--scheduler", default=None, metavar="ADDRESS", help="Draw on the workers of this Dask scheduler.")
@click.option("-o", "output", type=click.Path(path_type=Path), required=True, help="Its ending says as what.")
def render(
    file: Path, composition: str | None, span: str | None, scale: float, workers: int | None, rate: str | None,
    repeat: int, target: str | None, settings: tuple[str, ...], scheduler: str | None, output: Path,
) -> None:  # fmt: skip
    """Write a composition as video, an animated picture or numbered pictures.

    Endings: .mp4, .webm, .mov, .gif, .apng, .webp, .avif, .png, .tiff and those that `spiralis targets` lists.
    """
    from fractions import Fraction

    try:
        own_rate = Fraction(rate) if rate else None
    except (ValueError, ZeroDivisionError) as error:
        raise click.UsageError("--rate is written like 25 or 30000/1001.") from error
    frames = None
    if span is not None:
        first, colon, last = span.partition(":")
        if not (colon and first.isdigit() and last.isdigit()):
            raise click.UsageError("--frames is written A:B, for example 0:50.")
        frames = (int(first), int(last))
    _render(file, composition, frames, scale, workers, output, own_rate, repeat, target, settings, scheduler)


@cli.command()
def targets() -> None:
    """List the kinds of files that `render` writes, and their settings."""
    from spiralis.core.media.exporters import exporters

    for kind in exporters():
        say(f"{kind.name} ({kind.suffix}): {kind.help}")
        for setting in kind.settings:
            choices = ", ".join(setting.choices) or f"{setting.minimum:g} to {setting.maximum:g}"
            choices = "true, false" if isinstance(setting.default, bool) else choices
            say(f"    {setting.name}={setting.default}: {setting.help} ({choices})")


def _render(
    file: Path, composition: str | None, span: tuple[int, int] | None, scale: float, workers: int | None, output: Path,
    rate: Any = None, repeat: int = 1, target: str | None = None, settings: tuple[str, ...] = (),
    scheduler: str | None = None,
) -> None:  # fmt: skip
    from spiralis.core.media.exporters import ExportJob, export, exporter, exporters
    from spiralis.core.model.pieces import asked_for
    from spiralis.core.render.sequence import default_workers
    from spiralis.core.storage import load
    from spiralis.core.storage.parts import parts_for

    kinds = {kind.suffix: kind for kind in reversed(exporters())}
    if target is None and output.suffix.lower() not in kinds:
        raise click.UsageError(f"The output ends in {', '.join(sorted(kinds))}, and “{output.name}” does not.")
    kind = exporter(target) if target is not None else kinds[output.suffix.lower()]
    project = load(file, composition)
    piece = asked_for(project, composition)
    first, last = span or piece.span
    job = ExportJob(
        project, piece.id, output, first, last, scale, kind.read_settings(settings), workers or default_workers(),
        niceness=NICENESS, rate=rate, repeat=repeat,
    )  # fmt: skip
    with ExitStack() as held:
        if scheduler is not None:
            from spiralis.core.cluster import Cluster

            job.draw = held.enter_context(closing(Cluster(scheduler))).draw
        job.progress = held.enter_context(_Reporter(len(job.times))).report
        job.parts = partial(parts_for, kind, job)
        result = export(kind, job)
    for note in result.notes:
        say(note, err=True)
    onwards = " and those that follow" if result.path != output else ""
    say(
        f"Wrote {result.path}{onwards}: {result.frames} frames, {result.seconds:.2f} s, "
        f"{result.width} × {result.height}, {result.bytes / 1e6:.2f} MB."
    )


class _Reporter:
    """A progress bar on a terminal, a plain line for each tenth in a pipe."""

    def __init__(self, total: int) -> None:
        self.total = total
        self.tenth = 0
        self.bar: Any = None

    def __enter__(self) -> _Reporter:
        if sys.stderr.isatty():
            from rich.console import Console
            from rich.progress import BarColumn, MofNCompleteColumn, Progress, TextColumn, TimeRemainingColumn

            columns = (BarColumn(), MofNCompleteColumn(), TextColumn("{task.fields[rate]}"), TimeRemainingColumn())
            self.bar = Progress(*columns, console=Console(stderr=True), transient=True)
            self.bar.start()
            self.task = self.bar.add_task("frames", total=self.total, rate="")
        return self

    def report(self, progress: Any) -> None:
        if self.bar is not None:
            self.bar.update(self.task, completed=progress.done, total=progress.total, rate=f"{progress.rate:.1f} fps")
            return
        tenth = 10 * progress.done // progress.total
        if tenth > self.tenth:
            self.tenth = tenth
            say(
                f"{progress.done}/{progress.total} frames, {progress.rate:.1f} per second, {progress.left:.0f} s left",
                err=True,
            )

    def __exit__(self, *reason: object) -> None:
        if self.bar is not None:
            self.bar.stop()
