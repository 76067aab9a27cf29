"""Owns the electrical half of planning, from circuit to netlist, which both `settle` and the Plan go through."""

from collections.abc import Mapping
from dataclasses import dataclass

from riktig.job.model import Job
from riktig.plan.circuit import Circuit
from riktig.plan.coils import coils_of
from riktig.plan.contacts import Use, find_uses
from riktig.plan.expand import expand
from riktig.plan.netlist import Netlist, build_netlist
from riktig.plan.numbers import Potential
from riktig.plan.parts import ChosenParts, Need, choose_parts
from riktig.plan.ratings import (
    PanelLoad,
    needs_of_controls,
    needs_of_modules,
    needs_of_motors,
    needs_of_own,
    needs_of_switches,
    panel_load,
    rated_values,
    size_motors,
)
from riktig.plan.sections import Sections, size_sections
from riktig.plan.sizing import MotorSize, SizedValue


@dataclass(frozen=True, slots=True, kw_only=True)
class Electrical:
    """Circuit, parts, contacts and potentials of a Job, with the sizes that led to the parts."""

    circuit: Circuit
    uses: tuple[Use, ...]
    motors: Mapping[str, MotorSize]
    load: PanelLoad
    chosen: ChosenParts
    netlist: Netlist
    values: tuple[SizedValue, ...]

    def size(self, job: Job, potentials: tuple[Potential, ...]) -> Sections:
        """Return the section of every conductor."""
        return size_sections(job, self.circuit, self.chosen.parts, potentials, self.motors, self.load)


def wire_up(job: Job) -> Electrical:
    """Return the electrical half of the Plan; choices in the ledger that still serve are kept.

    Parts are chosen in two passes: what hangs on the control supplies first, then the supplies for that load.
    """
    circuit = expand(job)
    uses = find_uses(circuit, job)
    motors = size_motors(job)
    needs: dict[str, Need] = {**needs_of_motors(job, motors), **needs_of_own(job)}
    ledger, coils, standard = job.ledger, coils_of(circuit, job), job.practice.standard
    first = choose_parts(circuit, uses, needs, coils, standard, ledger.parts, ledger.contacts)
    load = panel_load(job, circuit, first.parts, motors)
    needs.update(needs_of_controls(job, circuit, first.parts))
    needs.update(needs_of_switches(job, circuit, load, motors))
    needs.update(needs_of_modules(job, circuit, needs))
    chosen = choose_parts(circuit, uses, needs, coils, standard, ledger.parts, ledger.contacts)
    netlist = build_netlist(job, circuit, uses, chosen.parts, chosen.contacts)
    sized = [value for motor in motors.values() for value in motor.values]
    return Electrical(
        circuit=circuit, uses=uses, motors=motors, load=load, chosen=chosen, netlist=netlist,
        values=(*sized, *rated_values(needs, chosen.parts)),
    )  # fmt: skip
