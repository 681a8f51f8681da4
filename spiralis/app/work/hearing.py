"""What is heard of the piece on the canvas while it plays."""

from __future__ import annotations

from contextlib import suppress
from functools import partial
from importlib import import_module
from typing import Protocol

import numpy as np
from PyQt6.QtCore import QIODevice, QObject, pyqtSignal

from spiralis.app.session import Session
from spiralis.app.work.background import Background
from spiralis.app.work.playback import Player
from spiralis.app.work.soon import Soon
from spiralis.core.model import Composition, Project
from spiralis.core.sound.mixing import mixed, sounds
from spiralis.core.sound.reading import CHANNELS, RATE

#: So many seconds are handed on ahead, so that a window that is held for a moment is not heard.
_AHEAD = 0.25
_BYTES = 2 * CHANNELS


class Round(QIODevice):
    """A sound that goes round and round, or once, read as 16-bit samples; another one may take its place meanwhile."""

    def __init__(self, samples: np.ndarray, loop: bool, place: int) -> None:
        super().__init__()
        self.loop = loop
        #: How many samples were read since its beginning, the first ones passed over.
        self.place = place
        self.put(samples)
        self.open(QIODevice.OpenModeFlag.ReadOnly)

    def put(self, samples: np.ndarray) -> None:
        """Go on with other samples, float32 (n, 2), where the ones before were."""
        self.samples = np.rint(np.clip(samples, -1, 1) * 32767).astype("<i2")

    def readData(self, most: int) -> bytes:
        """Return the next samples, silence once it is over."""
        wanted, length = most // _BYTES, len(self.samples)
        places = np.arange(self.place, self.place + wanted)
        self.place += wanted
        if not length:
            return bytes(wanted * _BYTES)
        taken = self.samples[places % length]
        if not self.loop:
            taken[places >= length] = 0
        return bytes(taken.data)

    def bytesAvailable(self) -> int:
        """There is always more."""
        return RATE * _BYTES

    def isSequential(self) -> bool:
        """Nobody can go back in it."""
        return True


class Loudspeaker(Protocol):
    """What a sound is heard from."""

    def start(self, device: QIODevice) -> None:
        """Begin to read from a device."""
        ...

    def stop(self) -> None:
        """Be silent at once."""
        ...


def loudspeaker() -> Loudspeaker | None:
    """Return what the machine lets sound be heard from, or None where there is nothing."""
    try:
        # No start pays for it: most pieces are silent.
        from PyQt6.QtMultimedia import QAudioFormat, QAudioSink, QMediaDevices
    except ImportError:  # The system has no library for sound.
        return None
    device = QMediaDevices.defaultAudioOutput()
    if device.isNull():
        return None
    form = QAudioFormat()
    form.setSampleRate(RATE)
    form.setChannelCount(CHANNELS)
    form.setSampleFormat(QAudioFormat.SampleFormat.Int16)
    sink = QAudioSink(device, form)
    sink.setBufferSize(round(_AHEAD * RATE) * _BYTES)
    return sink


def _mixed(project: Project, piece: Composition, span: tuple[int, int]) -> np.ndarray:
    """Return what a piece sounds like; beside the window, which does not wait for what plays it either."""
    with suppress(ImportError):
        import_module("PyQt6.QtMultimedia")
    return mixed(project, piece, *span)


class Hearing(QObject):
    """Lets the piece be heard from where it plays, in step with the clock; edits as soon as they are mixed."""

    #: Whether anything is heard of the piece on the canvas has changed, or whether there is something to hear it from.
    changed = pyqtSignal()

    def __init__(self, session: Session, player: Player) -> None:
        super().__init__()
        self.session, self.player = session, player
        self.sounding = False
        #: Whether nothing was found that it could be heard from.
        self.nowhere = False
        self._speaker: Loudspeaker | None = None
        self._round: Round | None = None
        self._background = Background(self)
        player.playingChanged.connect(self._follow)
        soon = Soon(self, self._look)
        for signal in (session.projectChanged, session.compositionChanged):
            signal.connect(soon.ask)
        self._wanted = session.view["sound"]
        session.view.changed.connect(self._heed)
        self._look()

    def _look(self) -> None:
        """See whether anything is heard of the piece as it is now, and mix it anew while it plays."""
        project = self.session.project
        piece = project.find(self.session.composition_id)
        before, self.sounding = self.sounding, piece is not None and sounds(project, piece)
        if before != self.sounding:
            self.changed.emit()
        self._follow()

    def _heed(self) -> None:
        """Let it be heard, or be silent, where the view's choice of that is another; of others it knows nothing."""
        before, self._wanted = self._wanted, self.session.view["sound"]
        if before != self._wanted:
            self._follow()

    def _follow(self) -> None:
        if self.player.playing and self.sounding and self.session.view["sound"]:
            project, piece, span = self.session.project, self.session.composition, self.session.composition.span
            self._background.run_newest(partial(_mixed, project, piece, span), self._take)
        else:
            self._end()

    def _take(self, samples: object) -> None:
        """Let samples be heard from where it plays now, or go on with them."""
        if not (isinstance(samples, np.ndarray) and self.player.playing and self.session.view["sound"]):
            return
        if self._round is not None and self._round.loop == self.player.loop:
            self._round.put(samples)
            return
        self._end()
        self._speaker = loudspeaker()
        if (self._speaker is None) != self.nowhere:
            self.nowhere = self._speaker is None
            self.changed.emit()
        if self._speaker is not None:
            self._round = Round(samples, self.player.loop, round(self.player.gone * RATE))
            self._speaker.start(self._round)

    def _end(self) -> None:
        if self._speaker is not None:
            self._speaker.stop()
        self._speaker = self._round = None
