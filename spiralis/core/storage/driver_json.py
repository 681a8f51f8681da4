"""Drivers and wobbles to and from JSON: a kind and its numbers."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any

from attrs import fields

from spiralis.core.animation.easing import LINEAR, Easing
from spiralis.core.errors import ModelError
from spiralis.core.model.drivers import DialJoin, Driver, Follow, Roll, Wobble

_KINDS: dict[str, type] = {"follow": Follow, "roll": Roll, "dial": DialJoin}


def driver_out(driver: Driver) -> dict[str, Any]:
    """Return a driver as JSON values."""
    kind = next(name for name, made in _KINDS.items() if isinstance(driver, made))
    data = {field.name: getattr(driver, field.name) for field in fields(type(driver))}
    data = {name: value for name, value in data.items() if value is not None}
    if isinstance(driver, DialJoin):
        data["stops"] = [[place, _lists(value)] for place, value in driver.stops]
        data["ease"] = driver.ease.css()
        if driver.ease == LINEAR:
            del data["ease"]
    return {"kind": kind, **data}


def _lists(value: Any) -> Any:
    return [_lists(part) for part in value] if isinstance(value, tuple) else value


def wobble_out(wobble: Wobble) -> dict[str, Any]:
    """Return a wobble as JSON values."""
    data = {field.name: getattr(wobble, field.name) for field in fields(Wobble)}
    return data if wobble.wander else {name: value for name, value in data.items() if name != "wander"}


def _numbers(data: dict[str, Any], whole: tuple[str, ...], texts: tuple[str, ...]) -> dict[str, Any]:
    for name, value in data.items():
        if name in texts:
            if not isinstance(value, str) or len(value) > 200:
                raise ModelError(f"a driver's {name} is a text")
        elif (
            isinstance(value, bool)
            or not isinstance(value, int if name in whole else int | float)
            or not math.isfinite(value)
        ):
            raise ModelError(f"a driver's {name} is a number")
    return data


def driver_in(data: Any, tuples: Callable[[Any], Any]) -> Driver:
    """Return the driver of JSON values; raises ModelError on anything else."""
    if not isinstance(data, dict) or data.get("kind") not in _KINDS:
        raise ModelError(f"a driver is one of {', '.join(_KINDS)}")
    made = _KINDS[data["kind"]]
    values = {name: value for name, value in data.items() if name != "kind"}
    if set(values) - {field.name for field in fields(made)}:
        raise ModelError("a driver has an unknown field")
    stops, ease = values.pop("stops", None), values.pop("ease", None)
    values = _numbers(values, ("component", "into"), ("layer", "name", "dial"))
    if made is DialJoin:
        if not isinstance(stops, list) or not all(isinstance(row, list) and len(row) == 2 for row in stops):
            raise ModelError("a dial's stops are pairs")
        rows = tuple((_numbers({"place": place}, (), ())["place"], tuples(value)) for place, value in stops)
        values["stops"] = rows
        if ease is not None:
            values["ease"] = Easing.from_css(str(ease))
    try:
        driver: Driver = made(**values)
    except TypeError as error:
        raise ModelError("a driver lacks a field") from error
    return driver


def wobble_in(data: Any) -> Wobble:
    """Return the wobble of JSON values; raises ModelError on anything else."""
    if not isinstance(data, dict) or set(data) - {field.name for field in fields(Wobble)} or "amount" not in data:
        raise ModelError("a wobble has an amount, a rate, a seed and detail")
    return Wobble(**_numbers(data, ("seed", "detail"), ("wander",)))
