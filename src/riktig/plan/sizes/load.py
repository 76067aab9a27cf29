"""Owns what the panel draws from its supply: full load, neutral, diversity. Must not choose parts."""

from collections.abc import Mapping
from dataclasses import dataclass

from riktig.catalogue.model import CONSUMER_KINDS, Part
from riktig.job.model import Control, Job, Standard
from riktig.job.names import lines_of
from riktig.job.paths import refs_of
from riktig.plan.basis.motor import MotorSize
from riktig.plan.basis.sized import Chosen, SizedValue, decide
from riktig.plan.circuit.model import Circuit
from riktig.plan.circuit.modules import lines_of_ways
from riktig.plan.sizes.coils import feeds_device
from riktig.plan.sizes.short_circuit import PANEL
from riktig.standards import iec_61439_1, nec
from riktig.units.numbers import format_number

_MOST_EXCLUSIVE = 16
"""Starters that exclude each other in one group, up to which the worst case is looked for."""


@dataclass(frozen=True, slots=True, kw_only=True)
class PanelLoad:
    """Currents of the whole panel in A: at full load with diversity, of the largest motor, in the neutral, and what its
    main conductor must carry. `diversity` is the share of their current that the motors draw together.
    """

    full_load: float
    largest_motor: float
    neutral: float
    main_carry: float
    diversity: float
    values: tuple[SizedValue, ...]


def control_load_va(control: Control, circuit: Circuit, job: Job, parts: Mapping[str, Part]) -> tuple[float, float]:
    """Return (hold, largest inrush beyond its hold) in VA of what hangs on a control supply."""
    users = _consumers_of(control, circuit, parts)
    hold = sum(parts[d].rating("hold_va") for d in users)
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
    job: Job, circuit: Circuit, parts: Mapping[str, Part], motors: Mapping[str, MotorSize], chosen: Chosen
) -> PanelLoad:
    """Return the panel's currents.

    Source:
        Sum of the motors that can run together and of all else, IEC 61439-2 Table 101 where the practice takes diversity;
        NEC 430.24 for the conductor; from memory.
    """
    control = 0.0
    for supply in job.controls:
        hold, _ = control_load_va(supply, circuit, job, parts)
        control += hold / (job.supply.volts if supply.kind == "transformer" else job.supply.line_to_neutral)
    here = {s.name: motors[s.name] for s in job.starters if s.power is None}
    together = _together(job, {name: size.current for name, size in here.items()})
    ways = dict.fromkeys(job.supply.lines, 0.0)
    for way, lines in zip(job.ways, lines_of_ways(job), strict=True):
        for line in lines:
            ways[line] += way.amps
    circuits = len(here) + len(job.ways)
    diversity = iec_61439_1.diversity_factor(circuits) if job.practice.diversity == "table" and circuits else 1.0
    running = sum(here[name].current for name in together)
    others = control + max(ways.values(), default=0.0)
    full = decide(_full_value(running, others, diversity, len(together), len(here)), chosen)
    tables = [here[name].table for name in together]
    is_ul = job.practice.standard is Standard.UL
    carry = nec.feeder_ampacity_a(tables, others) if is_ul else full.value
    neutral = decide(_neutral_value(job, circuit, parts, motors, ways), chosen)
    return PanelLoad(
        full_load=full.value, largest_motor=max((m.current for m in motors.values()), default=0.0), neutral=neutral.value,
        main_carry=carry, diversity=diversity, values=(full, neutral),
    )  # fmt: skip


def _full_value(running: float, others: float, diversity: float, together: int, motors: int) -> SizedValue:
    left_out = f" ({motors - together} that never run with another left out)" if together < motors else ""
    share = f"{diversity:g} · " if diversity != 1.0 else ""
    amps = diversity * running + others
    return SizedValue(
        subject=PANEL, quantity="full_load", value=round(amps, 4), unit="A",
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


def _neutral_value(
    job: Job, circuit: Circuit, parts: Mapping[str, Part], motors: Mapping[str, MotorSize], ways: Mapping[str, float]
) -> SizedValue:
    """Return the worst current of the neutral: all single-phase load of the heaviest line, none on the others.

    Source:
        Worst case of unequal lines, harmonics of electronic loads included by not subtracting: common practice.
    """
    lines = dict(ways)
    if job.supply.has_neutral:
        for control in job.controls:
            given = lines_of(control, job)
            if (control.kind == "direct" and len(given) == 1) or "N" in given:
                hold, _ = control_load_va(control, circuit, job, parts)
                lines[given[0]] = lines.get(given[0], 0.0) + hold / job.supply.line_to_neutral
        for starter in job.starters:
            if starter.phases == 1 and starter.power is None and job.supply.system != "1ph3w":
                lines["L1"] = lines.get("L1", 0.0) + motors[starter.name].current
    amps = max(lines.values(), default=0.0) if job.supply.has_neutral else 0.0
    words = ", ".join(f"{line} {format_number(value)} A" for line, value in lines.items() if value) or "nothing on it"
    return SizedValue(
        subject=PANEL, quantity="neutral_current", value=round(amps, 4), unit="A",
        formula=f"single-phase loads: {words}; the heaviest line alone", source="worst case: common practice, no source",
        inputs={"lines": words},
    )  # fmt: skip
