"""The Tolvane Kites project: artwork and compositions, all made by code."""

from spiralis.demo.project import demo_project

__all__ = ["demo_project"]
