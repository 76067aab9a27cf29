"""Owns what stands on the nameplate of a panel: what follows from the design, and what a person states. Must not judge it."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import TYPE_CHECKING

from riktig.job.modules import WayIn
from riktig.job.practice import Standard

if TYPE_CHECKING:
    from riktig.plan.plan import Plan

SYSTEMS = {
    "1ph+n": "1 phase and neutral",
    "1ph3w": "1 phase, 3 wires",
    "3ph": "3 phases",
    "3ph+n": "3 phases and neutral",
}
"""Systems of supply as papers and plates name them."""

ASKED = {Standard.IEC: ("maker", "serial", "year", "document"), Standard.UL: ("maker", "document")}
"""What only a person knows and a nameplate must say: IEC 60204-1:2016 16.4, IEC 61439-1:2020 6.1; NFPA 79:2021 16.4, UL 508A 55; from
memory.
"""


@dataclass(frozen=True, slots=True, kw_only=True)
class PlateField:
    """A line of the nameplate; `text` is "" while nobody has stated it, `key` then is where."""

    heading: str
    text: str
    key: str = ""


def nameplate_fields(plan: "Plan") -> tuple[PlateField, ...]:
    """Return the lines of the nameplate in order.

    Source:
        IEC 60204-1:2016 16.4, IEC 61439-1:2020 6.1; NFPA 79:2021 16.4, UL 508A 55 and SB5; from memory.
    """
    return tuple(_fields(plan))


def _fields(plan: "Plan") -> Iterator[PlateField]:
    job, info = plan.job, plan.job.info
    is_ul = job.practice.standard is Standard.UL
    yield PlateField(heading="Maker", text=info.maker, key="job.maker")
    yield PlateField(heading="Panel", text=" ".join(filter(None, (info.number, info.title))))
    if not is_ul or info.serial:
        yield PlateField(heading="Serial number", text=info.serial, key="job.serial")
    if not is_ul or info.year:
        yield PlateField(heading="Year", text=str(info.year or ""), key="job.year")
    yield PlateField(heading="Electrical diagram" if is_ul else "Main document", text=info.document, key="job.document")
    yield PlateField(heading="Supply", text=_supply(job.supply))
    yield PlateField(heading="Full load", text=f"{plan.panel.full_load_a:.1f} A")
    if plan.panel.largest_motor_a:
        yield PlateField(heading="Largest motor", text=f"{plan.panel.largest_motor_a:.1f} A")
    yield PlateField(heading="Supply protected by at most", text=protection_words(plan))
    for extra in job.extra_supplies:
        yield PlateField(
            heading=f"Supply {extra.name}",
            text=f"{_supply(extra)}, full load {plan.panel.load.of(extra.name).full_load:.1f} A, protected by at most "
            f"{protection_words(plan, extra.name)}",
        )
    yield PlateField(
        heading="Short-circuit rating", text=f"{plan.panel.sccr_ka:g} kA{' RMS symmetrical' if is_ul else ''}"
    )
    yield PlateField(heading="Enclosure", text=job.enclosure.rating, key="enclosure.rating")
    if is_ul:
        yield PlateField(heading="Field wiring", text="copper conductors only, torque as marked on the terminals")
    else:
        is_machine = job.practice.scope == "machine"
        yield PlateField(
            heading="Standard", text="IEC 60204-1, IEC 61439-1 and -2" if is_machine else "IEC 61439-1 and -2"
        )


def _supply(way: WayIn) -> str:
    return f"{way.volts:g} V {SYSTEMS[way.system]} {way.hertz:g} Hz"


def protection_words(plan: "Plan", supply: str = "") -> str:
    """Return the greatest protection that a supply of the panel may have, "" the main one, with its standard."""
    value = plan.panel.further[supply] if supply else plan.panel.supply
    is_ul = plan.job.practice.standard is Standard.UL
    return f"{value.value:g} A fuses or breaker (NEC 430.62)" if is_ul else f"{value.value:g} A gG (IEC 60269)"
