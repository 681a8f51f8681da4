"""What a tool on the canvas is: something that takes mouse and keys until it is done."""

from __future__ import annotations

from typing import Any, Protocol

from PyQt6.QtGui import QKeyEvent, QPainter

from spiralis.app.work.steps import Steps
from spiralis.core.geometry import Affine

Point = tuple[float, float]


class Tool(Protocol):
    """Points are in the composition's pixels; ``reach`` is how near counts as on something."""

    done: bool
    #: What of it is not in the project yet, to be taken back step by step.
    steps: Steps[Any]

    def press(self, point: Point, reach: float, alt: bool) -> None:
        """The button went down."""

    def move(self, point: Point, held: bool, alt: bool) -> None:
        """The pointer moved."""

    def release(self) -> None:
        """The button went up."""

    def double_click(self, point: Point, reach: float) -> None:
        """A double-click."""

    def key(self, event: QKeyEvent) -> bool:
        """A key; False where it is not the tool's."""

    def settle(self) -> bool:
        """The project changed, or other layers were chosen; False where the tool has nothing to work on any more."""

    def paint(self, painter: QPainter, to_widget: Affine) -> None:
        """Draw over the picture."""
