"""Owns what belongs to what in a Plan: what to find by a word, what a selection marks, and what is to be said of it.

A ref is a device id, a terminal id, `net:NUMBER`, `wire:ID`, a strip, the code of a rail or duct, the name of a control
supply or module that has sizes of its own, or `panel`.
"""

from collections import Counter
from dataclasses import dataclass
from functools import cached_property

from riktig.plan.basis.sized import SizedValue
from riktig.plan.circuit.zones import device_of
from riktig.plan.net.runs import run_words
from riktig.plan.net.strips import clamp_words
from riktig.plan.plan import Plan
from riktig.plan.sizes.short_circuit import PANEL
from riktig.plan.wiring.cables import Cable, cable_ref
from riktig.plan.wiring.conductors import STAGE_TITLES, Conductor
from riktig.plan.wiring.index import gather
from riktig.plan.wiring.links import link_key
from riktig.plan.wiring.taps import WIRE_SECTION, wire_value
from riktig.standards.colours import ConductorFunction

_WHOLE = ("plate", "job", "")
"""What findings about the panel as a whole have as their subject."""
_POWER = frozenset({ConductorFunction.POWER, ConductorFunction.NEUTRAL})


def code_of(job: str, ref: str) -> str:
    """Return what stands in the code of a label: read into Find it leads to the thing."""
    return f"riktig:{job}/{ref}"


@dataclass(frozen=True, slots=True, kw_only=True)
class Description:
    """What is known of a selection: a heading, facts as (name, value), sized values, and subjects of findings."""

    title: str
    subtitle: str
    facts: tuple[tuple[str, str], ...]
    values: tuple[SizedValue, ...]
    subjects: frozenset[str]
    facts_first: bool = False


