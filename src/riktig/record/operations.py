"""Owns the operations of a build in working order. Must not know what is done already.

Every operation carries the state of the thing it makes, so that a later change shows as rework and nothing else does.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum

from riktig.plan.making.bundles import WorkStage
from riktig.plan.making.hidden import covers_of
from riktig.plan.making.lots import cut_lengths, lots_of
from riktig.plan.making.patches import patches_of
from riktig.plan.place.door import Cutout
from riktig.plan.place.pieces import Cut
from riktig.plan.plan import Plan
from riktig.plan.wiring.cables import cable_ref
from riktig.plan.wiring.conductors import STAGE_TITLES, Conductor
from riktig.plan.wiring.ends import Finish, WireEnd
from riktig.record.cutouts import station_gland
from riktig.record.keys import OperationKey, Sort, Step, WireStep, wire_key


class Phase(StrEnum):
    """The stages of a build in working order (common practice, no source)."""

    CUT = "cut pieces"
    DRILL = "mark and drill"
    FIX = "fix rails and ducts"
    MOUNT = "mount devices"
    LABEL = "label devices"
    WIRE = "wire"
    LIDS = "lids"


TICKED_STEPS = tuple(step for step in WireStep if step is not WireStep.PROVE)


@dataclass(frozen=True, slots=True, kw_only=True)
class Operation:
    """One thing to do and tick. `key` is its subject in events, `as_planned` the state that a tick vouches for,
    `ref` the id of what it is done to, `batch` what it is done together with.
    """

    key: OperationKey
    phase: Phase
    batch: str
    title: str
    detail: str
    as_planned: str
    ref: str
    as_made: str = ""
    """What a tick vouches for where that is more than is planned: a wire is cut to the length of its lot; "" for as planned."""


def list_operations(plan: Plan) -> tuple[Operation, ...]:
    """Return every operation in working order: one thing done to all, then the next (common practice, no source)."""
    operations: list[Operation] = []
    operations.extend(_piece(cut) for cut in plan.cuts)
    operations.extend(_drillings(plan))
    fixed = [cut for cut in plan.cuts if cut.what != "lid"]
    operations.extend(
        Operation(
            key=OperationKey.of(Sort.PIECE, c.code, Step.FIXED), phase=Phase.FIX, batch=c.what, title=f"Fix {c.what} {c.code}",
            detail="Deburr, square up, then screw it down", as_planned=f"{c.length:g}", ref=c.code,
        )
        for c in sorted(fixed, key=lambda c: c.what == "rail")
    )  # fmt: skip
    operations.extend(_mountings(plan))
    cut = cut_lengths(plan)
    patches = _patches(plan)
    for one in lots_of(plan):
        if one.bundle.stage not in _AHEAD_OF_NETWORK:
            operations.extend(patches)
            patches = []
        operations.extend(
            _wire_batch(plan, one.bundle.title, [w for lot in one.lots for w in lot.wires], one.bundle.wires, cut)
        )
    operations.extend(patches)
    for name, cores in _cores(plan.conductors).items():
        operations.extend(_wire_batch(plan, f"{STAGE_TITLES['field']}: {name}", cores, cores, {}))
    operations.extend(_screens(plan))
    operations.extend(_covers(plan))
    operations.extend(
        Operation(
            key=OperationKey.of(Sort.PIECE, c.code, Step.FITTED), phase=Phase.LIDS, batch="lids", title=f"Fit lid {c.code}",
            detail="Verticals through, horizontals between", as_planned=f"{c.length:g}", ref=c.code,
        )
        for c in plan.cuts
        if c.what == "lid"
    )  # fmt: skip
    return tuple(operations)


def _piece(cut: Cut) -> Operation:
    return Operation(
        key=OperationKey.of(Sort.PIECE, cut.code, Step.CUT), phase=Phase.CUT, batch=f"{cut.profile}, bar {cut.bar}",
        title=f"Cut {cut.what} {cut.code} to {cut.length:g} mm", detail=f"{cut.profile}, bar {cut.bar}; mark it {cut.code}",
        as_planned=f"{cut.profile} {cut.length:g}", ref=cut.code,
    )  # fmt: skip


def _drillings(plan: Plan) -> list[Operation]:
    found = []
    for target in dict.fromkeys(hole.target for hole in plan.holes):
        holes = [hole for hole in plan.holes if hole.target == target]
        places = ", ".join(f"{h.x:g}/{h.y:g}" for h in holes)
        tag = plan.tags.get(target, target)
        found.append(
            Operation(
                key=OperationKey.of(Sort.HOLES, target),
                phase=Phase.DRILL,
                batch="plate",
                title=f"Drill {len(holes)} for {tag}",
                detail=f"ø {holes[0].diameter:g} mm, {holes[0].fix}; x/y from the lower left corner: {places}",
                as_planned=places,
                ref=target,
            )  # fmt: skip
        )
    found.extend(_cut_out(plan, cutout, "door", "door") for cutout in plan.door.cutouts)
    for wall in plan.walls:
        sheet = f"{wall.side} wall"
        found.extend(_cut_out(plan, cutout, sheet, sheet) for cutout in wall.cutouts)
    for entry in plan.entries:
        at = f"{entry.x:g}/{entry.z:g}"
        found.append(
            Operation(
                key=OperationKey.of(Sort.ENTRY, entry.cable), phase=Phase.DRILL, batch="entry wall",
                title=f"Cut the entry wall for {entry.words}",
                detail=f"ø {entry.diameter:g} mm for {entry.fitting} at {at}: from the left edge, and from the back wall; keep the rating "
                "of the enclosure",
                as_planned=at, ref=f"cable:{entry.cable}",
            )
        )  # fmt: skip
    return found + _station_holes(plan)


def _cut_out(plan: Plan, cutout: Cutout, sheet: str, batch: str) -> Operation:
    size = f"ø {cutout.diameter:g} mm" if cutout.diameter else f"{cutout.w:g} x {cutout.h:g} mm"
    at = f"{cutout.x:g}/{cutout.y:g}"
    return Operation(
        key=OperationKey.of(Sort.CUTOUT, cutout.device), phase=Phase.DRILL, batch=batch,
        title=f"Cut the {sheet} for {plan.name_of(cutout.device)}",
        detail=f"{size} at {at}, within {cutout.tolerance:g} mm; measure three times before you cut, deburr, square up the bezel",
        as_planned=at, ref=cutout.device,
    )  # fmt: skip


def _station_holes(plan: Plan) -> list[Operation]:
    """Return what is cut into stations, box by box: the holes of the lid, then the glands in its bottom."""
    found: list[Operation] = []
    for station in plan.stations:
        batch = f"station {station.location}"
        found.extend(
            _cut_out(plan, cutout, f"lid of station '{station.location}'", batch) for cutout in station.cutouts
        )
        for gland in station.glands:
            at = f"{gland.x:g}/{gland.z:g}"
            found.append(
                Operation(
                    key=OperationKey.of(Sort.ENTRY, station_gland(station, gland)), phase=Phase.DRILL, batch=batch,
                    title=f"Cut the bottom of station '{station.location}' for {gland.cable}",
                    detail=f"ø {gland.diameter:g} mm for {gland.fitting} at {at}: from the left edge, and from its back; keep the rating "
                    "of the box",
                    as_planned=at, ref=f"cable:{gland.cable}",
                )
            )  # fmt: skip
    return found


def _mountings(plan: Plan) -> list[Operation]:
    mounted, labelled = [], []
    inside = [d for d in plan.circuit.devices if d.id in plan.plate.boxes or d.location == "door" or d.wall]
    for device in inside:
        tag, part = plan.tags[device.id], plan.parts[device.id]
        box = plan.plate.boxes.get(device.id) or plan.door.boxes.get(device.id)
        place = f"{box.x:.0f}/{box.y:.0f}" if box is not None else ""
        where = f"{device.wall} wall" if device.wall else "door" if device.location == "door" else "plate"
        mounted.append(
            Operation(
                key=OperationKey.of(Sort.DEVICE, device.id, Step.MOUNTED),
                phase=Phase.MOUNT,
                batch=where,
                title=f"Mount {tag}",
                detail=f"{part.title} ({part.code}), left lower corner at {place} mm on the {where}",
                as_planned=f"{part.code} {place}",
                ref=device.id,
            )  # fmt: skip
        )
        labelled.append(
            Operation(
                key=OperationKey.of(Sort.DEVICE, device.id, Step.LABELLED),
                phase=Phase.LABEL,
                batch=where,
                title=f"Label {tag}",
                detail=f"On the device and beside it: {tag}  {device.title}".rstrip(),
                as_planned=tag,
                ref=device.id,
            )  # fmt: skip
        )
    return [*mounted, *_strip_mountings(plan), *_comb_mountings(plan), *labelled]


def _screens(plan: Plan) -> list[Operation]:
    return [
        Operation(
            key=OperationKey.of(Sort.SCREEN, cable.drop), phase=Phase.WIRE, batch=f"field {cable.name}", title=f"Screen of {cable.name}",
            detail=f"At {cable.begin}: {cable.screen_words[0]}. At {cable.target}: {cable.screen_words[1]}",
            as_planned=cable.screen.value, ref=cable_ref(cable.name),
        )
        for cable in plan.cables
        if cable.screen is not None
    ]  # fmt: skip


_AHEAD_OF_NETWORK = tuple(WorkStage)[: tuple(WorkStage).index(WorkStage.NETWORK)]


def _patches(plan: Plan) -> list[Operation]:
    """Return the network cables, laid once mains and earth are."""
    found = []
    for patch in patches_of(plan):
        a, b = plan.tags[patch.a], plan.tags[patch.b]
        found.append(Operation(
            key=OperationKey.of(Sort.PATCH, patch.key), phase=Phase.WIRE, batch=WorkStage.NETWORK.value,
            title=f"Lay network cable {patch.name} from {a} to {b}",
            detail=f"{patch.length_m:g} m with plugs, apart from power; label both ends, bend it over 25 mm at least",
            as_planned=f"{a} {b} {patch.length_m:g}", ref=patch.a,
        ))  # fmt: skip
    return found


def _covers(plan: Plan) -> list[Operation]:
    found = []
    for first, (names, box) in covers_of(plan).items():
        tags = ", ".join(plan.tags.get(name, name) for name in names)
        found.append(
            Operation(
                key=OperationKey.of(Sort.COVER, first), phase=Phase.LIDS, batch="covers", title=f"Fit the cover over {tags}",
                detail=f"{box.w:.0f} x {box.h:.0f} mm, clear, with its warning on it: what is under it stays live with the main switch off",
                as_planned=f"{tags} {box.w:.0f}x{box.h:.0f}", ref=first,
            )
        )  # fmt: skip
    return found


def _strip_mountings(plan: Plan) -> list[Operation]:
    mounted = []
    for strip in dict.fromkeys(clamp.piece for clamp in plan.clamps):
        box = plan.plate.boxes[strip]
        clamps = [c for c in plan.clamps if c.piece == strip]
        codes = " ".join(plan.clamp_parts[c.id].code for c in clamps)
        runs = [run for run in plan.bridges if plan.item_of(run[0]) == strip]
        bridges = "".join(f"; bridge {' '.join(t.partition(':')[2] for t in run)}" for run in runs)
        mounted.append(
            Operation(
                key=OperationKey.of(Sort.DEVICE, strip, Step.MOUNTED),
                phase=Phase.MOUNT,
                batch="plate",
                title=f"Build strip {strip}",
                detail=f"{len(clamps)} terminals from the left: {codes}; left edge at {box.x:.0f} mm; "
                f"an end stop on each side, the end plate on the right{bridges}",
                as_planned=f"{codes} {box.x:.0f}/{box.y:.0f}{bridges}",
                ref=strip,
            )  # fmt: skip
        )
    return mounted


def _comb_mountings(plan: Plan) -> list[Operation]:
    mounted = []
    for comb in plan.combs:
        tags = ", ".join(plan.tags[d] for d in comb.devices)
        what = (
            f"bridge at {comb.bars[0][0].rpartition(':')[2]}"
            if comb.is_bridge
            else f"comb, {comb.phases} bars, {comb.mm2:g} mm²,"
        )
        mounted.append(
            Operation(
                key=OperationKey.of(Sort.COMB, comb.bars[0][0]),
                phase=Phase.MOUNT,
                batch="plate",
                title=f"Fit the {'bridge' if comb.is_bridge else 'comb'} over {tags}",
                detail=f"{what} over {tags}: {comb.pins} teeth; cover the cut ends",
                as_planned=f"{what} {tags}",
                ref=comb.devices[0],
            )  # fmt: skip
        )
    return mounted


def _cores(conductors: tuple[Conductor, ...]) -> dict[str, list[Conductor]]:
    """Return cable -> its cores; they are cut with it."""
    found: dict[str, list[Conductor]] = {}
    for conductor in conductors:
        if conductor.kind == "core":
            found.setdefault(conductor.batch.removeprefix(conductor.stage).strip(), []).append(conductor)
    return found


def wire_state(plan: Plan, conductor: Conductor, step: WireStep) -> str:
    """Return what a tick of a step vouches for: size, colour and length, or what is printed on it, or its ends."""
    if step is WireStep.CUT:
        return f"{conductor.size.label()} {conductor.colour} {conductor.length_mm:g}"
    if step is WireStep.MARK:
        return " / ".join(dict.fromkeys(plan.markers_of(conductor)))
    return f"{conductor.a} {conductor.b} {conductor.size.label()}"


def _wire_batch(
    plan: Plan, batch: str, to_cut: Sequence[Conductor], wires: Sequence[Conductor], cut: Mapping[str, float]
) -> list[Operation]:
    """Return the steps of a bundle: cut all lot by lot, mark all, then land each; all tightened at the end."""
    ordered = [(WireStep.CUT, wire) for wire in to_cut]
    ordered.extend((WireStep.MARK, wire) for wire in wires)
    for wire in wires:
        ordered.extend((step, wire) for step in (WireStep.ONE_END, WireStep.OTHER_END))
    ordered.extend((WireStep.TIGHTEN, wire) for wire in wires)
    return [_wire_operation(plan, batch, wire, step, cut.get(wire.id, wire.length_mm)) for step, wire in ordered]


def _finishes(first: WireEnd, second: WireEnd) -> str:
    """Return what is crimped onto both ends in words."""
    if first.finish is second.finish:
        return "bare" if first.finish is Finish.BARE else f"a {first.finish.value} on each end"
    words = ["nothing" if end.finish is Finish.BARE else f"a {end.finish.value}" for end in (first, second)]
    return f"{words[0]} on the first end and {words[1]} on the other"


def _wire_operation(plan: Plan, batch: str, wire: Conductor, step: WireStep, cut_mm: float) -> Operation:
    a, b = plan.terminal_label(wire.a), plan.terminal_label(wire.b)
    size = f"{wire.size.label()} {wire.colour}"
    torque = max(_torque(plan, wire.a), _torque(plan, wire.b))
    at_a, at_b = plan.markers_of(wire)
    marks = f"Mark wire {wire.number} at both ends"
    if at_a != at_b:
        marks += f": {at_a} at {a}, {at_b} at {b}"
    first, second = plan.ends_of(wire) or (None, None)
    strip = (
        f"; strip {first.strip_mm:g} and {second.strip_mm:g} mm, {_finishes(first, second)}" if first and second else ""
    )
    longer = f", {wire.length_mm:g} mm are needed" if cut_mm > wire.length_mm else ""
    words = {
        WireStep.CUT: (f"Cut wire {wire.number}: {cut_mm:g} mm", f"{size}, from {a} to {b}{longer}{strip}"),
        WireStep.MARK: (marks, f"{size}, {cut_mm:g} mm, {a} to {b}"),
        WireStep.ONE_END: (f"Land wire {wire.number} on {a}", f"{size}; {wire.way}"),
        WireStep.OTHER_END: (f"Land wire {wire.number} on {b}", f"{size}; {wire.way}"),
        WireStep.TIGHTEN: (f"Tighten wire {wire.number} at {a} and {b}", f"{torque:g} N m, then pull at it"),
    }
    title, detail = words[step]
    planned = wire_state(plan, wire, step)
    return Operation(
        key=wire_key(wire.id, step), phase=Phase.WIRE, batch=batch, title=title, detail=detail, as_planned=planned, ref=f"wire:{wire.id}",
        as_made=f"{planned.rpartition(' ')[0]} {cut_mm:g}" if step is WireStep.CUT else "",
    )  # fmt: skip


def _torque(plan: Plan, terminal: str) -> float:
    part = plan.clamp_parts.get(terminal) or plan.parts.get(terminal.rpartition(":")[0])
    return part.torque_nm if part is not None else 0.5
