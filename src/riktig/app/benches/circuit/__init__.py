"""The Circuit bench: the drawn sheets and the rung that is written."""
