"""What gives a property its value beside its own keys: following another one, rolling, a dial, a wobble. Data only."""

from __future__ import annotations

import math

from attrs import frozen

from spiralis.core.animation.easing import LINEAR, Easing
from spiralis.core.errors import ModelError
from spiralis.core.model.parameter import Value


def _finite(what: str, *numbers: float | None) -> None:
    if not all(number is None or (math.isfinite(number) and abs(number) <= 1e9) for number in numbers):
        raise ModelError(f"{what} takes ordinary numbers, and one of these is not.")


@frozen
class Follow:
    """The value of another layer's property: gain times it, plus offset, ``delay`` frames late, clamped where asked.

    ``component`` takes one number of a source that has several; ``into`` sets one number of this property; -1 is all.
    """

    layer: str
    name: str
    gain: float = 1.0
    offset: float = 0.0
    delay: float = 0.0
    low: float | None = None
    high: float | None = None
    component: int = -1
    into: int = -1

    def __attrs_post_init__(self) -> None:
        _finite("Follow", self.gain, self.offset, self.delay, self.low, self.high)

    @property
    def along(self) -> bool:
        """Whether it differs from what it follows by the same whatever that is, but for limits of the value."""
        return (self.gain, self.low, self.high, self.component, self.into) == (1.0, None, None, -1, -1)


@frozen
class Roll:
    """A turn that matches the distance travelled by a layer (an empty id: this one) for a radius in px."""

    radius: float
    layer: str = ""

    def __attrs_post_init__(self) -> None:
        _finite("Roll", self.radius)
        if self.radius == 0:
            raise ModelError("A roll's radius is not 0; below 0 it turns the other way.")


@frozen
class DialJoin:
    """A value for each of some places of a dial (a layer of that kind), in order; outside they hold.

    Between two stops they are mixed with an ``ease``.
    """

    dial: str
    stops: tuple[tuple[float, Value], ...]
    ease: Easing = LINEAR

    def __attrs_post_init__(self) -> None:
        places = [place for place, _ in self.stops]
        if len(places) < 2 or any(b <= a for a, b in zip(places, places[1:], strict=False)):
            raise ModelError("A property joins a dial with two values or more, at places that rise.")
        _finite("A dial", *places)


Driver = Follow | Roll | DialJoin


def source_of(layer: str, driver: Driver) -> tuple[str, str]:
    """Return which property of which layer a driver of ``layer`` takes its value from."""
    if isinstance(driver, DialJoin):
        return driver.dial, "value"
    if isinstance(driver, Roll):
        return driver.layer or layer, "position"
    return driver.layer, driver.name


@frozen
class Wobble:
    """A smooth seeded wander about the value, by up to ``amount``, that returns to its start over the play span.

    Each layer and property wanders its own way; a copy keeps that of the layer whose id ``wander`` is.
    """

    amount: float
    per_second: float = 1.0
    seed: int = 1
    detail: int = 1
    wander: str = ""

    def __attrs_post_init__(self) -> None:
        _finite("A wobble", self.amount, self.per_second)
        if not (0 < self.per_second <= 1000 and 1 <= self.detail <= 6 and self.seed >= 0):
            raise ModelError("A wobble goes up to 1000 times a second, has a seed from 0 and 1 to 6 layers of detail.")
