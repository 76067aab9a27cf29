"""Owns the list of what to buy. Must not know prices."""

from collections import defaultdict
from collections.abc import Iterator
from dataclasses import dataclass
from itertools import chain
from typing import TYPE_CHECKING

from riktig.catalogue.loader import find_part
from riktig.job.names import selector_stands
from riktig.plan.circuit.model import CircuitDevice
from riktig.plan.making.lots import cut_lengths
from riktig.plan.wiring.conductors import Conductor
from riktig.plan.wiring.ends import Finish

if TYPE_CHECKING:
    from riktig.plan.plan import Plan


_OF_THE_CUSTOMER = frozenset({"motor", "load", "source"})
_LOADS_OUTSIDE = frozenset({"heater", "fan", "light"})
"""What is there already and not bought for the panel; some kinds only where they stand outside it."""


_COLOURED = {
    "pushbutton": ("cap22", "Cap for a push-button 22 mm", "black"),
    "beacon": ("lens70", "Lens for a beacon 70 mm", "amber"),
}  # fmt: skip
"""Kinds whose colour comes with a piece of its own: code, what it is, and the colour where nobody says one. Black is for a button that
IEC 60204-1:2016 10.2.1 gives no other, from memory.
"""


@dataclass(frozen=True, slots=True, kw_only=True)
class BomLine:
    """One line: order code, what it is, how much of it in which unit, and the tags it is for."""

    code: str
    title: str
    quantity: float
    unit: str
    tags: tuple[str, ...]


def operator_words(device: CircuitDevice) -> str:
    """Return what else the hand needs to know to buy a selector: how many positions it has, and which; "" for any other device."""
    if device.positions is None:
        return ""
    stands = selector_stands(device.positions)
    return f", {len(stands)} positions {' - '.join(stands)}"


Item = tuple[str, str, str, float, str]
"""Order code, what it is, unit, how much, and the tag it is for, "" for none."""


def build_bom(plan: "Plan") -> tuple[BomLine, ...]:
    """Return devices by part, terminals, stock bars, wire by section and colour in m, cables in m."""
    found: defaultdict[tuple[str, str, str], list[tuple[float, str]]] = defaultdict(list)
    for code, title, unit, quantity, tag in chain(
        _devices(plan), _strips(plan), _combs(plan), _stock(plan), _wires(plan), _cables(plan)
    ):
        found[(code, title, unit)].append((quantity, tag))
    return tuple(
        BomLine(
            code=code, title=title, unit=unit, quantity=round(sum(n for n, _ in rows), 2),
            tags=tuple(dict.fromkeys(tag for _, tag in rows if tag)),
        )
        for (code, title, unit), rows in found.items()
    )  # fmt: skip


def _devices(plan: "Plan") -> Iterator[Item]:
    """Yield the parts of the devices, and what is ordered with them: caps, lenses, fuse links, the handle of a main breaker."""
    for device in plan.circuit.devices:
        is_load_outside = device.kind in _LOADS_OUTSIDE and device.wants.get("use") == "field"
        if device.kind in _OF_THE_CUSTOMER or is_load_outside:
            continue
        tag, chosen = plan.tags[device.id], plan.parts[device.id]
        for code in chosen.codes:
            part = find_part(code)
            assert part is not None
            words = operator_words(device) if part.kind == device.kind else ""
            yield code, f"{part.title}{words}", "pc", 1, tag
        if device.kind in _COLOURED and "colour" not in chosen.traits:
            stem, what, usual = _COLOURED[device.kind]
            colour = device.colour or usual
            yield f"{stem}-{colour}", f"{what}, {colour}", "pc", 1, tag
        if device.kind == "fuse":
            sort, amps = chosen.traits.get("curve", ""), chosen.rating("amps")
            poles = chosen.poles
            yield (
                f"fuse-{sort.replace(' ', '-')}-{amps:g}",
                f"Fuse link {sort} {amps:g} A for {chosen.title}",
                "pc",
                poles,
                tag,
            )
    main = plan.parts.get("Q0")
    if main is not None and main.kind != "disconnect" and plan.door.shaft is not None:
        words = f"Door handle with shaft of {plan.door.shaft:g} mm, for a main breaker or fused switch"
        yield "dh-1", words, "pc", 1, plan.tags["Q0"]


