"""What the commands of the menus act on."""

from __future__ import annotations

from collections.abc import Callable

from attrs import frozen

from spiralis.app.commands.arranging import Arranging
from spiralis.app.commands.clipboard import Clipboard
from spiralis.app.commands.keys import KeyCommands
from spiralis.app.commands.layers import Commands
from spiralis.app.commands.turns import TurnCommands
from spiralis.app.project.files import Files
from spiralis.app.project.importing import Importer
from spiralis.app.project.still_files import StillFiles
from spiralis.app.session import Session
from spiralis.app.sources.acting import SourceActions
from spiralis.app.work.playback import Player
from spiralis.app.workspace.editor import Editor
from spiralis.app.workspace.windows import Windows


@frozen(eq=False)
class Context:
    """Everything that a command may need; no command knows the main window."""

    session: Session
    player: Player
    editor: Editor
    windows: Windows
    files: Files
    importer: Importer
    sources: SourceActions
    stills: StillFiles
    clipboard: Clipboard
    layers: Commands
    arranging: Arranging
    keys: KeyCommands
    turns: TurnCommands
    show_start: Callable[[], None]
    show_fill_in: Callable[[], None]
    close_piece: Callable[[], None]
    find: Callable[[], None]
    show_shortcuts: Callable[[], None]
    show_first_steps: Callable[[], None]
    quit: Callable[[], object]
