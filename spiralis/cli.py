"""The command line: ``spiralis [FILE]`` opens the window, the commands work without one."""

from __future__ import annotations

import json
import os
import sys
from contextlib import ExitStack, closing
from pathlib import Path
from typing import Any

import click

from spiralis import __version__
from spiralis.core.errors import Cancelled, SpiralisError

NO_DISPLAY = (
    "Spiralis needs a display for its window, and there is none; "
    "set DISPLAY or WAYLAND_DISPLAY, or use the commands that `spiralis --help` lists."
)


class _Group(click.Group):
    """Takes a file where a command could stand: ``spiralis FILE`` opens it."""

    def resolve_command(self, context: click.Context, args: list[str]) -> Any:
        if args and args[0] not in self.commands and not args[0].startswith("-"):
            return "open", self.commands["open"], args
        return super().resolve_command(context, args)


@click.group(cls=_Group, invoke_without_command=True, context_settings={"help_option_names": ["-h", "--help"]})
@click.version_option(__version__, message="Spiralis %(version)s")
@click.pass_context
def cli(context: click.Context) -> None:
    """Layered looping motion for square and upright screens.

    `spiralis` and `spiralis FILE` open the window.
    """
    if context.invoked_subcommand is None:
        _open_window(None)


@cli.command("open", hidden=True)
@click.argument("file", type=click.Path(path_type=Path), required=False)
@click.option("--apart", is_flag=True, help="In a window of its own, also where one is open already.")
def open_file(file: Path | None, apart: bool) -> None:
    """Open a project, or a new one with these pictures, in the window that is open already, else in a new one."""
    _open_window(file, apart=apart)


@cli.command()
@click.option("--save", "target", type=click.Path(path_type=Path), help="Write the demo project to this file instead.")
@click.option("--export", "folder", type=click.Path(path_type=Path), help="Write every study into this folder instead.")
@click.option("--apart", is_flag=True, help="In a window of its own, also where one is open already.")
def demo(target: Path | None, folder: Path | None, apart: bool) -> None:
    """Open the demo project in the window."""
    if folder is not None:
        _export_studies(folder)
        return
    if target is None:
        _open_window(None, with_demo=True, apart=apart)
        return
    from spiralis.core.storage import save
    from spiralis.demo.project import demo_project

    save(demo_project(), target)
    click.echo(f"Wrote {target}.")


def _export_studies(folder: Path) -> None:
    """Write all studies of the demo and print a table of them; exits with 1 where a loop is not clean."""
    from spiralis.demo.exporting import write_studies
    from spiralis.demo.stored import stored_demo

    unclean = 0
    click.echo(f"{'study':20} {'file':26} {'size':>12} {'frames':>7} {'seconds':>8} {'MB':>7}  seam")
    for written in write_studies(stored_demo(), folder):
        result, size = written.result, f"{written.result.width} × {written.result.height}"
        unclean += not written.verdict.clean
        click.echo(
            f"{written.piece.name:20} {result.path.name:26} {size:>12} {result.frames:7} {result.seconds:8.2f} "
            f"{result.bytes / 1e6:7.2f}  {written.verdict.words}"
        )
    if unclean:
        sys.exit(1)


@cli.command("import")
@click.argument("files", nargs=-1, required=True, type=click.Path(path_type=Path))
@click.option("-o", "output", type=click.Path(path_type=Path), required=True, help="The .spiralis file to write.")
@click.option("--rate", default="25", help="Frames per second: 25, 30000/1001 and the like.")
@click.option("--length", type=click.IntRange(1, 200_000), default=100, help="Frames.")
@click.option("--flat-groups", is_flag=True, help="Take groups of layered files apart instead of nesting them.")
def import_files(files: tuple[Path, ...], output: Path, rate: str, length: int, flat_groups: bool) -> None:
    """Make a project from artwork: SVG, OpenRaster, pictures, footage, fonts, folders."""
    from fractions import Fraction

    from spiralis.core.editing.artwork import Timing
    from spiralis.core.editing.importing import gather, new_project
    from spiralis.core.model import Project
    from spiralis.core.storage import save

    try:
        timing = Timing(Fraction(rate), length)
    except (ValueError, ZeroDivisionError) as error:
        raise click.UsageError("--rate is written like 25 or 30000/1001.") from error
    if output.suffix.lower() != ".spiralis":
        raise click.UsageError("The output of `import` is a .spiralis file.")
    gathered = gather(files, Project())
    project, notes = new_project(gathered, output.stem, timing, not flat_groups)
    save(project, output)
    for line in (*gathered.problems, *notes):
        click.echo(line, err=True)
    layers = sum(len(piece.layers) for piece in project.compositions)
    click.echo(f"Wrote {output}: {len(project.compositions)} compositions, {layers} layers.")
    if gathered.problems:
        sys.exit(1)


