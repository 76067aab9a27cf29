"""Owns the ways in and the control supplies: switches, main contactor, transformers, DC supplies. Must not size."""

from riktig.job.model import Control, Job
from riktig.job.modules import ExtraSupply
from riktig.job.names import lines_of
from riktig.job.paths import Nodes, Ref
from riktig.plan.circuit.model import CircuitPath
from riktig.plan.circuit.sketch import IN_ENCLOSURE, Sketch, series

MOST_MINIATURE_V = 440.0
SUPPLY = "supply"
"""What the main supply is called where it comes in."""


def incoming_names(job: Job) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """Return the incoming conductors that the main switch breaks, and those that go straight on; earth left out."""
    names = job.supply.conductors
    poles = job.incoming.poles or len(job.supply.lines) + job.supply.breaks_neutral
    broken = 0 if job.incoming.switch == "none" else poles
    return names[:broken], names[broken:]


def has_contactor(job: Job) -> bool:
    """Return whether a main contactor stands behind the main switch."""
    return job.incoming.main_contactor and job.incoming.switch != "none"


def ahead_of_contactor(line: str, job: Job) -> str:
    """Return the potential of a line behind the main switch and ahead of a main contactor, if there is one."""
    return f"@Q0_{line}" if has_contactor(job) and line in job.supply.lines else line


def ahead_of_protection(line: str, job: Job) -> str:
    """Return the potential of a line behind the main switch and ahead of the panel's own protection, if there is one."""
    is_there = job.incoming.protection != "none" and job.incoming.switch != "none" and line in job.supply.lines
    return f"@Q0p_{line}" if is_there else ahead_of_contactor(line, job)


def led_in(job: Job) -> frozenset[str]:
    """Return the potentials that come in over a terminal, since no switch breaks them here; earth left out."""
    _, straight = incoming_names(job)
    found = set(straight)
    if job.pass_through is not None:
        found |= {f"in.{name}" for name in incoming_names(job)[0]}
    for extra in job.extra_supplies:
        found |= {f"{extra.name}.{name}" for name in extra.conductors if name not in extra.switched}
    return frozenset(found)


def supply_names(job: Job) -> frozenset[str]:
    """Return the potentials of the main supply as they come in, on the incoming switch or over a terminal; earth left out."""
    switched, straight = incoming_names(job)
    return frozenset((*(f"in.{name}" for name in switched), *straight))


MAIN_SWITCH = "Q0"
WAY_IN = (MAIN_SWITCH, "incoming.FP", "incoming.K")
"""What the main conductors lead through in turn: main switch, protection of the panel, main contactor."""


def supplies_in(job: Job) -> dict[str, frozenset[str]]:
    """Return the potentials of each supply as they come in, earth left out: of `supply`, and of `supply NAME` for each extra one."""
    found = {SUPPLY: supply_names(job)}
    for extra in job.extra_supplies:
        found[f"{SUPPLY} {extra.name}"] = frozenset(
            f"in.{extra.name}.{one}" if one in extra.switched else f"{extra.name}.{one}" for one in extra.conductors
        )
    return found


def expand_ways_in(sketch: Sketch) -> None:
    """Add the main switch, its contactor, and the switches of extra supplies."""
    job = sketch.job
    sketch.joins.append(("in.PE", "PE"))
    switched, unswitched = incoming_names(job)
    if switched:
        poles = len(switched)
        behind = tuple(ahead_of_protection(name, job) for name in switched)
        ahead = tuple(f"in.{n}" for n in switched)
        _add_switch(sketch, "Q0", _DISCONNECTS[job.incoming.disconnect], poles, ahead, behind, "incoming")
    sketch.joins.extend((f"in.{name}", name) for name in unswitched)
    if switched and job.incoming.protection != "none":
        _expand_protection(sketch)
    if has_contactor(job):
        _expand_main_contactor(sketch)
    for extra in job.extra_supplies:
        _expand_extra(extra, sketch)


