"""Spiralis: layered looping motion for square and upright screens."""

import os

__version__ = "0.2.0"

# NumPy's linear algebra starts a thread for each core as it is loaded. What is solved here is small, and frames are
# drawn side by side as it is.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
