"""The tool in hand on the canvas: taken up, used, put away."""

from __future__ import annotations

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import QWidget

from spiralis.app.canvas.frame_tool import FrameTool
from spiralis.app.canvas.pen import PenTool, Points
from spiralis.app.canvas.pin_tool import PinTool
from spiralis.app.canvas.tools import Tool
from spiralis.app.session import Session
from spiralis.app.widgets.asking import may_lose
from spiralis.app.work.playback import Player
from spiralis.core.editing.combining import would_lose
from spiralis.core.editing.contours import as_drawing, form_names
from spiralis.core.model import layer_kind


class Toolbox(QObject):
    """Holds the tool that has the mouse, if any; ``stepped`` after each step of it."""

    stepped = pyqtSignal()

    def __init__(self, session: Session, player: Player, widget: QWidget) -> None:
        super().__init__()
        self.session, self.player, self.widget = session, player, widget
        self.tool: Tool | None = None
        session.selectionChanged.connect(self.settle)

    def undo(self) -> None:
        """Take back the last step of the tool in hand, else that of the project; a drag is over with it."""
        self.session.gesture.put_down()
        if self.tool is None or not self.tool.steps.undo():
            self.session.undo()
        self._tell()

    def redo(self) -> None:
        """Bring back the last step of the tool in hand, else that of the project; a drag is over with it."""
        self.session.gesture.put_down()
        if self.tool is None or not self.tool.steps.redo():
            self.session.redo()
        self._tell()

    @property
    def undo_name(self) -> str | None:
        """What undo would take back."""
        drawn = self.tool is not None and self.tool.steps.before
        return "what was drawn last" if drawn else self.session.history.undo_name

    @property
    def redo_name(self) -> str | None:
        """What redo would bring back."""
        drawn = self.tool is not None and self.tool.steps.after
        return "what was drawn next" if drawn else self.session.history.redo_name

    def _tell(self) -> None:
        self.widget.update()
        self.stepped.emit()

    def _take(self, tool: Tool) -> None:
        self.tool = tool
        self.widget.setFocus()
        self._tell()

    def draw(self, masks: bool = False) -> None:
        """Draw a new outline from the next click on, or one that ``masks`` the chosen layer."""
        self.player.stop()
        chosen = self.session.layers
        if masks and not chosen:
            self.session.failed.emit("Choose the layer that is to be masked.")
            return
        self._take(PenTool(self.session, chosen[0].id if masks else None))

    def edit_chosen_points(self) -> None:
        """Edit the points of the chosen shape."""
        layers = self.session.layers
        if layers and layers[0].has("art") and layers[0].has("form") and not layers[0].locked:
            self.edit_points(layers[0].id)

    def edit_points(self, layer_id: str) -> None:
        """Edit the points of a shape; a plain form becomes a drawing first."""
        self.player.stop()
        self.session.select([layer_id])
        layer = self.session.composition.layer(layer_id)
        if self.session.evaluated().values(layer)["form"] != "drawing":
            lost = would_lose(self.session.composition, [layer_id], form_names(layer))
            if lost and not may_lose("A drawing keeps the form as it is on this frame", lost):
                return
            self.session.edit_layers(
                "Make it a drawing", lambda old: as_drawing(self.session.evaluated(), old), [layer_id]
            )
        self._take(Points(self.session, layer_id))

    def pin(self) -> None:
        """Pin the chosen layer to four corners in the picture."""
        self.player.stop()
        layers = self.session.layers
        if len(layers) != 1 or layer_kind(layers[0].kind).unseen:
            self.session.failed.emit("Choose the one layer that is to be pinned.")
        elif layers[0].locked:
            self.session.failed.emit(f"“{layers[0].name}” is locked; unlock it to pin it.")
        else:
            self._take(PinTool(self.session, layers[0].id))

    def crop_frame(self) -> None:
        """Crop or enlarge the composition by dragging its edges."""
        self.player.stop()
        self.session.select(())
        self._take(FrameTool(self.session))

    def end(self) -> None:
        """Put the tool away; what the pen has drawn so far becomes a layer."""
        if self.tool is None:
            return
        if isinstance(self.tool, PenTool) and not self.tool.done:
            self.tool.finish(closed=False)
        self.tool = None
        self.session.close_step()
        self._tell()

    def settle(self) -> None:
        """Put away a tool that has nothing to work on any more."""
        if self.tool is not None and not self.tool.settle():
            self.tool = None
            self._tell()

    def after_use(self) -> None:
        """Show what the tool did, and put it away where it is done."""
        if self.tool is not None and self.tool.done:
            self.end()
        self._tell()
