"""The ready-made eases that Pace offers, each an ordinary CSS easing with a name of ours."""

from __future__ import annotations

import math

from attrs import frozen

from spiralis.core.animation.easing import DIGITS, HOLD, LINEAR, CubicBezier, Easing, LinearPoints, Steps


@frozen
class EaseTile:
    """A named ease: what the tile says, what it does, what hovering explains."""

    name: str
    label: str
    easing: Easing
    help: str


def bounce(count: int = 3, height: float = 0.28) -> LinearPoints:
    """Return an arrival with ``count`` rebounds, each ``height`` times as high as the one before.

    Rebounds are parabolas; their duration is the square root of their height, as under constant gravity.
    """
    durations = [1.0] + [2.0 * math.sqrt(height ** (i + 1)) for i in range(count)]
    total = sum(durations)
    points = [(0.0, 0.0)]
    start = 0.0
    for index, duration in enumerate(durations):
        steps = 12
        for step in range(1, steps + 1):
            s = step / steps
            drop = s * s if index == 0 else 1.0 - height**index * 4 * s * (1 - s)
            points.append(((start + s * duration) / total, round(drop, 5)))
        start += duration
    points[-1] = (1.0, 1.0)
    return LinearPoints(tuple(points))


def spring(cycles: float = 3.0, damping: float = 5.0, steps: int = 48) -> LinearPoints:
    """Return a damped harmonic arrival with ``cycles`` swings and decay ``damping`` over the segment."""
    points = []
    for step in range(steps + 1):
        t = step / steps
        points.append((t, round(1.0 - math.exp(-damping * t) * math.cos(2 * math.pi * cycles * t), 5)))
    points[0], points[-1] = (0.0, 0.0), (1.0, 1.0)
    return LinearPoints(tuple(points))


#: How soft the soft tiles are, by the strength's name: the part of the way that a start or stop takes.
STRENGTHS = {"light": 0.33, "medium": 0.5, "strong": 0.78}


def soft(name: str, strength: str = "medium") -> CubicBezier:
    """Return a soft start, stop or both (``soft-start``, ``soft-stop``, ``soft-both``) in one of STRENGTHS."""
    share = STRENGTHS[strength]
    start, stop = name in ("soft-start", "soft-both"), name in ("soft-stop", "soft-both")
    if start and stop:
        share -= 0.05 if strength == "medium" else 0.0
    return CubicBezier(share if start else 0, 0, round(1 - share, DIGITS) if stop else 1, 1)


EASE_TILES: tuple[EaseTile, ...] = (
    EaseTile("straight", "Straight", LINEAR, "The same speed all the way"),
    EaseTile("soft-start", "Soft start", soft("soft-start"), "Gathers speed, arrives at full speed"),
    EaseTile("soft-stop", "Soft stop", soft("soft-stop"), "Leaves at full speed, comes to rest"),
    EaseTile("soft-both", "Soft both", soft("soft-both"), "Starts and stops gently"),
    EaseTile("heavy-both", "Heavy", CubicBezier(0.8, 0, 0.2, 1), "Waits, rushes, waits"),
    EaseTile("snap", "Snap", CubicBezier(0.12, 0.9, 0.2, 1), "Almost there at once, then settles"),
    EaseTile("linger", "Linger", CubicBezier(0.3, 0.85, 0.7, 0.15), "Slows down in the middle of the way"),
    EaseTile("late", "Late", CubicBezier(0.85, 0, 0.9, 0.4), "Holds back and leaves at the last moment"),
    EaseTile("overshoot", "Overshoot", CubicBezier(0.25, 0.9, 0.35, 1.45), "Goes a little too far and comes back"),
    EaseTile("anticipate", "Anticipate", CubicBezier(0.6, -0.45, 0.75, 0.1), "Draws back before it leaves"),
    EaseTile("swing", "Swing", CubicBezier(0.65, -0.4, 0.35, 1.4), "Draws back, goes too far, settles"),
    EaseTile("bounce", "Bounce", bounce(), "Drops and bounces three times"),
    EaseTile("spring", "Spring", spring(), "Swings around its goal until it rests"),
    EaseTile("steps", "Steps", Steps(4, "end"), "Four equal jumps"),
    EaseTile("hold", "Hold", HOLD, "Stays, then jumps at the next key"),
)
