"""The Test bench: two probe points, one reading."""
