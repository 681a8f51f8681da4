"""How a composition shows the motion of another one in another format."""

from __future__ import annotations

from attrs import frozen

from spiralis.core.errors import ModelError

ACROSS, DOWN = ("left", "centre", "right"), ("top", "middle", "bottom")
#: How large a layer is in another format: as it was, as the whole frame fits, covering as it did, stretched with it.
SIZES = ("keep", "fit", "cover", "stretch")
#: Stand in the list of what is a format's own for a whole layer, and for one that it does without.
WHOLE, GONE = "*", "-"


@frozen
class Hold:
    """What a layer keeps its distance from, across and down, and how it is sized."""

    layer: str
    across: str = "centre"
    down: str = "middle"
    size: str = "fit"

    def __attrs_post_init__(self) -> None:
        if self.across not in ACROSS or self.down not in DOWN or self.size not in SIZES:
            raise ModelError(
                f"A layer is held {', '.join(ACROSS)}, {', '.join(DOWN)}, and sized by {', '.join(SIZES)}."
            )


@frozen
class Reframing:
    """Which composition is followed, how its layers are held where that is set by hand, and what is this format's own:
    a layer with a property, WHOLE, or GONE."""

    origin: str
    holds: tuple[Hold, ...] = ()
    own: tuple[tuple[str, str], ...] = ()

    def hold(self, layer: str) -> Hold | None:
        """Return how a layer is held where that was set by hand."""
        return next((hold for hold in self.holds if hold.layer == layer), None)
