"""Pictures of the main views at 1280x800, made from the demo project without a display."""

from __future__ import annotations

import os
import tempfile
import time
from collections.abc import Callable, Collection, Iterator
from pathlib import Path

from attrs import evolve
from PyQt6.QtCore import QEvent, QPoint, QPointF, Qt
from PyQt6.QtGui import QMouseEvent
from PyQt6.QtWidgets import QApplication, QWidget

from spiralis.app.canvas.pen import Points
from spiralis.app.effects import EffectsChooser
from spiralis.app.main import application, new_window
from spiralis.app.moves import MovesChooser
from spiralis.app.window import Window
from spiralis.core.editing.effecting import with_effect
from spiralis.core.editing.keys import KeyRef
from spiralis.core.errors import FileError
from spiralis.demo.stored import stored_demo

SIZE = (1280, 800)


def write_shots(folder: Path, names: Collection[str] = ()) -> Iterator[Path]:
    """Write every view, or those of some names, and yield its path.

    Raises:
        FileError: the folder cannot be made, or there is no view of a name.
    """
    unknown = [name for name in names if name not in VIEWS]
    if unknown:
        raise FileError(f"There is no view “{unknown[0]}”; there are {', '.join(VIEWS)}.")
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise FileError(f"The folder “{folder}” cannot be made; choose another.") from error
    with tempfile.TemporaryDirectory() as state:
        # Neither the person's recent projects nor their unsaved work belong on these pictures.
        os.environ["XDG_STATE_HOME"] = state
        app = application()
        window = new_window()
        window.resize(*SIZE)
        window.show()
        if names and "start" not in names:
            # Later views show the demo that an earlier one opened.
            _start(window, Path(state))
            _kite_day(window, Path(state))
        for name, arrange in VIEWS.items():
            if names and name not in names:
                continue
            window.notice.hide()
            shown = arrange(window, Path(state))
            _await_verdicts(window)
            _settle(app, window)
            path = folder / f"{name}.png"
            picture = (shown or window).grab()
            export = window.windows.export is not None and shown is window.windows.export
            if shown is None or export:
                picture = picture.scaled(*SIZE, Qt.AspectRatioMode.KeepAspectRatio)
            if not picture.save(str(path)):
                raise FileError(f"“{path}” could not be written; choose another folder.")
            if export:
                _finish(app, window)
            elif shown is not None:
                shown.close()
            yield path
        window.session.history.mark_saved()
        window.close()


def _settle(app: QApplication, window: Window, seconds: float = 0.8) -> None:
    if window.editing:
        window.player.wait_for_picture(30, app.processEvents)
    ends = time.perf_counter() + seconds
    while time.perf_counter() < ends:
        app.processEvents()
        time.sleep(0.01)


def _await_verdicts(window: Window) -> None:
    """Wait for what the piece bar says of a piece, which is forgotten when another one comes."""
    editor, ends = window.editor, time.perf_counter() + 30
    while window.editing and None in (editor.seam.verdict, editor.checks.findings) and time.perf_counter() < ends:
        _settle(application(), window, 0.1)


def _finish(app: QApplication, window: Window) -> None:
    export = window.windows.export
    while export is not None and export.running is not None:
        app.processEvents()
        time.sleep(0.02)
    if export is not None:
        export.close()


def _start(window: Window, folder: Path) -> QWidget | None:
    # The page shows the demo's pieces only where they have been drawn once.
    stored_demo()
    window.show_start()
    studies, ends = window.start.studies, time.perf_counter() + 120
    while time.perf_counter() < ends and not (studies.tiles and all(tile.picture() for tile in studies.tiles)):
        _settle(application(), window, 0.1)
    return None


def _kite_day(window: Window, folder: Path) -> QWidget | None:
    window.session.history.mark_saved()
    window.files.open_demo()
    window.session.go_to(56)
    window.session.select(["kite"])
    _wait_ready(window, 90)
    return None


def _wait_ready(window: Window, count: int) -> None:
    ends = time.perf_counter() + 30
    while len(window.player.ready_frames()) < count and time.perf_counter() < ends:
        QApplication.processEvents()
        time.sleep(0.01)


def _bent(window: Window, folder: Path) -> QWidget | None:
    window.editor.canvas.typing.end()
    window.session.undo()
    window.session.go_to(16)
    window.session.select(["headline"], {KeyRef("headline", "position", 8)})
    curves = window.editor.pace.curves
    _settle(application(), window, 0.2)
    drag(curves, _handle(window, 2), _handle(window, 2) + QPointF(40, -34))
    return None


