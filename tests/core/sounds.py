"""Sounds made for tests: tones, and steps whose height says where in the file one is."""

from __future__ import annotations

import io
import wave
from fractions import Fraction
from pathlib import Path

import av
import numpy as np

from spiralis.core.media.sources import read_source
from spiralis.core.model import Composition, Layer, Project, Source

RATE = 48_000


def tone(seconds: float = 1.0, pitch: float = 440.0, loud: float = 0.5) -> np.ndarray:
    """Return a tone, float64 (n,)."""
    return loud * np.sin(2 * np.pi * pitch * np.arange(round(seconds * RATE)) / RATE)


def wav(samples: np.ndarray, rate: int = RATE) -> bytes:
    """Return samples, (n,) or (n, channels) within -1 to 1, as a WAV file of 16 bits."""
    columns = samples.reshape(len(samples), -1)
    buffer = io.BytesIO()
    with wave.open(buffer, "wb") as file:
        file.setnchannels(columns.shape[1])
        file.setsampwidth(2)
        file.setframerate(rate)
        file.writeframes(np.rint(columns * 32767).astype("<i2").tobytes())
    return buffer.getvalue()


def write_wav(path: Path, samples: np.ndarray, rate: int = RATE) -> Path:
    """Write samples to a file and return where."""
    path.write_bytes(wav(samples, rate))
    return path


def sound(folder: Path, samples: np.ndarray, name: str = "Tune.wav") -> Source:
    """Return the source of samples, read from a file as a person's would be."""
    return read_source(write_wav(folder / name, samples))


def piece_with(*layers: Layer, source: Source, length: int = 50, rate: Fraction = Fraction(25)) -> Project:
    """Return a project of one small piece that has a sound among its sources."""
    project, _ = Project("Heard").with_source(source)
    return project.with_composition(Composition("Piece", 64, 48, rate, length, id="piece", layers=layers))


def clip_with_sound(samples: np.ndarray, frames: int = 25, rate: int = 25, late: float = 0.0) -> bytes:
    """Return a MOV of plain frames with samples (n,) beside them, so many seconds late, packed without loss."""
    buffer = io.BytesIO()
    with av.open(buffer, "w", format="mov") as output:
        seen = output.add_stream("libx264", rate=rate)
        seen.width, seen.height, seen.pix_fmt = 64, 48, "yuv420p"
        heard = output.add_stream("pcm_s16le", rate=RATE, layout="mono")
        for number in range(frames):
            pixels = np.full((48, 64, 3), 10 * number % 255, dtype=np.uint8)
            frame = av.VideoFrame.from_ndarray(pixels, format="rgb24").reformat(format="yuv420p")
            frame.pts, frame.time_base = number, Fraction(1, rate)
            output.mux(seen.encode(frame))
        output.mux(seen.encode(None))
        part = av.AudioFrame.from_ndarray(np.rint(samples * 32767).astype("<i2")[None], format="s16", layout="mono")
        part.sample_rate, part.pts, part.time_base = RATE, round(late * RATE), Fraction(1, RATE)
        output.mux(heard.encode(part))
        output.mux(heard.encode(None))
    return buffer.getvalue()
