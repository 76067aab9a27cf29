"""The Plate bench: the plate to scale and its figures."""
