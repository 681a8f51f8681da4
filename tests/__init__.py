"""Tests. They mirror the packages of ``spiralis``."""

from hypothesis import settings

# The first call of a kernel loads it from its cache, so times of single examples mean nothing here.
settings.register_profile("spiralis", deadline=None)
settings.load_profile("spiralis")
