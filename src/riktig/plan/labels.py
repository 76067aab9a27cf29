"""Owns every text that is printed and stuck on. Must not know printers."""

from collections import Counter
from dataclasses import dataclass
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from riktig.plan.plan import Plan


@dataclass(frozen=True, slots=True, kw_only=True)
class Label:
    """A text to print, how often, and its size in mm as `WxH`."""

    kind: str
    text: str
    count: int
    size: str


_SIZES = {"wire": "12x4", "device": "17x9", "plate": "17x9", "terminal": "5x10", "cable": "40x10", "legend": "30x12",
          "piece": "20x8", "nameplate": "100x60", "warning": "80x40"}  # fmt: skip


def build_labels(plan: "Plan") -> tuple[Label, ...]:
    """Return all labels: two for each wire and cable, device and plate, terminals, door legends, pieces, nameplate."""
    counts: Counter[tuple[str, str]] = Counter()
    for conductor in plan.conductors:
        if conductor.kind != "link":
            counts[("wire", conductor.number)] += 2
    for clamp in plan.clamps:
        counts[("terminal", clamp.label)] += 1
    for device in plan.circuit.devices:
        tag = plan.tags[device.id]
        counts[("device", tag)] += 1
        if device.id in plan.plate.boxes:
            counts[("plate", tag)] += 1
        elif device.location not in {"plate"}:
            counts[("legend", device.title or tag)] += 1
    for strip in dict.fromkeys(clamp.strip for clamp in plan.clamps):
        counts[("plate", strip)] += 1
    for cable in plan.cables:
        counts[("cable", f"{cable.name} {cable.size_label} to {cable.target}")] += 2
    for cut in plan.cuts:
        counts[("piece", cut.code)] += 1
    counts[("nameplate", _nameplate(plan))] += 1
    counts[("warning", "Isolate, lock off and prove dead before opening")] += 1
    return tuple(Label(kind=k, text=t, count=n, size=_SIZES[k]) for (k, t), n in counts.items())


def _nameplate(plan: "Plan") -> str:
    supply = plan.job.supply
    return (
        f"{plan.job.info.number} · {supply.volts:g} V {supply.system} {supply.hertz:g} Hz · "
        f"full load {plan.panel.full_load_a:.1f} A · largest motor {plan.panel.largest_motor_a:.1f} A · "
        f"short-circuit rating {plan.panel.sccr_ka:g} kA · {plan.job.enclosure.rating}"
    )
