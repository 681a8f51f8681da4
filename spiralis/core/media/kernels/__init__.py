"""Numba kernels. All release the interpreter's lock, take flat contiguous arrays and are cached on disk."""
