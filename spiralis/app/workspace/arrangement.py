"""Where the panels stand: beside each other for upright and square pieces, the picture across the top for wide ones."""

from __future__ import annotations

from attrs import frozen
from PyQt6 import sip
from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtWidgets import QApplication, QVBoxLayout, QWidget

from spiralis.app.session import Session
from spiralis.app.widgets.dividers import GRIP, Dividers
from spiralis.app.workspace.room import DETAILS, FOLDING, LAYERS, PACE, TRANSPORT, Need, Remembered, shape_of

_ACROSS, _DOWN = Qt.Orientation.Horizontal, Qt.Orientation.Vertical
#: So long after the last move of a divider, in ms, its place is written down.
_WRITE = 600


@frozen(eq=False)
class Parts:
    """What is arranged: the picture, the ring and buttons of time, and the panels that fold."""

    picture: QWidget
    transport: QWidget
    layers: QWidget
    pace: QWidget
    details: QWidget


class Arrangement(QWidget):
    """Follows the view options of the session, and remembers folding and sizes by the shape of the piece."""

    def __init__(self, session: Session, parts: Parts) -> None:
        super().__init__()
        self.session, self.parts = session, parts
        self.remembered = Remembered()
        self._shape = ""
        self._built: object = None
        self._divisions: dict[str, Dividers] = {}
        self._showing = False
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(0, 0, 0, 0)
        self._root: QWidget | None = None
        self._boxes: list[QWidget] = []
        self._time: QWidget = self
        self._later = QTimer(self)
        self._later.setSingleShot(True)
        self._later.setInterval(_WRITE)
        self._later.timeout.connect(self.remembered.write)
        self._settle = QTimer(self)
        self._settle.setSingleShot(True)
        self._settle.timeout.connect(self._size)
        session.view.changed.connect(self._view_changed)
        session.projectChanged.connect(self._piece_changed)
        session.compositionChanged.connect(self._piece_changed)
        self._piece_changed()

    # -- what is wanted ----------------------------------------------------------------------------------

    @property
    def _open(self) -> frozenset[str]:
        view = self.session.view
        return frozenset() if view["alone"] else frozenset(name for name in FOLDING if view[name])

    @property
    def _need(self) -> Need:
        piece = self.session.composition
        return Need(
            self.width(), self.height(), (piece.width, piece.height), self.session.view["across"], self._open
        )  # fmt: skip

    @property
    def _name(self) -> str:
        """What tells this arrangement from others whose sizes are remembered apart."""
        return " ".join(["across" if self._need.across else "beside", *sorted(self._open)])

    def _piece_changed(self) -> None:
        """Take up what is remembered of pieces of this shape."""
        shape = shape_of(self.session.composition)
        if shape == self._shape:
            return
        self._shape = shape
        folded = self.remembered.folded(shape)
        self._showing = True
        self.session.view.put({
            **{name: name not in folded for name in FOLDING}, "across": self.remembered.across(shape),
        })  # fmt: skip
        self._showing = False
        self.arrange()

    def _view_changed(self) -> None:
        view = self.session.view
        if self._showing:
            return
        self.remembered.keep(self._shape, frozenset(n for n in FOLDING if not view[n]), view["across"])
        self._later.start()
        self.arrange()

    # -- putting it together ------------------------------------------------------------------------------

    def arrange(self) -> None:
        """Put the panels where they belong, as large as they were left here."""
        need, held = self._need, QApplication.focusWidget()
        inside = held is not None and self.isAncestorOf(held)
        wanted = (need.across, need.ring_under_picture)
        if wanted != self._built:
            self._built = wanted
            self._build(need)
        for name in FOLDING:
            panel: QWidget = getattr(self.parts, name)
            panel.setVisible(name in need.open)
        self._time.setVisible(bool(need.open & {"layers", "pace"}) or not need.ring_under_picture)
        if held is not None and inside:
            self.parts.picture.setFocus()
            QTimer.singleShot(0, lambda: self._give_back(held))
        self._size()
        # What has just come or gone has its say on the least sizes only after this turn.
        self._settle.start()

    def _give_back(self, held: QWidget) -> None:
        """Let keys go on to where they went if that is still seen; the picture has them since: not a list that comes
        next by chance."""
        if not sip.isdeleted(held) and held.isVisible():
            held.setFocus()

    def _build(self, need: Need) -> None:
        parts, old = self.parts, self._root
        if need.across:
            top = Dividers(_ACROSS, (parts.picture, parts.details))
            rest = QWidget()
            time = Dividers(_ACROSS, (column((parts.transport, rest), rest), parts.layers, parts.pace))
            root = Dividers(_DOWN, (top, time))
            self._time, self._boxes = time, []
            self._divisions = {"outer": root, "details": top, "time": time}
        else:
            inner = Dividers(_DOWN, (parts.layers, parts.pace))
            left, right = (
                ((parts.picture, parts.transport), (inner,)) if need.ring_under_picture
                else ((parts.picture,), (inner, parts.transport))
            )  # fmt: skip
            self._time = column(right, inner)
            self._boxes = [column(left, parts.picture), self._time]
            root = Dividers(_ACROSS, (*self._boxes, parts.details))
            self._divisions = {"outer": root, "time": inner}
        for shown in (parts.transport, parts.picture, *root.findChildren(Dividers), *self._boxes):
            # What got another parent is hidden for now, and to a division what is hidden has no size.
            shown.show()
        for division in self._divisions.values():
            division.splitterMoved.connect(self._moved)
            division.evened.connect(self.even_out)
            division.resized.connect(self._settle.start)
        self._root = root
        self._column.addWidget(root)
        if old is not None:
            self._column.removeWidget(old)
            old.hide()
            old.deleteLater()

    def _size(self) -> None:
        """Give each its size: as it was left, or else as the picture gets most."""
        sizes = {**self._usual(), **self.remembered.sizes(self._shape, self._name)}
        for name, division in self._divisions.items():
            if len(sizes[name]) == division.count():
                division.setSizes(sizes[name])

    def _usual(self) -> dict[str, list[int]]:
        need = self._need
        first, second = need.outer()
        if need.across:
            pace = PACE[0] if "pace" in need.open else 0
            layers = max(need.width - TRANSPORT[0] - pace - 2 * GRIP, LAYERS[0])
            return {
                "outer": [first, second], "details": [need.width - DETAILS, DETAILS],
                "time": [TRANSPORT[0], layers, pace],
            }  # fmt: skip
        height = need.height
        return {"outer": [first, second, DETAILS], "time": [round(0.52 * height), round(0.48 * height)]}

    # -- by hand ------------------------------------------------------------------------------------------

    def _moved(self) -> None:
        sizes = {name: division.sizes() for name, division in self._divisions.items()}
        self.remembered.keep_sizes(self._shape, self._name, sizes)
        self._later.start()

    def even_out(self) -> None:
        """Give all panels their usual sizes again."""
        self.remembered.keep_sizes(self._shape, self._name, {})
        self._later.start()
        self._size()


def column(widgets: tuple[QWidget, ...], growing: QWidget) -> QWidget:
    """Return widgets above each other, of which one takes the room that is left."""
    box = QWidget()
    rows = QVBoxLayout(box)
    rows.setContentsMargins(0, 0, 0, 0)
    rows.setSpacing(0)
    for widget in widgets:
        rows.addWidget(widget, 1 if widget is growing else 0)
    return box
