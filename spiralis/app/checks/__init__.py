"""Checks: what is to be said of the piece itself, live in the piece bar, and the window that mends it."""
