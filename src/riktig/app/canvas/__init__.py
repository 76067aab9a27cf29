"""Drawings on screen: one more output of the display list."""
