"""Owns what the panel draws from its supply: full load, neutral, diversity. Must not choose parts."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field, replace

from riktig.catalogue.model import CONSUMER_KINDS, Part
from riktig.job.model import Control, Job
from riktig.job.modules import Excepted
from riktig.job.names import lines_of
from riktig.job.paths import refs_of
from riktig.job.practice import Standard
from riktig.job.roles import excepted_volts, needs_transformer
from riktig.plan.basis.sized import Chosen, SizedValue, decide
from riktig.plan.circuit.model import Circuit
from riktig.plan.circuit.modules import lines_of_ways
from riktig.plan.sizes.coils import control_volts, feeds_device
from riktig.plan.sizes.own_loads import CONTINUOUS, OwnLoad
from riktig.plan.sizes.short_circuit import PANEL
from riktig.plan.sizes.starter import StarterSizes
from riktig.standards import iec_61439_1, nec
from riktig.units.numbers import format_number

_MOST_EXCLUSIVE = 16
"""Starters that exclude each other in one group, up to which the worst case is looked for."""


@dataclass(frozen=True, slots=True, kw_only=True)
class PanelLoad:
    """Currents of one supply in A: at full load with diversity, of the largest motor, in the neutral, what its main conductor must
    carry, and of what branches off ahead of its switch; `supply` is the rating of the fuse or breaker that stands ahead of the panel at
    the least (IEC) or at most (North America), 0 until branch devices are known.
    `diversity` is the share of their current that the motors draw together;
    `motors` are those that hang on it. `extra` has the load of every further supply by its name.
    """

    full_load: float
    largest_motor: float
    neutral: float
    main_carry: float
    diversity: float
    excepted: float
    supply: float
    motors: tuple[str, ...]
    values: tuple[SizedValue, ...]
    extra: Mapping[str, "PanelLoad"] = field(default_factory=dict)

    @property
    def whole(self) -> float:
        """All that comes in over its conductors, what stays live with the switch off too."""
        return self.full_load + self.excepted

    def of(self, supply: str) -> "PanelLoad":
        """Return the load of a supply by its name, "" for the main one."""
        return self.extra[supply] if supply else self


def control_load_va(control: Control, circuit: Circuit, job: Job, parts: Mapping[str, Part]) -> tuple[float, float]:
    """Return (hold, largest inrush beyond its hold) in VA of what hangs on a control supply."""
    users, volts = _consumers_of(control, circuit, parts), control_volts(control, job)
    hold = sum(circuit.index[d].held_va(parts[d], volts) for d in users)
    extra = max((parts[d].rating("inrush_va") - parts[d].rating("hold_va") for d in users), default=0.0)
    return hold, max(extra, 0.0)


def _consumers_of(control: Control, circuit: Circuit, parts: Mapping[str, Part]) -> list[str]:
    """Return the devices whose coil or lamp lies on a rung that begins or ends at the control supply."""
    found: dict[str, None] = {}
    for path in circuit.paths:
        if path.is_power or path.supply != control.name:
            continue
        for ref in refs_of(path.items):
            if feeds_device(ref) and any(e.kind in CONSUMER_KINDS for e in parts[ref.device].elements):
                found.setdefault(ref.device)
    return list(found)


def panel_load(
    job: Job,
    circuit: Circuit,
    parts: Mapping[str, Part],
    starters: Mapping[str, StarterSizes],
    loads: Mapping[str, OwnLoad],
    chosen: Chosen,
) -> PanelLoad:
    """Return the currents of the panel, those of every supply by itself.

    Args:
        job: the Job.
        circuit: its circuit.
        parts: part by device.
        starters: the sizes of each motor.
        loads: loads of a person's own.
        chosen: sizes that people set.

    Source:
        Sum of the motors that can run together and of all else, IEC 61439-2 Table 101 where the practice takes diversity;
        NEC 430.24 for the conductor; from memory.
    """
    summing = _Summing(job, circuit, parts, starters, loads, chosen)
    extra = {supply.name: summing.load_of(supply.name) for supply in job.extra_supplies}
    return replace(summing.load_of(""), extra=extra)


@dataclass(frozen=True, slots=True)
class _Summing:
    """What is summed for one supply after the other."""

    job: Job
    circuit: Circuit
    parts: Mapping[str, Part]
    starters: Mapping[str, StarterSizes]
    loads: Mapping[str, OwnLoad]
    chosen: Chosen

    def load_of(self, supply: str) -> PanelLoad:
        """Return the currents of one supply, "" for the main one."""
        job = self.job
        here = {name: s.motor for name, s in self.starters.items() if (s.starter.power or "") == supply}
        together = _together(job, {name: size.current for name, size in here.items()})
        single = self._by_line(supply)
        circuits = len(here) + (len(job.ways) if not supply else 0)
        diversity = iec_61439_1.diversity_factor(circuits) if job.practice.diversity == "table" and circuits else 1.0
        running = sum(here[name].current for name in together)
        others = max(single.values(), default=0.0)
        subject = supply or PANEL
        full = decide(_full_value(subject, running, others, diversity, len(together), len(here)), self.chosen)
        tables = [here[name].table for name in together]
        is_ul = job.practice.standard is Standard.UL
        carry = full.value
        if is_ul:
            carry = nec.feeder_ampacity_a(
                tables, max(self._by_line(supply, continuous=CONTINUOUS).values(), default=0.0)
            )
        neutral = decide(self._neutral_value(subject, supply), self.chosen)
        return PanelLoad(
            supply=0.0, full_load=full.value, largest_motor=max((m.current for m in here.values()), default=0.0), neutral=neutral.value,
            main_carry=carry, diversity=diversity, values=(full, neutral), motors=tuple(here),
            excepted=sum(excepted_a(one, job, self.parts) for one in job.excepted) if not supply else 0.0,
        )  # fmt: skip

    def _by_line(self, supply: str, *, to_neutral: bool = False, continuous: float = 1.0) -> dict[str, float]:
        """Return what all else but motors draws from each line in A; with `to_neutral` only what returns through the neutral.

        Loads of a person's own, which may be on for long, count `continuous` times.
        """
        job, way_in = self.job, self.job.way_in(supply or None)
        found = dict.fromkeys(way_in.lines, 0.0)

        def add(lines: Iterable[str], amps: float) -> None:
            bare = [line.rpartition(".")[2] for line in lines]
            if to_neutral and len([line for line in bare if line != "N"]) != 1:
                return
            for line in bare:
                if line in found:
                    found[line] += amps

        for control in job.controls:
            lines = lines_of(control, job)
            if lines[0].removeprefix("in.").rpartition(".")[0] == supply:
                hold, _ = control_load_va(control, self.circuit, job, self.parts)
                is_to_neutral = len(lines) == 1 or lines[1].endswith("N")
                volts = way_in.line_to_neutral if is_to_neutral else way_in.volts
                add(lines, hold / volts)
        for load in self.loads.values():
            if load.circuit.supply == supply and not load.circuit.lines[0].startswith("in."):
                add(load.circuit.lines, continuous * (load.amps or 0.0))
        if not supply:
            for way, lines_ in zip(job.ways, lines_of_ways(job), strict=True):
                add(lines_, way.amps)
        if to_neutral:
            if not supply:
                straight = (one for one in job.excepted if not needs_transformer(one, job))
                add(["L1"], sum(excepted_a(one, job, self.parts) for one in straight))
            for name, sizes in self.starters.items():
                starter = sizes.starter
                if starter.phases == 1 and (starter.power or "") == supply and way_in.system != "1ph3w":
                    add(["L1"], self.starters[name].motor.current)
        return found

    def _neutral_value(self, subject: str, supply: str) -> SizedValue:
        """Return the worst current of the neutral: all single-phase load of the heaviest line, none on the others.

        Source:
            Worst case of unequal lines, harmonics of electronic loads included by not subtracting: common practice.
        """
        lines = self._by_line(supply, to_neutral=True) if self.job.way_in(supply or None).has_neutral else {}
        amps = max(lines.values(), default=0.0)
        words = (
            ", ".join(f"{line} {format_number(value)} A" for line, value in lines.items() if value) or "nothing on it"
        )
        return SizedValue(
            subject=subject, quantity="neutral_current", value=round(amps, 4), unit="A",
            formula=f"single-phase loads: {words}; the heaviest line alone", source="worst case: common practice, no source",
            inputs={"lines": words},
        )  # fmt: skip


def excepted_a(one: Excepted, job: Job, parts: Mapping[str, Part]) -> float:
    """Return what an excepted circuit draws from its line ahead of the main switch in A; none where it comes from elsewhere."""
    if one.load == "from-elsewhere":
        return 0.0
    volts = excepted_volts(one, job)
    part, breaker = parts.get(f"{one.name}.E"), parts.get(f"{one.name}.F")
    if one.load == "socket":
        amps = breaker.rating("amps") if breaker is not None else one.amps or 0.0
    else:
        amps = max(part.rating("hold_va"), part.rating("va")) / volts if part is not None else 0.0
    return amps * volts / job.supply.volts if needs_transformer(one, job) else amps


def _full_value(
    subject: str, running: float, others: float, diversity: float, together: int, motors: int
) -> SizedValue:
    left_out = f" ({motors - together} that never run with another left out)" if together < motors else ""
    share = f"{diversity:g} · " if diversity != 1.0 else ""
    amps = diversity * running + others
    return SizedValue(
        subject=subject, quantity="full_load", value=round(amps, 4), unit="A",
        formula=f"{share}{format_number(running)} A of {together} motors{left_out} + {format_number(others)} A of all else = "
        f"{format_number(amps)} A",
        source=f"sum of what can run together; {iec_61439_1.SOURCE_DIVERSITY}" if share else "sum of what can run together",
        inputs={"motors_a": round(running, 3), "others_a": round(others, 3), "diversity": diversity},
        places={"diversity": "practice.diversity"},
    )  # fmt: skip


def _together(job: Job, amps: Mapping[str, float]) -> list[str]:
    """Return the starters that draw most of all sets that may run together: `never_with` keeps some apart."""
    apart: dict[str, set[str]] = {name: set() for name in amps}
    for starter in job.starters:
        for other in starter.never_with:
            if starter.name in apart and other in apart:
                apart[starter.name].add(other)
                apart[other].add(starter.name)
    bound = [name for name in amps if apart[name]]
    free = [name for name in amps if not apart[name]]
    if len(bound) > _MOST_EXCLUSIVE:
        return list(amps)
    return [*free, *_heaviest(bound, apart, amps)]


def _heaviest(names: list[str], apart: Mapping[str, set[str]], amps: Mapping[str, float]) -> list[str]:
    """Return the heaviest of all sets of names in which none excludes another."""
    if not names:
        return []
    first, rest = names[0], names[1:]
    without = _heaviest(rest, apart, amps)
    taken = [first, *_heaviest([name for name in rest if name not in apart[first]], apart, amps)]
    return max((taken, without), key=lambda chosen: sum(amps[name] for name in chosen))
