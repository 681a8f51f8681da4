"""The Tolvane Kites project: artwork and compositions, all made by code."""

from spiralis.demo.project import demo_project
from spiralis.demo.stored import stored_demo

__all__ = ["demo_project", "stored_demo"]
