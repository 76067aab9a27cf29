"""Owns what is tried before it is fitted and what is looked at before anything is measured. Must not know numbers of wires."""

from collections.abc import Iterator

from riktig.catalogue.model import CHANGEOVERS, CONTACT_KINDS, Element, ElementKind
from riktig.live.resistance import element_resistors
from riktig.plan.circuit.model import DOOR, PLATE, CircuitDevice
from riktig.plan.plan import Plan
from riktig.plan.sizes.coils import coils_of
from riktig.prove.faults import MARKS_LOOK
from riktig.prove.steps import Phase, Step, Unit
from riktig.units.numbers import format_number

SOURCE = "common practice, no source"
_OPERATED = frozenset({
    "pushbutton", "emergency-stop", "selector", "switch", "limit-switch", "float", "thermostat", "contactor", "relay", "overload",
})  # fmt: skip
"""What a finger moves: a contactor's bridge is pressed in, an overload has a test button."""
_BREAKS = frozenset({ElementKind.NC, ElementKind.AUX_NC, ElementKind.ALARM_NC})
_WIDE = 10.0
"""A coil reads within so many times what its power lets expect: windings differ (common practice, no source)."""


def list_fitting(plan: Plan) -> tuple[Step, ...]:
    """Return what is tried by meter before it is fitted: operators in every position, coils.

    Source:
        Make reads open and break closed, pressed the other way round, of a selector each position; a contact block can be snapped on the
        wrong way: common practice, no source.
    """
    return (*_operators(plan), *_lamps(plan), *_coils(plan))


def _operators(plan: Plan) -> Iterator[Step]:
    closed_in: dict[str, dict[str, str]] = {}
    for use in plan.uses:
        if use.position is not None and use.key in plan.contacts:
            closed_in.setdefault(use.device, {})[plan.contacts[use.key]] = use.position
    for device in plan.circuit.devices:
        elements = [e for e in plan.parts[device.id].elements if e.kind in CONTACT_KINDS]
        if device.kind not in _OPERATED or not elements:
            continue
        count = "1 contact" if len(elements) == 1 else f"{len(elements)} contacts"
        table = (
            _positions(device, elements, closed_in.get(device.id, {}))
            if device.kind == "selector"
            else "; ".join(_at_rest(element) for element in elements)
        )
        yield Step(
            key=f"fit:{device.id}", phase=Phase.FITTING, unit=Unit.SEEN, title=f"{_name(plan, device)}: {count}",
            do=table, as_planned=table, proves="its contacts are the right ones, and each on its side", source=SOURCE, of=device.id,
        )  # fmt: skip


def _at_rest(element: Element) -> str:
    if element.kind in CHANGEOVERS:
        common, broken, made = element.marks[:3]
        return f"{common}-{broken} closed and {common}-{made} open, operated the other way round"
    if element.kind in _BREAKS:
        return f"{element.name} closed, operated open"
    return f"{element.name} open, operated closed"


def _positions(device: CircuitDevice, elements: list[Element], closed_in: dict[str, str]) -> str:
    """Return the table of a selector: which element is closed in which position."""
    used = {element.name: closed_in.get(element.name, "") for element in elements}
    choices = device.positions or tuple(dict.fromkeys(filter(None, used.values())))
    rest = iter([choice for choice in choices if choice not in used.values()])
    used = {name: position or next(rest, "") for name, position in used.items()}  # each position closes its own element
    lines = []
    for choice in choices:
        closed = [name for name, position in used.items() if position == choice]
        lines.append(f"{choice}: {', '.join(closed) if closed else 'none'} closed")
    return "; ".join((*lines, "between them none"))


def _lamps(plan: Plan) -> Iterator[Step]:
    fed = coils_of(plan.job, plan.circuit, plan.power_circuits)
    for device in plan.circuit.devices:
        lamps = [e.name for e in plan.parts[device.id].elements if e.kind in {ElementKind.LAMP, ElementKind.SOUNDER}]
        if not lamps:
            continue
        feed = fed.get(device.id)
        volts = f"at {feed.volts:g} V {feed.current}" if feed is not None else "at its rated volts"
        colour = f", {device.colour}" if device.colour else ""
        yield Step(
            key=f"lit:{device.id}", phase=Phase.FITTING, unit=Unit.SEEN, title=f"{_name(plan, device)}{colour}",
            do=f"{', '.join(lamps)} {'sounds' if device.kind == 'horn' else 'lights'} {volts}", as_planned=plan.parts[device.id].code,
            proves="it is for these volts, and of that colour", source=SOURCE,
        )  # fmt: skip


