"""The other windows and dialogs of the editor."""

from __future__ import annotations

from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtWidgets import QWidget

from spiralis.app.canvas.picture_window import PictureWindow, switch_full_screen
from spiralis.app.checks.window import ChecksWindow
from spiralis.app.details.font_list import MissingFontsDialog
from spiralis.app.effects import EffectsChooser
from spiralis.app.export import ExportWindow
from spiralis.app.export.queue import ExportQueue, Item
from spiralis.app.frames import FramesWindow
from spiralis.app.frames.onion import ask_onion
from spiralis.app.help.guide import GuideWindow
from spiralis.app.library.window import LibraryWindow
from spiralis.app.moves import MovesChooser
from spiralis.app.moves.keeping import KeepMotion
from spiralis.app.moves.sticking import StickWindow
from spiralis.app.project.files import Files
from spiralis.app.project.formats import FormatDialog
from spiralis.app.project.preferences import Preferences
from spiralis.app.project.versions import VersionsWindow
from spiralis.app.seam.window import SeamWindow
from spiralis.app.session import Session
from spiralis.app.strips.poses import PosesWindow
from spiralis.app.touching.cutting import CutOutWindow
from spiralis.app.touching.filling import FillWindow
from spiralis.app.touching.window import TouchWindow
from spiralis.app.work.playback import Player
from spiralis.app.workspace.editor import Editor
from spiralis.core.editing.reformat import reformatted
from spiralis.core.errors import ModelError, SpiralisError
from spiralis.core.model import layer_kind

#: Milliseconds. After none at all it would be in the same turn still, before anything a person does meanwhile.
_NEXT_TURN = 1


