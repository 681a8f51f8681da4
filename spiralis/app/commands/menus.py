"""Menus and shortcuts: every command of the window in one table."""

from __future__ import annotations

from collections.abc import Callable

from attrs import frozen
from PyQt6.QtGui import QAction, QKeySequence
from PyQt6.QtWidgets import QMainWindow

from spiralis.app.commands.context import Context
from spiralis.app.commands.pressing import press_or
from spiralis.app.strips.add_strip import add_carrier
from spiralis.app.widgets.view_options import AIDS, PANELS, ViewOptions

_Key = QKeySequence.StandardKey


@frozen
class Command:
    """A menu entry: label, shortcut (a standard key or our own text), what it does in the window.

    ``shows`` names a view option whose state the entry carries as a tick. While words are typed or an outline is drawn
    a command first ends that, but for those that ``keep`` it; a ``words`` command then means the chosen letters.
    """

    label: str
    run: Callable[[Context], object]
    key: QKeySequence.StandardKey | str | None = None
    needs_piece: bool = True
    shows: str | None = None
    keeps: bool = False
    words: str = ""


_PANEL_KEYS = {"layers": "Alt+1", "pace": "Alt+2", "details": "Alt+3", "across": "Alt+4", "alone": "F8"}
_AID_KEYS = {"rulers": "Ctrl+Alt+1", "guides": "Ctrl+Alt+2", "grid": "Ctrl+Alt+3", "thirds": "Ctrl+Alt+4",
             "safe": "Ctrl+Alt+5", "outer": "Ctrl+Alt+6", "snap": "Ctrl+Alt+7", "onion": "Ctrl+Alt+8"}  # fmt: skip


def _switches(options: dict[str, tuple[str, bool]], keys: dict[str, str]) -> list[Command]:
    return [
        Command(label, lambda w, name=name: w.session.view.toggle(name), keys.get(name), shows=name, keeps=True)
        for name, (label, _) in options.items()
    ]