@cli.command()
@click.argument("file", type=click.Path(path_type=Path))
@click.option("--json", "as_json", is_flag=True, help="Print JSON.")
def info(file: Path, as_json: bool) -> None:
    """List a project's compositions, layers, keys, sources and what is missing."""
    from spiralis.core.storage import load
    from spiralis.core.storage.summary import summary, summary_lines

    project = load(file)
    if as_json:
        click.echo(json.dumps(summary(project), ensure_ascii=False, indent=2))
    else:
        click.echo("\n".join(summary_lines(project)))


@cli.command()
@click.argument("file", type=click.Path(path_type=Path))
@click.option("--composition", "-c", required=True, help="Name or id of the composition.")
@click.option("--at", "at", type=int, required=True, help="Frame number, from 0.")
@click.option("--scale", type=click.FloatRange(0.01, 1000), default=1.0, help="Size beside the composition's.")
@click.option("-o", "output", type=click.Path(path_type=Path), required=True, help="The file: .png, .ora, .svg…")
def frame(file: Path, composition: str, at: int, scale: float, output: Path) -> None:
    """Write one frame as PNG, or its layers as OpenRaster or SVG."""
    from spiralis.core.media.stills import still_suffixes, write_still
    from spiralis.core.storage import load

    if output.suffix.lower() in still_suffixes() and output.suffix.lower() != ".png":
        for note in write_still(load(file), composition, at, output):
            click.echo(note, err=True)
        click.echo(f"Wrote {output}.")
        return
    if output.suffix.lower() != ".png":
        raise click.UsageError(f"The output of `frame` ends in {', '.join(still_suffixes())}.")
    _render(file, composition, (at, at + 1), scale, None, output)


@cli.command()
@click.argument("file", type=click.Path(path_type=Path))
@click.option("--composition", "-c", required=True, help="Name or id of the composition.")
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
    file: Path, composition: str, span: str | None, scale: float, workers: int | None, rate: str | None, repeat: int,
    target: str | None, settings: tuple[str, ...], scheduler: str | None, output: Path,
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
        click.echo(f"{kind.name} ({kind.suffix}): {kind.help}")
        for setting in kind.settings:
            choices = ", ".join(setting.choices) or f"{setting.minimum:g} to {setting.maximum:g}"
            choices = "true, false" if isinstance(setting.default, bool) else choices
            click.echo(f"    {setting.name}={setting.default}: {setting.help} ({choices})")


