"""Rules about heat: how warm and how cold it gets inside, and whether conductors were sized for it."""

from collections.abc import Iterator
from math import ceil

from riktig.catalogue.loader import parts_of_kind
from riktig.catalogue.model import Mounting
from riktig.checks.finding import Finding, Severity
from riktig.job.mends import Mend
from riktig.plan.circuit.model import DOOR, PLATE
from riktig.plan.plan import Plan
from riktig.plan.sizes.short_circuit import PANEL
from riktig.standards import iec_60890
from riktig.standards.iec_60204_1 import AMBIENT_LIMITS_C

_MOST_RISE_K = 39.0
"""The warmest rise that a brief may declare."""
_EVEN_K = 0.1
"""So much is no difference: losses are not known better."""


def _free(plan: Plan) -> str:
    """Return a name that no excepted circuit has yet."""
    taken = {circuit.name for circuit in plan.job.excepted}
    return next(name for n in range(1, len(taken) + 2) if (name := f"X{n}") not in taken)


def _excepted(plan: Plan, load: str) -> Mend:
    return Mend(table="excepted", name=_free(plan), changes=(("load", load),))


def check_inside(plan: Plan) -> Iterator[Finding]:
    """Yield an enclosure that gets warmer than its devices may stand in, with the fan that mends it.

    Source:
        Effective surface: IEC 60890 / VDE 0660-500, from memory.
    """
    heat, box = plan.panel.heat, plan.job.enclosure
    if heat.inside_c <= box.inside_max + _EVEN_K:
        return
    can_be_cooled = box.ambient < box.inside_max
    if not can_be_cooled:
        mend = f"the air around is {box.ambient:g} °C already: it needs cooling, or devices for more than {box.inside_max:g} °C"
    else:
        mend = (
            f"a filter fan of {heat.needed_air_m3h:.0f} m³/h keeps it there ([excepted.{_free(plan)}] load = \"fan\", or a "
            "device of kind fan), "
            "or take a larger enclosure"
        )  # fmt: skip
    yield Finding(
        rule="inside-temperature", severity=Severity.MUST, subject=PANEL, evidence=f"{heat.inside_c:.1f} °C",
        message=f"{plan.panel.heat_w:.0f} W warm the air inside to {heat.inside_c:.1f} °C, more than {box.inside_max:g} °C: {mend}",
        limit=f"{box.inside_max:g} °C", source=f"{iec_60890.SOURCE_AREA}; {iec_60890.SOURCE_K}",
        mend=_excepted(plan, "fan") if can_be_cooled and not any(c.load == "fan" for c in plan.job.excepted) else None,
    )  # fmt: skip


def check_cold(plan: Plan) -> Iterator[Finding]:
    """Yield an enclosure in the cold without a heater, or with one that is too small.

    Source:
        Electrical equipment works from 5 degC: IEC 60204-1:2016 4.4.3, from memory.
    """
    wanted, box = plan.panel.heat.needed_heater_w, plan.job.enclosure
    inside = [plan.parts[d.id] for d in plan.circuit.devices if d.kind == "heater" and d.location in {PLATE, DOOR}]
    heaters = sum(part.rating("va") for part in inside)
    if wanted <= heaters:
        return
    largest = max((p.rating("va") for p in parts_of_kind("heater") if p.mounting is Mounting.PLATE), default=wanted)
    more = max(ceil(wanted / largest) - len(inside), 1)
    mend = f'add [excepted.{_free(plan)}] load = "heater"' + (f", {more} of them" if more > 1 else "")
    if inside and largest * len(inside) >= wanted:
        mend = "let Riktig choose the part, or take a larger one"
    there = f"{heaters:.0f} W of heaters are too few" if heaters else "there is no heater"
    yield Finding(
        rule="cold-enclosure", severity=Severity.SHOULD, subject=PANEL, evidence=f"{heaters:.0f} W", limit=f"{wanted:.0f} W",
        message=f"at {box.ambient_min:g} °C around it the panel needs {wanted:.0f} W to stay at {AMBIENT_LIMITS_C[0]:g} °C, and {there}: "
        f"{mend}",
        source="IEC 60204-1:2016 4.4.3, from memory", mend=_excepted(plan, "heater") if not inside and more == 1 else None,
    )  # fmt: skip


def check_condensation(plan: Plan) -> Iterator[Finding]:
    """Yield a panel in the weather with no heater in it: it gets wet inside when nights are cold.

    Source:
        IEC 60204-1:2016 4.4.4 (condensation is prevented), IEC 61439-1 7.1.2, from memory; a heater with a thermostat: common practice.
    """
    has_heater = any(device.kind == "heater" and device.location in {PLATE, DOOR} for device in plan.circuit.devices)
    if plan.job.enclosure.outdoors and not has_heater:
        yield Finding(
            rule="condensation", severity=Severity.SHOULD, subject="panel", evidence="no heater", limit="no water inside",
            message=f'it stands outdoors and gets wet inside when nights are cold: add [excepted.{_free(plan)}] load = "heater", which '
            "stays live with the main switch off",
            source="IEC 60204-1:2016 4.4.4, from memory; the heater: common practice, no source", mend=_excepted(plan, "heater"),
        )  # fmt: skip


def check_declared_rise(plan: Plan) -> Iterator[Finding]:
    """Yield an enclosure whose air gets warmer than its conductors were sized for.

    Source:
        IEC 60204-1:2016 12.4: the air where the conductors lie, from memory.
    """
    rise, declared = plan.panel.heat.rise_k, plan.job.enclosure.inside_rise
    if plan.job.practice.standard == "iec" and rise > declared + 0.5:
        yield Finding(
            rule="declared-rise", severity=Severity.SHOULD, subject=PANEL, evidence=f"{rise:.1f} K", limit=f"{declared:g} K",
            message=f"the air inside gets {rise:.0f} K warmer than around the panel, conductors are sized for {declared:g} K: write "
            f"[enclosure] inside_rise = {rise + 0.5:.0f}, or carry more heat away",
            source="IEC 60204-1:2016 12.4, from memory",
            mend=Mend(table="enclosure", changes=(("inside_rise", float(f"{rise + 0.5:.0f}")),)) if rise < _MOST_RISE_K else None,
        )  # fmt: skip