MENUS: dict[str, tuple[Command | None, ...]] = {
    "File": (
        Command("New…", lambda w: w.show_start(), _Key.New, needs_piece=False),
        Command("Open…", lambda w: w.files.ask_open(), _Key.Open, needs_piece=False),
        Command("Open the demo", lambda w: w.files.open_demo(), needs_piece=False),
        None,
        Command("Save", lambda w: w.files.save(), _Key.Save, keeps=True),
        Command("Save as…", lambda w: w.files.ask_save(), _Key.SaveAs, keeps=True),
        None,
        Command("Bring files in…", lambda w: w.importer.choose(), "Ctrl+I"),
        Command("Open artwork as a piece…", lambda w: w.importer.choose_piece(), "Ctrl+Shift+I"),
        Command("Sources", lambda w: w.editor.drawer.toggle(), "Ctrl+J", keeps=True),
        None,
        Command("Export…", lambda w: w.windows.show_export(), "Ctrl+E"),
        Command("Write this frame…", lambda w: w.stills.ask(), "Ctrl+Shift+E"),
        None,
        Command("Quit", lambda w: w.quit(), _Key.Quit, needs_piece=False),
    ),
    "Edit": (
        Command("Undo", lambda w: w.session.undo(), _Key.Undo, keeps=True),
        Command("Redo", lambda w: w.session.redo(), _Key.Redo, keeps=True),
        None,
        Command("Copy", lambda w: w.clipboard.copy(), _Key.Copy, words="copy"),
        Command("Paste", lambda w: w.clipboard.paste(), _Key.Paste, words="paste"),
        Command("Duplicate", lambda w: w.layers.duplicate(), "Ctrl+D"),
        Command("Delete", lambda w: w.layers.delete(), _Key.Delete, words="delete"),
        Command("Choose all layers", lambda w: w.layers.select_all(), _Key.SelectAll, words="choose_all"),
        None,
        Command(
            "Preferences…", lambda w: w.windows.show_preferences(), _Key.Preferences, needs_piece=False, keeps=True
        ),
    ),
    "Composition": (
        Command("New composition…", lambda w: w.layers.new_composition(), "Ctrl+Shift+N"),
        Command("Duplicate this composition", lambda w: w.arranging.duplicate_composition()),
        Command("Format…", lambda w: w.windows.show_format(), "Ctrl+Shift+F"),
        Command("Crop or enlarge the frame", lambda w: w.editor.canvas.toolbox.crop_frame(), "Ctrl+Shift+K"),
        Command("Crop the frame to the chosen layers", lambda w: w.arranging.crop_to_chosen()),
        Command("Go into the chosen nested composition", lambda w: w.layers.go_in(), "Ctrl+Return"),
        Command("Go back up", lambda w: w.session.go_up(), "Ctrl+Backspace"),
        Command("Refresh from its file…", lambda w: w.layers.refresh_artwork(w.sources), "Ctrl+R"),
        None,
        Command("Begin the play span here", lambda w: w.layers.span_edge(True), "Ctrl+Shift+Home"),
        Command("End the play span here", lambda w: w.layers.span_edge(False), "Ctrl+Shift+End"),
    ),
    "Arrange": (
        Command("Align left edges", lambda w: w.arranging.align("left"), "Alt+Shift+Left"),
        Command("Align middles", lambda w: w.arranging.align("middle"), "Ctrl+Alt+M"),
        Command("Align right edges", lambda w: w.arranging.align("right"), "Alt+Shift+Right"),
        Command("Align top edges", lambda w: w.arranging.align("top"), "Alt+Shift+Up"),
        Command("Align centres", lambda w: w.arranging.align("centre"), "Ctrl+Alt+C"),
        Command("Align bottom edges", lambda w: w.arranging.align("bottom"), "Alt+Shift+Down"),
        None,
        Command("Align with what suits", lambda w: w.arranging.set_align_to("auto")),
        Command("Align with the frame", lambda w: w.arranging.set_align_to("frame")),
        Command("Align with the layer chosen last", lambda w: w.arranging.set_align_to("last")),
        None,
        Command("Equal gaps across", lambda w: w.arranging.distribute(0), "Ctrl+Alt+H"),
        Command("Equal gaps down", lambda w: w.arranging.distribute(1), "Ctrl+Alt+V"),
        None,
        Command("Fit into the frame", lambda w: w.arranging.fit("contain"), "Alt+Shift+F"),
        Command("Cover the frame", lambda w: w.arranging.fit("cover"), "Alt+Shift+C"),
        Command("Fit the width", lambda w: w.arranging.fit("width")),
        Command("Fit the height", lambda w: w.arranging.fit("height")),
        None,
        Command("Put shapes into one layer", lambda w: w.arranging.combine("gather")),
        Command("Unite shapes", lambda w: w.arranging.combine("union"), "Ctrl+Alt+U"),
        Command("Subtract from the backmost shape", lambda w: w.arranging.combine("subtract"), "Ctrl+Alt+S"),
        Command("Intersect shapes", lambda w: w.arranging.combine("intersect"), "Ctrl+Alt+I"),
        Command("Exclude where shapes overlap", lambda w: w.arranging.combine("exclude"), "Ctrl+Alt+X"),
        Command("Words to outlines", lambda w: w.arranging.outlines()),
        Command("Words along the chosen path", lambda w: w.arranging.words_along(), "Ctrl+Alt+P"),
        Command("Words off their path", lambda w: w.arranging.words_off()),
        Command("Simplify outlines", lambda w: w.arranging.simplify()),
        None,
        Command("Flip across", lambda w: w.arranging.flip(0)),
        Command("Flip down", lambda w: w.arranging.flip(1)),
        Command("Reset the place", lambda w: w.arranging.reset_place(), "Ctrl+Alt+0"),
        None,
        Command("Group", lambda w: w.layers.group(), "Ctrl+G"),
        Command("Ungroup", lambda w: w.layers.ungroup(), "Ctrl+Alt+Shift+G"),
        Command("Hang on a carrier", lambda w: add_carrier(w.session), "Ctrl+Alt+Shift+C"),
        Command("Copies of the chosen layer", lambda w: w.arranging.copies(), "Alt+Shift+D"),
        Command("Nest at full size", lambda w: w.arranging.nest(False), "Ctrl+Shift+G"),
        Command("Nest cropped to its content", lambda w: w.arranging.nest(True), "Ctrl+Alt+G"),
        Command("Nest the content, motion stays outside", lambda w: w.arranging.nest_content()),
        Command("Open up the nest", lambda w: w.arranging.open_up(), "Ctrl+Shift+U"),
        Command("Make own copy", lambda w: w.arranging.own_copy(False), "Ctrl+Shift+D"),
        Command("Make own copy all the way down", lambda w: w.arranging.own_copy(True)),
        None,
        Command("Mask with a rectangle", lambda w: w.arranging.mask("rectangle"), "Ctrl+Shift+R"),
        Command("Mask with an ellipse", lambda w: w.arranging.mask("ellipse")),
        Command("Pin to four corners", lambda w: w.editor.canvas.toolbox.pin(), "Alt+Shift+K"),
        Command("Mask with the pen", lambda w: w.editor.canvas.toolbox.draw(masks=True), "Ctrl+Alt+K"),
        Command("Window that stays while the content moves", lambda w: w.arranging.mask("rectangle", True)),
        Command("Matte by the layer in front", lambda w: w.arranging.matte(), "Ctrl+Shift+T"),
    ),
    "Layer": (
        Command("Add backdrop", lambda w: w.editor.add_strip.backdrop.click(), "Alt+Shift+B"),
        Command("Add text", lambda w: w.editor.add_strip.add_text(), "Alt+Shift+W"),
        Command("Draw with the pen", lambda w: w.editor.canvas.toolbox.draw(), "Ctrl+Shift+P"),
        Command("Edit points", lambda w: w.editor.canvas.toolbox.edit_chosen_points(), "Ctrl+Shift+A"),
        None,
        Command("Bring forward", lambda w: w.layers.restack(-1), "Ctrl+Up"),
        Command("Send backward", lambda w: w.layers.restack(1), "Ctrl+Down"),
        None,
        Command("Show or hide", lambda w: w.layers.toggle_shown(), "Ctrl+H"),
        Command("Lock or unlock", lambda w: w.layers.toggle_lock(), "Alt+Shift+L"),
        Command("Show alone", lambda w: w.layers.toggle_flag("solo", "Show alone"), "Alt+Shift+A"),
        Command("Fold in the timeline", lambda w: w.layers.toggle_flag("folded", "Fold"), "Alt+Shift+O"),
        Command("Only a reference, never written out", lambda w: w.layers.toggle_reference(), "Ctrl+Alt+R"),
        Command("Motion blur on or off", lambda w: w.layers.toggle_blur(), "Ctrl+M"),
        Command("Effects and finishes…", lambda w: w.windows.choose_effect(), "Alt+Shift+E"),
        None,
        Command("Centre in the frame", lambda w: w.layers.centre(), "Ctrl+Shift+C"),
        Command("Split at the playhead", lambda w: w.keys.split(), "Ctrl+Shift+X"),
        Command("Trim the beginning to the playhead", lambda w: w.layers.trim(True), "Alt+Shift+Home"),
        Command("Trim the end to the playhead", lambda w: w.layers.trim(False), "Alt+Shift+End"),
    ),
    "Motion": (
        Command("Play or stop", lambda w: press_or(w.player.toggle), "Space", keeps=True),
        Command("First frame", lambda w: w.session.go_to(w.session.composition.span[0]), "Home"),
        Command("Last frame", lambda w: w.session.go_to(w.session.composition.span[1] - 1), "End"),
        Command("Previous frame", lambda w: w.session.go_to(w.session.frame - 1), "Ctrl+Shift+Left"),
        Command("Next frame", lambda w: w.session.go_to(w.session.frame + 1), "Ctrl+Shift+Right"),
        Command("Previous key", lambda w: w.editor.transport.to_key(False), "Ctrl+Left"),
        Command("Next key", lambda w: w.editor.transport.to_key(True), "Ctrl+Right"),
        None,
        Command("Key for position", lambda w: w.layers.key("position"), "Ctrl+1"),
        Command("Key for scale", lambda w: w.layers.key("scale"), "Ctrl+2"),
        Command("Key for rotation", lambda w: w.layers.key("rotation"), "Ctrl+3"),
        Command("Key for opacity", lambda w: w.layers.key("opacity"), "Ctrl+4"),
        None,
        Command("Marker here", lambda w: w.layers.marker(), "Ctrl+Shift+H"),
        Command("Next marker", lambda w: w.layers.to_marker(True), "Alt+Right"),
        Command("Previous marker", lambda w: w.layers.to_marker(False), "Alt+Left"),
        None,
        Command("Zoom time in", lambda w: w.editor.timeline.zoom_time(1.5), "Ctrl+Alt++"),
        Command("Zoom time out", lambda w: w.editor.timeline.zoom_time(1 / 1.5), "Ctrl+Alt+-"),
        Command("Whole time", lambda w: w.editor.timeline.fit_time(), "Ctrl+Alt+W"),
        Command("Count in frames", lambda w: w.session.view.count_in("frames")),
        Command("Count in seconds", lambda w: w.session.view.count_in("seconds")),
        Command("Count in timecode", lambda w: w.session.view.count_in("timecode")),
        None,
        Command("Moves…", lambda w: w.windows.choose_move(), "Alt+Shift+M"),
        Command("Pose strip…", lambda w: w.windows.show_poses(), "Alt+Shift+P"),
        Command("Contact sheet and two frames…", lambda w: w.windows.show_frames(), "Ctrl+Shift+Q"),
    ),
    "Keys": (
        Command("Reverse keys", lambda w: w.keys.reverse(), "Alt+R"),
        Command("Mirror keys: there and back", lambda w: w.keys.mirror(), "Alt+M"),
        Command("Align first keys", lambda w: w.keys.align(False), "Alt+Home"),
        Command("Align last keys", lambda w: w.keys.align(True), "Alt+End"),
        Command("Keys to the playhead", lambda w: w.keys.to_playhead(), "Alt+P"),
        Command("Delete keys and close the gap", lambda w: w.keys.close_gap(), "Shift+Delete"),
        Command("Choose the same property's keys", lambda w: w.keys.choose_same(), "Alt+A"),
        None,
        Command("Paste keys at their own frames", lambda w: w.clipboard.paste_keys("values", False), "Ctrl+Shift+V"),
        Command("Paste keys as differences", lambda w: w.clipboard.paste_keys("differences", True), "Alt+V"),
        Command("Paste pace alone", lambda w: w.clipboard.paste_keys("pace", True), "Alt+Shift+V"),
        None,
        Command("Smooth through keys", lambda w: w.keys.shape(smooth=True), "Ctrl+Shift+M"),
        Command("Flatten keys", lambda w: w.keys.shape(smooth=False), "Ctrl+Shift+L"),
        Command("Straighten segments", lambda w: w.keys.straighten(), "Alt+S"),
        Command("Swap in and out", lambda w: w.keys.swap(), "Alt+W"),
        None,
        Command("Close the loop", lambda w: w.keys.close_loop(False), "Alt+L"),
        Command("Close the loop with one speed", lambda w: w.keys.close_loop(True)),
        Command("Trim the composition to its loop", lambda w: w.keys.trim_to_loop()),
        None,
        Command("Random sequence…", lambda w: w.keys.random_turns(), "Alt+Shift+Q"),
        Command("Settle…", lambda w: w.keys.settle(), "Alt+Shift+S"),
        Command("Stagger…", lambda w: w.keys.stagger(), "Alt+Shift+T"),
        Command("Vary…", lambda w: w.keys.vary(), "Alt+Shift+Y"),
        None,
        Command("Position as one path or as x and y", lambda w: w.keys.switch_position(), "Alt+X"),
    ),
    "View": (
        Command("Zoom in", lambda w: w.editor.canvas.viewport.zoom_by(1.25), _Key.ZoomIn, keeps=True),
        Command("Zoom out", lambda w: w.editor.canvas.viewport.zoom_by(0.8), _Key.ZoomOut, keeps=True),
        Command("Whole piece", lambda w: w.editor.canvas.viewport.fit(), "Ctrl+0", keeps=True),
        Command("100 %", lambda w: w.editor.canvas.viewport.zoom_to(1.0), "Ctrl+Shift+1", keeps=True),
        None,
        *_switches(PANELS, _PANEL_KEYS),
        Command("Full screen", lambda w: w.windows.full_screen(), _Key.FullScreen, needs_piece=False, keeps=True),
        None,
        *_switches(AIDS, _AID_KEYS),
        Command("Onion skin: how many…", lambda w: w.windows.ask_onion()),
        Command("Remove all guides", lambda w: w.layers.clear_guides()),
    ),
    "Help": (
        Command(
            "Shortcuts", lambda w: w.windows.show_shortcuts(shortcut_lines()), _Key.HelpContents,
            needs_piece=False, keeps=True,
        ),
    ),
}