class Lookup:
    """Indexes of one Plan; each is made when it is first asked."""

    def __init__(self, plan: Plan) -> None:
        self._plan = plan
        self._numbers = frozenset(p.number for p in plan.potentials)
        self._cables = {cable_ref(cable.name): cable for cable in plan.cables}

    @cached_property
    def _number_of(self) -> dict[str, str]:
        plan = self._plan
        at_devices = {terminal: potential.number for terminal, potential in plan.potential_at.items()}
        return at_devices | {clamp.id: clamp.number for clamp in plan.clamps if clamp.number}

    @cached_property
    def _wires(self) -> dict[str, Conductor]:
        return {c.id: c for c in self._plan.conductors}

    @cached_property
    def _by_number(self) -> dict[str, tuple[Conductor, ...]]:
        return gather((conductor.number, conductor) for conductor in self._plan.conductors)

    @cached_property
    def _values(self) -> dict[str, tuple[SizedValue, ...]]:
        return gather((value.subject, value) for value in self._plan.sizing)

    def find(self) -> dict[str, str]:
        """Return every word that leads somewhere, with its ref: tags, numbers, terminals, sheet.column, codes."""
        plan = self._plan
        words = {subject: subject for subject in self._values}
        words.update({tag: device for device, tag in plan.tags.items()})
        words.update({cable.name: ref for ref, cable in self._cables.items()})
        words.update({name: name for clamp in plan.clamps for name in (clamp.strip, clamp.piece)})
        words.update({clamp: clamp for clamp in plan.clamp_by_id})
        words.update({f"wire {p.number}": f"net:{p.number}" for p in plan.potentials})
        words.update({plan.terminal_label(t): t for t in self._number_of})
        for device, place in plan.sheet_places.items():
            words.setdefault(place.label, device)
        words.update({rail.code: rail.code for rail in plan.plate.rails})
        words.update({duct.code: duct.code for duct in plan.plate.ducts})
        for ref in ("job", *self._cables):
            words[code_of(plan.job.info.number, ref)] = "panel" if ref == "job" else ref
        return words

    def device(self, ref: str) -> str | None:
        """Return the device or strip that a ref belongs to, None if there is none."""
        if ref in self._plan.tags or any(ref in (clamp.strip, clamp.piece) for clamp in self._plan.clamps):
            return ref
        owner = device_of(ref) if not ref.startswith(("net:", "wire:")) else ""
        return owner if owner and (owner in self._plan.tags or owner in self._plan.plate.boxes) else None

    def number(self, ref: str) -> str | None:
        """Return the wire number that a ref stands for, None if it stands for several or none."""
        if ref.startswith("net:"):
            return ref[4:] if ref[4:] in self._numbers else None
        wire = self._wires.get(ref[5:]) if ref.startswith("wire:") else None
        return wire.number if wire is not None else self._number_of.get(ref)

    def conductors(self, ref: str) -> tuple[Conductor, ...]:
        """Return the conductors of a ref: the wire itself, all of a number, or all that end on a device."""
        if ref.startswith("wire:"):
            wire = self._wires.get(ref[5:])
            return (wire,) if wire is not None else ()
        if ref in self._cables:
            return tuple(c for c in self._plan.conductors if c.location == self._cables[ref].name)
        number = self.number(ref)
        if number is not None:
            return self._by_number.get(number, ())
        device = self.device(ref)
        return self._plan.conductors_of.get(device, ()) if device is not None else ()

    def marks(self, ref: str) -> tuple[str, ...]:
        """Return all refs to mark on drawings when a ref is selected."""
        marks = [ref]
        device, number = self.device(ref), self.number(ref)
        if device is not None:
            marks.append(device)
        if number is not None:
            marks.append(f"net:{number}")
            marks.extend(clamp.id for clamp in self._plan.clamps if clamp.number == number)
        marks.extend(d.id for d in self._plan.circuit.devices if d.owner == ref and device is None)
        return tuple(dict.fromkeys(marks))

    def joins(self, number: str) -> tuple[str, ...]:
        """Return in words what joins the points of a number, place by place."""
        plan = self._plan
        return tuple(
            f"{plan.terminal_label(c.a)} – {plan.terminal_label(c.b)}   {c.kind}, {c.location}"
            for c in self._by_number.get(number, ())
            if not c.is_inside_one
        )

    def describe(self, ref: str) -> Description | None:
        """Return what is to be said of a ref, None if nothing is known."""
        if ref.startswith("wire:"):
            return self._describe_wire(ref[5:])
        if ref in self._cables:
            return self._describe_cable(self._cables[ref])
        number = self.number(ref)
        is_clamp = any(clamp.id == ref for clamp in self._plan.clamps)
        if number is not None and (is_clamp or ref.startswith("net:")):
            return self._describe_number(number)
        device = self.device(ref)
        if device is not None and device in self._plan.tags:
            return self._describe_device(device)
        if device is not None:
            return self._describe_strip(device)
        return self._describe_owner(ref) if ref in self._values else self._describe_piece(ref)

    def _describe_owner(self, name: str) -> Description:
        """Describe what has sizes but is no device: the panel, a control supply, a module."""
        tags = ", ".join(self._plan.tags[d.id] for d in self._plan.circuit.devices if d.owner == name)
        facts = (("Parts", tags),) if tags else ()
        subtitle = (
            "as a whole" if name == PANEL else "control supply" if self._plan.job.control(name) is not None else ""
        )
        return Description(
            title=name.replace("_", " ").capitalize() if name.islower() else name, subtitle=subtitle, facts=facts,
            values=self._values.get(name, ()), subjects=frozenset({name, *(_WHOLE if name == PANEL else ())}),
        )  # fmt: skip

    def _describe_device(self, device_id: str) -> Description:
        plan = self._plan
        device, part = plan.circuit.device(device_id), plan.parts[device_id]
        place = plan.sheet_places.get(device_id)
        box = plan.plate.boxes.get(device_id)
        facts = [("Part", f"{part.title} ({part.code})"), ("Where", device.place)]
        if device.positions:
            facts.append(("Positions", ", ".join(device.positions)))
        facts.extend(_setting_fact(name, value) for name, value in device.settings.items())
        if place is not None:
            facts.append(("Drawn at", place.words))
        if box is not None:
            facts.append(("On the plate", f"{box.x:.0f} / {box.y:.0f} mm"))
        for terminal in part.terminals:
            number = self._number_of.get(f"{device_id}:{terminal.mark}")
            if number is not None:
                facts.append((terminal.mark, f"wire {number}"))
        owner = device.owner if device.owner is not None and device.owner != device_id else ""
        values = list(self._values.get(device_id, ()))
        if owner in plan.motors and device.role != "M":
            values.extend(v for v in self._values.get(owner, ()) if v.quantity == "motor_current" and values)
        elif owner in self._values:
            values.extend(self._values.get(owner, ()))
        return Description(
            title=f"{plan.tags[device_id]}  {device.kind}", subtitle=device.title, facts=tuple(facts),
            values=tuple(values), subjects=frozenset({device_id, *([device.owner] if device.owner else [])}),
        )  # fmt: skip

    def _describe_wire(self, wire_id: str) -> Description | None:
        wire = self._wires.get(wire_id)
        if wire is None:
            return None
        plan = self._plan
        facts: tuple[tuple[str, str], ...] = (
            ("From", plan.terminal_label(wire.a)),
            ("To", plan.terminal_label(wire.b)),
            ("Kind", f"{wire.kind}, {wire.location}"),
            ("Conductor", f"{wire.size.label()} {wire.colour}"),
            ("Length", f"{wire.length_mm:g} mm"),
            ("Way", wire.way),
            ("Stage", STAGE_TITLES[wire.stage]),
        )
        remark = plan.remark("wire", link_key(wire.a, wire.b))
        facts += (("Remark", remark),) if remark else ()
        values = self._section_values(wire.number)
        if wire.kind == "wire":
            values = (self._wire_value(wire), *values)
        return Description(
            title=f"Wire {wire.number}", subtitle="one conductor", facts=facts, values=values,
            subjects=frozenset(wire.route), facts_first=True,
        )  # fmt: skip

    def _wire_value(self, wire: Conductor) -> SizedValue:
        """Return the section of one wire, which a person may set."""
        key = link_key(wire.a, wire.b)
        by_hand = next((v for v in self._values.get(key, ()) if v.quantity == WIRE_SECTION), None)
        return by_hand or wire_value(key, wire.number, wire.size, {})

    def _section_values(self, number: str) -> tuple[SizedValue, ...]:
        """Return why the wires of a number are as thick as they are: by motor, by control supply, or as mains."""
        plan = self._plan
        devices = {device_of(t) for t, n in self._number_of.items() if n == number}
        owners = {d.owner for d in plan.circuit.devices if d.id in devices}
        is_power = next((p.net.function in _POWER for p in plan.potentials if p.number == number), False)
        feeding = {s.supply for s in plan.job.starters if s.name in owners} or {c.name for c in plan.job.controls}
        wanted = owners & set(plan.motors) if is_power else feeding
        sorts = {"conductor_section"} | ({"cable_section"} if any(d in plan.motors for d in devices) else set())
        is_lead = is_power and not any(f"{owner}.Q" in devices for owner in wanted)
        if is_lead and any(v.quantity == "lead_section" for owner in wanted for v in self._values.get(str(owner), ())):
            sorts = sorts - {"conductor_section"} | {"lead_section"}
        if is_power and len(owners) > 1:
            wanted, sorts = {"Q0"}, {"main_section"}
        return tuple(v for v in plan.sizing if v.subject in wanted and v.quantity in sorts)

    def _describe_number(self, number: str) -> Description:
        potential = next(p for p in self._plan.potentials if p.number == number)
        facts = [("Meets", self._plan.terminal_label(t)) for t in potential.net.terminals]
        wired = [c for c in self._by_number.get(number, ()) if not c.is_inside_one]
        kinds = Counter(c.kind for c in wired)
        facts.insert(
            0,
            ("Joined by", ", ".join(f"{n} {kind}{'s' if n > 1 else ''}" for kind, n in kinds.items()) or "nothing yet"),
        )
        clamps = " ".join(clamp.id for clamp in self._plan.clamps if clamp.number == number)
        if clamps:
            facts.insert(1, ("On strips", clamps))
        facts.append(("Colour", next((c.colour for c in self._by_number.get(number, ())), "-")))
        names = ", ".join(n for n in potential.net.names if n != number and not n.startswith("@"))
        count = len(self._by_number.get(number, ()))
        return Description(
            title=f"Wire number {number}", subtitle=names or f"{count} conductors", facts=tuple(facts),
            values=self._section_values(number), subjects=frozenset({f"net:{number}"}), facts_first=True,
        )  # fmt: skip

    def _describe_cable(self, cable: Cable) -> Description:
        facts = [
            *((("From", cable.origin),) if cable.origin else ()),
            ("To", f"{cable.target}, {cable.length_m:g} m"),
            ("Cores", f"{cable.cores} x {cable.size_label}, {cable.spare} of them spare"),
            ("Numbers", " ".join(cable.numbers)),
        ]
        if cable.gland is not None:
            facts.append(("Outside", f"about {cable.gland.cable_mm:g} mm; the data sheet decides"))
            facts.append(("Gland", f"{cable.gland.thread}, hole {cable.gland.hole_mm:g} mm"))
        if cable.conduit is not None:
            conduit = cable.conduit
            words = f"EMT {conduit.trade_size} in, {conduit.fill_percent:.0f} % full, hole {cable.hole_mm:g} mm"
            facts.append(("Conduit", words))
        if cable.screen is not None:
            facts.extend(zip(("Screen here", "Screen there"), cable.screen_words, strict=True))
        remark = self._plan.remark("cable", cable.drop)
        return Description(
            title=f"{cable.name}  cable", subtitle=run_words(cable.drop), facts=(*facts, *((("Remark", remark),) if remark else ())),
            values=(), subjects=frozenset({cable.drop}),
        )  # fmt: skip

    def _describe_strip(self, strip: str) -> Description:
        clamps = [c for c in self._plan.clamps if strip in (c.strip, c.piece)]
        facts = tuple((c.id, clamp_words(c)) for c in clamps)
        return Description(
            title=f"{strip}  terminal strip", subtitle=f"{len(clamps)} terminals", facts=facts, values=(),
            subjects=frozenset({strip}),
        )  # fmt: skip

    def _describe_piece(self, code: str) -> Description | None:
        cuts = [cut for cut in self._plan.cuts if cut.code == code]
        if not cuts:
            return None
        cut = cuts[0]
        wires = sum(code in c.route for c in self._plan.conductors)
        facts = (("Profile", cut.profile), ("Length", f"{cut.length:g} mm"), ("Wires in it", str(wires)))
        return Description(
            title=f"{code}  {cut.what}", subtitle=f"bar {cut.bar}", facts=facts, values=(), subjects=frozenset({code})
        )


_SETTINGS = {"seconds": ("Set to", "s"), "level_m": ("At a level of", "m")}


def _setting_fact(name: str, value: float) -> tuple[str, str]:
    """Return what is set at a device in words with its unit."""
    words, unit = _SETTINGS.get(name, (name.replace("_", " "), ""))
    return words, f"{value:g} {unit}".strip()
