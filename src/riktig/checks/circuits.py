"""Rules about the power circuits of motors and loads: what cannot be sized, what protects a motor against overload, what it is fed with."""

from collections.abc import Iterator

from riktig.catalogue.model import ElementKind
from riktig.checks.finding import Finding, Severity
from riktig.job.ids import terminal_id
from riktig.job.paths import Group, Path, Ref, nodes_of, refs_of
from riktig.job.practice import Standard
from riktig.plan.circuit.power import PowerCircuit
from riktig.plan.circuit.zones import device_of
from riktig.plan.net.numbers import natural_key
from riktig.plan.plan import Plan
from riktig.standards.colours import ConductorFunction
from riktig.units.numbers import format_number

_NO_OVERLOAD_KW = 0.5
"""Motors up to here may do without overload protection: IEC 60204-1:2016 7.3.1, from memory."""
KW_PER_HP = 0.7457
_DRAWING = frozenset({"motor", "load", "heater", "transformer", "valve", "resistor"})
"""What draws a current of its own in a power circuit."""
_DIAL_SPARE = 1.02
"""How far a dial may stand above the motor's current: as finely as one can be set (common practice, no source)."""


def check_unsized(plan: Plan) -> Iterator[Finding]:
    """Yield motors and loads in power circuits of which nothing tells what they draw, or that no way in feeds.

    Source:
        Protection and conductors are chosen by the current: IEC 60204-1:2016 7.2 and 12.4, NEC 430.6, from memory.
    """
    for name, one in plan.power_circuits.items():
        if name in plan.starters or plan.circuit.device(name).kind not in _DRAWING:
            continue
        if one.supply is None:
            if not any(line[-1:] in "+-" for line in one.lines):
                yield _unsized(
                    plan, one, "hangs on no line of a supply", "lead its path to L1 L2 L3, or to another supply"
                )
        elif one.is_motor:
            yield _unsized(plan, one, "has no kw, hp or amps", f"write kw = 1.5, hp = 2 or amps into [device.{name}]")
        elif name in plan.own_loads and plan.own_loads[name].amps is None:
            mend = f"write va, kw or amps into [device.{name}], or amps of the breaker ahead of it"
            yield _unsized(plan, one, "has no va, kw or amps", mend)


def _unsized(plan: Plan, one: PowerCircuit, what: str, mend: str) -> Finding:
    return Finding(
        rule="not-sized", severity=Severity.MUST, subject=one.load, evidence=what, limit="a current",
        message=f"{plan.tags[one.load]} {what}, so that its protection, conductors and cable are not sized: {mend}",
        source="IEC 60204-1:2016 7.2, 12.4, NEC 430.6, from memory",
    )  # fmt: skip


def check_unwired(plan: Plan) -> Iterator[Finding]:
    """Yield devices and floats that no path leads to, and motors of starters written out as plain circuit that none does.

    Source:
        What is listed is built and stands in the drawing: IEC 61082-1, from memory.
    """
    nets = [p.net for p in plan.potentials if p.net.function is not ConductorFunction.EARTH]
    wired = {device_of(terminal) for net in nets for terminal in net.terminals}
    kinds = {device.id: device.kind for device in plan.circuit.devices}
    floats = [f"{level.name}.{name}" for level in plan.job.levels for name in level.floats]
    stated = [device.name for device in plan.job.devices] + floats
    without = [name for name in stated if name in kinds and name not in wired]
    lone = [name for name in without if kinds[name] in _DRAWING or plan.parts[name].elements]
    missing = [starter.name for starter in plan.job.starters if starter.detached and starter.name not in kinds]
    for name in (*missing, *lone):
        draws = name in missing or kinds[name] in _DRAWING
        tag = plan.tags.get(name, name)
        words = (
            "the drawing, the sizes and the wiring know nothing of it" if draws else "it stands there without a wire"
        )
        way = "[[feeder]]" if draws else "[[rung]]"
        yield Finding(
            rule="not-wired", severity=Severity.MUST if draws else Severity.SHOULD, subject=name if name in kinds else "",
            evidence=f"{name} in no path", limit="a path", source="IEC 61082-1, from memory",
            message=f"{tag} stands in no path, so that {words}: name {name} in a {way}, or take it out of the brief",
        )  # fmt: skip


def check_behind_loads(plan: Plan) -> Iterator[Finding]:
    """Yield what a path writes behind a load across the lines, which leads nothing on.

    Source:
        A power path ends in its load, docs/brief-format.md.
    """
    uses = {use.mention: use for use in plan.uses}

    def walk(key: str, items: Path) -> Iterator[tuple[str, str]]:
        for item, behind in zip(items, (*items[1:], None), strict=True):
            for branch in item.branches if isinstance(item, Group) else ():
                yield from walk(key, branch)
            use = uses.get((key, item.column)) if isinstance(item, Ref) else None
            if use is not None and behind is not None and not plan.netlist.ends[use.key][1]:
                inside = refs_of((behind,))
                yield use.device, inside[0].device if inside else " ".join(nodes_of((behind,))[0].names)

    for path in plan.circuit.paths:
        for load, behind in walk(path.key, path.items):
            tag = plan.tags[load]
            yield Finding(
                rule="behind-load", severity=Severity.MUST, subject=load, evidence=f"{behind} behind {tag}", limit="a path of its own",
                message=f"{tag} lies across the lines and leads nothing on, so that {plan.tags.get(behind, behind)} behind it hangs on "
                f"nothing: end the path with {tag}, and give {plan.tags.get(behind, behind)} a path of its own",
                source="IEC 61082-1, from memory",
            )  # fmt: skip


