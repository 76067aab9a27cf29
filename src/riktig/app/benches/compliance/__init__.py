"""The Compliance bench."""
