"""What is heard of a layer: which file or composition, from when on, how fast, and what comes after its end."""

from __future__ import annotations

from attrs import frozen


@frozen
class Heard:
    """A part of a sound, and when it is heard.

    Of the ``source``, or of what all layers of a ``composition`` sound like, the seconds from ``begin`` to ``end``
    (None is its own end) are heard from the frame ``start`` of the layer's composition on, ``speed`` times as fast, or
    ``backwards``. ``ends`` is ``once``, ``loop`` or ``ping-pong``. Where the layer's keys on its own frame say what
    shows when, they say what is heard when as well: ``keyed`` is how many of those frames make a second.
    """

    source: str = ""
    composition: str = ""
    start: float = 0.0
    speed: float = 1.0
    begin: float = 0.0
    end: float | None = None
    ends: str = "once"
    backwards: bool = False
    keyed: float = 0.0
