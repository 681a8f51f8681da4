"""How long clips take by themselves, in frames of the composition."""

from __future__ import annotations

from fractions import Fraction

from spiralis.core.animation.source_time import there_and_back
from spiralis.core.model import Composition, Layer, Project
from spiralis.core.raster.kinds import flipbook, footage


def own_length(project: Project, piece: Composition, layer: Layer, ends: str = "loop") -> Fraction | None:
    """Return how many frames of the composition one round of footage or a flipbook takes at full speed.

    Of a clip that runs there and back (``ends`` is ``ping-pong``) a round is both ways. None where it has no file.
    """
    own_rate = layer.track("own_rate").value
    if layer.has("drawings"):
        clock = flipbook.clock_of(layer.track("drawings").value, own_rate) if layer.track("drawings").value else None
    else:
        source = project.source(layer.track("source").value)
        clock = footage.clock_of(source) if source is not None and not source.missing else None
        if clock is not None:
            last = int(layer.track("out").value) or clock.count
            clock = clock.cut(min(int(layer.track("in").value), clock.count - 1), min(last, clock.count))
            clock = clock.at_rate(Fraction(own_rate).limit_denominator(100_000)) if own_rate else clock
    if clock is not None and clock.count and ends == "ping-pong":
        clock = there_and_back(clock)
    return clock.ticks[-1] * clock.tick * piece.rate if clock is not None and clock.count else None
