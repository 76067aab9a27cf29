"""Widgets of plate and door: views whose parts can be dragged, and what stands beside them."""
