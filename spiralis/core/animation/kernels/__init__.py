"""Numba kernels for values over time; cached on disk like those of compositing."""
