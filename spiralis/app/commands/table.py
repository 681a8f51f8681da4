"""Every command of the menus, in their order: the one table that menus, Find and the list of shortcuts are made of."""

from __future__ import annotations

from PyQt6.QtGui import QKeySequence

from spiralis.app.commands.command import Command, Entries, Submenu
from spiralis.app.commands.heard import dial_loudness, mark_beats
from spiralis.app.commands.markers import set_marker, to_marker
from spiralis.app.commands.passing_on import copy_look, paste_look
from spiralis.app.commands.pressing import press_or
from spiralis.app.project.caption_files import ask_captions
from spiralis.app.strips.add_strip import add_carrier
from spiralis.app.widgets.view_options import AIDS, HEARD, PANEL_KEYS, PANELS
from spiralis.app.workspace.asking import ask_frame, ask_guide

_Key = QKeySequence.StandardKey

_AID_KEYS = {"rulers": "Ctrl+Alt+1", "guides": "Ctrl+Alt+2", "grid": "Ctrl+Alt+3", "thirds": "Ctrl+Alt+4",
             "safe": "Ctrl+Alt+5", "outer": "Ctrl+Alt+6", "snap": "Ctrl+Alt+7", "onion": "Ctrl+Alt+8"}  # fmt: skip


def _switches(options: dict[str, tuple[str, bool]], keys: dict[str, str]) -> list[Command]:
    return [
        Command(label, lambda w, name=name: w.session.view.toggle(name), keys.get(name), shows=name, keeps=True)
        for name, (label, _) in options.items()
    ]


