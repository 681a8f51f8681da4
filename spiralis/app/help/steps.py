"""The first steps: what to do, where in the window, and when it is done. Each looks at the project, none changes it."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from attrs import frozen
from PyQt6.QtWidgets import QWidget

from spiralis.app.commands.context import Context


@frozen
class Step:
    """One thing to do.

    ``begin`` takes down how things stand when the step comes up; ``done`` compares that with how they stand now.
    ``where`` returns what of the window it happens in.
    """

    text: str
    where: Callable[[Context], QWidget]
    done: Callable[[Context, Any], bool]
    begin: Callable[[Context], Any] = lambda context: None


def _keys(context: Context) -> int:
    return sum(len(y.track(name).keys) for y in context.session.composition.layers for name in y.animated())


def _eases(context: Context) -> list[object]:
    layers = context.session.composition.layers
    return [key.easing for y in layers for name in y.animated() for key in y.track(name).keys]


def _has_low_start(context: Context) -> bool:
    """Whether a chosen layer fades in from its first key."""
    tracks = [layer.track("opacity") for layer in context.session.layers]
    return any(len(t.keys) > 1 and t.keys[0].value < 50 < t.keys[-1].value for t in tracks)


STEPS = (
    Step(
        "Click something in the picture to choose it, the kite say. What it is made of shows in Details, at the right.",
        lambda c: c.editor.canvas, lambda c, before: bool(c.session.selected) and c.session.selected != before,
        lambda c: c.session.selected,
    ),
    Step(
        "Drag around the loop ring, under the picture, until it says about 20. Time goes round, over the seam too.",
        lambda c: c.editor.transport.ring, lambda c, before: 15 <= c.session.frame <= 25,
    ),
    Step(
        "This is where it is to end up: click the small ring left of Opacity in Details. That sets a key.",
        lambda c: c.editor.details, lambda c, before: _keys(c) > before, _keys,
    ),
    Step(
        "Go back to frame 0 (Home) and type 0 into Opacity: a second key, for where it comes from.",
        lambda c: c.editor.details, lambda c, before: _has_low_start(c),
    ),
    Step(
        "Space plays what you made. Space stops it again.",
        lambda c: c.editor.canvas, lambda c, before: c.player.playing,
    ),
    Step(
        "Click the first bead of Opacity in the timeline, then a tile in Pace: the drawing shows how it moves now.",
        lambda c: c.editor.pace if c.session.view["pace"] else c.editor.timeline,
        lambda c, before: _eases(c) != before and len(_eases(c)) == len(before), _eases,
    ),
    Step(
        "Ctrl+Z takes a step back, as often as you like; Ctrl+Shift+Z brings it again.",
        lambda c: c.editor.timeline, lambda c, before: c.session.version < before, lambda c: c.session.version,
    ),
    Step(
        "Last: Export…, at the top right, writes a file and shows it as it will look. Escape closes its window.",
        lambda c: c.editor.piece_bar.export, lambda c, before: c.windows.export is not None,
    ),
)  # fmt: skip
