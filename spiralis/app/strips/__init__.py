"""Bars and strips around the canvas: adding, piece bar, transport with its ring, flipbook, poses."""
