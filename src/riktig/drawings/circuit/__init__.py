"""The circuit on sheets."""