def _strips(plan: "Plan") -> Iterator[Item]:
    for clamp in plan.clamps:
        part = plan.clamp_parts[clamp.id]
        yield part.code, part.title, "pc", 1, clamp.strip
    for strip in dict.fromkeys(clamp.piece for clamp in plan.clamps):
        yield "end-stop", "End stop for a terminal strip", "pc", 2, strip
        yield "end-plate", "End plate for a terminal strip", "pc", 1, strip
    for run in plan.bridges:
        yield f"bridge-{len(run)}", f"Terminal bridge, {len(run)} poles", "pc", 1, run[0].partition(":")[0]


def _combs(plan: "Plan") -> Iterator[Item]:
    for comb in plan.combs:
        tags = " ".join(plan.tags[d] for d in comb.devices)
        if comb.is_bridge:
            yield f"relay-bridge-{comb.pins}", f"Plug-in bridge over {comb.pins} relays", "pc", 1, tags
        else:
            title = f"Busbar comb, {comb.phases} bars, {comb.pins} teeth, {comb.mm2:g} mm²"
            yield f"comb-{comb.phases}x{comb.pins}-{comb.mm2:g}", title, "pc", 1, tags


def _stock(plan: "Plan") -> Iterator[Item]:
    for profile in dict.fromkeys(cut.profile for cut in plan.cuts):
        bars = max(cut.bar for cut in plan.cuts if cut.profile == profile)
        title = f"Stock length {plan.job.practice.stock / 1000:g} m, {profile}"
        yield profile.replace(" ", "-"), title, "pc", bars, ""


def _wires(plan: "Plan") -> Iterator[Item]:
    screened: dict[str, list[Conductor]] = {}
    cut = cut_lengths(plan)
    for conductor in plan.conductors:
        if conductor.screened:
            screened.setdefault(conductor.batch, []).append(conductor)
        elif conductor.kind == "wire":
            code = f"wire-{conductor.size.mm2:g}-{conductor.colour.replace(' ', '-')}"
            yield code, f"Wire {conductor.size.label()} {conductor.colour}", "m", cut[conductor.id] / 1000, ""
        for end in plan.ends_of(conductor) or ():
            if not end.code:
                continue
            yield end.code, f"{end.text[:1].upper()}{end.text[1:]}", "pc", 0.5 if end.finish is Finish.TWIN else 1, ""
    for members in screened.values():
        cores, size = max(len(members), 2), members[0].size
        title = f"Cable {cores} x {size.label()}, screened, inside the panel"
        yield f"cable-{cores}x{size.mm2:g}-screened", title, "m", max(c.length_mm for c in members) / 1000, ""


def _cables(plan: "Plan") -> Iterator[Item]:
    for cable in plan.cables:
        screened = ("-screened", ", screened") if cable.screen is not None else ("", "")
        code, title = f"cable-{cable.cores}x{cable.size_label.split()[0]}", f"Cable {cable.cores} x {cable.size_label}"
        yield code + screened[0], title + screened[1], "m", cable.length_m, cable.name
        if cable.gland is not None:
            metal = ("-emc", ", metal, for a screen") if cable.screen is not None else ("", "")
            gland = cable.gland
            degree = plan.job.enclosure.glands or plan.job.enclosure.rating
            words = f"Cable gland {gland.thread}, {gland.clamps_min:g} to {gland.clamps_max:g} mm, {degree} at least"
            yield f"gland-{gland.thread}{metal[0]}", words + metal[1], "pc", cable.boxes, cable.name
