"""Owns what Python's collector need not pass through again. Must not know what the objects are."""

import gc

_WORTH_IT = 10_000
"""New objects that are looked through in idle time."""


def set_apart() -> None:
    """Take all that lives now out of the collector's passes, for a job that is wholly there: with 100 starters one pass takes 0.3 s,
    in the middle of an edit. What was set apart before is passed through once more, so that a job that was left does not stay.
    """
    gc.unfreeze()
    gc.collect()
    gc.freeze()


def tidy() -> None:
    """Pass through what is new, where that is worth it, and set apart what stays. What is set apart goes by itself when nothing refers to
    it any more; only circles wait for the next job.
    """
    if gc.get_count()[0] >= _WORTH_IT:
        gc.collect()
        gc.freeze()


def hold_off() -> None:
    """Let the collector pass over nothing by itself, as while libraries and a first job are loaded: all that stays."""
    gc.disable()


def collect_again() -> None:
    """Let the collector pass by itself again."""
    gc.enable()


def collect_seldom() -> None:
    """Let the collector pass after more new objects than usual: nearly all that is made lives on or goes by itself, and the passes
    took a fifth of the time of a plan.
    """
    gc.set_threshold(50_000, 20, 50)
