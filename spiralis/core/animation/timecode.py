"""Frame numbers as people read them: frames, seconds, timecode.

Source: SMPTE ST 12-1; at 30000/1001 and 60000/1001 frames a second labels drop (no picture does), so that they keep
up with the clock.
"""

from __future__ import annotations

from fractions import Fraction

UNITS = ("frames", "seconds", "timecode")


def drops(rate: Fraction) -> bool:
    """Whether timecode at this rate skips labels."""
    return rate in (Fraction(30000, 1001), Fraction(60000, 1001))


def timecode(frame: int, rate: Fraction) -> str:
    """Return HH:MM:SS:FF, with a semicolon before the frames where labels drop; minus signs for frames before 0."""
    sign, count = ("-", -frame) if frame < 0 else ("", frame)
    base = max(round(rate), 1)
    mark = ":"
    if drops(rate):
        mark = ";"
        dropped = base // 15
        tens, rest = divmod(count, base * 600 - 9 * dropped)
        count += 9 * dropped * tens
        if rest >= dropped:
            count += dropped * ((rest - dropped) // (base * 60 - dropped))
    seconds, frames = divmod(count, base)
    minutes, seconds = divmod(seconds, 60)
    hours, minutes = divmod(minutes, 60)
    return f"{sign}{hours:02d}:{minutes:02d}:{seconds:02d}{mark}{frames:02d}"


def time_text(frame: int, rate: Fraction, unit: str) -> str:
    """Return a frame number in one of UNITS."""
    if unit == "timecode":
        return timecode(frame, rate)
    if unit == "seconds":
        return f"{float(frame / rate):.2f} s"
    return str(frame)
