"""The pen: draw a new outline on the canvas, or edit the points of one that is there."""

from __future__ import annotations

from collections.abc import Callable

from attrs import evolve
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QKeyEvent, QPainter, QPainterPath, QPen

from spiralis.app.session import Session
from spiralis.app.strips.add_strip import add_layer
from spiralis.app.style import GROUND, MARIGOLD, MINT, colour
from spiralis.app.work.steps import Steps
from spiralis.core.editing.contours import (
    controls,
    inserted,
    is_corner,
    moved,
    nearest,
    reshaped,
    segment_count,
    toggled,
    with_art_in_place,
    with_figure,
    with_handle,
    without,
)
from spiralis.core.editing.edits import unused_name
from spiralis.core.editing.matting import masked_by
from spiralis.core.geometry import Affine
from spiralis.core.model import Layer
from spiralis.core.model.art import Bundle, Contour, Figure, Stroke, Vertex, figures_in
from spiralis.core.raster.vectors import art_box

Point = tuple[float, float]
_FILL = (0.933, 0.376, 0.298, 1.0)
_LINE = (0.988, 0.957, 0.894, 1.0)
HELP = "Pen: click for corners, drag for curves, click the first point to close; Enter ends, Backspace takes back."
EDIT_HELP = "Points: drag points, handles or curves; Alt parts handles; double-click adds or softens; Delete removes."


class PenTool:
    """A new outline, kept here until it is done; then it becomes a shape layer, or a mask of the layer ``masks``."""

    def __init__(self, session: Session, masks: str | None = None) -> None:
        self.session = session
        self.masks = masks
        self.vertices: list[Vertex] = []
        self.hover: Point | None = None
        self.done = False
        self._pulling = False
        self.steps = Steps(lambda: tuple(self.vertices), self._put)
        session.said.emit(HELP)

    def press(self, point: Point, reach: float, alt: bool) -> None:
        """Add a corner, or close the outline on its first point."""
        if len(self.vertices) > 2 and _near(self.vertices[0], point, reach):
            self.finish(closed=True)
            return
        self.steps.keep()
        self.vertices.append((*point, *point, *point))
        self._pulling = True

    def move(self, point: Point, held: bool, alt: bool) -> None:
        """Pull handles out of the point that was just set."""
        self.hover = point
        if held and self._pulling and self.vertices:
            self.vertices[-1] = with_handle(Contour((self.vertices[-1],)), 0, True, point, not alt).vertices[0]

    def release(self) -> None:
        """The point is set."""
        self._pulling = False

    def double_click(self, point: Point, reach: float) -> None:
        """End an open outline; the click before it has set a point there already."""
        self.finish(closed=False)

    def key(self, event: QKeyEvent) -> bool:
        """Take keys while drawing; False for those that are not the pen's."""
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Escape):
            self.finish(closed=False)
        elif event.key() in (Qt.Key.Key_Backspace, Qt.Key.Key_Delete) and self.vertices:
            self.steps.keep()
            self.vertices.pop()
        else:
            return False
        return True

    def _put(self, vertices: tuple[Vertex, ...]) -> None:
        self.vertices, self._pulling = list(vertices), False

    def settle(self) -> bool:
        """Go on drawing; where the layer to mask is gone the outline becomes a layer of its own."""
        if self.masks is not None and self.session.composition.find(self.masks) is None:
            self.masks = None
        return True

    def finish(self, closed: bool) -> None:
        """Make a layer of the outline, where there is one."""
        self.done = True
        if len(self.vertices) < 2:
            return
        contour = Contour(tuple(self.vertices), closed)
        pen = Stroke(_LINE, 6.0, "round", "round")
        figure = Figure((contour,), _FILL) if closed else Figure((contour,), stroke=pen)
        art = Bundle((figure,))
        box = art_box(art)
        if box is None:
            return
        piece = self.session.composition
        name = unused_name("Path", {layer.name for layer in piece.layers})
        middle = ((box[0] + box[2]) / 2, (box[1] + box[3]) / 2)
        layer = Layer(name, "shape", 0, piece.length).with_values(art=art, position=middle)
        if self.masks is None:
            add_layer(self.session, layer)
            return
        masked, at = self.masks, self.session.evaluated()
        if self.session.edit("Mask with the pen", lambda _: masked_by(at, masked, layer)):
            self.session.select([layer.id])

    def paint(self, painter: QPainter, to_widget: Affine) -> None:
        """Draw the outline as it is so far."""
        if not self.vertices:
            return
        contour = Contour(tuple(self.vertices))
        _draw_outline(painter, contour, to_widget)
        if self.hover is not None and not self._pulling:
            last = self.vertices[-1]
            painter.setPen(QPen(colour(MARIGOLD, 0.5), 1, Qt.PenStyle.DashLine))
            painter.drawLine(QPointF(*to_widget.apply(*last[:2])), QPointF(*to_widget.apply(*self.hover)))
        _draw_points(painter, contour, to_widget, {len(self.vertices) - 1})


