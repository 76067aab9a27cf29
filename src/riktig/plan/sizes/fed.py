"""Owns what sizing knows of everything that the panel feeds, in one value. Must not compute."""

from collections.abc import Mapping
from dataclasses import dataclass

from riktig.plan.basis.motor import MotorSize
from riktig.plan.circuit.power import PowerCircuit
from riktig.plan.sizes.loops import Line
from riktig.plan.sizes.own_loads import OwnLoad
from riktig.plan.sizes.starter import StarterSizes


@dataclass(frozen=True, slots=True, kw_only=True)
class Fed:
    """The power circuit of each motor and load, the sizes of the motors, the loads of a person's own, and the cables that leave the panel;
    each by the name of the motor or load.
    """

    circuits: Mapping[str, PowerCircuit]
    starters: Mapping[str, StarterSizes]
    loads: Mapping[str, OwnLoad]
    lines: Mapping[str, Line]

    @property
    def motors(self) -> dict[str, MotorSize]:
        """Currents of the motors by name."""
        return {name: sizes.motor for name, sizes in self.starters.items()}
