"""Which current does a motor draw, and what does a conductor or device stand? From a starter and the published tables.

Must not know circuits, parts of other starters, or places.
"""
