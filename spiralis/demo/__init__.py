"""The Tolvane Kites project: artwork and compositions, all made by code."""
