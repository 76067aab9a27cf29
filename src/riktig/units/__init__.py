"""Quantities: reading and writing them, and conductor sizes in both worlds. Knows nothing of panels."""
