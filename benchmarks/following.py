"""Does the picture follow? Edits to pictures, drags by the mouse, and playing from the moment that play is pressed.

All in the real window at 1280 by 800 and automatic resolution. What counts is painted: a picture of the newest version
for an edit, any new picture while a drag goes on, each frame's own picture while it is its turn for playing.
``python -m benchmarks.following playing`` (or ``edits``, ``drags``, ``heavy``, ``full`` for playing at full
resolution) prints one part.
"""

from __future__ import annotations

import os
import statistics
import sys
import time
from collections.abc import Callable, Iterator
from functools import partial
from typing import Any

from PyQt6.QtCore import QEvent, QPointF, Qt
from PyQt6.QtGui import QMouseEvent, QPaintEvent

from benchmarks.measure import at_full_pace, figure, forget_frames, quietest
from spiralis.app.canvas.view import CanvasView
from spiralis.app.work.renderers import RENDERERS
from spiralis.core.model import Composition, Project

#: Piece, frame, layer, property and what it becomes with each edit.
_EDITS: tuple[tuple[str, int, str, str, Callable[[int], Any]], ...] = (
    ("kite-day", 60, "kite", "scale", lambda i: (50.0 + i % 40, 50.0 + i % 40)),
    ("product-switch", 12, "box-kite", "rotation", lambda i: 5.0 + i),
    ("squeeze-pair", 30, "width", "value", lambda i: 40.0 + i % 30),
    ("catalogue-scroll", 90, "page", "position", lambda i: (540.0 + i % 9, 600.0 + i)),
    ("square-spot", 90, "reel", "position", lambda i: (500.0 + i, 500.0 + i)),
)
#: The same where effects are heavy: what may pass until the picture is there is 50 ms, and 20 pictures a second.
_HEAVY = (
    ("Living gradient", 60, "colours", "gaussian-blur.across", lambda i: 10.0 + i % 40),
    ("Readout poster", 60, "shake", "displace.across", lambda i: 10.0 + i % 40),
)
_DRAGS = (("kite-day", 60, "kite"), ("product-switch", 12, "box-kite"), ("squeeze-pair", 30, "left-word"),
          ("catalogue-scroll", 90, "page"), ("square-spot", 90, "reel"))  # fmt: skip
_EDITS_COUNTED, _LEAST_QUIET, _MOST_EDITS = 40, 10, 400
_PACE, _MOVES = 0.008, 150
_PLAYED, _IN_TIME = 100, 98


class _Watch:
    """A window whose canvas notes each paint: when, and whether a new picture or the newest one was shown."""

    def __init__(self) -> None:
        from spiralis.app.main import application, new_window

        self.painted: list[tuple[float, int, int, bool, int]] = []
        paint, painted = CanvasView.paintEvent, self.painted

        def noting(view: CanvasView, event: QPaintEvent) -> None:
            paint(view, event)
            session, player = view.session, view.player
            own = view._pixels is not None and view._pixels is player.store.get(player.key(session.frame))
            painted.append((time.perf_counter(), session.version, session.frame, own, id(view._pixels)))

        CanvasView.paintEvent = noting  # type: ignore[method-assign]
        self.app = application()
        self.window = new_window()
        self.window.resize(1280, 800)
        self.window.show()
        self.window.files.open_demo()
        self.until(lambda: self.window.player.picture() is not None, 60)
        RENDERERS.start()
        self.until(lambda: RENDERERS.ready(0) and RENDERERS.ready(1), 10)
        self.rest(2.0)

    def rest(self, seconds: float) -> None:
        ends = time.perf_counter() + seconds
        while time.perf_counter() < ends:
            self.app.processEvents()
            time.sleep(0.0005)

    def until(self, reached: Callable[[], bool], seconds: float = 10.0) -> None:
        ends = time.perf_counter() + seconds
        while not reached() and time.perf_counter() < ends:
            self.app.processEvents()
            time.sleep(0.0005)

    def show(self, piece: str, frame: int, chosen: tuple[str, ...] = ()) -> None:
        """Show a frame of a piece, and let the window rest."""
        session = self.window.session
        session.select([])
        session.show_composition(piece)
        session.go_to(frame)
        session.select(list(chosen))
        self.until(lambda: self.window.player.picture() is not None, 30)
        self.rest(0.8)


