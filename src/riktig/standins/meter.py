"""Owns the interface of a resistance meter and its simulation. Must not judge readings."""

from math import inf
from typing import Protocol

from riktig.live.resistance import WiringFault, build_network, resistance_between
from riktig.plan.plan import Plan

RANGE_OHM = 40e6


class Meter(Protocol):
    """A two-probe resistance meter."""

    def read_ohms(self, a: str, b: str) -> float:
        """Return the resistance in ohm between two terminals, infinite when it is over range."""
        ...


class SimulatedMeter:
    """Reads the panel as designed, or with faults put in on purpose; 0.1 ohm of leads are included."""

    LEADS_OHM = 0.1

    def __init__(self, plan: Plan, faults: tuple[WiringFault, ...] = ()) -> None:
        self._network = build_network(plan, faults)

    def read_ohms(self, a: str, b: str) -> float:
        """Return the reading in ohm, rounded as a hand meter shows it, infinite over 40 megohm."""
        ohms = resistance_between(self._network, a, b) + self.LEADS_OHM
        return inf if ohms > RANGE_OHM else round(ohms, 2)