def check_open_leads(plan: Plan) -> Iterator[Finding]:
    """Yield loads in one wire at which their path ends and nothing leads on.

    Source:
        A current needs a way back: common practice, no source.
    """
    uses = {use.mention: use for use in plan.uses}
    for path in plan.circuit.paths:
        last = path.items[-1]
        use = uses.get((path.key, last.column)) if isinstance(last, Ref) else None
        open_ends = plan.netlist.ends[use.key][1] if use is not None and use.width == 1 else ()
        for mark in open_ends:
            potential = plan.potential_of(f"{use.device}:{mark}") if use is not None else None
            if use is not None and potential is not None and len(potential.net.terminals) == 1:
                tag = plan.tags[use.device]
                yield Finding(
                    rule="open-lead", severity=Severity.MUST, subject=use.device, evidence=f"nothing behind {tag}", limit="a way back",
                    message=f"the path ends at {tag}, which stands in one wire, so that no current flows: lead it on, as > N",
                    source="common practice, no source",
                )  # fmt: skip


def check_motor_overload(plan: Plan) -> Iterator[Finding]:
    """Yield motors in plain circuit that nothing protects against overload.

    Source:
        Motors above 0.5 kW: IEC 60204-1:2016 7.3.1; NEC 430.32(A); from memory.
    """
    for name, sizes in plan.starters.items():
        kw = sizes.starter.kw if sizes.starter.kw is not None else (sizes.starter.hp or 1.0) * KW_PER_HP
        is_small = kw <= _NO_OVERLOAD_KW and plan.job.practice.standard is Standard.IEC
        if not sizes.world.motor.overload and not is_small and not sizes.starter.thermistor:
            yield Finding(
                rule="motor-overload", severity=Severity.MUST, subject=name, evidence="no overload relay, motor breaker or drive",
                message=f"nothing protects {plan.tags[name]} against overload: put an overload relay or a motor breaker into its path",
                limit="protection set to the motor's current", source="IEC 60204-1:2016 7.3.1, NEC 430.32(A), from memory",
            )  # fmt: skip


def check_trips(plan: Plan) -> Iterator[Finding]:
    """Yield overload relays in power circuits of which no path takes the break contact: they trip and the motor runs on.

    Source:
        Overload protection switches the motor off: IEC 60204-1:2016 7.3.1, NEC 430.40, from memory.
    """
    leading = {device for one in plan.power_circuits.values() for device in one.of_role("F")}
    for device in plan.circuit.devices:
        if device.id not in leading:
            continue
        breaks = {e.marks[1] for e in plan.parts[device.id].elements if e.kind in {ElementKind.NC, ElementKind.CO}}
        taken = {mark for use in plan.uses_of.get(device.id, ()) for mark in plan.contacts.get(use.key, "").split("-")}
        if not breaks & taken:
            yield Finding(
                rule="trip-unused", severity=Severity.MUST, subject=device.id, evidence="its break contact is in no path",
                message=f"{plan.tags[device.id]} trips and nothing switches off: put {device.id}:nc into the path of the coil that it is "
                "to drop",
                limit="a trip opens the contactor", source="IEC 60204-1:2016 7.3.1, NEC 430.40, from memory",
            )  # fmt: skip


def check_coils(plan: Plan) -> Iterator[Finding]:
    """Yield contactors, relays and timers that paths use and whose coil none feeds: they never switch.

    Source:
        What is drawn is to work: common practice, no source.
    """
    for device in plan.circuit.devices:
        coils = [e.marks for e in plan.parts[device.id].elements if e.kind is ElementKind.COIL]
        is_fed = any(plan.potential_of(terminal_id(device.id, mark)) is not None for marks in coils for mark in marks)
        if coils and not is_fed and plan.uses_of.get(device.id):
            yield Finding(
                rule="coil-open", severity=Severity.SHOULD, subject=device.id, evidence="its coil is in no path",
                message=f"nothing feeds the coil of {plan.tags[device.id]}, so that it never switches: name {device.id}:coil in a [[rung]]",
                limit="a path for the coil", source="common practice, no source",
            )  # fmt: skip