def build_menus(window: QMainWindow, context: Context) -> dict[str, QAction]:
    """Fill a window's menu bar and return its actions by label."""
    actions: dict[str, QAction] = {}
    for title, commands in MENUS.items():
        menu = window.menuBar().addMenu(title)
        for command in commands:
            if command is None:
                menu.addSeparator()
                continue
            action = QAction(command.label, window)
            if command.key is not None:
                action.setShortcut(QKeySequence(command.key))
            action.triggered.connect(lambda _=False, chosen=command: _run(context, chosen))
            action.setData(command.needs_piece)
            if command.shows is not None:
                _tick(action, context.session.view, command.shows)
            menu.addAction(action)
            actions[command.label] = action
    return actions


def _run(context: Context, command: Command) -> None:
    canvas = context.editor.canvas
    if command.words and canvas.typing.command(command.words):
        return
    if not command.keeps:
        canvas.end_everything()
    command.run(context)


def _tick(action: QAction, view: ViewOptions, name: str) -> None:
    action.setCheckable(True)
    action.setChecked(view[name])
    view.changed.connect(lambda: action.setChecked(view[name]))


def shortcut_lines() -> list[tuple[str, str, str]]:
    """Return (menu, label, keys) of every command that has a shortcut."""
    lines = []
    for title, commands in MENUS.items():
        for command in commands:
            if command is not None and command.key is not None:
                keys = QKeySequence(command.key).toString(QKeySequence.SequenceFormat.NativeText)
                lines.append((title, command.label, keys))
    return lines