def _coils(plan: Plan) -> Iterator[Step]:
    ohms = {
        (one.of, one.a.rpartition(":")[2]): one
        for one in element_resistors(plan)
        if one.of in plan.circuit.index and plan.circuit.index[one.of].kind in {"contactor", "relay", "lamp"}
    }
    for device in plan.circuit.devices:
        for element in plan.parts[device.id].elements:
            found = ohms.get((device.id, element.marks[0]))
            if element.kind is not ElementKind.COIL or found is None:
                continue
            yield Step(
                key=f"coil:{device.id}:{element.name}", phase=Phase.FITTING, a=(found.a,), b=(found.b,), expected=found.ohms,
                low=round(found.ohms / _WIDE, 1), high=round(found.ohms * _WIDE),
                title=f"{_name(plan, device)}: coil {element.name}", as_planned=plan.parts[device.id].code,
                proves="its coil is whole and for these volts", source="estimated from its holding power: " + SOURCE, of=device.id,
            )  # fmt: skip


def _name(plan: Plan, device: CircuitDevice) -> str:
    tag = plan.tags[device.id]
    return f"{tag}, {device.title}" if device.title else tag


def list_looks(plan: Plan) -> tuple[Step, ...]:
    """Return what is looked at: devices, tags and ducts as drawn, what is set at each dial, torque, plates and warnings."""
    return tuple(_looks(plan))


def _looks(plan: Plan) -> Iterator[Step]:
    places = {PLATE: "Plate", DOOR: "Door", **{place.name: place.title or place.name for place in plan.job.locations}}
    for place, words in places.items():
        codes = [
            f"{plan.tags[d.id]} {plan.parts[d.id].code}"
            for d in plan.circuit.devices
            if d.location == place and d.id in plan.tags
        ]
        if codes:
            yield _look(f"look:devices:{place}", f"{words}: each device there, as drawn, with its tag", f"{len(codes)} devices",
                        "; ".join(codes), "the right device at each place")  # fmt: skip
    yield from _dials(plan)
    torques = sorted({part.torque_nm for part in plan.parts.values() if part.torque_nm > 0})
    if torques:
        span = " to ".join(format_number(nm) for nm in dict.fromkeys((torques[0], torques[-1])))
        yield _look("look:torque", "Screws at their torque, and a pull at each wire", f"{span} N m, as the tightening list says",
                    f"{span} N m", "no clamp is loose")  # fmt: skip
    yield _look(MARKS_LOOK, "Each wire has its number at both ends, and lies at its clamp; each cable has its name",
                "against the list of wires",
                f"{len(plan.conductors)} conductors", "what the drawings say can be found")  # fmt: skip
    second = "also: where the second supply is isolated" if plan.job.extra_supplies else ""
    yield _look("look:plates", "Nameplate, warnings and legends as on the label list", second,
                plan.job.info.number, "who opens the door is warned")  # fmt: skip
    yield _look("look:inside", "Nothing lies inside that does not belong there; ducts closed, covers on, no sharp edge", "",
                "clean", "no strand, swarf or tool makes a short")  # fmt: skip


def _dials(plan: Plan) -> Iterator[Step]:
    for device in plan.circuit.devices:
        amps = plan.setting_of(device.id)
        tag = plan.tags.get(device.id, device.id)
        if amps is not None:
            words = f"{amps:.2f} A" if amps < 10 else f"{amps:.1f} A"
            what = f"Motor current of {tag} set to" if device.kind in {"drive", "soft-starter"} else f"Dial of {tag} at"
            yield _look(f"look:dial:{device.id}", f"{what} {words}", "the current of the motor as on its plate: read that plate",
                        words, "the motor is protected", of=device.id)  # fmt: skip
        seconds = device.settings.get("seconds")
        if seconds is not None and device.kind == "timer":
            yield _look(
                f"look:dial:{device.id}",
                f"Timer {tag} at {seconds:g} s",
                "",
                f"{seconds:g} s",
                "it times as drawn",
                of=device.id,
            )


def _look(key: str, title: str, do: str, as_planned: str, proves: str, of: str = "") -> Step:
    return Step(
        key=key, phase=Phase.LOOK, unit=Unit.SEEN, title=title, do=do, as_planned=as_planned, proves=proves, source=SOURCE, of=of,
    )  # fmt: skip