def _taken(watch: _Watch, layer: str, name: str, value: Callable[[int], Any]) -> tuple[list[float], str]:
    """Return the seconds from edits to their painted pictures, the least first, and a note of how many there were.

    Those count that began and ended while the processors ran at their full pace, 40 of them, if there were ten.
    """
    session = watch.window.session
    taken: list[float] = []
    quiet: list[float] = []
    for turn in range(_MOST_EDITS):
        full = at_full_pace()
        seen, started = len(watch.painted), time.perf_counter()
        session.set_property(name, value(turn), [layer], merge="benchmark")
        newest = lambda seen=seen: [p for p in watch.painted[seen:] if p[3] and p[1] == session.version]  # noqa: E731
        watch.until(lambda newest=newest: bool(newest()))
        taken.append(newest()[0][0] - started if newest() else 10.0)
        if full and at_full_pace():
            quiet.append(taken[-1])
        watch.rest(0.02)
        if len(quiet) == _EDITS_COUNTED:
            break
    counted = quiet if len(quiet) >= _LEAST_QUIET else taken
    note = f"{len(counted)} of {len(taken)} edits; of all {1000 * statistics.median(taken):.0f} ms"
    return sorted(counted), note


def _heavy(watch: _Watch) -> Iterator[str]:
    """Yield how effects follow a number that is dragged."""
    session = watch.window.session
    for name, frame, layer, number, value in _HEAVY:
        piece = session.project.composition(name)
        watch.show(piece.id, frame, (layer,))
        taken, note = _taken(watch, layer, number, value)
        middle = statistics.median(taken)
        yield figure(f"edit of an effect to painted picture, {name}, median / 50 ms", middle / 0.05, 1.0, note=note)
        seen, started = len(watch.painted), time.perf_counter()
        for turn in range(_MOVES):
            watch.until(lambda due=started + turn * _PACE: time.perf_counter() >= due)
            session.set_property(number, value(turn), [layer], merge="slider")
        shown = len({p[4] for p in watch.painted[seen:]}) - 1
        yield figure(f"pictures a second while a slider moves, {name}", shown / (time.perf_counter() - started), 20,
                     at_most=False)  # fmt: skip


def _edits(watch: _Watch) -> Iterator[str]:
    for piece, frame, layer, name, value in _EDITS:
        watch.show(piece, frame, (layer,))
        taken, note = _taken(watch, layer, name, value)
        middle, late = statistics.median(taken), taken[int(0.95 * len(taken))]
        yield figure(f"edit to painted picture, {piece}, median / 30 ms", middle / 0.03, 1.0, note=note)
        yield figure(f"edit to painted picture, {piece}, 95 % / 45 ms", late / 0.045, 1.0, note=note)


def _drags(watch: _Watch) -> Iterator[str]:
    for piece, frame, name in _DRAGS:
        pictures, note = quietest(partial(_dragged, watch, piece, frame, name))
        yield figure(f"pictures a second while dragging, {piece}", pictures, 25, at_most=False, note=note)


