"""Owns how parts are chosen for a whole circuit: loads first, then what feeds them, then what cools all. Must not number or place."""

from collections.abc import Mapping
from dataclasses import dataclass

from riktig.job.model import Job
from riktig.plan.basis.sized import SizedValue, chosen_values
from riktig.plan.circuit.model import Circuit
from riktig.plan.circuit.uses import Use
from riktig.plan.sizes.climate import COOLING, needs_of_climate
from riktig.plan.sizes.distribution import with_blocks
from riktig.plan.sizes.load import PanelLoad, panel_load
from riktig.plan.sizes.parts import ChosenParts, Coil, Need, PartChooser
from riktig.plan.sizes.ratings import (
    as_needed,
    at_their_volts,
    needs_of_modules,
    needs_of_own,
    needs_of_switches,
    rated_values,
)
from riktig.plan.sizes.sections import main_size
from riktig.plan.sizes.starter import StarterSizes
from riktig.plan.sizes.supplies import needs_of_controls


@dataclass(frozen=True, slots=True, kw_only=True)
class Equipment:
    """The circuit with its distribution, the part of every device with what it must be rated for, and the panel's load."""

    circuit: Circuit
    load: PanelLoad
    needs: Mapping[str, Need]
    chosen: ChosenParts
    values: tuple[SizedValue, ...]


def equip(
    job: Job,
    circuit: Circuit,
    uses: Mapping[str, tuple[Use, ...]],
    starters: Mapping[str, StarterSizes],
    coils: Mapping[str, Coil],
) -> Equipment:
    """Return the parts of a circuit; choices in the ledger that still serve are kept.

    Parts are chosen in three passes: what hangs on the control supplies first, then the supplies for that load and all else, then what
    must carry away the heat of all these.

    Args:
        job: the Job.
        circuit: its circuit, without blocks for the main conductors.
        uses: the mentions of each device in it.
        starters: the sizes of each starter.
        coils: what coils and lamps are fed with, by device.
    """
    set_by_hand = chosen_values(job)
    motors = {name: sizes.motor for name, sizes in starters.items()}
    needs: dict[str, Need] = {}
    for sizes in starters.values():
        needs.update(sizes.needs)
    needs.update(as_needed(needs_of_own(job), set_by_hand))
    ledger = job.ledger
    chooser = PartChooser(circuit, uses, coils, job.practice.standard, ledger.parts, ledger.contacts)
    first = chooser.choose(at_their_volts(needs, circuit, job), pass_="loads")
    load = panel_load(job, circuit, first.parts, motors, set_by_hand)
    controls, loads = needs_of_controls(job, circuit, first.parts, set_by_hand)
    needs.update(controls)
    needs.update(as_needed(needs_of_switches(job, circuit, load, motors, first.parts), set_by_hand))
    needs.update(as_needed(needs_of_modules(job, circuit, needs), set_by_hand))
    losing = chooser.choose(at_their_volts(needs, circuit, job), pass_="heat", anew=COOLING)
    needs.update(as_needed(needs_of_climate(job, circuit, losing.parts, motors, load.diversity), set_by_hand))
    needs = at_their_volts(needs, circuit, job)
    chosen = chooser.choose(needs, pass_="all")
    main = main_size(job, chosen.parts, starters, load)
    plain, circuit = circuit, with_blocks(circuit, job, chosen.parts, main.mm2, load.main_carry)
    if circuit is not plain:
        chooser.extend(circuit)
        chosen = chooser.choose(needs, pass_="all")
    return Equipment(
        circuit=circuit, load=load, needs=needs, chosen=chosen, values=(*loads, *rated_values(needs, chosen.parts))
    )
