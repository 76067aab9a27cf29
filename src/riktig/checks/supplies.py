"""Rules about supplies: what returns where, what is bonded to earth once, what volts a motor is for, what is only assumed."""

from collections import Counter
from collections.abc import Iterable, Iterator

from riktig.catalogue.loader import find_part
from riktig.catalogue.model import ElementKind
from riktig.checks.finding import Finding, Severity
from riktig.job.paths import Ref
from riktig.job.practice import Standard
from riktig.plan.circuit.zones import device_of
from riktig.plan.net.netlist import Net
from riktig.plan.plan import Plan
from riktig.plan.wiring.conductors import Conductor
from riktig.standards import iec_60364_5
from riktig.standards.colours import ConductorFunction

_CONSUMES = frozenset({ElementKind.COIL, ElementKind.LAMP, ElementKind.SOUNDER, ElementKind.LOAD})


def _sides(net: Net, plan: Plan) -> set[str]:
    """Return the supplies that a potential is a side of by its names: control supplies, ways in by their prefix."""
    found = set()
    for name in net.names:
        if name.startswith("@"):
            continue
        control = plan.job.control(name[:-1]) if name[-1:] in "+-" else None
        if control is not None and control.kind != "direct":
            found.add(control.group_of or control.name)
        elif control is None:
            found.add(name.removeprefix("in.").rpartition(".")[0])
        else:
            lines = control.from_lines or plan.job.supply.lines
            found.add(lines[0].rpartition(".")[0])
    return found


def check_returns(plan: Plan) -> Iterator[Finding]:
    """Yield coils, lamps and loads that are fed from one supply and return to another.

    Source:
        What belongs to two supplies stays live with one of them off, and its return carries what nobody expects: common practice, no
        source.
    """
    for path in plan.circuit.paths:
        refs = [item for item in path.items if isinstance(item, Ref)]
        first, last = path.items[0], path.items[-1]
        if path.owner is not None or not refs or isinstance(first, Ref) or isinstance(last, Ref):
            continue
        ends, are_earth = [], []
        for name in (first.names[0], last.names[0]):  # type: ignore[union-attr]
            net = next((p.net for p in plan.potentials if name in p.net.names), None)
            ends.append(_sides(net, plan) if net is not None else set())
            are_earth.append(net is not None and net.function is ConductorFunction.EARTH)
        users = [r.device for r in refs if any(e.kind in _CONSUMES for e in plan.parts[r.device].elements)]
        if users and ends[0] and ends[1] and not ends[0] & ends[1]:
            names = [
                "the protective conductor" if is_earth else ", ".join(sorted(end)) or "the main supply"
                for end, is_earth in zip(ends, are_earth, strict=True)
            ]
            yield Finding(
                rule="other-return", severity=Severity.MUST, subject=users[-1], evidence=f"{path.key}: {names[0]} to {names[1]}",
                message=f"{plan.tags[users[-1]]} is fed from {names[0]} and returns to {names[1]}: lead it back to its own supply",
                limit="one supply", source="common practice, no source",
            )  # fmt: skip


def check_bonds(plan: Plan) -> Iterator[Finding]:
    """Yield supplies that are bonded to earth more than once.

    Source:
        Bonded once, at the source: IEC 60204-1:2016 9.4.3.1, NEC 250.30(A)(1), from memory.
    """
    earth = {p.number for p in plan.potentials if "PE" in p.net.names}
    bonds: Counter[str] = Counter()
    links: dict[str, list[str]] = {}
    for device in plan.circuit.devices:
        if device.kind != "link":
            continue
        numbers = {plan.number_at(f"{device.id}:{t.mark}") for t in plan.parts[device.id].terminals}
        if numbers & earth and len(numbers) == 2:
            (other,) = numbers - earth
            bonds[other] += 1
            links.setdefault(other, []).append(device.id)
    for number, count in bonds.items():
        if count > 1:
            tags = " and ".join(plan.tags[d] for d in links[number])
            yield Finding(
                rule="bonded-twice", severity=Severity.MUST, subject=links[number][-1], evidence=tags, limit="one bond",
                message=f"number {number} is bonded to earth by {tags}: take out one of them, a second bond leads current through earth",
                source="IEC 60204-1:2016 9.4.3.1, NEC 250.30(A)(1), from memory",
            )  # fmt: skip


def check_motor_supply(plan: Plan) -> Iterator[Finding]:
    """Yield motors whose volts do not fit the supply that they hang on; one that starts in star runs in delta at line voltage.

    Source:
        IEC 60034-1 7.3 (5 % of the rated volts, 10 % taken), from memory.
    """
    for name, sizes in plan.starters.items():
        given = sizes.starter.motor_volts
        if given is None:
            continue
        line, is_delta = sizes.world.motor.way_in.volts, sizes.motor.is_star_delta
        wound = [float(volts) for volts in given.split("/")]
        if all(abs(volts - line) > 0.1 * line for volts in (wound[:1] if is_delta else wound)):
            words = f"{wound[0]:g} V in delta" if is_delta else f"{given} V"
            mend = f"for {line:g} V in delta, or start it direct" if is_delta else "for it, or another supply"
            yield Finding(
                rule="delta-voltage" if is_delta else "motor-volts", severity=Severity.MUST, subject=name, evidence=f"{given} V",
                message=f"{plan.tags[name]} is wound for {words} and hangs on {line:g} V: take a motor {mend}",
                limit=f"{line:g} V", source="IEC 60034-1 7.3, from memory",
            )  # fmt: skip


