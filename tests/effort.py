"""How many examples property tests draw: all of them with RIKTIG_EFFORT=1, a share of them otherwise, so that the suite stays short."""

import os

EFFORT = float(os.environ.get("RIKTIG_EFFORT", "0.06"))


def examples(most: int) -> int:
    """Return how many of so many examples are drawn in this run."""
    return max(5, round(most * EFFORT))