def check_dials(plan: Plan) -> Iterator[Finding]:
    """Yield overload relays that a person set above the current of their motor, and two-speed motors of which a speed's is not stated.

    Source:
        IEC 60204-1:2016 7.3.2, IEC 60947-4-1 8.2.1.5, NEC 430.32(A), 430.52(C)(4) for several speeds; from memory.
    """
    source = "IEC 60204-1:2016 7.3.2, NEC 430.32(A), from memory"
    for name, sizes in plan.starters.items():
        given, current = dict(sizes.world.motor.given), sizes.motor.current
        if plan.parts[name].traits.get("speeds"):
            silent = [device for device in sizes.motor.dials if device not in given]
            if silent:
                tags = ", ".join(plan.tags[device] for device in silent)
                yield Finding(
                    rule="motor-speeds", severity=Severity.MUST, subject=name, evidence=f"{tags} at {format_number(current)} A",
                    limit="the current of each speed", source=source,
                    message=f"{plan.tags[name]} draws another current at each speed: write amps of its speed from the nameplate into "
                    f"{', '.join(f'[device.{device}]' for device in silent)}",
                )  # fmt: skip
        for device, dial in sizes.motor.dials.items():
            if device in given and dial > current * _DIAL_SPARE:
                yield Finding(
                    rule="overload-dial", severity=Severity.MUST, subject=device, evidence=f"{format_number(dial)} A",
                    message=f"{plan.tags[device]} is given with {format_number(dial)} A and protects {plan.tags[name]} of "
                    f"{format_number(current)} A: take out amps, or write the nameplate's into [device.{name}]",
                    limit=f"{format_number(current)} A", source=source,
                )  # fmt: skip


def check_nameplates(plan: Plan) -> Iterator[Finding]:
    """Yield, once for a panel, the motors whose overload stands at a current out of a table; in an IEC panel those of one phase, for
    which only the North American table is there.

    Source:
        NEC 430.6(A)(2): overload protection goes by the nameplate, from memory.
    """
    is_iec = plan.job.practice.standard is Standard.IEC
    unstated = (
        name for name, sizes in plan.starters.items()
        if sizes.starter.amps is None and not (is_iec and sizes.starter.phases == 3)
    )  # fmt: skip
    names = sorted(unstated, key=lambda name: natural_key(plan.tags[name]))
    if names:
        yield Finding(
            rule="motor-nameplate", severity=Severity.SHOULD, subject=names[0], evidence=f"{len(names)} set by a table", limit="set by "
            "the nameplate",
            message=f"the overload of {', '.join(names)} is set by the table current: write amps from the motor's nameplate, it goes "
            "before the table",
            source="IEC 60947-4-1 8.2.1.5, from memory" if is_iec else "NEC 430.6(A)(2), from memory",
        )  # fmt: skip


def check_behind_drives(plan: Plan) -> Iterator[Finding]:
    """Yield contactors, breakers and, of one motor alone, overload relays between a drive and its motor.

    Source:
        A drive stands no switching behind it and protects its one motor itself: common practice, no source.
    """
    for name, circuit in plan.power_circuits.items():
        devices = [device for device, _ in circuit.devices if device in plan.parts]
        at = next((n for n, device in enumerate(devices) if plan.parts[device].kind == "drive"), None)
        if at is None:
            continue
        drive = devices[at]
        shared = [one for one in plan.power_circuits.values() if drive in dict(one.devices)]
        for device in devices[at + 1 :]:
            kind = plan.parts[device].kind
            if kind in _SWITCHING or (kind == "overload" and len(shared) == 1):
                yield Finding(
                    rule="behind-drive", severity=Severity.SHOULD, subject=device, evidence=f"behind {plan.tags[drive]}",
                    message=f"{plan.tags[device]} stands between drive {plan.tags[drive]} and {plan.tags.get(name, name)}: "
                    + ("switched under load it destroys the drive, put it ahead" if kind in _SWITCHING else "the drive guards its motor")
                    + ", or take it out",
                    limit="nothing but an isolator", source="common practice, no source",
                )  # fmt: skip


_SWITCHING = frozenset({"contactor", "breaker", "fuse", "motor-breaker"})


def check_enables(plan: Plan) -> Iterator[Finding]:
    """Yield drives of which a safety input is joined to nothing: they do not run.

    Source:
        Safe torque off takes the torque away while its input is open: IEC 61800-5-2 4.2.2.2, from memory.
    """
    for device in plan.circuit.devices:
        part = plan.parts.get(device.id)
        enables = [e.marks for e in part.elements if e.kind is ElementKind.ENABLE] if part is not None else []
        if open_ := [marks for marks in enables if plan.potential_of(terminal_id(device.id, marks[1])) is None]:
            tag, (source, mark), words = plan.tags[device.id], open_[0], " and ".join(marks[1] for marks in open_)
            node = f"@{device.id.replace('.', '_')}_{source}"
            yield Finding(
                rule="enable-open", severity=Severity.SHOULD, subject=device.id, evidence=f"{words} joined to nothing",
                limit="closed while it is to run", source="IEC 61800-5-2 4.2.2.2, from memory",
                message=f"nothing is joined to {words} of {tag}, and it does not run while they are open: lead them from {source} over "
                f'what is to stop it, or straight: path = "{node} > {device.id}:{source}-{mark} > {node}"',
            )  # fmt: skip
