"""Owns whether a fault at the far end of a cable is cleared in time, and whether the cable stands it until then. Must not choose cables."""

from collections.abc import Collection, Iterator, Mapping
from dataclasses import dataclass

from riktig.catalogue.model import Part
from riktig.job.model import Job
from riktig.job.modules import ExtraSupply, WayIn
from riktig.job.practice import Standard
from riktig.plan.basis.sized import SizedValue
from riktig.plan.basis.strength import PROTECTING
from riktig.plan.circuit.model import DOOR, PLATE, Circuit
from riktig.plan.circuit.power import PowerCircuit
from riktig.plan.circuit.zones import zones_of
from riktig.standards import iec_60228, iec_60269, iec_60364_4, iec_60898_1
from riktig.units.conductor_size import ConductorSize
from riktig.units.numbers import format_number

_TN = frozenset({"tn-s", "tn-c-s", "wye-grounded"})
_FIELD_M = 20.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Loop:
    """The way of a fault to earth at the far end of one circuit's cable.

    `load` is what it leads to, `device` what clears it, `trips_a` the current that surely opens it in `time_s`, `fault_a` the smallest
    that flows there, `longest_m` up to where it would still do, `metres` how long the cable is. `let_a2s` is what the device lets through
    at the near and at the far end, `stands_a2s` what the cores stand. `residual_a` is what a residual-current device in it trips at.
    `is_tt`: only such a device clears it. `best_a` is what flows where as much flows to earth at the panel as between three lines, equal to
    `fault_a` where the loop up to the panel is stated; else `asks` is the key that states it.
    """

    load: str
    device: str
    size: ConductorSize
    metres: float
    time_s: float
    trips_a: float
    fault_a: float
    longest_m: float
    let_a2s: tuple[float, float]
    stands_a2s: float
    residual_a: float | None
    is_tt: bool
    value: SizedValue
    best_a: float
    asks: str

    @property
    def is_cleared(self) -> bool:
        """Whether the fault is cleared in time."""
        return self.residual_a is not None or (not self.is_tt and self.fault_a >= self.trips_a)

    @property
    def is_cleared_at_best(self) -> bool:
        """Whether it would be cleared in time if the loop up to the panel is as good as it can be, and nobody has stated it."""
        return bool(self.asks) and not self.is_tt and self.best_a >= self.trips_a

    @property
    def is_stood(self) -> bool:
        """Whether the cores stand what flows until then."""
        return max(self.let_a2s) <= self.stands_a2s


@dataclass(frozen=True, slots=True, kw_only=True)
class Line:
    """One circuit whose cable leaves the panel: what it leads to, the device that clears a fault in it, its way in, the length of its
    cable in m, and what a residual-current device in it trips at in A, None without one.
    """

    load: str
    device: str
    part: Part
    way_in: WayIn
    metres: float
    residual_a: float | None


def find_lines(
    job: Job, circuit: Circuit, parts: Mapping[str, Part], circuits: Mapping[str, PowerCircuit], sized: Collection[str]
) -> dict[str, Line]:
    """Return the circuit of every motor, own load and outgoing way whose cable leaves a panel to IEC, where its supply is TN or TT.

    What hangs behind a drive is left out: its electronics clear a fault, as its maker says.

    Args:
        job: the Job.
        circuit: its circuit.
        parts: part by device.
        circuits: the power circuit of each motor and load.
        sized: the motors and loads whose current is known.
    """
    if job.practice.standard is not Standard.IEC:
        return {}
    found = {}
    zones = zones_of(circuit)
    for load, supply, devices in _circuits(job, circuit, circuits, sized):
        way_in = job.way_in(supply or None)
        protection = next((d for d in reversed(devices) if _is_protection(parts.get(d))), None)
        if protection is None or zones[load] in {PLATE, DOOR} or way_in.earthing not in {*_TN, "tt"}:
            continue
        place = job.location(circuit.device(load).location)
        metres = place.distance if place is not None else _FIELD_M
        trips = [parts[d].rating("ma") for d in devices if d in parts and parts[d].kind == "rcd"]
        ahead = [way_in.rcd_ma] if way_in.rcd_ma is not None else []
        residual = min((*trips, *ahead), default=None)
        found[load] = Line(
            load=load,
            device=protection,
            part=parts[protection],
            way_in=way_in,
            metres=metres,
            residual_a=residual / 1000.0 if residual is not None else None,
        )
    return found


def find_loops(lines: Mapping[str, Line], circuit: Circuit, cores: Mapping[str, ConductorSize]) -> tuple[Loop, ...]:
    """Return the loop of every circuit with its cable as it is.

    Source:
        IEC 60204-1:2016 18.2 and Annex A, IEC 60364-4-41 411.4.4 and 411.5, IEC 60364-4-43 434.5; from memory.
    """
    zones = zones_of(circuit)
    return tuple(loop_of(line, cores.get(zones[load], cores[""])) for load, line in lines.items())


