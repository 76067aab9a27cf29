"""Owns the list of what to buy. Must not know prices."""

from collections import defaultdict
from collections.abc import Iterator
from dataclasses import dataclass
from itertools import chain
from typing import TYPE_CHECKING

from riktig.catalogue.loader import find_part
from riktig.catalogue.prices import prices_now
from riktig.job.names import selector_stands
from riktig.plan.circuit.model import CircuitDevice
from riktig.plan.circuit.zones import device_of
from riktig.plan.making.hidden import covers_of
from riktig.plan.making.lots import cut_lengths
from riktig.plan.making.patches import patches_of
from riktig.plan.making.reels import reels_of
from riktig.plan.net.runs import Screen
from riktig.plan.wiring.conductors import Conductor
from riktig.plan.wiring.ends import Finish
from riktig.standards.wire_diameters import outer_diameter_mm
from riktig.units.conductor_size import ConductorSize

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
    """One line: order code, what it is, how much of it in which unit, the tags it is for, and how that is bought, "" for as counted."""

    code: str
    title: str
    quantity: float
    unit: str
    tags: tuple[str, ...]
    bought: str = ""


def operator_words(device: CircuitDevice) -> str:
    """Return what else the hand needs to know to buy a selector: how many positions it has, and which; "" for any other device."""
    if device.positions is None:
        return ""
    stands = selector_stands(device.positions)
    return f", {len(stands)} positions {' - '.join(stands)}"


Item = tuple[str, str, str, float, str]
"""Order code, what it is, unit, how much, and the tag it is for, "" for none."""


def build_bom(plan: "Plan") -> tuple[BomLine, ...]:
    """Return devices by part, terminals, covers, stock bars, wire by section and colour in m with its reels, cables in m."""
    found: defaultdict[tuple[str, str, str], list[tuple[float, str]]] = defaultdict(list)
    for code, title, unit, quantity, tag in chain(
        _devices(plan),
        _strips(plan),
        _combs(plan),
        _covers(plan),
        _stock(plan),
        _wires(plan),
        _shrinks(plan),
        _cables(plan),
        _patches(plan),
    ):
        found[(code, title, unit)].append((quantity, tag))
    reels = {_wire_code(load.size, load.colour): load.reels for load in reels_of(plan)}
    reel_m = prices_now().reel_m
    return tuple(
        BomLine(
            code=code, title=title, unit=unit, quantity=round(sum(n for n, _ in rows), 2),
            tags=tuple(dict.fromkeys(tag for _, tag in rows if tag)),
            bought=f"{reels[code]} reel{'s' if reels[code] > 1 else ''} of {reel_m:g} m" if code in reels else "",
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
            title = f"Wire {conductor.size.label()} {conductor.colour}"
            yield _wire_code(conductor.size, conductor.colour), title, "m", cut[conductor.id] / 1000, ""
        for end in plan.ends_of(conductor) or ():
            if not end.code:
                continue
            yield end.code, f"{end.text[:1].upper()}{end.text[1:]}", "pc", 0.5 if end.finish is Finish.TWIN else 1, ""
    for members in screened.values():
        cores, size = max(len(members), 2), members[0].size
        title = f"Cable {cores} x {size.label()}, screened, inside the panel"
        yield f"cable-{cores}x{size.mm2:g}-screened", title, "m", max(c.length_mm for c in members) / 1000, ""


def _wire_code(size: ConductorSize, colour: str) -> str:
    return f"wire-{size.mm2:g}-{colour.replace(' ', '-')}"


_TUBES_MM = (2.4, 3.2, 4.8, 6.4, 9.5, 12.7, 19.1, 25.4, 38.1, 50.8)
"""Diameters of heat-shrink tube as it comes, which shrinks to half of that: as commonly made, no source."""
_ON_A_RING_MM, _ON_A_SCREEN_MM = 30.0, 60.0
"""How much of it goes over the barrel of a ring, and over the cut end of a screen (common practice, no source)."""
_EASY = 1.15
"""It goes over what is so much thinner than itself."""


def shrink_for(diameter_mm: float) -> float | None:
    """Return the heat-shrink tube for a diameter, by its own before it is shrunk in mm; None for what is thicker than any.

    Source:
        Common practice, no source.
    """
    return next((tube for tube in _TUBES_MM if diameter_mm * _EASY <= tube), None)


def _shrinks(plan: "Plan") -> Iterator[Item]:
    """Yield the heat-shrink over the barrels of rings, and over screens that are cut back."""
    pieces = [
        (outer_diameter_mm(wire.size.mm2), _ON_A_RING_MM, plan.name_of(device_of(at)))
        for wire in plan.conductors
        for at, end in zip((wire.a, wire.b), plan.ends_of(wire) or (), strict=False)
        if end.finish is Finish.RING
    ]
    pieces += [
        (cable.diameter_mm, _ON_A_SCREEN_MM, cable.name) for cable in plan.cables if cable.screen is Screen.PANEL
    ]
    for diameter, long, tag in pieces:
        tube = shrink_for(diameter)
        if tube is not None:
            yield f"shrink-{tube:g}", f"Heat-shrink tube {tube:g} to {tube / 2:g} mm", "m", long / 1000, tag


def _covers(plan: "Plan") -> Iterator[Item]:
    for names, box in covers_of(plan).values():
        size = f"{box.w:.0f}x{box.h:.0f}"
        yield (
            f"cover-{size}",
            f"Cover {size.replace('x', ' x ')} mm, clear, no live part to be touched (IP2X)",
            "pc",
            1,
            " ".join(plan.tags.get(name, name) for name in names),
        )


def _patches(plan: "Plan") -> Iterator[Item]:
    for patch in patches_of(plan):
        metres = f"{patch.length_m:g} m"
        yield f"patch-{patch.length_m:g}", f"Network cable with plugs, {metres}, screened", "pc", 1, patch.name


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
