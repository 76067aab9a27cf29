"""Headless commands. Knows no Qt."""