_DISCONNECTS = {
    "switch": ("disconnect", "Main switch"), "breaker": ("breaker", "Main breaker"), "fused-switch": ("fuse", "Main fused switch"),
}  # fmt: skip


def _add_switch(
    sketch: Sketch,
    device: str,
    form: tuple[str, str],
    poles: int,
    ahead: tuple[str, ...],
    behind: tuple[str, ...],
    key: str,
) -> None:
    """Add a switch of a way in, by kind and title; a breaker isolates as IEC 60947-2 says, fuses are those of a switch."""
    owner, _, role = device.rpartition(".")
    is_ul = sketch.job.practice.standard == "ul"
    wants = {"breaker": {} if is_ul else {"type": "IEC 60947-2"}, "fuse": {"form": "switch"} if is_ul else {}}.get(
        form[0], {}
    )
    sketch.add(owner, role, form[0], form[1], poles=poles, wants=wants)
    items = (
        Nodes(names=ahead, column=1),
        Ref(device=device, what=None, order=None, column=2),
        Nodes(names=behind, column=3),
    )
    sketch.incoming.append(
        CircuitPath(key=key, title="Incoming supply", items=items, is_power=True, owner=owner or None)
    )


def _expand_protection(sketch: Sketch) -> None:
    """Add the breaker or fuses of the whole panel behind its switch: they protect the bars and may limit the fault."""
    job = sketch.job
    lines = job.supply.lines
    sketch.add("incoming", "FP", job.incoming.protection, "Protection of the panel", poles=len(lines))
    ahead = " ".join(ahead_of_protection(line, job) for line in lines)
    behind = " ".join(ahead_of_contactor(line, job) for line in lines)
    sketch.feed("incoming/protection", "Panel protection", series(ahead, "incoming.FP", behind), owner="incoming")


def _expand_main_contactor(sketch: Sketch) -> None:
    """Phase relays that act on all and the door switch, in series, let the main contactor in: common practice."""
    job = sketch.job
    lines = job.supply.lines
    ahead = " ".join(ahead_of_contactor(line, job) for line in lines)
    sketch.add("incoming", "K", "contactor", "Main contactor")
    if len(lines) == 3:
        sketch.feed(
            "incoming/contactor", "Main contactor", series(ahead, "incoming.K", " ".join(lines)), owner="incoming"
        )
    else:
        marks = ("incoming.K:1/L1-2/T1", "incoming.K:3/L2-4/T2")
        for line, mark in zip(lines, marks, strict=False):
            begin = ahead_of_contactor(line, job)
            sketch.feed(f"incoming/contactor-{line}", "Main contactor", series(begin, mark, line), owner="incoming")
    to_neutral = job.supply.has_neutral
    sketch.add("incoming", "F", "breaker", "Protection, main contactor", poles=1 if to_neutral else 2)
    begin, end = ahead_of_contactor(lines[0], job), "N"
    if not to_neutral:
        pair = f"{begin} {ahead_of_contactor(lines[1], job)}"
        sketch.feed(
            "incoming/coil-supply", "Main contactor", series(pair, "incoming.F", "@F0_1 @F0_2"), owner="incoming"
        )
        begin, end = "@F0_1", "@F0_2"
    phases = [f"{relay.name}:15-18" for relay in job.phase_relays if relay.acts_on == "all"]
    door = "incoming.S:no" if job.incoming.door_switch else ""
    if door:
        sketch.add("incoming", "S", "limit-switch", "Door switch, closed with the door", wants=IN_ENCLOSURE)
    text = series(begin, "incoming.F:1-2" if to_neutral else "", *phases, door, "incoming.K:coil", end)
    sketch.feed("incoming/coil", "Main contactor", text, owner="incoming")


