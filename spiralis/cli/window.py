"""Commands that show the window, or write pictures of it."""

from __future__ import annotations

import os
import sys
from pathlib import Path

import click

from spiralis.cli.base import cli, say

NO_DISPLAY = (
    "Spiralis needs a display for its window, and there is none; "
    "set DISPLAY or WAYLAND_DISPLAY, or use the commands that `spiralis --help` lists."
)


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
    say(f"Wrote {target}.")


def _export_studies(folder: Path) -> None:
    """Write all studies of the demo and print a table of them; exits with 1 where a loop is not clean."""
    from spiralis.demo.exporting import write_studies
    from spiralis.demo.stored import stored_demo

    unclean = 0
    say(f"{'study':20} {'file':26} {'size':>12} {'frames':>7} {'seconds':>8} {'MB':>7}  seam")
    for written in write_studies(stored_demo(), folder):
        result, size = written.result, f"{written.result.width} × {written.result.height}"
        unclean += not written.verdict.clean
        say(
            f"{written.piece.name:20} {result.path.name:26} {size:>12} {result.frames:7} {result.seconds:8.2f} "
            f"{result.bytes / 1e6:7.2f}  {written.verdict.words}"
        )
    if unclean:
        sys.exit(1)


@cli.command()
@click.argument("folder", type=click.Path(path_type=Path))
@click.argument("names", nargs=-1)
def shot(folder: Path, names: tuple[str, ...]) -> None:
    """Write the main views, or those of some names, as PNGs at 1280x800 into FOLDER; needs no display."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    from spiralis.app.work.shots import write_shots

    for path in write_shots(folder, names):
        say(f"Wrote {path}.")


def _open_window(file: Path | None, with_demo: bool = False, apart: bool = False) -> None:
    shown = os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY") or os.environ.get("QT_QPA_PLATFORM")
    if sys.platform.startswith("linux") and not shown:
        say(NO_DISPLAY, err=True)
        sys.exit(3)
    if file is not None and (problem := _cannot_open(file)):
        say(problem, err=True)
        sys.exit(1)
    from spiralis.app.main import run

    sys.exit(run(file, with_demo, apart))


def _cannot_open(file: Path) -> str:
    """Return why a file cannot be shown in the window, or nothing."""
    from spiralis.core.editing.importing import import_suffixes
    from spiralis.core.storage.project_file import SUFFIX

    if not file.exists():
        return f"There is no “{file}” to open; look for its name and folder."
    if file.is_file() and file.suffix.lower() not in (SUFFIX, *import_suffixes()):
        kinds = ", ".join((SUFFIX, *import_suffixes()))
        return f"“{file.name}” is of no kind that Spiralis opens. It opens {kinds}."
    return ""
