"""Checks of a finished piece."""