def _handle(window: Window, number: int) -> QPointF:
    from spiralis.app.pace.segment import shown_segment

    segment = shown_segment(window.session)
    assert segment is not None
    easing = segment.left.easing
    place = (easing.x1, easing.y1) if number == 1 else (easing.x2, easing.y2)  # type: ignore[attr-defined]
    return window.editor.pace.curves.plot(segment).at(*place)


def drag(widget: QWidget, start: QPointF, end: QPointF, steps: int = 6) -> None:
    """Drag over a widget as a person does: press, move in steps, release."""
    left, none = Qt.MouseButton.LeftButton, Qt.MouseButton.NoButton

    def send(kind: QEvent.Type, place: QPointF, button: Qt.MouseButton, held: Qt.MouseButton) -> None:
        where = QPointF(widget.mapToGlobal(QPoint(0, 0))) + place
        QApplication.sendEvent(widget, QMouseEvent(kind, place, where, button, held, Qt.KeyboardModifier.NoModifier))

    send(QEvent.Type.MouseButtonPress, start, left, left)
    for step in range(1, steps + 1):
        send(QEvent.Type.MouseMove, start + (end - start) * (step / steps), none, left)
    send(QEvent.Type.MouseButtonRelease, end, left, none)


def _export_done(window: Window, folder: Path) -> QWidget | None:
    window.session.show_composition("button-pulse")
    window.session.go_to(18)
    window.windows.show_export()
    export = window.windows.export
    assert export is not None
    export.resize(*SIZE)
    export.cards["gif"].click()
    export.settings.width_field.begin_typing()
    export.settings.width_field.setText("50%")
    export.settings.width_field.editingFinished.emit()
    export.start(folder / "button-pulse.gif")
    while export.running is not None:
        QApplication.processEvents()
        time.sleep(0.01)
    return export


def _wide(window: Window, folder: Path) -> QWidget | None:
    window.editor.canvas.toolbox.end()
    session = window.session
    session.show_composition(session.project.composition("Screen insert").id)
    session.go_to(60)
    session.select([session.composition.layers[0].id])
    return None


def _sources(window: Window, folder: Path) -> QWidget | None:
    session = window.session
    session.show_composition(session.project.composition("Badge loops").id)
    session.select([session.composition.layers[2].id])
    window.editor.drawer.open()
    _settle(application(), window, 2.5)
    window.editor.drawer.list.setCurrentRow(8)
    return None


def _flipbook(window: Window, folder: Path) -> QWidget | None:
    window.editor.drawer.shut()
    window.session.show_composition("flipbook-blink")
    window.session.select(["mascot"])
    window.session.go_to(40)
    return None


def _piece(name: str, frame: int, layer: str) -> Callable[[Window, Path], QWidget | None]:
    """Return what shows a piece at a frame with a layer chosen."""

    def arrange(window: Window, folder: Path) -> QWidget | None:
        window.session.show_composition(name)
        window.session.go_to(frame)
        window.session.select([layer])
        return None

    return arrange


def _depth(window: Window, folder: Path) -> QWidget | None:
    """Tumbling box: a parcel in the light, on stairs of boxes."""
    session = window.session
    session.show_composition("tumbling-box")
    session.go_to(20)
    session.select([next(layer.id for layer in session.composition.layers if layer.name == "Box")])
    _settle(application(), window, 2.0)
    return None


def _pen(window: Window, folder: Path) -> QWidget | None:
    session = window.session
    badge = session.project.composition("Badge loops")
    session.show_composition(badge.id)
    session.go_into(next(layer for layer in badge.layers if layer.name == "Ribbon"))
    band = next(layer for layer in session.composition.layers if layer.name == "Band")
    window.editor.canvas.toolbox.edit_points(band.id)
    points = window.editor.canvas.toolbox.tool
    if isinstance(points, Points):
        points.chosen = ((0,), 0, 1)
    return None


def _moves(window: Window, folder: Path) -> QWidget | None:
    window.session.show_composition("squeeze-pair")
    window.session.select(["left-word"])
    chooser = MovesChooser(window, window.session, window.player)
    chooser.tiles["spring-in"].click()
    chooser.show()
    _settle(application(), window, 1.0)
    tiles = [tile for tile in chooser.tiles.values() if tile.isVisible()]
    ends = time.perf_counter() + 20
    # All play at their own pace; the picture, taken a second later, is to show most of them on their way.
    while time.perf_counter() < ends and sum(
        0.3 < tile.share(time.perf_counter() + 0.85) < 1 for tile in tiles
    ) < len(tiles) * 0.8:  # fmt: skip
        QApplication.processEvents()
        time.sleep(0.01)
    return chooser


