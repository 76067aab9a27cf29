"""Owns what a job may be judged by: worlds and editions of standards. Must not judge by them."""

from dataclasses import dataclass
from typing import Any

from riktig.checks.rule import WORLD_WORDS
from riktig.job.practice import Practice, Standard
from riktig.standards.editions import editions_of


@dataclass(frozen=True, slots=True, kw_only=True)
class Yardstick:
    """What a job may be judged by: its name, and what of the practice says so."""

    name: str
    changes: tuple[tuple[str, Any], ...]


def yardsticks(practice: Practice) -> tuple[Yardstick, ...]:
    """Return what a job may be judged by besides what it is: the other world first, then other editions in its own."""
    other = Standard.UL if practice.standard is Standard.IEC else Standard.IEC
    key = "iec_60204_1" if practice.standard is Standard.IEC else "nec"
    return (
        Yardstick(name=WORLD_WORDS[other], changes=(("standard", other),)),
        *(
            Yardstick(name=one.cited, changes=((key, one.year),))
            for one in editions_of(practice.edition.standard)
            if one is not practice.edition
        ),
    )
