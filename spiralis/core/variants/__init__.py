"""Variants: a table of what slots hold, one file written for each of its rows."""
