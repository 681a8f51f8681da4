"""The main window: puts the panels together and owns nothing else."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QPointF, Qt, pyqtSignal
from PyQt6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent, QKeyEvent
from PyQt6.QtWidgets import QDialog, QGridLayout, QLabel, QMainWindow, QSplitter, QStackedWidget, QVBoxLayout, QWidget

from spiralis.app.canvas import CanvasView
from spiralis.app.canvas.text_bar import TextBar
from spiralis.app.commands.arranging import Arranging
from spiralis.app.commands.clipboard import Clipboard
from spiralis.app.commands.keys import KeyCommands
from spiralis.app.commands.layers import Commands
from spiralis.app.commands.menus import build_menus, shortcut_lines
from spiralis.app.commands.pressing import press_focused
from spiralis.app.details import DetailsPanel
from spiralis.app.details.font_list import MissingFontsDialog
from spiralis.app.export import ExportWindow
from spiralis.app.frames import FramesWindow
from spiralis.app.frames.onion import ask_onion
from spiralis.app.moves import MovesChooser
from spiralis.app.pace import PacePanel
from spiralis.app.project.files import Files
from spiralis.app.project.formats import FormatDialog
from spiralis.app.project.importing import Importer
from spiralis.app.project.preferences import Preferences
from spiralis.app.project.recent_menu import RecentMenu
from spiralis.app.project.start import StartPage
from spiralis.app.project.still_files import StillFiles
from spiralis.app.session import Session
from spiralis.app.sources import SourcesDrawer
from spiralis.app.sources.acting import SourceActions
from spiralis.app.sources.listing import MIME
from spiralis.app.sources.watching import FileWatch
from spiralis.app.strips.add_strip import AddStrip
from spiralis.app.strips.flipbook import FlipbookStrip
from spiralis.app.strips.piece_bar import PieceBar
from spiralis.app.strips.poses import PosesWindow
from spiralis.app.strips.transport import Transport
from spiralis.app.timeline import TimelinePanel
from spiralis.app.timeline.layout import row_at
from spiralis.app.widgets.notice import Notice
from spiralis.app.work.playback import Player
from spiralis.app.work.soon import Soon
from spiralis.app.work.staged import Staged
from spiralis.app.work.unforeseen import listen
from spiralis.core.editing.reformat import reformatted
from spiralis.core.model import Composition
from spiralis.core.storage.project_file import SUFFIX


class Window(QMainWindow):
    """One project's window."""

    _unforeseenHappened = pyqtSignal(str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setMinimumSize(1100, 700)
        self.resize(1280, 800)
        self.setAcceptDrops(True)
        self.player = Player(session)
        Soon.awaited = self.player.awaits
        self.files = Files(session, self)
        self.files.picture = self.player.straight_picture
        self.commands = Commands(session)
        self.arranging = Arranging(session)
        self.key_commands = KeyCommands(session, self)
        self.importer = Importer(session, self)
        self.source_actions = SourceActions(session, self.importer, self)
        self.stills = StillFiles(session, self)
        self.watch = FileWatch(session)
        self.clipboard = Clipboard(session, self.importer)
        self.start = StartPage()
        self.start.newAsked.connect(self._new)
        self.start.openAsked.connect(self.files.ask_open)
        self.start.projectAsked.connect(self.files.open)
        self.start.demoAsked.connect(self.files.open_demo)
        self.start.backAsked.connect(self.show_editor)
        self.pages = QStackedWidget()
        self.pages.addWidget(self.start)
        self.pages.addWidget(self._editor())
        self.notice = Notice()
        central = QWidget()
        column = QVBoxLayout(central)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.pages, 1)
        column.addWidget(self.notice)
        self.setCentralWidget(central)
        self.actions_ = build_menus(self)
        self.recent_menu = RecentMenu(self.files.open)
        self.menuBar().actions()[0].menu().insertMenu(self.actions_["Open the demo"], self.recent_menu)
        self.export_window: ExportWindow | None = None
        self.frames_window: FramesWindow | None = None
        self.poses_window: PosesWindow | None = None
        session.failed.connect(self.notice.show_problem)
        listen(self._unforeseen)
        self._unforeseenHappened.connect(self._say_unforeseen)
        session.said.connect(self.notice.show_done)
        session.moveAsked.connect(self.choose_move)
        self.watch.changed.connect(self._offer_refresh)
        self.files.opened.connect(self.show_editor)
        self.files.fontsMissing.connect(self._offer_fonts)
        self.files.savedChanged.connect(self._name_window)
        for signal in (session.projectChanged, session.selectionChanged, session.keysChanged):
            signal.connect(self._name_steps)
        self.show_start()

    def _editor(self) -> QWidget:
        session, player = self.session, self.player
        self.piece_bar = PieceBar(session)
        self.piece_bar.formatAsked.connect(self.show_format)
        self.piece_bar.exportAsked.connect(self.show_export)
        self.add_strip = AddStrip(session)
        self.add_strip.filesAsked.connect(self.importer.choose)
        self.flipbook = FlipbookStrip(session)
        self.canvas = CanvasView(session, player)
        self.add_strip.textAdded.connect(self.canvas.edit_text)
        self.add_strip.penAsked.connect(self.canvas.draw_with_pen)
        self.text_bar = TextBar(session, self.canvas)
        self.canvas.text_bar = self.text_bar
        self.canvas.caretMoved.connect(lambda: self.add_strip.setVisible(self.canvas.editing is None))
        self.transport = Transport(session, player, self.canvas)
        self.timeline = TimelinePanel(session, player)
        self.pace = PacePanel(session, self.timeline.axis, self.timeline.width)
        self.pace.hovered.connect(self.canvas.ease_preview.play)
        self.details = DetailsPanel(session)
        left = QWidget()
        left.setMinimumWidth(408)
        column = QVBoxLayout(left)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.add_strip)
        column.addWidget(self.text_bar)
        column.addWidget(self.canvas, 1)
        column.addWidget(self.flipbook)
        column.addWidget(self.transport)
        time = QSplitter(Qt.Orientation.Vertical)
        time.addWidget(self.timeline)
        time.addWidget(self.pace)
        time.setSizes([360, 340])
        body = QSplitter(Qt.Orientation.Horizontal)
        for widget in (left, time, self.details):
            body.addWidget(widget)
        body.setSizes([420, 566, 292])
        body.setStretchFactor(0, 2)
        body.setStretchFactor(1, 3)
        body.setStretchFactor(2, 0)
        for splitter in (time, body):
            splitter.setHandleWidth(2)
            splitter.setChildrenCollapsible(False)
        editor = QWidget()
        rows = QVBoxLayout(editor)
        rows.setContentsMargins(0, 0, 0, 0)
        rows.setSpacing(1)
        rows.addWidget(self.piece_bar)
        rows.addWidget(body, 1)
        # A panel before its parts: what encloses a part that is shown already would paint it once more.
        panels = (self.timeline, self.timeline.rows, self.pace, self.pace.curves, self.pace.tiles, self.details)
        self._staged = Staged(self, panels, player.maker.rest)
        # What is chosen shows on the canvas and in the timeline first.
        chosen = Staged(self, (self.pace.curves, self.pace.tiles, self.details), lambda hold: None)
        session.selectionChanged.connect(chosen.begin)
        self.drawer = SourcesDrawer(session, editor, self.source_actions, below=self.piece_bar)
        self.add_strip.drawerAsked.connect(self.drawer.toggle)
        return editor

    # -- pages -----------------------------------------------------------------------------------------

    @property
    def editing(self) -> bool:
        """Whether a project is on show, and not the start page."""
        return self.pages.currentIndex() == 1

    def show_start(self) -> None:
        """Show the start page; the open project stays as it is until another is chosen."""
        self.player.stop()
        self.start.refresh()
        self.start.offer_back(self._shown_name() if self.files.has_piece else None)
        self.pages.setCurrentIndex(0)
        self.start.setFocus()
        self._switch_commands()

    def show_editor(self) -> None:
        """Show the open project."""
        self.files.has_piece = True
        if not self.editing:
            self._staged.begin()
        self.pages.setCurrentIndex(1)
        self.canvas.fit()
        self.canvas.setFocus()
        self._switch_commands()

    def _switch_commands(self) -> None:
        for action in self.actions_.values():
            action.setEnabled(self.editing or not action.data())
        for label in ("Save", "Save as…"):
            self.actions_[label].setEnabled(self.editing or self.files.has_piece)
        self._name_window()
        self._name_steps()

    def _new(self, piece: Composition) -> None:
        self.files.new(piece)

    def _shown_name(self) -> str:
        return self.session.path.name if self.session.path else self.session.project.name

    def _name_window(self) -> None:
        name = self._shown_name()
        star = "*" if self.session.history.unsaved else ""
        self.setWindowTitle(f"{name}{star} — Spiralis" if self.editing else "Spiralis")

    def _name_steps(self) -> None:
        history = self.session.history
        for label, name in (("Undo", history.undo_name), ("Redo", history.redo_name)):
            action = self.actions_[label]
            action.setText(f"{label}: {name}" if name else label)
            action.setEnabled(self.editing and name is not None)

    # -- other windows ---------------------------------------------------------------------------------

    def show_export(self) -> None:
        """Open the export window."""
        if self.export_window is not None and self.export_window.isVisible():
            self.export_window.raise_()
            return
        self.player.stop()
        self.export_window = ExportWindow(self, self.session)
        self.export_window.show()

    def show_preferences(self) -> None:
        """Show the preferences."""
        Preferences(self, self.session).open()

    def show_format(self) -> None:
        """Ask for another format of the composition."""
        dialog = FormatDialog(self, self.session.composition)
        if dialog.exec() and dialog.result_values is not None:
            values = dialog.result_values
            self.session.edit("Format", lambda piece: reformatted(piece, *values), locked_too=True)
            self.canvas.fit()

    def show_frames(self) -> None:
        """Open the window of the contact sheet and of two frames."""
        self.frames_window = FramesWindow(self, self.session)
        self.frames_window.show()

    def show_poses(self) -> None:
        """Open the pose strip."""
        if self.poses_window is None:
            self.poses_window = PosesWindow(self, self.session)
        self.poses_window.show()
        self.poses_window.raise_()

    def ask_onion(self) -> None:
        """Ask how many skins there are and how far apart."""
        ask_onion(self, self.session, self.canvas.onion, self.canvas.update)

    def choose_move(self, index: int = -1) -> None:
        """Let a ready-made move be chosen for the chosen layers, or the one at an index be adjusted."""
        if not self.session.layers:
            self.session.failed.emit("Choose the layer that is to move.")
            return
        chooser = MovesChooser(self, self.session, self.player, index if index >= 0 else None)
        chooser.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        chooser.open()

    def show_shortcuts(self) -> None:
        """List all shortcuts."""
        dialog = QDialog(self)
        dialog.setWindowTitle("Shortcuts")
        grid = QGridLayout(dialog)
        grid.setHorizontalSpacing(28)
        lines = shortcut_lines()
        half = (len(lines) + 1) // 2
        for index, (menu, label, keys) in enumerate(lines):
            row, column = index % half, 3 * (index // half)
            for offset, text in enumerate((menu, label, keys)):
                cell = QLabel(text.rstrip("…"))
                cell.setObjectName("Quiet" if offset == 0 else "")
                grid.addWidget(cell, row, column + offset)
        dialog.exec()

    # -- files dropped anywhere ------------------------------------------------------------------------

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        mime = event.mimeData()
        files = mime.hasUrls() and any(url.isLocalFile() for url in mime.urls())
        if mime.hasFormat(MIME) or files or (self.editing and self.clipboard.holds_artwork(mime)):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        if event.mimeData().hasFormat(MIME):
            self._take_source(bytes(event.mimeData().data(MIME)).decode(), event.position())
            event.acceptProposedAction()
            return
        paths = [Path(url.toLocalFile()) for url in event.mimeData().urls() if url.isLocalFile()]
        if not paths:
            # A picture dragged out of another program's window.
            self.clipboard.take_artwork(event.mimeData())
            event.acceptProposedAction()
            return
        self.take_files(paths, event.position())
        event.acceptProposedAction()

    def _take_source(self, item_id: str, at: QPointF) -> None:
        """Add a row of the drawer where it is dropped: a place of the frame, or of the order in the timeline."""
        rows = self.timeline.rows
        inside = rows.mapFrom(self, at.toPoint())
        row = row_at(rows.rows(), inside.y()) if rows.visibleRegion().contains(inside) else None
        if row is not None:
            self.importer.place(item_id, None, self.session.composition.layers.index(row.layer))
        else:
            self.importer.place(item_id, self._place_on_canvas(at))

    def _place_on_canvas(self, at: QPointF) -> tuple[float, float] | None:
        inside = self.canvas.mapFrom(self, at.toPoint())
        return self.canvas.to_composition(inside.toPointF()) if self.canvas.rect().contains(inside) else None

    def _offer_refresh(self, files: list[str]) -> None:
        names = ", ".join(Path(file).name for file in files[:4])
        verb = "was" if len(files) == 1 else "were"
        self.notice.offer(f"{names} {verb} changed outside.", "Refresh", lambda: self.source_actions.refresh(files))

    def _offer_fonts(self, names: list[str]) -> None:
        several = "fonts are" if len(names) > 1 else "font is"
        sentence = f"{len(names)} {several} missing, and another stands in: {', '.join(names[:6])}."
        self.notice.offer(sentence, "Choose fonts…", self.show_missing_fonts)

    def show_missing_fonts(self) -> None:
        """Ask which families stand in for missing ones."""
        dialog = MissingFontsDialog(self.session, self)
        dialog.exec()

    def take_files(self, paths: list[Path], at: QPointF | None = None) -> None:
        """Open a dropped project, or bring other files in; over the canvas they land where they are dropped."""
        projects = [path for path in paths if path.suffix == SUFFIX]
        if projects:
            self.files.open(projects[0])
            return
        if not self.editing:
            self.importer.start_project(paths, self.files)
            return
        self.importer.bring(paths, self._place_on_canvas(at) if at is not None else None)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        # What no widget wanted comes here.
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and press_focused():
            return
        super().keyPressEvent(event)

    # -- unforeseen errors -----------------------------------------------------------------------------

    def _unforeseen(self, error: BaseException, sentence: str) -> None:
        # It may come from any thread; the signal brings it to the window's.
        self._unforeseenHappened.emit(sentence)

    def _say_unforeseen(self, sentence: str) -> None:
        self.files.write_copy_now()
        self.canvas.end_everything()
        self.session.failed.emit(sentence)

    # -- closing ---------------------------------------------------------------------------------------

    def closeEvent(self, event: QCloseEvent) -> None:
        if self.export_window is not None and self.export_window.running is not None:
            self.session.failed.emit("An export is still running; cancel it or let it finish first.")
            event.ignore()
            return
        if not self.files.may_leave():
            event.ignore()
            return
        self.player.stop()
        self.player.maker.stop()
        self.files.close()
        event.accept()
