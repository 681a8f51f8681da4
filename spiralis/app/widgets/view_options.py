"""What is shown: beside the piece on the canvas, and which panels are open. Not in the project file."""

from __future__ import annotations

from PyQt6.QtCore import QObject, pyqtSignal

from spiralis.app.widgets.preferences import preferred

AIDS: dict[str, tuple[str, bool]] = {
    "rulers": ("Rulers", False), "guides": ("Guides", True), "grid": ("Grid", False), "thirds": ("Thirds", False),
    "safe": ("Safe area", False), "outer": ("Outer piece around a nest", True), "snap": ("Snap while dragging", True),
    "onion": ("Onion skin", False),
}  # fmt: skip


#: Panels, and how the picture lies beside them.
PANELS: dict[str, tuple[str, bool]] = {
    "layers": ("Layer list", True), "pace": ("Pace", True), "details": ("Details", True),
    "alone": ("Picture alone", False), "across": ("Picture across the top", False),
}  # fmt: skip

#: What is heard.
HEARD: dict[str, tuple[str, bool]] = {"sound": ("Sound while it plays", True)}

#: Their shortcuts from the start.
PANEL_KEYS = {"layers": "Alt+1", "pace": "Alt+2", "details": "Alt+3", "across": "Alt+4", "alone": "F8"}


class ViewOptions(QObject):
    """Switches by name; ``changed`` tells when one turns."""

    changed = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self._on = {name: on for name, (_, on) in (AIDS | PANELS | HEARD).items()}
        self.unit: str = preferred("time")

    def __getitem__(self, name: str) -> bool:
        return self._on[name]

    def count_in(self, unit: str) -> None:
        """Show times in frames, seconds or timecode."""
        self.unit = unit
        self.changed.emit()

    def put(self, switches: dict[str, bool]) -> None:
        """Set several switches at once."""
        self._on.update(switches)
        self.changed.emit()

    def toggle(self, name: str) -> None:
        """Turn a switch."""
        self._on[name] = not self._on[name]
        self.changed.emit()
