"""Sound in files of video: put beside pictures that are packed already."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from fractions import Fraction
from functools import cached_property
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

import av
import numpy as np
from attrs import define

from spiralis.core.media.placing import hidden_beside, remove
from spiralis.core.sound.reading import RATE

#: By container: the encoder of its sound, and how many bits a second it may take (0: as many as there are).
_PACKED = {"mp4": ("aac", 192_000), "webm": ("libopus", 160_000), "mov": ("pcm_s16le", 0)}
#: Samples that are handed to an encoder at once.
_PIECE = 48_000
_TICK = Fraction(1, RATE)


@define(slots=False)
class SoundTrack:
    """The sound of a file: ``samples`` of one round, float32 (n, 2), that is heard ``rounds`` times."""

    samples: np.ndarray
    rounds: int
    container: str
    options: Mapping[str, str]

    @cached_property
    def bytes(self) -> int:
        """How much larger a file gets by it: what it takes alone."""
        with TemporaryDirectory() as folder:
            path = Path(folder) / "alone"
            with self._written(path) as output:
                for packet in self._packets(self._stream(output)):
                    output.mux(packet)
            return path.stat().st_size

    def put_beside(self, path: Path) -> None:
        """Write a file that holds pictures anew, with the sound beside them; nothing is decoded or packed again.

        Raises:
            OSError: it cannot be written.
        """
        silent = hidden_beside(path)
        path.rename(silent)
        try:
            with av.open(str(silent)) as held, self._written(path) as output:
                own = held.streams.video[0]
                seen: Any = output.add_stream_from_template(own, opaque=True)
                heard = self._packets(self._stream(output))
                coming = next(heard, None)
                for packet in held.demux(own):
                    if not packet.size:
                        continue
                    moment = _begins(packet)
                    while coming is not None and _begins(coming) <= moment:
                        output.mux(coming)
                        coming = next(heard, None)
                    packet.stream = seen
                    output.mux(packet)
                while coming is not None:
                    output.mux(coming)
                    coming = next(heard, None)
        finally:
            remove(silent)

    def _written(self, path: Path) -> Any:
        return av.open(str(path), "w", format=self.container, options=dict(self.options))

    def _stream(self, output: Any) -> Any:
        encoder, bits = _PACKED[self.container]
        stream = output.add_stream(encoder, rate=RATE, layout="stereo")
        if bits:
            stream.bit_rate = bits
        return stream

    def _packets(self, stream: Any) -> Iterator[Any]:
        """Yield the packets of all rounds, in order."""
        place = 0
        for _ in range(self.rounds):
            for start in range(0, len(self.samples), _PIECE):
                piece = np.ascontiguousarray(np.clip(self.samples[start : start + _PIECE], -1, 1))
                frame = av.AudioFrame.from_ndarray(piece.reshape(1, -1), format="flt", layout="stereo")
                frame.sample_rate, frame.pts, frame.time_base = RATE, place, _TICK
                place += len(piece)
                yield from stream.encode(frame)
        yield from stream.encode(None)


def _begins(packet: Any) -> float:
    """Return when a packet is decoded, in seconds."""
    return float((packet.dts or 0) * packet.time_base)