class Points:
    """The points of the outlines of a shape layer that is there."""

    def __init__(self, session: Session, layer_id: str) -> None:
        self.session = session
        self.layer_id = layer_id
        self.done = False
        self.chosen: tuple[tuple[int, ...], int, int] | None = None
        self._grip: tuple[str, Point] | None = None
        self._step = 0
        #: Each of its steps is in the project.
        self.steps: Steps[None] = Steps(lambda: None, lambda _: None)
        session.said.emit(EDIT_HELP)

    @property
    def _layer(self) -> Layer | None:
        layer = self.session.composition.find(self.layer_id)
        return layer if layer is not None and layer.has("art") else None

    def settle(self) -> bool:
        """Let go of a point that is gone; False where the layer is, shows no outlines any more, or is not chosen."""
        layer = self._layer
        if layer is None or layer.locked or self.layer_id not in self.session.selected:
            return False
        if self.chosen is not None:
            path, index, number = self.chosen
            found = next((figure for place, i, figure, _ in self._contours() if (place, i) == (path, index)), None)
            if found is None or number >= len(found.contours[index].vertices):
                self.chosen = self._grip = None
        return True

    def _contours(self) -> list[tuple[tuple[int, ...], int, Figure, Affine]]:
        """Return each contour: the place of its figure, its index, the figure, the map to the composition."""
        layer = self._layer
        if layer is None:
            return []
        at = self.session.evaluated()
        matrix = at.matrix(layer)
        found = figures_in(at.values(layer)["art"])
        return [(path, i, figure, matrix @ own) for path, figure, own in found for i in range(len(figure.contours))]

    def press(self, point: Point, reach: float, alt: bool) -> None:
        """Grab a handle of the chosen point, a point, or a curve."""
        self._step += 1
        self._grip = None
        self.session.gesture.begin(self._let_go)
        handle = self._handle_at(point, reach)
        if handle is not None:
            self._grip = (handle, point)
            return
        found = self._point_at(point, reach)
        if found is not None:
            self.chosen = found
            self._grip = ("out" if alt else "point", point)
            return
        hit = self._curve_at(point, reach)
        if hit is not None:
            path, index, segment, t = hit
            self.chosen = (path, index, segment)
            self._grip = (f"curve {t}", point)
        else:
            self.chosen = None

    def _handle_at(self, point: Point, reach: float) -> str | None:
        """Return which handle of the chosen point lies there."""
        found = next((c for c in self._contours() if self.chosen is not None and c[:2] == self.chosen[:2]), None)
        if found is None or self.chosen is None or self.chosen[2] >= len(found[2].contours[found[1]].vertices):
            return None
        vertex, matrix = found[2].contours[found[1]].vertices[self.chosen[2]], found[3]
        if is_corner(vertex):
            return None
        ends = {"out": vertex[4:], "in": vertex[2:4]}
        return next((kind for kind, end in ends.items() if _near(matrix.apply(*end), point, reach)), None)

    def _point_at(self, point: Point, reach: float) -> tuple[tuple[int, ...], int, int] | None:
        for path, index, figure, matrix in self._contours():
            for number, vertex in enumerate(figure.contours[index].vertices):
                if _near(matrix.apply(*vertex[:2]), point, reach):
                    return path, index, number
        return None

    def _curve_at(self, point: Point, reach: float) -> tuple[tuple[int, ...], int, int, float] | None:
        for path, index, figure, matrix in self._contours():
            inverse = matrix.inverse()
            if inverse is None or segment_count(figure.contours[index]) < 1:
                continue
            segment, t, distance = nearest(figure.contours[index], *inverse.apply(*point))
            if distance * max(matrix.stretch()) <= reach:
                return path, index, segment, t
        return None

    def move(self, point: Point, held: bool, alt: bool) -> None:
        """Drag what is grabbed."""
        if not held or self._grip is None or self.chosen is None:
            return
        kind, before = self._grip
        found = next((c for c in self._contours() if c[:2] == self.chosen[:2]), None)
        inverse = found[3].inverse() if found is not None else None
        if inverse is None:
            return
        dx, dy = inverse.apply_direction(point[0] - before[0], point[1] - before[1])
        number = self.chosen[2]

        def change(contour: Contour) -> Contour:
            if kind == "point":
                return moved(contour, number, dx, dy)
            if kind.startswith("curve"):
                return reshaped(contour, number, float(kind.split()[1]), dx, dy)
            return with_handle(contour, number, kind == "out", inverse.apply(*point), not alt)

        self._grip = (kind, point)
        self._edit("Move point" if kind == "point" else "Bend", change, merge=f"pen-{self._step}")

    def release(self) -> None:
        """The drag is over."""
        self._let_go()
        self.session.gesture.end()
        self.session.close_step()

    def _let_go(self) -> None:
        self._grip = None

    def double_click(self, point: Point, reach: float) -> None:
        """Make a point smooth or a corner; on a curve insert a point; elsewhere end."""
        found = self._point_at(point, reach)
        if found is not None:
            self.chosen = found
            self._edit("Corner or smooth", lambda contour: toggled(contour, found[2]))
            return
        hit = self._curve_at(point, reach)
        if hit is None:
            self.done = True
            return
        path, index, segment, t = hit
        self.chosen = (path, index, segment + 1)
        self._edit("Insert point", lambda contour: inserted(contour, segment, t))

    def key(self, event: QKeyEvent) -> bool:
        """Take keys while editing; False for those that are not the pen's."""
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Escape):
            self.done = True
        elif event.key() in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            if self.chosen is not None:
                number = self.chosen[2]
                self._edit("Remove point", lambda c: without(c, number) if len(c.vertices) > 2 else c)
                self.chosen = None
        else:
            return False
        return True

    def _edit(self, name: str, change: Callable[[Contour], Contour], merge: str | None = None) -> None:
        layer = self._layer
        if layer is None or self.chosen is None or layer.locked:
            return
        path, index, _ = self.chosen
        at = self.session.evaluated()
        art = at.values(layer)["art"]
        figure = next((found for place, found, _ in figures_in(art) if place == path), None)
        if figure is None:
            return
        contours = list(figure.contours)
        contours[index] = change(contours[index])
        fresh = with_figure(art, path, evolve(figure, contours=tuple(contours)))
        self.session.edit_layers(name, lambda old: with_art_in_place(at, old, fresh), [layer.id], merge)

    def paint(self, painter: QPainter, to_widget: Affine) -> None:
        """Draw outlines, points and the handles of the chosen one."""
        for path, index, figure, matrix in self._contours():
            contour, place = figure.contours[index], to_widget @ matrix
            _draw_outline(painter, contour, place)
            chosen = {self.chosen[2]} if self.chosen is not None and self.chosen[:2] == (path, index) else set()
            _draw_points(painter, contour, place, chosen)


