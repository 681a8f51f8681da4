"""Vector art to and from JSON: path data as SVG writes it, all else as plain fields."""

from __future__ import annotations

import math
from typing import Any

from spiralis.core.errors import ModelError
from spiralis.core.geometry import Affine
from spiralis.core.model import BLEND_MODES
from spiralis.core.model.art import DEEPEST, Bundle, Figure, Item, Paint, Ramp, Stroke, contours_of, path_data


def art_out(item: Item) -> dict[str, Any]:
    """Return an item as JSON values."""
    data: dict[str, Any] = {}
    if item.matrix != Affine():
        m = item.matrix
        data["matrix"] = [m.a, m.b, m.c, m.d, m.e, m.f]
    if isinstance(item, Figure):
        data["path"] = path_data(item.contours)
        if item.fill is not None:
            data["fill"] = _paint_out(item.fill)
        if item.rule != "nonzero":
            data["rule"] = item.rule
        if item.stroke is not None:
            data["stroke"] = _stroke_out(item.stroke)
        if item.stroke_first:
            data["stroke_first"] = True
        return data
    data["items"] = [art_out(part) for part in item.items]
    if item.opacity != 1:
        data["opacity"] = item.opacity
    if item.blend != "normal":
        data["blend"] = item.blend
    if item.clips:
        data["clips"] = [[art_out(figure) for figure in clip] for clip in item.clips]
    if item.mask is not None:
        data["mask"] = art_out(item.mask)
        data["mask_by_alpha"] = item.mask_by_alpha
    return data


def _paint_out(paint: Paint) -> Any:
    if not isinstance(paint, Ramp):
        return list(paint)
    m = paint.matrix
    return {
        "radial": paint.radial, "points": list(paint.points), "stops": [list(stop) for stop in paint.stops],
        "spread": paint.spread, "matrix": [m.a, m.b, m.c, m.d, m.e, m.f],
    }  # fmt: skip


def _stroke_out(stroke: Stroke) -> dict[str, Any]:
    data = {name: getattr(stroke, name) for name in ("width", "cap", "join", "miter_limit", "dash_offset")}
    return {"paint": _paint_out(stroke.paint), **data, "dash": list(stroke.dash)}


def art_in(data: Any) -> Bundle:
    """Return the art of JSON values; raises ModelError on anything else."""
    item = _item_in(data, 0)
    if not isinstance(item, Bundle):
        raise ModelError("art is a bundle of items")
    return item


def _fields(data: Any, names: set[str]) -> dict[str, Any]:
    if not isinstance(data, dict) or set(data) - names:
        raise ModelError("a shape has an unknown field")
    return data


def _number(value: Any) -> float:
    if isinstance(value, bool) or not isinstance(value, int | float) or not math.isfinite(value) or abs(value) > 1e9:
        raise ModelError("a shape holds something that is no number")
    return float(value)


def _numbers(value: Any, count: int | None = None) -> tuple[float, ...]:
    if not isinstance(value, list) or (count is not None and len(value) != count):
        raise ModelError("a shape holds a list of the wrong length")
    return tuple(_number(part) for part in value)


def _list(value: Any) -> list[Any]:
    if not isinstance(value, list):
        raise ModelError("a shape's items are a list")
    return value


def _matrix(data: dict[str, Any]) -> Affine:
    return Affine(*_numbers(data["matrix"], 6)) if "matrix" in data else Affine()


def _paint_in(data: Any) -> Paint:
    if isinstance(data, list):
        return _numbers(data, 4)  # type: ignore[return-value]
    data = _fields(data, {"radial", "points", "stops", "spread", "matrix"})
    stops: Any = tuple(_numbers(stop, 5) for stop in _list(data.get("stops")))
    return Ramp(data.get("radial") is True, _numbers(data.get("points")), stops, str(data.get("spread", "pad")),
                _matrix(data))  # fmt: skip


def _stroke_in(data: Any) -> Stroke:
    data = _fields(data, {"paint", "width", "cap", "join", "miter_limit", "dash", "dash_offset"})
    return Stroke(
        _paint_in(data.get("paint")), _number(data.get("width", 1.0)), str(data.get("cap", "butt")),
        str(data.get("join", "miter")), _number(data.get("miter_limit", 4.0)), _numbers(data.get("dash", [])),
        _number(data.get("dash_offset", 0.0)),
    )  # fmt: skip


def _item_in(data: Any, depth: int) -> Item:
    if depth > 2 * DEEPEST:
        raise ModelError("shapes are nested too deep")
    if isinstance(data, dict) and "path" in data:
        return _figure_in(data)
    data = _fields(data, {"items", "opacity", "blend", "clips", "mask", "mask_by_alpha", "matrix"})
    opacity = _number(data.get("opacity", 1.0))
    blend = data.get("blend", "normal")
    if not 0 <= opacity <= 1 or blend not in BLEND_MODES:
        raise ModelError("a bundle of shapes has an unknown opacity or blend")
    mask = _item_in(data["mask"], depth + 1) if "mask" in data else None
    if isinstance(mask, Figure):
        raise ModelError("a mask is a bundle of items")
    items = tuple(_item_in(part, depth + 1) for part in _list(data.get("items")))
    clips = tuple(tuple(_figure_in(figure) for figure in _list(clip)) for clip in _list(data.get("clips", [])))
    return Bundle(items, opacity, blend, clips, mask, data.get("mask_by_alpha") is True, _matrix(data))


def _figure_in(data: Any) -> Figure:
    data = _fields(data, {"path", "fill", "rule", "stroke", "stroke_first", "matrix"})
    if not isinstance(data.get("path"), str):
        raise ModelError("a figure's path is a text")
    return Figure(
        contours_of(data["path"]),
        _paint_in(data["fill"]) if "fill" in data else None,
        str(data.get("rule", "nonzero")),
        _stroke_in(data["stroke"]) if "stroke" in data else None,
        data.get("stroke_first") is True,
        _matrix(data),
    )
