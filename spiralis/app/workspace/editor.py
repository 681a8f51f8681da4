"""The editor: every panel of an open project, put together."""

from __future__ import annotations

from PyQt6.QtWidgets import QVBoxLayout, QWidget

from spiralis.app.canvas import CanvasView
from spiralis.app.canvas.text_bar import TextBar
from spiralis.app.checks.watch import ChecksWatch
from spiralis.app.details import DetailsPanel
from spiralis.app.pace import PacePanel
from spiralis.app.project.importing import Importer
from spiralis.app.seam.watch import SeamWatch
from spiralis.app.session import Session
from spiralis.app.sources import SourcesDrawer
from spiralis.app.sources.acting import SourceActions
from spiralis.app.strips.add_strip import AddStrip
from spiralis.app.strips.flipbook import FlipbookStrip
from spiralis.app.strips.piece_bar import PieceBar
from spiralis.app.strips.transport import Transport
from spiralis.app.timeline import TimelinePanel
from spiralis.app.work.playback import Player
from spiralis.app.work.soon import in_the_way
from spiralis.app.work.staged import Staged
from spiralis.app.workspace.arrangement import Arrangement, Parts, column


class Editor(QWidget):
    """Canvas, time and Details, as they are arranged; the piece bar goes into the window's top line."""

    def __init__(self, session: Session, player: Player, importer: Importer, sources: SourceActions) -> None:
        super().__init__()
        self.session = session
        self.seam = SeamWatch(session, self, lambda: player.pressed)
        self.checks = ChecksWatch(session, self, lambda: player.pressed, lambda: player.playing)
        self.piece_bar = PieceBar(session, self.seam, self.checks)
        self.add_strip = AddStrip(session)
        self.add_strip.filesAsked.connect(importer.choose)
        self.flipbook = FlipbookStrip(session)
        self.canvas = CanvasView(session, player)
        self.text_bar = TextBar(session, self.canvas)
        self.transport = Transport(session, player, self.canvas, self.seam)
        self.timeline = TimelinePanel(session, player)
        self.pace = PacePanel(session, self.timeline.axis, self.timeline.width)
        self.details = DetailsPanel(session)
        self._lay_out()
        self.drawer = SourcesDrawer(session, self, sources)
        self._tie_together()
        # A panel before its parts: what encloses a part that is shown already would paint it once more.
        panels = (self.timeline, self.timeline.rows, self.pace, self.pace.curves, self.pace.tiles, self.details)
        # Sections of Details that are still to come wait for a picture that is awaited, not the picture for them.
        building = lambda: self.details.building and not in_the_way(self)  # noqa: E731
        self.turns = Staged(self, panels, holds=True, building=building)
        # What is chosen shows on the canvas and in the timeline first.
        chosen_in = (self.pace.curves, self.pace.tiles, self.details)
        self._choosing = Staged(self, chosen_in, holds=True, building=building)
        session.selectionChanged.connect(self._choosing.begin)

    def _lay_out(self) -> None:
        picture = self._picture = column((self.canvas, self.flipbook), self.canvas)
        picture.setFocusProxy(self.canvas)
        layers = self._layers = column((self.add_strip, self.text_bar, self.timeline), self.timeline)
        parts = Parts(picture, self.transport, layers, self.pace, self.details)
        self.arrangement = Arrangement(self.session, parts)
        rows = QVBoxLayout(self)
        rows.setContentsMargins(0, 0, 0, 0)
        rows.addWidget(self.arrangement)

    def _tie_together(self) -> None:
        """Connect what one panel asks of another."""
        self.add_strip.textAdded.connect(self.canvas.edit_text)
        self.add_strip.penAsked.connect(self.canvas.toolbox.draw)
        self.add_strip.drawerAsked.connect(self.drawer.toggle)
        self.canvas.text_bar = self.text_bar
        self.canvas.typing.moved.connect(self._place_text_bar)
        self.session.view.changed.connect(self._place_text_bar)
        self.canvas.typing.moved.connect(lambda: self.add_strip.setVisible(self.canvas.typing.editing is None))
        self.pace.hovered.connect(self.canvas.ease_preview.play)

    def _place_text_bar(self) -> None:
        """While words are typed their bar stands over the layers, or over the picture where those are folded away."""
        folded = self.session.view["alone"] or not self.session.view["layers"]
        home, place = (self._picture, 0) if folded else (self._layers, 1)
        if self.text_bar.parentWidget() is not home:
            rows = home.layout()
            assert isinstance(rows, QVBoxLayout)
            rows.insertWidget(place, self.text_bar)
            self.text_bar.refresh()
