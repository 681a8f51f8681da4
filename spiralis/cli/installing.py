"""Commands that tell the desktop about Spiralis."""

from __future__ import annotations

from spiralis.cli.base import cli, say


@cli.command()
def install() -> None:
    """Put Spiralis into the desktop's menu, with its icon, its kind of file and small pictures of projects."""
    from spiralis import desktop

    for path in desktop.install():
        say(f"Wrote {path}.")


@cli.command()
def uninstall() -> None:
    """Take away from the desktop what `install` has put there; projects stay."""
    from spiralis import desktop

    removed = desktop.uninstall()
    for path in removed:
        say(f"Removed {path}.")
    if not removed:
        say("There was nothing to remove.")