def check_assumed(plan: Plan) -> Iterator[Finding]:
    """Yield what is assumed because nobody stated it, and parts that a person holds and no catalogue has.

    Source:
        The fault current of the supply decides what the panel must stand: IEC 60204-1:2016 4.3, NEC 409.22, from memory.
    """
    if plan.job.supply.fault_ka is None:
        yield Finding(
            rule="fault-assumed", severity=Severity.NOTE, subject="job", evidence="no fault_ka", limit="the supplier's figure",
            message=f"the fault current of the supply is not stated, {plan.job.supply.available_ka:g} kA are assumed: ask whoever "
            "supplies it and write fault_ka",
            source="IEC 60204-1:2016 4.3, NEC 409.22, from memory", asks="supply.fault_ka",
        )  # fmt: skip
    for device, choice in plan.job.ledger.parts.items():
        if choice.is_held and device in plan.parts and find_part(choice.value) is None:
            yield Finding(
                rule="unknown-part", severity=Severity.MUST, subject=device, evidence=choice.value, limit="a part of the catalogue",
                message=f"the part '{choice.value}' that {plan.tags[device]} is to be is in no catalogue, "
                f"{plan.parts[device].code} stands in for it: import it, or choose another",
                source="the job's own choice",
            )  # fmt: skip


def _laid_by_terminal(device: str, conductors: Iterable[Conductor]) -> dict[str, list[float]]:
    """Return the mm of the wires at each terminal of a device; where the main conductors go on from it the nearer one is its lead."""
    found: dict[str, list[float]] = {}
    for c in conductors:
        found.setdefault(c.a if device_of(c.a) == device else c.b, []).append(c.laid_mm)
    return found


_NO_LEADS = frozenset({"control", "signals", "door"})
"""Stages of wires that tell of an arrester's state and lead nothing of a surge."""


def check_arrester(plan: Plan) -> Iterator[Finding]:
    """Yield surge arresters whose leads are too long or whose earth is too thin.

    Source:
        Line and earth lead together at most 0.5 m, 1 m where it cannot be otherwise: IEC 60364-5-53 534.4.8; in North America no longer
        than need be, NEC 242.24; section of the earth 534.4.10 (in North America none beyond the least of a panel); from memory.
    """
    for surge in plan.job.surges:
        guard, tag = f"{surge.name}.Q", plan.tags[surge.name]
        wires = [c for c in plan.conductors_of.get(surge.name, ()) if c.is_wired and c.stage not in _NO_LEADS]
        earth = next((c for c in wires if c.number == "PE"), None)
        lines = [c for c in wires if c.number != "PE"]
        behind = [c for c in lines if guard in {device_of(c.a), device_of(c.b)}] or lines
        ahead = [
            c for c in plan.conductors_of.get(guard, ()) if c.is_wired and c not in lines and c.stage not in _NO_LEADS
        ]
        if earth is None or not lines:
            continue
        line = max((min(found) for found in _laid_by_terminal(guard, ahead).values()), default=0.0)
        lead = max(c.laid_mm for c in behind) + line
        fed = [c for c in lines if c.stage == "distribution"]
        neutral = max((min(found) for found in _laid_by_terminal(surge.name, fed).values()), default=0.0)
        metres = (max(lead, neutral) + earth.laid_mm) / 1000.0
        most = iec_60364_5.LONGEST_LEADS_M
        if metres > most:
            beyond = Severity.MUST if plan.job.practice.standard is Standard.IEC else Severity.SHOULD
            yield Finding(
                rule="arrester-leads", severity=beyond if metres > 2 * most else Severity.NOTE, subject=surge.name,
                evidence=f"{metres:.2f} m", limit=f"{most:g} m",
                message=f"the leads of {tag}, line and earth, are {metres:.2f} m together: arrange the plate, stand it below "
                f"{plan.tags[guard]} with {plan.tags[guard]} beside the main switch or its block, or take a wider enclosure",
                source=str(iec_60364_5.SOURCE_ARRESTER_LEADS),
            )  # fmt: skip
        least = iec_60364_5.arrester_earth_mm2(surge.type)
        if earth.size.metric and earth.size.mm2 < least:
            yield Finding(
                rule="arrester-earth", severity=Severity.MUST, subject=surge.name, evidence=earth.size.label(), limit=f"{least:g} mm²",
                message=f"the earth of {tag} is {earth.size.label()}, and a type {surge.type} arrester asks for {least:g} mm²: lay that "
                "from it to the earth bar",
                source=str(iec_60364_5.SOURCE_ARRESTER_SECTIONS),
            )  # fmt: skip
