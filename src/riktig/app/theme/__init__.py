"""Tokens, roles and the style of every widget. No other place knows a colour."""
