"""One project's window: the start page or the editor, menus, and what happens at the end."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QSize, Qt, pyqtSignal
from PyQt6.QtGui import QCloseEvent, QKeyEvent, QKeySequence, QShortcut
from PyQt6.QtWidgets import QHBoxLayout, QMainWindow, QMenuBar, QStackedWidget, QVBoxLayout, QWidget

from spiralis.app.commands.arranging import Arranging
from spiralis.app.commands.clipboard import Clipboard
from spiralis.app.commands.context import Context
from spiralis.app.commands.find import Find
from spiralis.app.commands.keys import KeyCommands
from spiralis.app.commands.layers import Commands
from spiralis.app.commands.menus import build_menus
from spiralis.app.commands.outliving import keep_clipboard
from spiralis.app.commands.pressing import press_focused
from spiralis.app.commands.shortcuts import ShortcutsWindow
from spiralis.app.commands.turns import TurnCommands
from spiralis.app.fillin.page import FillInPage
from spiralis.app.help.first_steps import FirstSteps
from spiralis.app.project.bringing_for import FileForProperty
from spiralis.app.project.copying import shown_name
from spiralis.app.project.files import Files
from spiralis.app.project.importing import Importer
from spiralis.app.project.recent_menu import RecentMenu
from spiralis.app.project.start import StartPage
from spiralis.app.project.still_files import StillFiles
from spiralis.app.session import Session
from spiralis.app.sources.acting import SourceActions
from spiralis.app.sources.watching import FileWatch
from spiralis.app.widgets.notice import Notice
from spiralis.app.widgets.text_fields import take_typed
from spiralis.app.work.collecting import keep_off
from spiralis.app.work.memory import give_back_at_rest
from spiralis.app.work.playback import Player
from spiralis.app.work.soon import give_way
from spiralis.app.work.unforeseen import listen
from spiralis.app.workspace.drop_events import DropEvents
from spiralis.app.workspace.dropping import Dropping
from spiralis.app.workspace.editor import Editor
from spiralis.app.workspace.windows import Windows

#: What a title bar takes of a screen's height, in px, at most.
_TITLE_BAR = 40


class Window(QMainWindow):
    """One project's window."""

    _unforeseenHappened = pyqtSignal(str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setMinimumSize(1100, 700)
        self._fit_screen()
        self.player = Player(session)
        give_way(self, self.player)
        give_back_at_rest(self, lambda: self.player.playing)
        keep_off(self, lambda: self.player.playing)
        self.files = Files(session, self)
        self.files.picture = self.player.picture
        self.importer = Importer(session, self)
        self.file_for = FileForProperty(session, self)
        self.clipboard = Clipboard(session, self.importer)
        self.watch = FileWatch(session)
        sources = SourceActions(session, self.importer, self)
        self.editor = Editor(session, self.player, self.importer, sources)
        self.windows = Windows(self, session, self.player, self.editor)
        self.dropping = Dropping(self, self.editor, self.files, self.importer, self.clipboard, sources)
        self.drop_events = DropEvents(self, self.dropping, lambda: self.filling)
        self.context = Context(
            session, self.player, self.editor, self.windows, self.files, self.importer, sources,
            stills=StillFiles(session, self), clipboard=self.clipboard, layers=Commands(session),
            arranging=Arranging(session), keys=KeyCommands(session, self), turns=TurnCommands(session, self),
            show_start=self.show_start, show_fill_in=self.show_fill_in,
            close_piece=self.close_piece, find=self.find, show_shortcuts=self.show_shortcuts,
            show_first_steps=self.show_first_steps, quit=self.close,
        )  # fmt: skip
        self._lay_out()
        self.commands = build_menus(self, self.menus, self.context)
        self.actions_ = self.commands.actions
        self.editor.canvas.menuAsked.connect(self.commands.pop_up)
        self.recent_menu = RecentMenu(self.files.open)
        self.menus.actions()[0].menu().insertMenu(self.actions_["Open the demo"], self.recent_menu)
        self._tie_together()
        self.show_start()

    def _lay_out(self) -> None:
        self.start = StartPage()
        self.pages = QStackedWidget()
        self.pages.addWidget(self.start)
        self.pages.addWidget(self.editor)
        self.fill_in = FillInPage(self.session, self.player, self.windows.queue)
        self.pages.addWidget(self.fill_in)
        central = QWidget()
        column = QVBoxLayout(central)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.pages, 1)
        self.first_steps = FirstSteps(self)
        column.addWidget(self.first_steps)
        self.notice = Notice(central, (self.editor.canvas, self.pages))
        self.setCentralWidget(central)
        self.menus = QMenuBar()
        # The piece stands beside the menus, in a line that no desktop takes out of the window.
        self.menus.setNativeMenuBar(False)
        top = QWidget()
        top.setObjectName("Top")
        line = QHBoxLayout(top)
        line.setContentsMargins(0, 0, 0, 0)
        line.setSpacing(0)
        line.addWidget(self.menus, 0, Qt.AlignmentFlag.AlignVCenter)
        line.addWidget(self.editor.piece_bar, 1)
        line.addStretch(0)
        self.setMenuWidget(top)

    def _fit_screen(self) -> None:
        """Take the usual size, or less where the screen has less, its title bar included."""
        screen = self.screen()
        room = screen.availableGeometry().size() if screen is not None else QSize(1280, 800)
        self.resize(min(1280, room.width()), min(800, room.height() - _TITLE_BAR))

    def _tie_together(self) -> None:
        session = self.session
        self.start.newAsked.connect(self.files.new)
        self.start.openAsked.connect(self.files.ask_open)
        self.start.projectAsked.connect(self.files.open)
        self.start.demoAsked.connect(self.files.open_demo)
        self.start.studyAsked.connect(self.files.open_study)
        self.start.backAsked.connect(self.show_editor)
        self.start.stepsAsked.connect(self.show_first_steps)
        self.editor.piece_bar.formatAsked.connect(self.windows.show_format)
        self.editor.piece_bar.seamAsked.connect(self.windows.show_seam)
        self.editor.piece_bar.checksAsked.connect(self.windows.show_checks)
        self.fill_in.editAsked.connect(self.show_editor)
        self.editor.piece_bar.exportAsked.connect(self.windows.show_export)
        session.failed.connect(self.notice.show_problem)
        session.said.connect(self.notice.show_done)
        session.moveAsked.connect(self.windows.choose_move)
        session.effectAsked.connect(self.windows.choose_effect)
        listen(self._unforeseen)
        self._unforeseenHappened.connect(self._say_unforeseen)
        self.watch.changed.connect(self._offer_refresh)
        session.leaving.connect(self._make_way)
        self.files.opened.connect(self._show_opened)
        self.files.fontsMissing.connect(self._offer_fonts)
        self.files.savedChanged.connect(self._name_window)
        escape = QShortcut(QKeySequence(Qt.Key.Key_Escape), self, session.gesture.take_back)
        escape.setEnabled(False)  # But while something is dragged.
        session.gesture.held.connect(escape.setEnabled)
        stepped = self.editor.canvas.toolbox.stepped
        for signal in (session.projectChanged, session.selectionChanged, session.keysChanged, stepped):
            signal.connect(self._name_steps)

    # -- pages -----------------------------------------------------------------------------------------

    @property
    def editing(self) -> bool:
        """Whether a project is on show, and not the start page."""
        return self.pages.currentIndex() >= 1

    @property
    def filling(self) -> bool:
        """Whether the open project is being filled in, and not edited."""
        return self.pages.currentWidget() is self.fill_in

    def show_start(self) -> None:
        """Show the start page; the open project stays as it is until another is chosen."""
        self.player.stop()
        self.fill_in.end()
        self.start.refresh()
        self.start.offer_back(shown_name(self.session) if self.files.has_piece else None)
        self.pages.setCurrentIndex(0)
        self.editor.piece_bar.hide()
        self.start.setFocus()
        self._switch_commands()

    def close_piece(self) -> None:
        """Close the open piece, asking about unsaved work, and show the start page."""
        if self.windows.exporting:
            self.session.failed.emit("An export is still running; cancel it or let it finish first.")
        elif self.files.may_leave():
            self.files.let_go()
            self.show_start()

    def find(self) -> None:
        """Let a command, layer, composition or effect be found by typing."""
        Find(self, self.commands).exec()

    def show_first_steps(self) -> None:
        """Lead through the first five minutes, on the demo."""
        if self.files.open_demo():
            self.first_steps.begin(self.context)

    def show_shortcuts(self) -> None:
        """List all shortcuts, and let them be changed."""
        ShortcutsWindow(self, self.commands).exec()

    def _make_way(self) -> None:
        """Panels come one by one, and before any picture, where the editor is about to be shown."""
        if not self.editing:
            self.editor.turns.begin()

    def show_editor(self) -> None:
        """Show the open project."""
        self.files.has_piece = True
        self.fill_in.end()
        self._make_way()
        self.pages.setCurrentIndex(1)
        self.editor.piece_bar.show()
        self.editor.canvas.viewport.fit()
        self.editor.canvas.setFocus()
        self._switch_commands()

    def _show_opened(self) -> None:
        """Show what was opened: a template to be filled in, everything else to be edited."""
        self.show_editor()
        if self.session.project.template:
            self.show_fill_in()

    def show_fill_in(self) -> None:
        """Show the piece going round beside its slots, or go back to the editor."""
        if self.filling:
            self.fill_in.leave()
            return
        self.editor.canvas.end_everything()
        self.player.stop()
        self.files.has_piece = True
        self.pages.setCurrentWidget(self.fill_in)
        self.editor.piece_bar.show()
        self.fill_in.begin()
        self._switch_commands()

    def _switch_commands(self) -> None:
        for label, action in self.actions_.items():
            here = self.commands.commands[label].fills if self.filling else self.editing
            action.setEnabled(here or not action.data())
        for label in ("Save", "Save as…"):
            self.actions_[label].setEnabled(self.editing or self.files.has_piece)
        self._name_window()
        self._name_steps()

    def _name_window(self) -> None:
        name = shown_name(self.session)
        star = "*" if self.session.history.unsaved else ""
        self.setWindowTitle(f"{name}{star} — Spiralis" if self.editing else "Spiralis")

    def _name_steps(self) -> None:
        toolbox = self.editor.canvas.toolbox
        for label, name in (("Undo", toolbox.undo_name), ("Redo", toolbox.redo_name)):
            action = self.actions_[label]
            action.setText(f"&{label}: {name}" if name else f"&{label}")
            action.setEnabled(self.editing and name is not None)

    def _offer_refresh(self, files: list[str]) -> None:
        names = ", ".join(Path(file).name for file in files[:4])
        verb = "was" if len(files) == 1 else "were"
        refresh = self.context.sources.rereading.refresh
        self.notice.offer(f"{names} {verb} changed outside.", "Refresh", lambda: refresh(files))

    def _offer_fonts(self, names: list[str]) -> None:
        several = "fonts are" if len(names) > 1 else "font is"
        sentence = f"{len(names)} {several} missing, and another stands in: {', '.join(names[:6])}."
        self.notice.offer(sentence, "Choose fonts…", self.windows.show_missing_fonts)

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
        self.files.keeping.write_copy_now()
        self.editor.canvas.end_everything()
        self.session.failed.emit(sentence)

    # -- closing ---------------------------------------------------------------------------------------

    def closeEvent(self, event: QCloseEvent) -> None:
        take_typed()
        if self.windows.exporting:
            self.session.failed.emit("An export is still running; cancel it or let it finish first.")
            event.ignore()
            return
        if not self.files.may_leave():
            event.ignore()
            return
        keep_clipboard()
        self.player.end()
        self.files.close()
        event.accept()

    def leave(self) -> None:
        """End without a question: what is unsaved stays as a copy for the next start, what is being written goes."""
        take_typed()
        self.windows.queue.stop_all()
        keep_clipboard()
        self.player.end()
        self.files.leave()
