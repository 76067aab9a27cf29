"""The Brief bench: what is wanted, page by page, and what it becomes beside it."""
