"""Owns the electrical half of planning, from circuit to netlist, which both `settle` and the Plan go through."""

from collections.abc import Mapping
from dataclasses import dataclass

from riktig.catalogue.loader import all_parts
from riktig.job.ledger import Choices
from riktig.job.model import Job
from riktig.plan.basis.motor import MotorSize
from riktig.plan.basis.sized import SizedValue, chosen_values
from riktig.plan.circuit.expand import expand
from riktig.plan.circuit.model import Circuit
from riktig.plan.circuit.uses import Use, find_uses
from riktig.plan.net.netlist import Netlist, build_netlist
from riktig.plan.net.numbers import Potential
from riktig.plan.sizes.climate import COOLING, needs_of_climate
from riktig.plan.sizes.coils import coils_of
from riktig.plan.sizes.distribution import with_blocks
from riktig.plan.sizes.load import PanelLoad, panel_load
from riktig.plan.sizes.parts import ChosenParts, Need, PartChooser
from riktig.plan.sizes.ratings import (
    as_needed,
    at_their_volts,
    needs_of_modules,
    needs_of_own,
    needs_of_switches,
    rated_values,
)
from riktig.plan.sizes.sections import Sections, main_size, size_sections
from riktig.plan.sizes.starter import StarterSizes, size_starters
from riktig.plan.sizes.supplies import needs_of_controls
from riktig.standards.tables import own_digests


@dataclass(frozen=True, slots=True, kw_only=True)
class Electrical:
    """Circuit, parts, contacts and potentials of a Job, with the sizes that led to the parts."""

    circuit: Circuit
    uses: tuple[Use, ...]
    starters: Mapping[str, StarterSizes]
    load: PanelLoad
    needs: Mapping[str, Need]
    chosen: ChosenParts
    netlist: Netlist
    values: tuple[SizedValue, ...]

    @property
    def motors(self) -> dict[str, MotorSize]:
        """Currents of every motor by the name of its starter."""
        return {name: sizes.motor for name, sizes in self.starters.items()}

    def size(self, job: Job, potentials: tuple[Potential, ...]) -> Sections:
        """Return the section of every conductor."""
        return size_sections(job, self.circuit, self.chosen.parts, potentials, self.starters, self.load)


_Inputs = tuple[tuple[object, ...], tuple[Choices, ...], object, tuple[str, ...]]
_KEPT = 2
_memory: list[tuple[_Inputs, Electrical]] = []


def wire_up(job: Job) -> Electrical:
    """Return the electrical half of the Plan; choices in the ledger that still serve are kept.

    The last results are remembered: what only moves something on the plate or draws a wire another way asks for the same half again.
    """
    inputs = _inputs_of(job)
    for known, found in _memory:
        if known == inputs:
            return found
    made = _wire_up(job)
    _memory[:] = [(inputs, made), *_memory[: _KEPT - 1]]
    return made


def _inputs_of(job: Job) -> _Inputs:
    """Return all that the electrical half is made from: the Job without its ledger, and what it reads of that."""
    decided = tuple(getattr(job, name) for name in Job.model_fields if name not in {"ledger", "revision"})
    ledger = job.ledger
    return decided, (ledger.parts, ledger.contacts, ledger.values, ledger.tags), all_parts(), own_digests()


def _wire_up(job: Job) -> Electrical:
    """Return the electrical half of the Plan.

    Parts are chosen in three passes: what hangs on the control supplies first, then the supplies for that load and all else, then what
    must carry away the heat of all these.
    """
    circuit = expand(job)
    uses = find_uses(circuit, job)
    starters, set_by_hand = size_starters(job), chosen_values(job)
    motors = {name: sizes.motor for name, sizes in starters.items()}
    needs: dict[str, Need] = {}
    for sizes in starters.values():
        needs.update(sizes.needs)
    needs.update(as_needed(needs_of_own(job), set_by_hand))
    ledger = job.ledger
    chooser = PartChooser(circuit, uses, coils_of(circuit, job), job.practice.standard, ledger.parts, ledger.contacts)
    first = chooser.choose(at_their_volts(needs, circuit, job))
    load = panel_load(job, circuit, first.parts, motors, set_by_hand)
    controls, loads = needs_of_controls(job, circuit, first.parts, set_by_hand)
    needs.update(controls)
    needs.update(as_needed(needs_of_switches(job, circuit, load, motors, first.parts), set_by_hand))
    needs.update(as_needed(needs_of_modules(job, circuit, needs), set_by_hand))
    losing = chooser.choose(at_their_volts(needs, circuit, job), anew=COOLING)
    needs.update(as_needed(needs_of_climate(job, circuit, losing.parts, motors, load.diversity), set_by_hand))
    needs = at_their_volts(needs, circuit, job)
    chosen = chooser.choose(needs)
    main = main_size(job, chosen.parts, starters, load)
    plain, circuit = circuit, with_blocks(circuit, job, chosen.parts, main.mm2, load.main_carry)
    if circuit is not plain:
        chooser.extend(circuit)
        chosen = chooser.choose(needs)
    netlist = build_netlist(job, circuit, uses, chosen.parts, chosen.contacts)
    sized = [value for sizes in starters.values() for value in sizes.values]
    return Electrical(
        circuit=circuit, uses=uses, starters=starters, load=load, needs=needs, chosen=chosen, netlist=netlist,
        values=(*sized, *loads, *rated_values(needs, chosen.parts)),
    )  # fmt: skip
