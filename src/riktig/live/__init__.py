"""Electrical behaviour of the panel as designed or as built with faults."""
