"""Owns the volts that coils, lamps and small loads are fed with. Must not choose parts."""

from collections.abc import Mapping
from math import sqrt

from riktig.job.model import Control, Job
from riktig.job.names import lines_of
from riktig.job.paths import Ref, refs_of
from riktig.job.roles import excepted_volts
from riktig.plan.circuit.model import Circuit
from riktig.plan.circuit.power import PowerCircuit
from riktig.plan.sizes.needs import Coil

DC_VOLTS = 24.0
_FED_MARKS = frozenset({("A1", "A2"), ("P", "M"), ("L", "N"), ("X1", "X2")})


def control_volts(control: Control, job: Job) -> float:
    """Return the volts of a control supply: as given, else by its kind and the lines that feed it."""
    if control.volts is not None:
        return control.volts
    if control.is_dc:
        return DC_VOLTS
    lines = lines_of(control, job)
    way_in = job.way_in(lines[0].rpartition(".")[0])
    return way_in.line_to_neutral if len(lines) == 1 or lines[1].endswith("N") else way_in.volts


def feeds_device(ref: Ref) -> bool:
    """Return whether a mention in a path feeds what a device runs on, rather than using one of its contacts."""
    return ref.what in {None, "coil", "lamp"} or ref.marks in _FED_MARKS


def coils_of(job: Job, circuit: Circuit, circuits: Mapping[str, PowerCircuit]) -> dict[str, Coil]:
    """Return device -> what its coil, lamp or load is fed with; the first path that feeds it tells, or its own power circuit. Of a
    transformer it is what it gives, where that is stated: a part is made for any volts on the other side.
    """
    supplies = {
        control.name: Coil(volts=control_volts(control, job), current="DC" if control.is_dc else "AC")
        for control in job.controls
    }
    found: dict[str, Coil] = {}
    for path in circuit.paths:
        if path.supply is not None and not path.is_power:
            for ref in refs_of(path.items):
                if feeds_device(ref):
                    found.setdefault(ref.device, supplies[path.supply])
    found.update({f"{c.name}.T": supplies[c.name] for c in job.controls if c.kind == "transformer" and not c.group_of})
    found.update(_fed_by_mains(circuit, job))
    for name, one in circuits.items():
        load = circuit.index[name]
        volts = load.settings.get("volts") if load.kind == "transformer" else line_volts(one, job)[0]
        if not one.is_motor and one.supply is not None and volts is not None:
            found.setdefault(name, Coil(volts=volts, current="AC"))
    return found


def line_volts(one: PowerCircuit, job: Job) -> tuple[float, float]:
    """Return the volts that a load hangs on, and √3 where it hangs on three lines, else 1."""
    way_in = job.way_in(one.supply or None)
    lines = [line for line in one.lines if line.rpartition(".")[2] != "N"]
    if len(lines) >= 3:
        return way_in.volts, sqrt(3)
    return (way_in.volts if len(lines) == 2 else way_in.line_to_neutral), 1.0


def _fed_by_mains(circuit: Circuit, job: Job) -> dict[str, Coil]:
    supply = job.supply
    volts = supply.line_to_neutral if supply.has_neutral else supply.volts
    found = {device.id: Coil(volts=volts, current="AC") for device in circuit.devices
             if device.owner == "phase_lamps" or device.id == "incoming.K"}  # fmt: skip
    for circuit_ in job.excepted:
        coil = Coil(volts=excepted_volts(circuit_, job), current="AC")
        found |= {f"{circuit_.name}.{role}": coil for role in ("E", "T") if f"{circuit_.name}.{role}" in circuit.index}
    return found
