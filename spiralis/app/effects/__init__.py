"""Choosing effects and finishes by their pictures."""

from spiralis.app.effects.chooser import EffectsChooser

__all__ = ["EffectsChooser"]
