"""The grips of a gradient over the frame: its line, its ends and its stops."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import Any

from attrs import frozen

from spiralis.core.model.adding import Grip, Grips, Point


@frozen
class RampLine:
    """A gradient's line in the layer's units: for a conic one from its centre outwards."""

    start: Point
    end: Point


def ramp_line(values: Mapping[str, Any], width: float, height: float) -> RampLine | None:
    """Return the line along which a backdrop's stops lie; None for a flat one."""
    style = values["style"]
    if style == "flat":
        return None
    cx, cy = (size * part / 100 for size, part in zip((width, height), values["centre"], strict=True))
    if style == "radial":
        return RampLine((cx, cy), (cx + float(values["reach"]) / 100 * math.hypot(width, height) / 2, cy))
    angle = math.radians(float(values["angle"]))
    across, down = math.cos(angle), math.sin(angle)
    if style == "conic":
        reach = min(width, height) / 3
        return RampLine((cx, cy), (cx + reach * across, cy + reach * down))
    half = float(values["reach"]) / 200 * (abs(width * across) + abs(height * down))
    return RampLine((cx - half * across, cy - half * down), (cx + half * across, cy + half * down))


def _grips(values: Mapping[str, Any], width: float, height: float) -> list[Grip]:
    """Return the grips, stops before the ends that they may lie on."""
    line = ramp_line(values, width, height)
    if line is None:
        return []
    grips = []
    if values["style"] != "conic":
        for index, stop in enumerate(values["stops"]):
            grips.append(Grip("stop", index, _between(line, stop[0]), (stop[1], stop[2], stop[3], stop[4])))
    centre = "start" if values["style"] == "linear" else "centre"
    return [*grips, Grip(centre, 0, line.start), Grip("end", 0, line.end)]


def _moved(
    values: Mapping[str, Any], width: float, height: float, grip: Grip, here: Point, even: bool
) -> Mapping[str, Any]:
    if grip.what == "centre":
        return {"centre": (round(100 * here[0] / width, 2), round(100 * here[1] / height, 2))}
    line = ramp_line(values, width, height)
    if line is None:
        return {}
    if grip.what == "stop":
        return {"stops": _moved_stop(values["stops"], grip.index, _share(line, here))}
    if values["style"] == "radial":
        return {"reach": _within(200 * math.dist(line.start, here) / math.hypot(width, height))}
    ends = (here, line.end) if grip.what == "start" else (line.start, here)
    angle = math.degrees(math.atan2(ends[1][1] - ends[0][1], ends[1][0] - ends[0][0]))
    angle = round(angle / 15) * 15.0 if even else round(angle, 1)
    if values["style"] == "conic":
        return {"angle": angle}
    turn = math.radians(angle)
    whole = abs(width * math.cos(turn)) + abs(height * math.sin(turn))
    middle = ((ends[0][0] + ends[1][0]) / 2, (ends[0][1] + ends[1][1]) / 2)
    centre = (round(100 * middle[0] / width, 2), round(100 * middle[1] / height, 2))
    return {"angle": angle, "centre": centre, "reach": _within(100 * math.dist(*ends) / whole)}


def _between(line: RampLine, share: float) -> Point:
    return (
        line.start[0] + share * (line.end[0] - line.start[0]), line.start[1] + share * (line.end[1] - line.start[1])
    )  # fmt: skip


def _within(reach: float) -> float:
    return round(min(max(reach, 1.0), 1000.0), 2)


def _share(line: RampLine, here: Point) -> float:
    dx, dy = line.end[0] - line.start[0], line.end[1] - line.start[1]
    length = dx * dx + dy * dy
    share = ((here[0] - line.start[0]) * dx + (here[1] - line.start[1]) * dy) / length if length > 0 else 0.0
    return round(min(max(share, 0.0), 1.0), 3)


def _moved_stop(stops: tuple[tuple[float, ...], ...], index: int, share: float) -> tuple[tuple[float, ...], ...]:
    return tuple((share, *stop[1:]) if number == index else stop for number, stop in enumerate(stops))


RAMP_GRIPS = Grips(_grips, _moved)
