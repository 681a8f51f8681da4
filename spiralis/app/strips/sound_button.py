"""The button that lets a piece be heard while it plays, or be silent; it is there where anything is heard."""

from __future__ import annotations

from PyQt6.QtWidgets import QToolButton

from spiralis.app.session import Session
from spiralis.app.style import icon
from spiralis.app.work.hearing import Hearing, Playing


class SoundButton(QToolButton):
    """Turns the sound of what a player plays on and off."""

    def __init__(self, session: Session, player: Playing) -> None:
        super().__init__()
        self._session = session
        self.hearing = Hearing(self, session, player)
        self.setAccessibleName("Sound while it plays")
        self.setFixedSize(32, 34)
        self.setCheckable(True)
        self.clicked.connect(lambda: session.view.toggle("sound"))
        self.hearing.changed.connect(self._show)
        session.view.changed.connect(self._show)
        self._show()

    def _show(self) -> None:
        on = self._session.view["sound"]
        # Where it has no place yet it would be seen as a window of its own; it comes with what it is put into.
        if self.parentWidget() is not None or not self.hearing.sounding:
            self.setVisible(self.hearing.sounding)
        self.setChecked(on)
        self.setIcon(icon("sound" if on else "sound-off"))
        nowhere = ": there is no loudspeaker on this machine" if self.hearing.nowhere else ", or silence"
        self.setToolTip(f"Sound while it plays{nowhere}")
