"""Owns which upright ducts power and extra-low voltage keep to. Must not know who is joined to whom.

Source: conductors of different voltages may lie in one duct where all are insulated for the highest (IEC 60204-1:2016 13.1.3, NFPA 79
13.1.3, from memory), but extra-low voltage and signals are led apart from power, against what that induces in them (common practice).
"""

from collections.abc import Mapping
from dataclasses import dataclass

from riktig.catalogue.model import Part
from riktig.job.model import Job
from riktig.plan.net.numbers import Potential
from riktig.plan.net.runs import Band, band_of
from riktig.plan.net.signals import OF_MAINS
from riktig.plan.wiring.geometry import Geometry


@dataclass(frozen=True, slots=True)
class Bands:
    """Numbers of the potentials of power, and of those at extra-low voltage."""

    power: frozenset[str]
    low: frozenset[str]


def find_bands(job: Job, parts: Mapping[str, Part], potentials: tuple[Potential, ...]) -> Bands:
    """Return which potentials are to be kept apart; the control circuits at mains voltage may go with either."""
    return Bands(
        power=frozenset(p.number for p in potentials if p.net.function in OF_MAINS),
        low=frozenset(p.number for p in potentials if band_of(p, job, parts) is Band.ELV),
    )


def shunned_uprights(job: Job, bands: Bands, geometry: Geometry) -> Mapping[str, frozenset[str]]:
    """Return by number the uprights that wires of a potential keep out of where others lead there too: power goes up and down on the left,
    where a first layout has the way in, extra-low voltage in the others. None where the shop does not do so, or the panel has but one of
    both, or one upright.
    """
    uprights = [duct.code for duct in geometry.plate.uprights]
    if job.practice.uprights == "shared" or len(uprights) < 2 or not (bands.power and bands.low):
        return {}
    first, others = frozenset(uprights[:1]), frozenset(uprights[1:])
    return {**dict.fromkeys(bands.power, others), **dict.fromkeys(bands.low, first)}


def shunned_by(
    job: Job, parts: Mapping[str, Part], potentials: tuple[Potential, ...], geometry: Geometry
) -> Mapping[str, frozenset[str]]:
    """Return the same of a panel as it is, where nothing of it is kept; nothing is looked for where uprights are shared."""
    if job.practice.uprights == "shared":
        return {}
    return shunned_uprights(job, find_bands(job, parts, potentials), geometry)