def _render(
    file: Path, composition: str, span: tuple[int, int] | None, scale: float, workers: int | None, output: Path,
    rate: Any = None, repeat: int = 1, target: str | None = None, settings: tuple[str, ...] = (),
    scheduler: str | None = None,
) -> None:  # fmt: skip
    from spiralis.core.media.exporters import ExportJob, export, exporter, exporters
    from spiralis.core.render.sequence import default_workers
    from spiralis.core.storage import load
    from spiralis.core.storage.parts import parts_for

    kinds = {kind.suffix: kind for kind in reversed(exporters())}
    if target is None and output.suffix.lower() not in kinds:
        raise click.UsageError(f"The output ends in {', '.join(sorted(kinds))}, and “{output.name}” does not.")
    kind = exporter(target) if target is not None else kinds[output.suffix.lower()]
    project = load(file)
    piece = project.composition(composition)
    first, last = span or piece.span
    job = ExportJob(
        project, piece.id, output, first, last, scale, kind.read_settings(settings), workers or default_workers(),
        rate=rate, repeat=repeat,
    )  # fmt: skip
    with ExitStack() as held:
        if scheduler is not None:
            from spiralis.core.cluster import Cluster

            job.draw = held.enter_context(closing(Cluster(scheduler))).draw
        job.progress = held.enter_context(_Reporter(len(job.times))).report
        job.parts = parts_for(kind, job)
        result = export(kind, job)
    for note in result.notes:
        click.echo(note, err=True)
    onwards = " and those that follow" if result.path != output else ""
    click.echo(
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
            click.echo(
                f"{progress.done}/{progress.total} frames, {progress.rate:.1f} per second, {progress.left:.0f} s left",
                err=True,
            )

    def __exit__(self, *reason: object) -> None:
        if self.bar is not None:
            self.bar.stop()


@cli.command()
def install() -> None:
    """Put Spiralis into the desktop's menu, with its icon, its kind of file and small pictures of projects."""
    from spiralis import desktop

    for path in desktop.install():
        click.echo(f"Wrote {path}.")


@cli.command()
def uninstall() -> None:
    """Take away from the desktop what `install` has put there; projects stay."""
    from spiralis import desktop

    removed = desktop.uninstall()
    for path in removed:
        click.echo(f"Removed {path}.")
    if not removed:
        click.echo("There was nothing to remove.")


@cli.command()
@click.argument("file", type=click.Path(path_type=Path))
@click.option("--composition", "-c", "name", help="Its name or id; the first one where it is left out.")
@click.option("--json", "as_json", is_flag=True, help="Print JSON.")
def seam(file: Path, name: str | None, as_json: bool) -> None:
    """Look whether a piece's end meets its beginning; exits with 1 where its loop is not clean."""
    from spiralis.core.checks.seam import check
    from spiralis.core.checks.seam.report import as_data, as_lines
    from spiralis.core.storage import load

    project = load(file)
    piece = project.composition(name) if name else project.compositions[0]
    verdict = check(project, piece, full=True)
    if as_json:
        click.echo(json.dumps(as_data(project, piece, verdict), ensure_ascii=False, indent=2))
    else:
        click.echo("\n".join(as_lines(piece, verdict)))
    if not verdict.clean:
        sys.exit(1)


@cli.command()
@click.argument("file", type=click.Path(path_type=Path))
@click.option("--composition", "-c", "name", required=True, help="The piece whose slots the table fills.")
@click.option("--table", type=click.Path(path_type=Path), help="CSV or TSV; the rows in the project where left out.")
@click.option("--pictures", type=click.Path(path_type=Path), help="Their folder; the table's own where left out.")
@click.option("--target", default="mp4", help="Kind of file: gif, webm … (see `spiralis targets`).")
@click.option("--set", "settings", multiple=True, metavar="NAME=VALUE", help="A setting of the kind of file.")
@click.option("--formats", is_flag=True, help="Write each row in the formats that follow the piece, too.")
@click.option("--names", "pattern", default=None, help="File names from columns: “{Left word}-{row}-{format}”.")
@click.option("--scale", type=click.FloatRange(0.01, 1000), default=1.0, help="Size beside the composition's.")
@click.option("--check", "only_check", is_flag=True, help="Say what is wrong with the rows, and write nothing.")
@click.option("-o", "goal", type=click.Path(path_type=Path), default=Path(), help="The folder to write into.")
def variants(
    file: Path, name: str, table: Path | None, pictures: Path | None, target: str, settings: tuple[str, ...],
    formats: bool, pattern: str | None, scale: float, only_check: bool, goal: Path,
) -> None:  # fmt: skip
    """Write one file for each row of a table; exits with 1 where a row could not be written."""
    from spiralis.core.editing.slots import open_slots
    from spiralis.core.storage import load
    from spiralis.core.variants.orders import Batch
    from spiralis.core.variants.table import read_table

    project = load(file)
    piece = project.composition(name)
    slots = open_slots(project, piece)
    rows, folder = piece.variants, pictures
    if table is not None:
        read = read_table(table, [slot.name for slot in slots])
        for note in read.notes():
            click.echo(note, err=True)
        rows, folder = read.rows, pictures or table.parent
    batch = Batch(project, piece, rows, folder)
    written = _check_rows(batch) if only_check else _write_rows(batch, target, settings, formats, pattern, scale, goal)
    if not written:
        sys.exit(1)


def _check_rows(batch: Any) -> bool:
    """Print what is wrong with each row; return whether nothing is."""
    from spiralis.core.variants.problems import contrast_problem, row_problems

    fine = True
    for number, row in enumerate(batch.rows):
        found = row_problems(batch.project, batch.slots, row, batch.folder)
        contrast = "" if found else contrast_problem(batch.project, batch.piece, batch.slots, row, batch.folder)
        told = [f"{slot}: {problem}" for slot, problem in found.items()] + ([contrast] if contrast else [])
        fine = fine and not told
        click.echo(f"{number + 1:4}  {'; '.join(told) or 'ready'}")
    return fine


def _write_rows(
    batch: Any, target: str, settings: tuple[str, ...], formats: bool, pattern: str | None, scale: float, goal: Path
) -> bool:
    """Write the file of each row, the next one also where one fails; return whether all were written."""
    from spiralis.core.editing.reframing import formats_of
    from spiralis.core.errors import FileError
    from spiralis.core.media.exporters import export, exporter
    from spiralis.core.variants.naming import usual_pattern

    kind = exporter(target)
    pieces = (batch.piece, *(formats_of(batch.project, batch.piece) if formats else ()))
    pattern = pattern or usual_pattern(tuple(slot.name for slot in batch.slots), len(pieces))
    try:
        goal.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise FileError(f"“{goal}” cannot be made; choose another folder.") from error
    read, failed = kind.read_settings(settings), 0
    for order in batch.orders(pieces, goal, pattern, kind):
        try:
            result = export(kind, batch.job(order, read, scale))
        except SpiralisError as error:
            failed += 1
            click.echo(f"Row {order.number + 1}: {error}", err=True)
            continue
        click.echo(f"Wrote {result.path}: {result.width} × {result.height}, {result.bytes / 1e6:.2f} MB.")
    if failed:
        click.echo(f"{failed} of the files could not be written; the others are there.", err=True)
    return not failed


@cli.command("check")
@click.argument("file", type=click.Path(path_type=Path))
@click.option("--composition", "-c", "name", help="Its name or id; every whole piece where it is left out.")
@click.option("--words", "list_", type=click.Path(path_type=Path), help="A word list, one a line, to spell by.")
@click.option("--json", "as_json", is_flag=True, help="Print JSON.")
def check_pieces(file: Path, name: str | None, list_: Path | None, as_json: bool) -> None:
    """Look a piece over: flashes, time to read, contrast, size and place of words; exits with 1 on findings."""
    from spiralis.core.checks.piece.report import findings_data, findings_lines
    from spiralis.core.checks.piece.verdict import check_piece
    from spiralis.core.checks.piece.word_list import read_word_list
    from spiralis.core.model.project import whole_pieces
    from spiralis.core.storage import load

    project = load(file)
    known = read_word_list(list_) if list_ is not None else None
    pieces = [project.composition(name)] if name else whole_pieces(project)
    found = [(piece, check_piece(project, piece, known=known)) for piece in pieces]
    if as_json:
        data = [findings_data(project, piece, findings) for piece, findings in found]
        click.echo(json.dumps(data[0] if name else data, ensure_ascii=False, indent=2))
    else:
        click.echo("\n".join(line for piece, findings in found for line in findings_lines(piece, findings)))
    if not all(findings.clean for _, findings in found):
        sys.exit(1)


@cli.command()
@click.argument("file", type=click.Path(path_type=Path))
@click.argument("picture", type=click.Path(path_type=Path))
@click.option("--size", type=click.IntRange(16, 1024), default=256, help="The longer side, in px.")
def thumbnail(file: Path, picture: Path, size: int) -> None:
    """Write the small picture of a project as PNG, as desktops ask for it."""
    from spiralis.core.storage.project_file import write_stored_picture

    write_stored_picture(file, picture, size)


@cli.command()
@click.argument("folder", type=click.Path(path_type=Path))
@click.argument("names", nargs=-1)
def shot(folder: Path, names: tuple[str, ...]) -> None:
    """Write the main views, or those of some names, as PNGs at 1280x800 into FOLDER; needs no display."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    from spiralis.app.work.shots import write_shots

    for path in write_shots(folder, names):
        click.echo(f"Wrote {path}.")


def _open_window(file: Path | None, with_demo: bool = False, apart: bool = False) -> None:
    shown = os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY") or os.environ.get("QT_QPA_PLATFORM")
    if sys.platform.startswith("linux") and not shown:
        click.echo(NO_DISPLAY, err=True)
        sys.exit(3)
    if file is not None and (problem := _cannot_open(file)):
        click.echo(problem, err=True)
        sys.exit(1)
    from spiralis.app.main import run

    sys.exit(run(file, with_demo, apart))


def _cannot_open(file: Path) -> str:
    """Return why a file cannot be shown in the window, or nothing."""
    from spiralis.core.editing.importing import IMPORT_SUFFIXES
    from spiralis.core.storage.project_file import SUFFIX

    if not file.exists():
        return f"There is no “{file}” to open; look for its name and folder."
    if file.is_file() and file.suffix.lower() not in (SUFFIX, *IMPORT_SUFFIXES):
        kinds = ", ".join((SUFFIX, *IMPORT_SUFFIXES))
        return f"“{file.name}” is of no kind that Spiralis opens. It opens {kinds}."
    return ""


def main() -> None:
    """Run the command line: exit 0 done, 1 with one sentence, 2 wrong usage, 3 no display."""
    try:
        cli()
    except Cancelled as stop:
        click.echo(str(stop), err=True)
        sys.exit(1)
    except SpiralisError as error:
        click.echo(str(error), err=True)
        sys.exit(1)
