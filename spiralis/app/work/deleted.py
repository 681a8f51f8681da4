"""What Qt has deleted though something in Python still holds it."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.sip import isdeleted, wrapper


def is_deleted(method: Callable[..., object]) -> bool:
    """Whether Qt has deleted what a bound method belongs to."""
    owner = getattr(method, "__self__", None)
    return isinstance(owner, wrapper) and isdeleted(owner)