def _near(vertex: tuple[float, ...], point: Point, reach: float) -> bool:
    return abs(vertex[0] - point[0]) <= reach and abs(vertex[1] - point[1]) <= reach


def _draw_outline(painter: QPainter, contour: Contour, to_widget: Affine) -> None:
    path = QPainterPath(QPointF(*to_widget.apply(*contour.vertices[0][:2])))
    for segment in range(segment_count(contour)):
        _, first, second, end = (QPointF(*to_widget.apply(*p)) for p in controls(contour, segment))
        path.cubicTo(first, second, end)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(colour(MARIGOLD), 1.6))
    painter.drawPath(path)


def _draw_points(painter: QPainter, contour: Contour, to_widget: Affine, chosen: set[int]) -> None:
    for number, vertex in enumerate(contour.vertices):
        here = QPointF(*to_widget.apply(*vertex[:2]))
        if number in chosen and not is_corner(vertex):
            for place in (vertex[2:4], vertex[4:]):
                there = QPointF(*to_widget.apply(*place))
                painter.setPen(QPen(colour(MINT), 1.2))
                painter.drawLine(here, there)
                painter.setBrush(colour(MINT))
                painter.drawEllipse(there, 3.2, 3.2)
        painter.setPen(QPen(colour(MARIGOLD), 1.5))
        painter.setBrush(colour(MARIGOLD if number in chosen else GROUND))
        if is_corner(vertex):
            painter.drawRect(int(here.x()) - 3, int(here.y()) - 3, 6, 6)
        else:
            painter.drawEllipse(here, 3.8, 3.8)
