"""What sound is heard from, and a sound that goes round and round as it is read from there."""

from __future__ import annotations

from typing import Protocol

import numpy as np
from PyQt6.QtCore import QIODevice

from spiralis.core.sound.reading import CHANNELS, RATE

#: So many seconds are handed on ahead, so that a window that is held for a moment is not heard.
_AHEAD = 0.25
#: A sound that is so many seconds from where the clock is, the wait of the loudspeaker counted in, begins there anew.
_OFF = 0.5
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

    def near(self, place: int, length: int) -> bool:
        """Whether it is read about where a clock says, once it is of so many samples; it runs a little ahead."""
        off = self.place - place
        if self.loop and length:
            off = (off + length // 2) % length - length // 2
        return abs(off) <= _OFF * RATE

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


class Outlet:
    """Lets one sound at a time be heard, in step with the clock of what plays it."""

    def __init__(self) -> None:
        #: Whether nothing was found that it could be heard from.
        self.nowhere = False
        self._speaker: Loudspeaker | None = None
        self._round: Round | None = None

    def play(self, samples: np.ndarray, loop: bool, gone: float) -> None:
        """Let a sound be heard, or go on with it where another one was.

        Args:
            samples: float32 (n, 2).
            loop: whether it begins anew at its end.
            gone: so many seconds of it have gone by the clock, rounds counted in.
        """
        place = round(gone * RATE)
        if self._round is not None and self._round.loop == loop and self._round.near(place, len(samples)):
            self._round.put(samples)
            return
        self.end()
        self._speaker = loudspeaker()
        self.nowhere = self._speaker is None
        if self._speaker is not None:
            self._round = Round(samples, loop, place)
            self._speaker.start(self._round)

    def end(self) -> None:
        """Be silent at once."""
        if self._speaker is not None:
            self._speaker.stop()
        self._speaker = self._round = None