def _dragged(watch: _Watch, piece: str, frame: int, name: str) -> float:
    """Return the pictures a second that were painted while a layer was dragged; undo the drag."""
    session, canvas = watch.window.session, watch.window.editor.canvas
    watch.show(piece, frame, (name,))
    layer, at = session.composition.layer(name), session.evaluated()
    left, top, right, bottom = at.box(layer)
    middle = at.matrix(layer).apply(left + 0.4 * (right - left), top + 0.4 * (bottom - top))
    x, y = canvas.viewport.to_widget.apply(*middle)
    _mouse(watch, QEvent.Type.MouseButtonPress, x, y, True)
    seen, started, version = len(watch.painted), time.perf_counter(), session.version
    for turn in range(_MOVES):
        watch.until(lambda due=started + turn * _PACE: time.perf_counter() >= due)
        _mouse(watch, QEvent.Type.MouseMove, x + turn * 40 / _MOVES, y + turn * 20 / _MOVES, True)
    taken = time.perf_counter() - started
    shown = len({p[4] for p in watch.painted[seen:]}) - 1
    moved = session.version > version
    _mouse(watch, QEvent.Type.MouseButtonRelease, x + 40, y + 20, False)
    session.undo()
    return shown / taken if moved else 0.0


def _mouse(watch: _Watch, kind: QEvent.Type, x: float, y: float, down: bool) -> None:
    canvas, point = watch.window.editor.canvas, QPointF(x, y)
    held = Qt.MouseButton.LeftButton if down else Qt.MouseButton.NoButton
    button = Qt.MouseButton.NoButton if kind == QEvent.Type.MouseMove else Qt.MouseButton.LeftButton
    event = QMouseEvent(kind, point, canvas.mapToGlobal(point), button, held, Qt.KeyboardModifier.NoModifier)
    watch.app.sendEvent(canvas, event)


def _pieces(project: Project) -> list[Composition]:
    """Return the pieces that are made to be watched: none that others show."""
    nested = {layer.track("composition").value for piece in project.compositions for layer in piece.layers
              if layer.has("composition")}  # fmt: skip
    return [piece for piece in project.compositions if piece.id not in nested]


def _playing(watch: _Watch) -> Iterator[str]:
    player = watch.window.player
    for piece in _pieces(watch.window.session.project):
        shown, note = quietest(partial(_played, watch, piece))
        yield figure(f"frames of {_PLAYED} shown in time, {piece.name}", shown, _IN_TIME, at_most=False,
                     note=f"at {player.scale:.2f} of its size, {note}")  # fmt: skip


def _full(watch: _Watch) -> Iterator[str]:
    """Yield how many pieces play in time at full resolution, and how many frames of each were."""
    player, in_time, pieces = watch.window.player, 0, _pieces(watch.window.session.project)
    player.share = 1.0
    for piece in pieces:
        shown, note = quietest(partial(_played, watch, piece))
        in_time += shown >= _IN_TIME
        yield f"  at full resolution, {piece.name}: {shown} of {_PLAYED} in time; {note}"
    player.share = None
    yield figure(f"pieces of {len(pieces)} that play in time at full resolution", in_time, 10, at_most=False)


def _played(watch: _Watch, piece: Composition) -> int:
    """Return how many frames of a piece were painted while it was their turn, none of them made before."""
    session, player = watch.window.session, watch.window.player
    session.select([])
    session.show_composition(piece.id)
    session.go_to(0)
    forget_frames(player.store)
    watch.until(lambda: player.picture() is not None, 30)
    seen = len(watch.painted)
    player.play()
    watch.rest(_PLAYED / float(piece.rate))
    player.stop()
    shown: list[int] = []
    for _, _, frame, own, _ in watch.painted[seen:]:
        if own and (not shown or shown[-1] != frame):
            shown.append(frame)
    watch.rest(0.2)
    return min(len(shown), _PLAYED)


_PARTS = {"edits": _edits, "heavy": _heavy, "drags": _drags, "playing": _playing, "full": _full}


def run(parts: tuple[str, ...] = tuple(_PARTS)) -> Iterator[str]:
    """Yield the figures."""
    watch = _Watch()
    for part in parts:
        yield from _PARTS[part](watch)
    watch.window.session.history.mark_saved()
    watch.window.close()


if __name__ == "__main__":
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    for line in run(tuple(sys.argv[1:]) or tuple(_PARTS)):
        print(line, flush=True)
    os._exit(0)
