"""The Door bench: the door to scale, and measuring before cutting."""
