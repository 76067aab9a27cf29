"""Owns the totals of the whole panel: load, short-circuit rating, heat. Must not judge them."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from math import sqrt

from riktig.catalogue.model import Part
from riktig.job.model import Job
from riktig.plan.basis.motor import DELTA_SHARE
from riktig.plan.basis.sized import SizedValue, chosen_values, decide
from riktig.plan.circuit.model import Circuit, is_bar
from riktig.plan.circuit.power import PowerCircuit, sharing
from riktig.plan.circuit.zones import device_of
from riktig.plan.net.netlist import Netlist
from riktig.plan.sizes.distribution import FEEDING
from riktig.plan.sizes.fed import Fed
from riktig.plan.sizes.heat import HeatBalance, balance_heat, duties_of
from riktig.plan.sizes.incoming import supply_protection
from riktig.plan.sizes.load import PanelLoad
from riktig.plan.sizes.sections import Sections
from riktig.plan.sizes.short_circuit import ShortCircuit, rate_short_circuit
from riktig.plan.sizes.starter import StarterSizes
from riktig.plan.wiring.conductors import Conductor
from riktig.standards import iec_60228
from riktig.standards.colours import ConductorFunction

INSIDE = frozenset({"plate", "hinge", "door"})
"""Locations of conductors that warm the enclosure."""


@dataclass(frozen=True, slots=True, kw_only=True)
class PanelTotals:
    """What the panel draws, what fault current it stands, and how warm it gets. `supply` is the greatest protection of its supply,
    `further` that of each further supply by its name.
    """

    load: PanelLoad
    supply: SizedValue
    short_circuit: ShortCircuit
    heat: HeatBalance
    further: Mapping[str, SizedValue] = field(default_factory=dict)

    @property
    def full_load_a(self) -> float:
        """Current of the main supply at full load in A, with what branches off ahead of the main switch."""
        return self.load.whole

    @property
    def largest_motor_a(self) -> float:
        """Current of the largest motor in A."""
        return max((load.largest_motor for load in (self.load, *self.load.extra.values())), default=0.0)

    @property
    def sccr_ka(self) -> float:
        """Short-circuit rating in kA."""
        return self.short_circuit.rating_ka

    @property
    def sccr_limited_by(self) -> tuple[str, ...]:
        """Devices that the rating is that of."""
        return self.short_circuit.limited_by

    @property
    def heat_w(self) -> float:
        """Heat set free inside in W."""
        return self.heat.values[0].value

    @property
    def values(self) -> tuple[SizedValue, ...]:
        """All values of the panel with their reasons."""
        loads = (self.load, *self.load.extra.values())
        return (
            *(value for load in loads for value in load.values),
            self.supply,
            *self.further.values(),
            self.short_circuit.value,
            *self.heat.values,
        )


def total_panel(
    job: Job,
    circuit: Circuit,
    parts: Mapping[str, Part],
    fed: Fed,
    load: PanelLoad,
    sections: Sections,
    wires_w: float,
) -> PanelTotals:
    """Return the panel's totals.

    Args:
        job: the Job.
        circuit: its circuit.
        parts: part by device.
        fed: the motors and loads.
        load: the panel's load.
        sections: those of the conductors, for the main ones.
        wires_w: what the conductors in the panel lose, see `wire_losses_w`.
    """
    chosen = chosen_values(job)
    motors = fed.motors
    duties = duties_of(fed.circuits, motors)
    heat = balance_heat(job, circuit, parts, duties, wires_w=wires_w, diversity=load.diversity, chosen=chosen)
    supply, *further = (
        decide(supply_protection(job, parts, load, sections, name), chosen) for name in ("", *load.extra)
    )
    return PanelTotals(
        load=load,
        supply=supply,
        further=dict(zip(load.extra, further, strict=True)),
        short_circuit=rate_short_circuit(job, circuit, parts, fed.circuits, motors, chosen),
        heat=heat,
    )


def wire_losses_w(
    conductors: tuple[Conductor, ...],
    netlist: Netlist,
    starters: Mapping[str, StarterSizes],
    circuits: Mapping[str, PowerCircuit],
    load: PanelLoad,
) -> float:
    """Return what the power conductors inside the panel lose in W, at the current of their motor or of the whole panel.

    Those of control supplies, lamps and other small loads are left out: they carry a few amperes at most.

    Args:
        conductors: all of the panel.
        netlist: what they join.
        starters: the sizes of each motor.
        circuits: the power circuit of each motor and load.
        load: the load of the panel.

    Source:
        I² R with the resistance of IEC 60228 at 70 degC. The load leaves the main conductors one branch after the other; a
        current that falls evenly to nothing has a mean square of a third. A wire from a block carries what hangs on it.
    """
    nets = {terminal: net for net in netlist.nets for terminal in net.terminals}
    total = 0.0
    leads = sharing(circuits.values())
    feeding = FEEDING | {f"{supply}.Q" for supply in load.extra}
    for conductor in conductors:
        net = nets.get(conductor.a) or nets.get(conductor.b)
        if net is None or conductor.location not in INSIDE or net.function is not ConductorFunction.POWER:
            continue
        ends = {device_of(conductor.a), device_of(conductor.b)}
        owners = {name for end in ends for name in leads.get(end, ()) if name in starters}
        is_tap = any(is_bar(end) for end in ends)
        if net.is_line and not (is_tap and owners):
            if is_tap and not feeding & ends:
                continue
            ways = {name.removeprefix("in.").rpartition(".")[0] for name in net.names}
            whole = load.of(next((way for way in ways if way in load.extra), "")).full_load
            amps = whole if is_tap else whole / sqrt(3.0)
        elif owners:
            amps = 0.0
            for name in owners:
                motor = starters[name].motor
                share = DELTA_SHARE if circuits[name].is_winding_lead(ends) else 1.0
                amps += share * load.diversity * motor.current
        else:
            continue
        ohm = iec_60228.resistance_ohm_per_m(conductor.size.mm2, iec_60228.HOT_C) * conductor.length_mm / 1000
        total += amps**2 * ohm
    return total
