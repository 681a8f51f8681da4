"""Dragging a handle of what has a size of its own: the box changes, letters, corners and strokes do not."""

from __future__ import annotations

from attrs import define, field

from spiralis.app.canvas.handles import SCALE_HANDLES, Frame, FrameDrag, Point, lines_beside
from spiralis.app.canvas.sight import sight
from spiralis.app.session import Session
from spiralis.core.editing.resizing import resized, size_name
from spiralis.core.geometry import Affine


@define
class ResizeDrag(FrameDrag):
    """The handle follows the pointer, its opposite stays; Shift keeps the proportions."""

    handle: str = "se"
    size: Point = (1.0, 1.0)
    inverse: Affine = field(factory=Affine)
    #: Where the handle itself began, in the composition; the pointer took hold of it a little aside.
    began: Point = (0.0, 0.0)

    @staticmethod
    def begin(session: Session, start: Point, frame: Frame, handle: str) -> ResizeDrag | None:
        """Remember the size; None where the layer has none of its own."""
        at = session.evaluated()
        name, inverse = size_name(at, frame.layer), sight(session, frame.layer).inverse()
        if not name or inverse is None:
            return None
        began = sight(session, frame.layer).apply(*frame.place(SCALE_HANDLES[handle]))
        return ResizeDrag(
            session, start, frame=frame, lines=lines_beside(session, frame.layer), handle=handle,
            size=at.values(frame.layer)[name], inverse=inverse, began=began,
        )  # fmt: skip

    def move(self, point: Point, shift: bool, control: bool, reach: float) -> None:
        """Give the layer the size that puts the handle under the pointer."""
        if self.frame is None:
            return
        moved = (point[0] - self.start[0] + self.began[0], point[1] - self.start[1] + self.began[1])
        point = self.snapped(moved, control, reach)
        share = SCALE_HANDLES[self.handle]
        here, began = self.inverse.apply(*point), self.inverse.apply(*self.began)
        # How far the handle went, seen outwards.
        signs = (2 * share[0] - 1, 2 * share[1] - 1)
        size = [max(side + sign * (h - b), 1.0) for side, sign, h, b in zip(self.size, signs, here, began, strict=True)]
        if shift and len(self.handle) == 2:
            by = max(size[0] / self.size[0], size[1] / self.size[1])
            size = [side * by for side in self.size]
        layer_id, project = self.frame.layer.id, self.session.project
        self.says = f"{size[0]:.0f} × {size[1]:.0f} px"
        self.session.edit(
            f"Size of {self.frame.layer.name}",
            lambda piece: resized(project, piece, layer_id, (size[0], size[1]), share, self.session.frame),
            merge=self.merge,
        )