def _expand_extra(extra: ExtraSupply, sketch: Sketch) -> None:
    """Add the switch of a second way in; one that is isolated elsewhere comes in over terminals."""
    name = extra.name
    sketch.joins.append((f"in.{name}.PE", "PE"))
    if extra.switched:
        ahead = tuple(f"in.{name}.{one}" for one in extra.switched)
        behind = tuple(f"{name}.{one}" for one in extra.switched)
        title = f"Main switch of {extra.title or name}"
        _add_switch(sketch, f"{name}.Q", ("disconnect", title), len(extra.switched), ahead, behind, f"{name}/incoming")


def ahead_of_fuse(control: Control, job: Job) -> str:
    """Return the potential ahead of a control supply's own protection, "" where that opens both its conductors."""
    if control.kind != "direct":
        return f"@{control.group_of or control.name}_hot"
    lines = lines_of(control, job)
    return lines[0] if len(lines) == 1 else ""


def protection_of_control(control: Control, job: Job) -> str:
    """Return what protects a control supply where nothing is given: fuses for a North American transformer, and above 440 V.

    Source:
        The limits of NEC 430.72(C) lie below the smallest breakers: common practice. Miniature breakers end at 440 V: IEC
        60898-1 1, from memory.
    """
    is_fused = control.kind == "transformer" and (job.practice.standard == "ul" or job.supply.volts > MOST_MINIATURE_V)
    return control.protection or ("fuse" if is_fused else "breaker")


def expand_control(control: Control, sketch: Sketch) -> None:
    """Add a control supply: from a line, from a transformer, or from a DC supply."""
    name, lines = control.name, lines_of(control, sketch.job)
    title = f"Control supply {name}"

    def feed(part: str, text: str) -> None:
        sketch.feed(f"{name}/{part}", title, text, owner=name)

    sort = protection_of_control(control, sketch.job)
    if control.group_of is not None:
        sketch.add(
            name,
            "F",
            "breaker" if control.is_dc else sort,
            f"Protection, group {name} of control {control.group_of}",
            poles=1,
        )
        path = f"@{control.group_of}_hot > {name}.F > {name}+"
        sketch.feed(f"{name}/group", f"Control supply {control.group_of}", path, owner=control.group_of)
        sketch.joins.append((f"{name}-", f"{control.group_of}-"))
        return
    if control.kind == "direct":
        sketch.add(name, "F", sort, f"Protection, control {name}", poles=len(lines))
        ends = f"{name}+" if len(lines) == 1 else f"{name}+ {name}-"
        feed("feed", f"{' '.join(lines)} > {name}.F > {ends}")
        if len(lines) == 1:
            prefix = lines[0].rpartition(".")[0]
            sketch.joins.append((f"{name}-", f"{prefix}.N" if prefix else "N"))
        return
    poles = max(sum(line.rpartition(".")[2] != "N" for line in lines), 1)
    role, kind, what, ins, outs = (
        ("T", "transformer", "transformer", "H1-H2", "X2-X1")
        if control.kind == "transformer"
        else ("G", "psu", "24 V supply", "L-N", "M24-P24")
    )
    sketch.add(name, "FP", sort, f"Primary protection, {what} {name}", poles=poles)
    title_of = f"{what[:1].upper()}{what[1:]} {name}" if kind == "psu" else f"Control transformer {name}"
    sketch.add(name, role, kind, title_of, wants={"class_2": "yes"} if control.class_2 else {})
    secondary = "breaker" if control.is_dc else sort
    sketch.add(name, "F", secondary, f"Secondary protection, control {name}", poles=1)
    one_pole = f"{lines[0]} > {name}.FP:1-2 > {name}.{role}:{ins} > {lines[1]}"
    feed("primary", f"{' '.join(lines)} > {name}.FP > {name}.{role}" if poles == 2 else one_pole)
    feed("secondary", f"{name}- > {name}.{role}:{outs} > @{name}_hot > {name}.F > {name}+")
    if control.earthed:
        sketch.add(name, "B", "link", f"Removable earth link of {name}")
        feed("bond", f"{name}- > {name}.B > PE")
