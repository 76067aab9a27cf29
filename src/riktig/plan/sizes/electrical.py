"""Owns how parts are chosen for a whole circuit: loads first, then what feeds them, then what cools all. Must not number or place."""

from collections.abc import Mapping
from dataclasses import dataclass, replace

from riktig.job.model import Job
from riktig.plan.basis.conductor import Laid
from riktig.plan.basis.sized import SizedValue, chosen_values
from riktig.plan.circuit.model import Circuit
from riktig.plan.circuit.power import PowerCircuit, sharing
from riktig.plan.circuit.uses import Use
from riktig.plan.sizes.bonds import needs_of_jumpers
from riktig.plan.sizes.climate import COOLING, needs_of_climate
from riktig.plan.sizes.distribution import FEEDING, feeding_of, with_blocks, with_earth_bar
from riktig.plan.sizes.groups import needs_of_groups
from riktig.plan.sizes.heat import duties_of
from riktig.plan.sizes.incoming import needs_of_switches, with_supply
from riktig.plan.sizes.load import PanelLoad, panel_load
from riktig.plan.sizes.needs import Coil, Need
from riktig.plan.sizes.own_loads import OwnLoad, needs_of_loads, own_loads
from riktig.plan.sizes.parts import ChosenParts, PartChooser
from riktig.plan.sizes.ratings import (
    as_needed,
    at_their_volts,
    needs_of_modules,
    needs_of_own,
    rated_values,
)
from riktig.plan.sizes.sections import main_size
from riktig.plan.sizes.starter import StarterSizes
from riktig.plan.sizes.supplies import needs_of_controls


@dataclass(frozen=True, slots=True, kw_only=True)
class Equipment:
    """The circuit with its distribution, the part of every device with what it must be rated for, the panel's load and loads of a
    person's own.
    """

    circuit: Circuit
    load: PanelLoad
    loads: Mapping[str, OwnLoad]
    needs: Mapping[str, Need]
    chosen: ChosenParts
    values: tuple[SizedValue, ...]


def equip(
    job: Job,
    circuit: Circuit,
    uses: Mapping[str, tuple[Use, ...]],
    circuits: Mapping[str, PowerCircuit],
    starters: Mapping[str, StarterSizes],
    coils: Mapping[str, Coil],
    laid: Laid,
) -> Equipment:
    """Return the parts of a circuit; choices in the ledger that still serve are kept.

    Parts are chosen in passes: loads first, then what feeds them, by which the main conductors and their blocks are known; then all that
    gives heat, what cools chosen anew meanwhile; last what must carry that heat away. No pass may lean on what a later one decides, or a
    panel would come out otherwise when it is settled again.

    Args:
        job: the Job.
        circuit: its circuit, without blocks for the main conductors.
        uses: the mentions of each device in it.
        circuits: the power circuit of each motor and load.
        starters: the sizes of each motor.
        coils: what coils and lamps are fed with, by device.
        laid: how conductors lie in the panel.
    """
    set_by_hand = chosen_values(job)
    motors = {name: sizes.motor for name, sizes in starters.items()}
    supply_of = {device: one.supply for one in circuits.values() if one.supply for device, _ in one.devices}
    ledger = job.ledger
    chooser = PartChooser(circuit, uses, coils, job.practice.standard, ledger.parts, ledger.contacts)

    def choose(needs: Mapping[str, Need], pass_: str, anew: frozenset[str] = frozenset()) -> ChosenParts:
        return chooser.choose(at_their_volts(needs, circuit, job, supply_of), pass_=pass_, anew=anew)

    loads: Mapping[str, OwnLoad] = {}
    asked = {device: need for sizes in starters.values() for device, need in sizes.needs.items()}
    if any(not one.is_motor for one in circuits.values()):
        bare = choose(asked | needs_of_own(job, circuit, asked), "bare")
        loads = own_loads(job, circuit, circuits, bare.parts)
        asked |= needs_of_loads(loads, circuit, job)
    asked |= needs_of_groups(sharing(circuits.values()), starters, loads, asked, circuit, job)
    needs = asked | as_needed(needs_of_own(job, circuit, asked), set_by_hand)
    first = choose(needs, "loads")
    loads = own_loads(job, circuit, circuits, first.parts)
    load = panel_load(job, circuit, first.parts, starters, loads, set_by_hand)
    needs.update(needs_of_controls(job, circuit, first.parts, set_by_hand)[0])
    branches = {name: first.parts[q] for name in starters if (q := circuits[name].protection) is not None}
    load = with_supply(load, job, motors, branches)
    needs.update(as_needed(needs_of_switches(job, circuit, load, motors, branches), set_by_hand))
    needs.update(as_needed(needs_of_modules(job, circuit, needs, first.parts), set_by_hand))
    fed = choose(needs, "fed", COOLING)
    controls, control_values = needs_of_controls(job, circuit, fed.parts, set_by_hand)
    needs.update(controls)
    load = with_supply(panel_load(job, circuit, fed.parts, starters, loads, set_by_hand), job, motors, branches)
    mains = {supply: main_size(job, fed.parts, starters, load, laid, supply).mm2 for supply in ("", *load.extra)}
    blocks = {supply: (mm2, load.of(supply).main_carry) for supply, mm2 in mains.items()}
    circuit = with_earth_bar(with_blocks(circuit, job, fed.parts, blocks), fed.parts)
    chooser.extend(circuit)
    leading = {device: device.removesuffix(".Q") if device not in FEEDING else "" for device in feeding_of(job)}
    needs.update(
        {
            device: replace(needs[device], mm2=mains[supply])
            for device, supply in sorted(leading.items())
            if device in needs
        }
    )
    needs.update(needs_of_jumpers(job, circuit, fed.parts))
    losing, duties = choose(needs, "heat", COOLING), duties_of(circuits, motors)
    needs.update(as_needed(needs_of_climate(job, circuit, losing.parts, duties, load.diversity), set_by_hand))
    needs = at_their_volts(needs, circuit, job, supply_of)
    chosen = chooser.choose(needs, pass_="all")
    load_values = (one.value for one in loads.values() if one.value is not None)
    return Equipment(
        circuit=circuit, load=load, loads=loads, needs=needs, chosen=chosen,
        values=(*load_values, *control_values, *rated_values(needs, chosen.parts)),
    )  # fmt: skip
