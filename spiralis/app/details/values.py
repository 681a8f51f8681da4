"""Values typed in Details, set on all chosen layers."""

from __future__ import annotations

from spiralis.app.session import Session
from spiralis.core.editing.edits import toggle_key
from spiralis.core.editing.linking import set_seen_value
from spiralis.core.model import Kind, Layer, Parameter, Value


class ChosenValues:
    """Takes what a row says for the chosen layers; what belongs to one gesture is one step to undo."""

    def __init__(self, session: Session) -> None:
        self.session = session
        self._gesture = 0

    def merge(self, what: str) -> str:
        """Return the name under which the edits of the present gesture join."""
        return f"details-{what}-{self._gesture}"

    def finish(self) -> None:
        """End the gesture."""
        self._gesture += 1
        self.session.close_step()

    def toggle(self, parameter: Parameter) -> None:
        """Set a key on every chosen layer, or take it."""
        frame = self.session.frame
        self.session.edit_layers(f"Key for {parameter.label}", lambda y: toggle_key(y, parameter.name, frame))

    def take(self, parameter: Parameter, value: Value, relative: bool = False) -> None:
        """Set the value on all chosen layers, or change each by as much as the first where ``relative``.

        Pairs change by component, so that each layer keeps its other one.
        """
        layers = self.session.layers
        if not layers:
            return
        shown = self.session.evaluated().values(layers[0])[parameter.name]
        if relative and len(layers) > 1 and parameter.kind in (Kind.NUMBER, Kind.PAIR):
            self._take_difference(parameter, value, shown)
            return
        merge = self.merge(parameter.name)
        if len(layers) == 1 or not isinstance(value, tuple) or not isinstance(shown, tuple) or len(shown) != 2:
            self.session.set_property(parameter.name, value, merge=merge)
            return
        at, frame = self.session.evaluated(), self.session.frame

        def change(layer: Layer) -> Layer:
            own = at.values(layer)[parameter.name]
            pair = tuple(new if new != old else mine for new, old, mine in zip(value, shown, own, strict=True))
            return set_seen_value(at.composition, layer, parameter.name, pair, frame)

        self.session.edit_layers(f"{parameter.label} of {len(layers)} layers", change, merge=merge)

    def _take_difference(self, parameter: Parameter, value: Value, shown: Value) -> None:
        at, frame = self.session.evaluated(), self.session.frame
        by = parameter.to_array(value) - parameter.to_array(shown)

        def change(layer: Layer) -> Layer:
            own = parameter.to_array(at.values(layer)[parameter.name]) + by
            return set_seen_value(at.composition, layer, parameter.name, parameter.from_array(own), frame)

        count, merge = len(self.session.layers), self.merge(parameter.name)
        self.session.edit_layers(f"{parameter.label} of {count} layers", change, merge=merge)