def _circuits(
    job: Job, circuit: Circuit, circuits: Mapping[str, PowerCircuit], sized: Collection[str]
) -> Iterator[tuple[str, str, tuple[str, ...]]]:
    """Yield load, supply and devices of the circuits that are looked at."""
    for name, one in circuits.items():
        is_driven = any(circuit.index[d].kind == "drive" for d in one.of_role("A"))
        if name in sized and not is_driven:
            yield name, one.supply or "", tuple(device for device, _ in one.devices)
    for way in job.ways:
        yield f"{way.name}.E", "", tuple(d for d in (f"{way.name}.F", f"{way.name}.R") if d in circuit.index)


def _is_protection(part: Part | None) -> bool:
    return part is not None and part.kind in PROTECTING


def loop_of(line: Line, size: ConductorSize) -> Loop:
    """Return the loop of a circuit with a cable of a size."""
    part, way_in, metres, residual = line.part, line.way_in, line.metres, line.residual_a
    volts = way_in.line_to_neutral
    rated = part.rating("amps") or part.rating("amps_max")
    time = iec_60364_4.disconnection_s(rated)
    trips, words = trips_surely_a(part, time)
    stated = way_in.loop_ohm
    source = stated if stated is not None else iec_60364_4.source_ohm(volts, way_in.available_ka)
    hot = 2.0 * iec_60228.resistance_ohm_per_m(size.mm2, iec_60228.HOT_C)
    fault = iec_60364_4.loop_a(volts, source, hot, metres)
    longest = iec_60364_4.longest_m(volts, source, hot, trips)
    near, far = _let_through(part, rated, way_in.available_ka), fault**2 * _clearing_s(part, rated, fault, time)
    value = SizedValue(
        subject=line.load, quantity="greatest_length", value=round(max(longest, 0.0), 1), unit="m",
        needed=metres if residual is None else None,
        formula=f"({iec_60364_4.LEAST_VOLTS:g} · {format_number(volts)} V / {format_number(trips)} A - {format_number(source)} Ω) / "
        f"{hot:.4g} Ω/m: {words} in {time:g} s; at {metres:g} m {format_number(fault)} A flow"
        + (f"; its {1000 * residual:g} mA residual-current device clears it at any length" if residual is not None else ""),
        source=f"{iec_60364_4.SOURCE_DISCONNECTION}; "
        + (f"{stated:g} Ω up to the panel as stated" if stated is not None else "the source as "
        f"{format_number(way_in.available_ka / 2)} kA to "
           "earth: common practice"),
        inputs={"volts": round(volts, 1), "fault_ka": way_in.available_ka, "trips_a": round(trips, 1), "size": size.label(),
                "length_m": metres},
        places={"fault_ka": "supply.fault_ka", "trips_a": line.device, "volts": "supply.volts"},
    )  # fmt: skip
    return Loop(
        load=line.load, device=line.device, size=size, metres=metres, time_s=time, trips_a=trips, fault_a=fault, longest_m=longest,
        let_a2s=(near, far), stands_a2s=iec_60364_4.stands_a2s(size.mm2), residual_a=residual, value=value,
        is_tt=way_in.earthing == "tt", best_a=iec_60364_4.loop_a(volts, source if stated is not None else source / 2.0, hot, metres),
        asks="" if stated is not None else f"extra_supply.{way_in.name}.loop_ohm" if isinstance(way_in, ExtraSupply) else "supply.loop_ohm",
    )  # fmt: skip


def trips_surely_a(part: Part, seconds: float) -> tuple[float, str]:
    """Return the current in A that surely opens a protective device within a time, and what does it in words.

    Source:
        IEC 60898-1 Table 7; IEC 60269-1 Table 3; motor breakers at 16 times the upper end of their range: common practice.
    """
    amps, curve = part.rating("amps"), part.traits.get("curve", "")
    if part.kind == "fuse":
        fuse = "aM" if curve == "aM" else "gG"
        return iec_60269.melts_a(fuse, amps, seconds), f"{fuse} {amps:g} A melts"
    if part.kind == "motor-breaker":
        multiple = iec_60898_1.instantaneous_band("M")[1]
        return multiple * part.rating(
            "amps_max"
        ), f"its magnetic release opens at {multiple:g} · {part.rating('amps_max'):g} A"
    known = curve if curve in {"B", "C", "D", "K", "MA"} else "D"
    multiple = iec_60898_1.instantaneous_band(known)[1]
    return multiple * amps, f"{known}{amps:g} opens at once at {multiple:g} times its rating"


def _let_through(part: Part, rated: float, fault_ka: float) -> float:
    if part.kind == "fuse":
        return min(iec_60269.operating_a2s(rated), (1000.0 * fault_ka) ** 2 * 0.01)
    return iec_60898_1.let_through_a2s(rated, fault_ka)


def _clearing_s(part: Part, rated: float, fault_a: float, time_s: float) -> float:
    """Return how long a fault at the far end lasts: a breaker that trips at once 20 ms, a fuse as its gates say, else the whole time."""
    if part.kind != "fuse":
        return 0.02 if fault_a >= trips_surely_a(part, time_s)[0] else time_s
    fuse = "aM" if part.traits.get("curve") == "aM" else "gG"
    quick, slow = iec_60269.melts_a(fuse, rated, 0.1), iec_60269.melts_a(fuse, rated, 5.0)
    return 0.1 if fault_a >= quick else 5.0 if fault_a <= slow else time_s