class Windows:
    """Opens them, and knows those that stay open beside the main window."""

    def __init__(self, parent: QWidget, session: Session, player: Player, editor: Editor) -> None:
        self.parent, self.session, self.player, self.editor = parent, session, player, editor
        self.export: ExportWindow | None = None
        #: Files that are written beside the work, whether their window is open or not.
        self.queue = ExportQueue()
        self.queue.progressed.connect(self._show_exporting)
        self.queue.changed.connect(self._show_exporting)
        self.queue.ended.connect(self._say_ended)
        self.frames: FramesWindow | None = None
        self.poses: PosesWindow | None = None
        self.picture: PictureWindow | None = None
        self.guide: GuideWindow | None = None
        self.seam: SeamWindow | None = None
        self.touching: TouchWindow | None = None
        self.checks: ChecksWindow | None = None

    @property
    def exporting(self) -> bool:
        """Whether a file is being written."""
        return self.queue.busy

    def show_export(self) -> None:
        """Open the export window for the piece on the canvas; there is one at a time."""
        shown = self.export is not None and self.export.isVisible()
        if self.export is not None and shown and self.export.piece.id == self.session.composition_id:
            self.export.raise_()
            return
        self.player.stop()
        if self.export is not None:
            # It was closed, or is of another piece; what is in the list of exports is not its own.
            self.export.hide()
            self.export.deleteLater()
        self.export = ExportWindow(self.parent, self.session, self.queue)
        # It was built in this turn of the event loop; laying it out and painting it has the next.
        QTimer.singleShot(_NEXT_TURN, self.export.show)

    def show_seam(self) -> None:
        """Open Seam check."""
        if self.seam is None:
            self.seam = SeamWindow(self.parent, self.session)
        self.seam.show()
        self.seam.raise_()
        self.seam.refresh()

    def show_checks(self) -> None:
        """Open Checks."""
        if self.checks is None:
            self.checks = ChecksWindow(self.parent, self.session, self.editor.checks)
        self.checks.show()
        self.checks.raise_()
        self.checks.refresh()

    def show_guide(self) -> None:
        """Open the guide."""
        if self.guide is None:
            self.guide = GuideWindow(self.parent)
        self.guide.show()
        self.guide.raise_()

    def _show_exporting(self) -> None:
        item = self.queue.writing
        progress = item.progress if item is not None else None
        share = progress.done / max(progress.total, 1) if progress is not None else 0.0
        self.editor.piece_bar.show_exporting(share if item is not None else None)

    def _say_ended(self, item: Item) -> None:
        """Say what became of a file whose window is not open."""
        if self.export is not None and self.export.isVisible():
            return
        if item.result is not None:
            self.session.said.emit(f"{item.path.name} was written and read back.")
        elif item.sentence:
            self.session.failed.emit(item.sentence)

    def full_screen(self) -> None:
        """Take the whole screen, or give it back."""
        switch_full_screen(self.parent.window())

    def show_picture(self) -> None:
        """Open the picture in a window of its own, or close it."""
        if self.picture is not None and self.picture.isVisible():
            self.picture.close()
            return
        self.picture = PictureWindow(self.session, self.player)
        self.picture.show()

    def show_preferences(self) -> None:
        """Show the preferences."""
        Preferences(self.parent, self.session).open()

    def show_library(self) -> None:
        """Show what is kept for every project."""
        LibraryWindow(self.parent, self.session).show()

    def keep_motion(self) -> None:
        """Ask how the chosen layer's motion is to be kept as a move."""
        if self.session.layers:
            KeepMotion(self.parent, self.session).open()

    def stick(self) -> None:
        """Ask what of the chosen layer is to stick to what lies beneath it."""
        if self.session.layers:
            StickWindow(self.parent, self.session).open()

    def show_versions(self, files: Files) -> None:
        """Show earlier states of the project."""
        VersionsWindow(self.parent, self.session, files.copies.ask_version).open()

    def show_format(self) -> None:
        """Ask for another format of the composition."""
        dialog = FormatDialog(self.parent, self.session.composition)
        if dialog.exec() and dialog.result_values is not None:
            values = dialog.result_values
            self.session.edit("Format", lambda piece: reformatted(piece, *values), locked_too=True)
            self.editor.canvas.viewport.fit()

    def show_frames(self) -> None:
        """Open the window of the contact sheet and of two frames."""
        if self.frames is None:
            self.frames = FramesWindow(self.parent, self.session)
        self.frames.show()
        self.frames.raise_()
        self.frames.make()

    def show_poses(self) -> None:
        """Open the pose strip."""
        if self.poses is None:
            self.poses = PosesWindow(self.parent, self.session)
        self.poses.show()
        self.poses.raise_()

    def ask_onion(self) -> None:
        """Ask how many skins there are and how far apart."""
        canvas = self.editor.canvas
        ask_onion(self.parent, self.session, canvas.onion, canvas.update)

    def choose_move(self, index: int = -1) -> None:
        """Let a ready-made move be chosen for the chosen layers, or the one at an index be adjusted."""
        if not self.session.layers:
            self.session.failed.emit("Choose the layer that is to move.")
            return
        chooser = MovesChooser(self.parent, self.session, self.player, index if index >= 0 else None)
        chooser.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        chooser.open()

    def choose_effect(self, role: str = "") -> None:
        """Let an effect or a finish be chosen for the chosen layers; those of ``role`` come first."""
        seen = [layer for layer in self.session.layers if not layer_kind(layer.kind).unseen]
        if not seen:
            self.session.failed.emit("Choose the layer that is to have an effect.")
            return
        chooser = EffectsChooser(self.parent, self.session, role)
        chooser.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        QTimer.singleShot(_NEXT_TURN, chooser.open)

    def touch(self, kind: type[TouchWindow]) -> None:
        """Open a window that cuts out of, or fills, the chosen layer's picture."""
        layers = self.session.layers
        try:
            if len(layers) != 1:
                raise ModelError("Choose one picture layer first.")
            made = kind(self.parent, self.session, layers[0])
        except SpiralisError as error:
            self.session.failed.emit(str(error))
            return
        if self.touching is not None:
            self.touching.deleteLater()  # It holds a whole picture.
        self.touching = made
        made.open()

    def cut_out(self) -> None:
        """Cut the subject out of the chosen picture."""
        self.touch(CutOutWindow)

    def fill_behind(self) -> None:
        """Fill a part of the chosen picture from what is around it."""
        self.touch(FillWindow)

    def show_missing_fonts(self) -> None:
        """Ask which families stand in for missing ones."""
        MissingFontsDialog(self.session, self.parent).exec()
