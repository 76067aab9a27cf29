"""Owns which thing of a live circuit each device of a Plan is, and what feeds them all. Must not know time."""

from collections.abc import Callable, Mapping

from riktig.catalogue.model import CONTACT_KINDS, ElementKind, Part
from riktig.job.names import lines_of
from riktig.job.program import read_program
from riktig.job.roles import excepted_volts
from riktig.live.coils import PhaseRelay, Relay, SafetyRelay, ThermistorRelay, TimeRelay
from riktig.live.consumers import CONSUMING, Consumer
from riktig.live.controllers import Controller
from riktig.live.converters import Drive, SoftStarter
from riktig.live.gear import Gear
from riktig.live.motors import Motor
from riktig.live.operators import Operated, Selector
from riktig.live.protection import Breaker, Fuse, Impedance, Overload, ResidualDevice, Switchgear
from riktig.live.supplies import DcSupply, Source, Transformer, WayInGear
from riktig.plan.basis.motor import START_RATIO
from riktig.plan.circuit.incoming import SUPPLY, supplies_in
from riktig.plan.circuit.model import CircuitDevice
from riktig.plan.plan import Plan
from riktig.plan.sizes.coils import coils_of, line_volts
from riktig.plan.sizes.needs import Coil

_MOVED = frozenset({"pushbutton", "emergency-stop", "float", "limit-switch", "thermostat", "switch", "surge"})


def ways_in(plan: Plan) -> tuple[WayInGear, ...]:
    """Return the ways in of a panel, the main one first."""
    terminals = {name: p.net.terminals[0] for p in plan.potentials if p.net.terminals for name in p.net.names}
    found = []
    for sort, names in supplies_in(plan.job).items():
        name = sort.removeprefix(SUPPLY).strip()
        here = {full.rpartition(".")[2]: terminals[full] for full in sorted(names) if full in terminals}
        found.append(WayInGear(name or SUPPLY, plan.job.way_in(name or None), dict(here)))
    return tuple(found)


def gears_of(plan: Plan) -> dict[str, Gear]:
    """Return the things of a live circuit by device id; what has neither contacts nor anything that conducts is none."""
    maker = _Maker(plan)
    found = {device.id: maker.make(device, plan.parts[device.id]) for device in plan.circuit.devices}
    return {name: gear for name, gear in found.items() if gear is not None}