def _effects(window: Window, folder: Path) -> QWidget | None:
    session = window.session
    session.show_composition("kite-day")
    session.go_to(56)
    session.select(["kite", "far-kite"])
    window.context.layers.group()
    session.edit_layers("Add effects", lambda layer: with_effect(with_effect(layer, "halo"), "grade"))
    editors = window.editor.details.editors
    _settle(application(), window, 0.3)
    window.editor.details.area.ensureWidgetVisible(next(editors[name] for name in editors if name.endswith("contrast")))
    return None


def _effects_chooser(window: Window, folder: Path) -> QWidget | None:
    window.session.undo()
    window.session.select(["kite"])
    chooser = EffectsChooser(window, window.session)
    chooser.show()
    ends = time.perf_counter() + 30
    while any(tile.picture is None for tile in chooser.tiles.values()) and time.perf_counter() < ends:
        _settle(application(), window, 0.1)
    return chooser


def _seam_check(window: Window, folder: Path) -> QWidget | None:
    if window.windows.export is not None:
        window.windows.export.close()
    session = window.session
    session.show_composition("kite-day")
    kite = next(layer for layer in session.composition.layers if layer.name == "Kite")
    keys = kite.track("position").keys
    elsewhere = evolve(keys[-1], value=(700.0, 500.0))
    session.edit_layers("Break the loop", lambda y: y.with_track("position", y.track("position").with_key(elsewhere)),
                        [kite.id])  # fmt: skip
    window.windows.show_seam()
    seam = window.windows.seam
    assert seam is not None
    ends = time.perf_counter() + 30
    while (seam.verdict is None or "looking" in seam.about.text()) and time.perf_counter() < ends:
        QApplication.processEvents()
        time.sleep(0.02)
    return seam


def _checks(window: Window, folder: Path) -> QWidget | None:
    window.session.show_composition("catalogue-scroll")
    window.windows.show_checks()
    checks = window.windows.checks
    assert checks is not None
    ends = time.perf_counter() + 90
    while (checks.findings is None or "looking" in checks.about.text()) and time.perf_counter() < ends:
        _settle(application(), window, 0.1)
    while any(row.picture.pixmap().isNull() for row in checks.list.rows) and time.perf_counter() < ends:
        _settle(application(), window, 0.1)
    return checks


def _filling(window: Window, piece: str, part: int) -> None:
    window.session.show_composition(piece)
    if not window.filling:
        window.show_fill_in()
    window.fill_in.show_part(part)
    _settle(application(), window, 0.3)


def _variants(window: Window, folder: Path) -> QWidget | None:
    _filling(window, "squeeze-pair", 1)
    table = window.fill_in.table
    rows = list(table.batch.rows)
    home = window.session.composition
    broken = (rows[3].with_cell("Left word", "A VERY LONG WORD"), rows[4].with_cell("Ground", "#f5b23d"))
    changed = evolve(home, variants=(*rows[:3], *broken))
    window.session.edit_project("Break two rows", window.session.project.with_composition(changed))
    table.table.selectRow(1)
    ends = time.perf_counter() + 60
    while "…" in table.states and time.perf_counter() < ends:
        _settle(application(), window, 0.2)
    _settle(application(), window, 4)
    return None


def _formats(window: Window, folder: Path) -> QWidget | None:
    window.session.undo()
    _filling(window, "kite-day-square", 2)
    window.fill_in.picture.set_playing(False)
    window.fill_in.picture.frame = 70
    window.session.go_to(70)
    _settle(application(), window, 4)
    return None


def _cut_out(window: Window, folder: Path) -> QWidget | None:
    window.show_editor()
    window.session.show_composition("poster-in-motion")
    window.session.select(["kite"])
    window.windows.cut_out()
    cutting = window.windows.touching
    assert cutting is not None
    cutting.side.take_tool("keep")
    _settle(application(), window, 0.3)
    cutting.view.zoom_by(1.6, cutting.view.to_window(361, 330))
    _settle(application(), window, 6)
    return cutting


VIEWS: dict[str, Callable[[Window, Path], QWidget | None]] = {
    "start": _start,
    "main-window": _kite_day,
    "pace": _bent,
    "export-done": _export_done,
    "sources": _sources,
    "flipbook": _flipbook,
    "wide": _wide,
    "particles": _piece("particle-reveal", 36, "cloud"),
    "depth": _depth,
    "points": _pen,
    "copies": _piece("squeeze-pair", 30, "rows"),
    "moves": _moves,
    "checks": _checks,
    "variants": _variants,
    "formats": _formats,
    "cut-out": _cut_out,
    "seam-check": _seam_check,
    "effects": _effects,
    "effects-chooser": _effects_chooser,
}
