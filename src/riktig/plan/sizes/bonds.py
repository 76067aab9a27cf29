"""Owns the jumper that bonds the secondary of a transformer to earth, in North America. Must not choose parts."""

from collections.abc import Mapping

from riktig.catalogue.model import Part
from riktig.job.model import Job
from riktig.job.practice import Standard
from riktig.plan.basis.sized import SizedValue
from riktig.plan.circuit.model import Circuit
from riktig.plan.sizes.needs import Need
from riktig.standards import nec
from riktig.units.conductor_size import ConductorSize, from_awg

QUANTITY = "bond_section"
_BOLTED_FROM = "6"
"""Earth links for this section have bolts."""


def jumpers_of(job: Job, circuit: Circuit, parts: Mapping[str, Part]) -> dict[str, float]:
    """Return by the earth link of each transformer its VA; none in an IEC panel, where the earth is as thick as the lines it goes with."""
    if job.practice.standard is not Standard.UL:
        return {}
    found = {}
    for device in circuit.devices:
        transformer = parts.get(f"{device.owner}.T") if device.kind == "link" and device.role == "B" else None
        if transformer is not None and transformer.rating("va"):
            found[device.id] = transformer.rating("va")
    return found


def needs_of_jumpers(job: Job, circuit: Circuit, parts: Mapping[str, Part]) -> dict[str, Need]:
    """Return what the earth link of each transformer must take: jumper and return, of which one may be thinner, so under a bolt."""
    source, least = nec.SOURCE_JUMPER, from_awg(_BOLTED_FROM).mm2
    return {
        device: Need(quantity=QUANTITY, formula=f"jumper of a transformer of {va:g} VA", source=source, mm2=least)
        for device, va in jumpers_of(job, circuit, parts).items()
    }


def size_jumpers(
    job: Job, circuit: Circuit, parts: Mapping[str, Part], lines: Mapping[str, ConductorSize]
) -> tuple[dict[str, ConductorSize], list[SizedValue]]:
    """Return the size of the jumper over each earth link, with its value; `lines` has the conductor behind the secondary by terminal."""
    sizes, values = {}, []
    for device, va in jumpers_of(job, circuit, parts).items():
        line = lines.get(f"{device.removesuffix('.B')}.T:X1") or from_awg("14")
        is_small = va <= nec.SMALL_TRANSFORMER_VA
        jumper = from_awg(nec.jumper_awg(va, line.mm2))
        size = max(jumper, line, key=lambda s: s.mm2) if is_small else jumper
        words = "no thinner than its line" if is_small else "above 1000 VA by the table"
        values.append(
            SizedValue(
                subject=device, quantity=QUANTITY, value=size.mm2, unit="mm2", needed=size.mm2, source=nec.SOURCE_JUMPER,
                formula=f"{va:g} VA, its line {line.label()}: {words}; {size.label()}",
                inputs={"size": size.label(), "va": va, "line": line.label()}, places={"va": f"{device.removesuffix('.B')}.T"},
            )
        )  # fmt: skip
        sizes[device] = size
    return sizes, values