class _Maker:
    """Makes them, each by its kind."""

    def __init__(self, plan: Plan) -> None:
        self._plan = plan
        self._feeds = coils_of(plan.job, plan.circuit, plan.power_circuits)
        self._positions: dict[str, dict[str, str]] = {}
        for use in plan.uses:
            if use.position is not None and use.key in plan.contacts:
                self._positions.setdefault(use.device, {})[plan.contacts[use.key]] = use.position
        coil = {
            "contactor": Relay,
            "relay": Relay,
            "timer": TimeRelay,
            "thermistor-relay": ThermistorRelay,
            "safety-relay": SafetyRelay,
        }
        self._makers: dict[str, Callable[[CircuitDevice, Part], Gear]] = {
            **{kind: self._with_feed(sort) for kind, sort in coil.items()},
            **dict.fromkeys(_MOVED, Operated),
            "selector": lambda d, p: Selector(d, p, self._positions.get(d.id, {})),
            "disconnect": Switchgear, "link": Switchgear, "fuse": Fuse, "rcd": ResidualDevice,
            "breaker": lambda d, p: Breaker(d, p), "motor-breaker": lambda d, p: Breaker(d, p, plan.setting_of(d.id)),
            "overload": lambda d, p: Overload(d, p, plan.setting_of(d.id)),
            "phase-relay": lambda d, p: PhaseRelay(d, p, plan.job.supply.volts),
            "transformer": self._transformer, "resistor": self._impedance, "filter": self._impedance,
            "psu": lambda d, p: DcSupply(d, p, self._primary(d), self._feeds.get(d.id, Coil(volts=24.0, current="DC")).volts),
            "source": self._source,
            "motor": self._motor, "drive": self._drive, "soft-starter": self._soft, "plc": self._controller,
        }  # fmt: skip

    def make(self, device: CircuitDevice, part: Part) -> Gear | None:
        """Return the thing that a device is, None for terminals, bars and the like."""
        maker = self._makers.get(device.kind)
        if maker is not None:
            return maker(device, part)
        kinds = {element.kind for element in part.elements}
        if kinds & CONTACT_KINDS:
            return Operated(device, part)
        return Consumer(device, part, self._feeds.get(device.id)) if kinds & set(CONSUMING) else None

    def _with_feed(
        self, sort: Callable[[CircuitDevice, Part, Coil | None], Gear]
    ) -> Callable[[CircuitDevice, Part], Gear]:
        return lambda device, part: sort(device, part, self._feeds.get(device.id))

    def _primary(self, device: CircuitDevice) -> float:
        """Return the volts that a transformer or DC supply is fed with."""
        job = self._plan.job
        control = job.control(device.owner) if device.owner else None
        if control is not None:
            lines = lines_of(control, job)
            way_in = job.way_in(lines[0].rpartition(".")[0] or None)
            return way_in.line_to_neutral if len(lines) == 1 or lines[1].endswith("N") else way_in.volts
        if device.id in self._plan.power_circuits:
            return line_volts(self._plan.power_circuits[device.id], job)[0]
        return job.supply.line_to_neutral if job.supply.has_neutral else job.supply.volts

    def _source(self, device: CircuitDevice, part: Part) -> Gear:
        """Return what feeds a circuit from elsewhere, with the volts of that circuit's load."""
        circuit = next((one for one in self._plan.job.excepted if one.name == device.owner), None)
        supply = self._plan.job.supply
        volts = supply.line_to_neutral if circuit is None else excepted_volts(circuit, self._plan.job)
        return Source(device, part, volts)

    def _transformer(self, device: CircuitDevice, part: Part) -> Gear:
        if not any(element.kind is ElementKind.SECONDARY for element in part.elements):
            return self._impedance(device, part)
        feed = self._feeds.get(device.id)
        return Transformer(device, part, (self._primary(device), feed.volts if feed else part.rating("volts") or 230.0))

    def _impedance(self, device: CircuitDevice, part: Part) -> Gear:
        """Return what limits a start to about three times its rating, or a choke of 4 %: common practice, no source."""
        volts, amps = self._plan.job.supply.line_to_neutral, max(part.rating("amps"), 1.0)
        is_starting = part.traits.get("duty") == "starting"
        return Impedance(
            device, part, volts / (3.0 * amps) + 0j if is_starting else 0.04j * volts / amps + 0.001 * volts / amps
        )

    def _amps_volts(self, motor: str) -> tuple[float, float]:
        size = self._plan.motors.get(motor)
        one = self._plan.power_circuits.get(motor)
        volts = line_volts(one, self._plan.job)[0] if one is not None else self._plan.job.supply.volts
        return (size.current if size is not None else 1.0), volts

    def _motor(self, device: CircuitDevice, part: Part) -> Gear:
        amps, volts = self._amps_volts(device.id)
        dials = self._plan.motors[device.id].dials if device.id in self._plan.motors else {}
        marks = [
            mark
            for element in part.elements
            if element.kind is ElementKind.WINDING
            for mark in (element.marks[0], element.marks[-1])
        ]
        of_speed = {
            mark: dial
            for mark in marks
            for overload, dial in dials.items()
            if self._leads_to(overload, f"{device.id}:{mark}")
        }
        return Motor(device, part, amps, volts, START_RATIO, of_speed if part.traits.get("speeds") else {})

    def _leads_to(self, overload: str, terminal: str) -> bool:
        """Return whether an overload is next to a terminal."""
        there = self._plan.potential_at.get(terminal)
        return there is not None and any(end.startswith(f"{overload}:") for end in there.net.terminals)

    def _led(self, device: CircuitDevice) -> tuple[float, float]:
        """Return amps and volts of the motor that a drive or soft starter leads."""
        motor, _ = self._plan.motor_roles.get(device.id, ("", ""))
        return self._amps_volts(motor)

    def _drive(self, device: CircuitDevice, part: Part) -> Gear:
        amps, volts = self._led(device)
        has_reference = f"{device.id}:AI1" in self._plan.potential_at
        return Drive(device, part, volts, amps, has_reference=has_reference)

    def _controller(self, device: CircuitDevice, part: Part) -> Gear:
        text = next((one.program for one in self._plan.job.controllers if one.name == device.id), "")
        return Controller(device, part, self._feeds.get(device.id), read_program(text))

    def _soft(self, device: CircuitDevice, part: Part) -> Gear:
        amps, volts = self._led(device)
        feed = self._feeds.get(device.id)
        return SoftStarter(device, part, volts, amps, part.rating("volts") or (feed.volts if feed else 230.0))


def names_of(plan: Plan) -> Mapping[str, str]:
    """Return what people call a device, its tag or its id -> its id."""
    return {
        **{tag: device for device, tag in plan.tags.items() if device in plan.circuit.index},
        **{d: d for d in plan.circuit.index},
    }
