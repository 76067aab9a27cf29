"""The Labels bench."""
