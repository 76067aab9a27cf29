"""Riktig plans, documents and tracks motor starter control panels."""

VERSION = "0.1.0"