MENUS: dict[str, Entries] = {
    "File": (
        Command("New…", lambda w: w.show_start(), _Key.New, needs_piece=False),
        Command("Open…", lambda w: w.files.ask_open(), _Key.Open, needs_piece=False),
        Command("Open the demo", lambda w: w.files.open_demo(), needs_piece=False),
        None,
        Command("Save", lambda w: w.files.save(), _Key.Save, keeps=True, fills=True),
        Command("Save as…", lambda w: w.files.ask_save(), _Key.SaveAs, keeps=True, fills=True),
        Command("Save a copy…", lambda w: w.files.copies.ask(), fills=True),
        Command("Back to the saved file", lambda w: w.files.revert()),
        Command("Versions…", lambda w: w.windows.show_versions(w.files), "Ctrl+Alt+Z"),
        None,
        Command("Bring files in…", lambda w: w.importer.choose(), "Ctrl+I"),
        Command("Open artwork as a piece…", lambda w: w.importer.choose_piece(), "Ctrl+Shift+I"),
        Command("Sources", lambda w: w.editor.drawer.toggle(), "Ctrl+J", keeps=True),
        Command("Library…", lambda w: w.windows.show_library(), needs_piece=False, keeps=True),
        None,
        Command("Export…", lambda w: w.windows.show_export(), "Ctrl+E", fills=True),
        Command("Write this frame…", lambda w: w.stills.ask(), "Ctrl+Shift+E"),
        Command("Write captions…", lambda w: ask_captions(w.session, w.editor), needs="words"),
        None,
        Command("Close the piece", lambda w: w.close_piece(), "Ctrl+W"),
        Command("Quit", lambda w: w.quit(), _Key.Quit, needs_piece=False),
    ),
    "Edit": (
        Command("Undo", lambda w: w.editor.canvas.toolbox.undo(), _Key.Undo, keeps=True, fills=True),
        Command(
            "Redo", lambda w: w.editor.canvas.toolbox.redo(), _Key.Redo, keeps=True,
            more_keys=("Ctrl+Y", "Ctrl+Shift+Z"), fills=True,
        ),
        None,
        Command("Cut", lambda w: w.clipboard.cut(w.layers.delete), _Key.Cut, words="cut", needs="layer"),
        Command("Copy", lambda w: w.clipboard.copy(), _Key.Copy, words="copy", needs="layer"),
        Command("Paste", lambda w: w.clipboard.paste(), _Key.Paste, words="paste"),
        Command("Duplicate", lambda w: w.layers.duplicate(), "Ctrl+D", needs="layer"),
        Command("Delete", lambda w: w.layers.delete(), _Key.Delete, words="delete", needs="layer"),
        Command("Copy the look", lambda w: copy_look(w.session), "Ctrl+Shift+Y", needs="layer"),
        Command("Paste the look", lambda w: paste_look(w.session), "Alt+Shift+X", needs="layer"),
        Command("Choose all layers", lambda w: w.layers.select_all(), _Key.SelectAll, words="choose_all"),
        None,
        Command(
            "Find a command, layer or effect…", lambda w: w.find(), _Key.Find, needs_piece=False, keeps=True
        ),
        Command(
            "Preferences…", lambda w: w.windows.show_preferences(), _Key.Preferences, needs_piece=False, keeps=True
        ),
    ),
    "Composition": (
        Command("New composition…", lambda w: w.layers.new_composition(), "Ctrl+Shift+N"),
        Command("Duplicate this composition", lambda w: w.arranging.duplicate_composition()),
        Command("Format…", lambda w: w.windows.show_format(), "Ctrl+Shift+F"),
        Command("Crop or enlarge the frame", lambda w: w.editor.canvas.toolbox.crop_frame(), "Ctrl+Shift+K"),
        Command("Crop the frame to the chosen layers", lambda w: w.arranging.crop_to_chosen(), needs="layer"),
        Command("Go into the chosen nested composition", lambda w: w.layers.go_in(), "Ctrl+Return", needs="nest"),
        Command("Go back up", lambda w: w.session.go_up(), "Ctrl+Backspace", needs="inside"),
        Command("Refresh from its file…", lambda w: w.layers.refresh_artwork(w.sources), "Ctrl+R", needs="artwork"),
        None,
        Command("Fill-in view: slots, variants, formats", lambda w: w.show_fill_in(), "Alt+8", fills=True),
        Command("A template, or no template", lambda w: w.layers.switch_template()),
        None,
        Command("Begin the play span here", lambda w: w.layers.span_edge(True), "Ctrl+Shift+Home"),
        Command("End the play span here", lambda w: w.layers.span_edge(False), "Ctrl+Shift+End"),
    ),
    "Arrange": (
        Submenu("Align", (
            Command("Align left edges", lambda w: w.arranging.align("left"), "Alt+Shift+Left", needs="layer"),
            Command("Align middles", lambda w: w.arranging.align("middle"), "Ctrl+Alt+M", needs="layer"),
            Command("Align right edges", lambda w: w.arranging.align("right"), "Alt+Shift+Right", needs="layer"),
            Command("Align top edges", lambda w: w.arranging.align("top"), "Alt+Shift+Up", needs="layer"),
            Command("Align centres", lambda w: w.arranging.align("centre"), "Ctrl+Alt+C", needs="layer"),
            Command("Align bottom edges", lambda w: w.arranging.align("bottom"), "Alt+Shift+Down", needs="layer"),
            None,
            Command("Align with what suits", lambda w: w.arranging.set_align_to("auto")),
            Command("Align with the frame", lambda w: w.arranging.set_align_to("frame")),
            Command("Align with the layer chosen last", lambda w: w.arranging.set_align_to("last")),
        )),
        Submenu("Gaps", (
            Command("Equal gaps across", lambda w: w.arranging.distribute(0), "Ctrl+Alt+H", needs="three layers"),
            Command("Equal gaps down", lambda w: w.arranging.distribute(1), "Ctrl+Alt+V", needs="three layers"),
        )),
        Submenu("Fit", (
            Command("Fit into the frame", lambda w: w.arranging.fit("contain"), "Alt+Shift+F", needs="layer"),
            Command("Cover the frame", lambda w: w.arranging.fit("cover"), "Alt+Shift+C", needs="layer"),
            Command("Fit the width", lambda w: w.arranging.fit("width"), needs="layer"),
            Command("Fit the height", lambda w: w.arranging.fit("height"), needs="layer"),
        )),
        Submenu("Shapes and words", (
            Command("Put shapes into one layer", lambda w: w.arranging.combine("gather"), needs="layers"),
            Command("Unite shapes", lambda w: w.arranging.combine("union"), "Ctrl+Alt+U", needs="layers"),
            Command(
                "Subtract from the backmost shape", lambda w: w.arranging.combine("subtract"), "Ctrl+Alt+S",
                needs="layers",
            ),
            Command("Intersect shapes", lambda w: w.arranging.combine("intersect"), "Ctrl+Alt+I", needs="layers"),
            Command(
                "Exclude where shapes overlap", lambda w: w.arranging.combine("exclude"), "Ctrl+Alt+X", needs="layers"
            ),
            None,
            Command("Words to outlines", lambda w: w.arranging.outlines(), needs="words"),
            Command("Words along the chosen path", lambda w: w.arranging.words_along(), "Ctrl+Alt+P", needs="words"),
            Command("Words off their path", lambda w: w.arranging.words_off(), needs="words"),
            Command("Simplify outlines", lambda w: w.arranging.simplify(), needs="shape"),
        )),
        None,
        Command("Flip across", lambda w: w.arranging.flip(0), needs="layer"),
        Command("Flip down", lambda w: w.arranging.flip(1), needs="layer"),
        Command("Stand in depth, or lie flat", lambda w: w.arranging.toggle_depth(), "Alt+Shift+Z", needs="layer"),
        Command("Reset the place", lambda w: w.arranging.reset_place(), "Ctrl+Alt+0", needs="layer"),
        None,
        Command("Group", lambda w: w.layers.group(), "Ctrl+G", needs="layer"),
        Command("Ungroup", lambda w: w.layers.ungroup(), "Ctrl+Alt+Shift+G", needs="group"),
        Command("Hang on a carrier", lambda w: add_carrier(w.session), "Ctrl+Alt+Shift+C"),
        Command("Copies along the chosen path", lambda w: w.arranging.copies_along(), needs="layers"),
        Command("Copies of the chosen layer", lambda w: w.arranging.copies(), "Alt+Shift+D", needs="layer"),
        None,
        Submenu("Nest", (
            Command("Nest at full size", lambda w: w.arranging.nest(False), "Ctrl+Shift+G", needs="layer"),
            Command("Nest cropped to its content", lambda w: w.arranging.nest(True), "Ctrl+Alt+G", needs="layer"),
            Command("Nest the content, motion stays outside", lambda w: w.arranging.nest_content(), needs="layer"),
            Command("Open up the nest", lambda w: w.arranging.open_up(), "Ctrl+Shift+U", needs="nest"),
            None,
            Command("Make own copy", lambda w: w.arranging.own_copy(False), "Ctrl+Shift+D", needs="nest"),
            Command("Make own copy all the way down", lambda w: w.arranging.own_copy(True), needs="nest"),
        )),
        Submenu("Mask and pin", (
            Command("Mask with a rectangle", lambda w: w.arranging.mask("rectangle"), "Ctrl+Shift+R", needs="layer"),
            Command("Mask with an ellipse", lambda w: w.arranging.mask("ellipse"), needs="layer"),
            Command(
                "Mask with the pen", lambda w: w.editor.canvas.toolbox.draw(masks=True), "Ctrl+Alt+K", needs="layer"
            ),
            Command(
                "Window that stays while the content moves", lambda w: w.arranging.mask("rectangle", True),
                needs="layer",
            ),
            Command("Matte by the layer in front", lambda w: w.arranging.matte(), "Ctrl+Shift+T", needs="layer"),
            None,
            Command("Pin to four corners", lambda w: w.editor.canvas.toolbox.pin(), "Alt+Shift+K", needs="layer"),
        )),
    ),
    "Layer": (
        Command("Add backdrop", lambda w: w.editor.add_strip.backdrop.click(), "Alt+Shift+B"),
        Command("Add text", lambda w: w.editor.add_strip.add_text(), "Alt+Shift+W"),
        Command("Draw with the pen", lambda w: w.editor.canvas.toolbox.draw(), "Ctrl+Shift+P"),
        Command(
            "Edit points", lambda w: w.editor.canvas.toolbox.edit_chosen_points(), "Ctrl+Shift+A", needs="layer"
        ),
        None,
        Command("Rename", lambda w: w.editor.timeline.rename_chosen(), "F2", needs="layer"),
        Command("Bring to front", lambda w: w.layers.restack_fully(True), "Ctrl+Shift+Up", needs="layer"),
        Command("Bring forward", lambda w: w.layers.restack(-1), "Ctrl+Up", needs="layer"),
        Command("Send backward", lambda w: w.layers.restack(1), "Ctrl+Down", needs="layer"),
        Command("Send to back", lambda w: w.layers.restack_fully(False), "Ctrl+Shift+Down", needs="layer"),
        None,
        Command("Show or hide", lambda w: w.layers.toggle_shown(), "Ctrl+H", needs="layer"),
        Command("Lock or unlock", lambda w: w.layers.toggle_lock(), "Alt+Shift+L", needs="layer"),
        Command(
            "Show alone", lambda w: w.layers.toggle_flag("solo", "Show alone"), "Alt+Shift+A", needs="layer"
        ),
        Command(
            "Fold in the timeline", lambda w: w.layers.toggle_flag("folded", "Fold"), "Alt+Shift+O", needs="layer"
        ),
        Command(
            "Only a reference, never written out", lambda w: w.layers.toggle_reference(), "Ctrl+Alt+R", needs="layer"
        ),
        Command("Motion blur on or off", lambda w: w.layers.toggle_blur(), "Ctrl+M", needs="layer"),
        Command("Effects and finishes…", lambda w: w.windows.choose_effect(), "Alt+Shift+E", needs="layer"),
        Submenu("Take a picture apart", (
            Command("Cut out subject…", lambda w: w.windows.cut_out(), "Alt+Shift+U", needs="layer"),
            Command("Fill behind…", lambda w: w.windows.fill_behind(), "Alt+Shift+N", needs="layer"),
        )),
        None,
        Command("Centre in the frame", lambda w: w.layers.centre(), "Ctrl+Shift+C", needs="layer"),
        Command("Split at the playhead", lambda w: w.keys.split(), "Ctrl+Shift+X", needs="layer"),
        Command(
            "Trim the beginning to the playhead", lambda w: w.layers.trim(True), "Alt+Shift+Home", needs="layer"
        ),
        Command("Trim the end to the playhead", lambda w: w.layers.trim(False), "Alt+Shift+End", needs="layer"),
    ),
    "Motion": (
        Command("Play or stop", lambda w: press_or(w.player.toggle), "Space", keeps=True),
        Submenu("Go to", (
            Command("First frame", lambda w: w.session.go_to(w.session.composition.span[0]), "Home"),
            Command("Last frame", lambda w: w.session.go_to(w.session.composition.span[1] - 1), "End"),
            Command("Previous frame", lambda w: w.session.go_to(w.session.frame - 1), "Ctrl+Shift+Left"),
            Command("Next frame", lambda w: w.session.go_to(w.session.frame + 1), "Ctrl+Shift+Right"),
            Command("Previous key", lambda w: w.editor.transport.to_key(False), "Ctrl+Left"),
            Command("Next key", lambda w: w.editor.transport.to_key(True), "Ctrl+Right"),
            Command("Next marker", lambda w: to_marker(w.session, True), "Alt+Right", needs="markers"),
            Command("Previous marker", lambda w: to_marker(w.session, False), "Alt+Left", needs="markers"),
            None,
            Command("Frame by number…", lambda w: ask_frame(w.windows.parent, w.session), "Ctrl+L"),
        )),
        None,
        Command("Key for position", lambda w: w.layers.key("position"), "Ctrl+1", needs="layer"),
        Command("Key for scale", lambda w: w.layers.key("scale"), "Ctrl+2", needs="layer"),
        Command("Key for rotation", lambda w: w.layers.key("rotation"), "Ctrl+3", needs="layer"),
        Command("Key for opacity", lambda w: w.layers.key("opacity"), "Ctrl+4", needs="layer"),
        None,
        Command("Marker here", lambda w: set_marker(w.session), "Ctrl+Shift+H"),
        Command("Markers on its beats", lambda w: mark_beats(w.session), needs="heard"),
        Command("Loudness as a dial", lambda w: dial_loudness(w.session), needs="heard"),
        Submenu("Time shown", (
            Command("Zoom time in", lambda w: w.editor.timeline.zoom_time(1.5), "Ctrl+Alt++"),
            Command("Zoom time out", lambda w: w.editor.timeline.zoom_time(1 / 1.5), "Ctrl+Alt+-"),
            Command("Whole time", lambda w: w.editor.timeline.fit_time(), "Ctrl+Alt+W"),
            None,
            Command("Count in frames", lambda w: w.session.view.count_in("frames")),
            Command("Count in seconds", lambda w: w.session.view.count_in("seconds")),
            Command("Count in timecode", lambda w: w.session.view.count_in("timecode")),
        )),
        None,
        Command("Moves…", lambda w: w.windows.choose_move(), "Alt+Shift+M", needs="layer"),
        Command("Go along the chosen line", lambda w: w.arranging.go_along(), needs="layers"),
        Command("Stick to what lies beneath…", lambda w: w.windows.stick(), needs="layer"),
        Command("Keep the motion as a move…", lambda w: w.windows.keep_motion(), needs="layer"),
        Command("Pose strip…", lambda w: w.windows.show_poses(), "Alt+Shift+P"),
        Command("Seam check…", lambda w: w.windows.show_seam(), "Alt+6", fills=True),
        Command("Checks…", lambda w: w.windows.show_checks(), "Alt+7", fills=True),
        Command("Contact sheet and two frames…", lambda w: w.windows.show_frames(), "Ctrl+Shift+Q"),
    ),
    "Keys": (
        Command("Reverse keys", lambda w: w.keys.reverse(), "Alt+R", needs="animated"),
        Command("Mirror keys: there and back", lambda w: w.keys.mirror(), "Alt+M", needs="animated"),
        Command("Align first keys", lambda w: w.keys.align(False), "Alt+Home", needs="animated"),
        Command("Align last keys", lambda w: w.keys.align(True), "Alt+End", needs="animated"),
        Command("Keys to a frame…", lambda w: w.keys.to_frame(), "Alt+Shift+J", needs="animated"),
        Command("Freeze here…", lambda w: w.keys.freeze(), "Alt+Shift+H", needs="animated"),
        Command("Keys to the playhead", lambda w: w.keys.to_playhead(), "Alt+P", needs="animated"),
        Command("Delete keys and close the gap", lambda w: w.keys.close_gap(), "Shift+Delete", needs="keys"),
        Command("Choose the same property's keys", lambda w: w.keys.choose_same(), "Alt+A", needs="animated"),
        None,
        Submenu("Paste keys", (
            Command(
                "Paste keys at their own frames", lambda w: w.clipboard.paste_keys("values", False), "Ctrl+Shift+V",
                needs="layer",
            ),
            Command(
                "Paste keys as differences", lambda w: w.clipboard.paste_keys("differences", True), "Alt+V",
                needs="layer",
            ),
            Command("Paste pace alone", lambda w: w.clipboard.paste_keys("pace", True), "Alt+Shift+V", needs="layer"),
        )),
        Submenu("Shape keys", (
            Command("Smooth through keys", lambda w: w.keys.shape(smooth=True), "Ctrl+Shift+M", needs="animated"),
            Command("Flatten keys", lambda w: w.keys.shape(smooth=False), "Ctrl+Shift+L", needs="animated"),
            Command("Straighten segments", lambda w: w.keys.straighten(), "Alt+S", needs="animated"),
            Command("Swap in and out", lambda w: w.keys.swap(), "Alt+W", needs="animated"),
            Command("Fewer keys…", lambda w: w.keys.fewer(), needs="animated"),
        )),
        Submenu("Loop", (
            Command("Close the loop", lambda w: w.keys.close_loop(False), "Alt+L"),
            Command("Close the loop with one speed", lambda w: w.keys.close_loop(True)),
            Command("Trim the composition to its loop", lambda w: w.keys.trim_to_loop()),
        )),
        None,
        Command("Show in turn…", lambda w: w.turns.in_order(), needs="layers"),
        Command("Random sequence…", lambda w: w.turns.at_random(), "Alt+Shift+Q", needs="layer"),
        Command("Settle…", lambda w: w.keys.settle(), "Alt+Shift+S", needs="animated"),
        Command("Stagger…", lambda w: w.keys.stagger(), "Alt+Shift+T", needs="layers"),
        Command("Vary…", lambda w: w.keys.vary(), "Alt+Shift+Y", needs="layer"),
        None,
        Command("Position as one path or as x and y", lambda w: w.keys.switch_position(), "Alt+X", needs="layer"),
    ),
    "View": (
        Command(
            "Zoom in", lambda w: w.editor.canvas.viewport.zoom_by(1.25), _Key.ZoomIn, keeps=True, more_keys=("Ctrl+=",)
        ),
        Command("Zoom out", lambda w: w.editor.canvas.viewport.zoom_by(0.8), _Key.ZoomOut, keeps=True),
        Command("Whole piece", lambda w: w.editor.canvas.viewport.fit(), "Ctrl+0", keeps=True),
        Command("100 %", lambda w: w.editor.canvas.viewport.zoom_to(1.0), "Ctrl+Shift+1", keeps=True),
        None,
        *_switches(PANELS, PANEL_KEYS),
        *_switches(HEARD, {}),
        Command("Usual sizes of the panels", lambda w: w.editor.arrangement.even_out(), keeps=True),
        Command("Picture in a window of its own", lambda w: w.windows.show_picture(), "Alt+5", keeps=True),
        Command("Full screen", lambda w: w.windows.full_screen(), _Key.FullScreen, needs_piece=False, keeps=True),
        None,
        Submenu("Look from", (
            *(
                Command(label, lambda w, name=name: w.session.viewpoint.look_from(name), keep, keeps=True,
                        needs="depth")
                for label, name, keep in (
                    ("Through the camera", "camera", "Alt+Shift+0"), ("From the front", "front", None),
                    ("From above", "top", None), ("From the side", "side", None), ("From anywhere", "free", None),
                )
            ),
            None,
            Command("Second view in the corner", lambda w: w.editor.canvas.viewpoints.two.toggle(), keeps=True,
                    needs="depth"),
        )),
        Submenu("On the canvas", (
            *_switches(AIDS, _AID_KEYS),
            None,
            Command("Onion skin: how many…", lambda w: w.windows.ask_onion()),
            Command("Guide at a place…", lambda w: ask_guide(w.windows.parent, w.session)),
            Command("Remove all guides", lambda w: w.layers.clear_guides(), needs="guides"),
        )),
    ),
    "Help": (
        Command("First steps", lambda w: w.show_first_steps(), needs_piece=False),
        Command("Guide", lambda w: w.windows.show_guide(), _Key.HelpContents, needs_piece=False, keeps=True),
        Command("Shortcuts…", lambda w: w.show_shortcuts(), "Ctrl+F1", needs_piece=False, keeps=True),
    ),
}
