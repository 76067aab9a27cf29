"""Drawings as neutral display lists in millimetres: one description, several outputs. Knows no screen and no file format."""
