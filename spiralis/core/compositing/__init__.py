"""Blend modes, the band-by-band drawing kernel, motion blur."""

from spiralis.core.compositing.blend import blend

__all__ = ["blend"]
