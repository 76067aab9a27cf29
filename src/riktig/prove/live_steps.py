"""Owns what is measured on the panel once it is switched on: each supply in the order in which it depends on the one before, phase
rotation, and what is left on it when it is off. Must not know functions.
"""

from collections.abc import Iterator

from riktig.catalogue.model import ElementKind
from riktig.job.model import Control
from riktig.job.modules import WayIn
from riktig.job.practice import Standard
from riktig.job.roles import excepted_volts
from riktig.plan.circuit.incoming import SUPPLY
from riktig.plan.plan import Plan
from riktig.plan.sizes.coils import control_volts
from riktig.prove.points import point_of
from riktig.prove.steps import Phase, Step, Unit

_TENTH = (0.9, 1.1)
"""What the supply may be: IEC 60204-1 4.3.2, from memory."""
_UNLOADED = (0.95, 1.15)
"""A small transformer gives more while little hangs on it: IEC 61558-1 lets it rise, from memory."""
_TRIMMED = (0.98, 1.05)
"""To what a DC supply is trimmed at its terminals (common practice, no source)."""
RESIDUAL_V, RESIDUAL_S = 60.0, 5.0


def list_live(plan: Plan) -> tuple[Step, ...]:
    """Return the live measurements: what comes in, its rotation, what is behind the main switch, then each supply and each way out."""
    return (
        *_ways_in(plan),
        *_excepted(plan),
        *_phase_lamps(plan),
        *_controls(plan),
        *_ways_out(plan),
        *_residual_devices(plan),
    )


def _ways_in(plan: Plan) -> Iterator[Step]:
    ways = {"": plan.job.supply, **{extra.name: extra for extra in plan.job.extra_supplies}}
    for name, way in ways.items():
        what = f"way in {name}" if name else "supply"
        ahead = [f"in.{name}.{line}" if name else f"in.{line}" for line in way.lines]
        behind = [f"{name}.{line}" if name else line for line in way.lines]
        yield from _volts_of(
            plan,
            way,
            ahead,
            f"{name}.N" if name else "N",
            f"live:{name or SUPPLY}",
            f"Incoming {what}, main switch off",
        )
        terminals = [t for line in (*ahead, *behind) if (t := point_of(plan, line)) is not None][:3]
        if len(way.lines) == 3 and len(terminals) == 3:
            yield Step(
                key=f"rotation:{name or SUPPLY}", phase=Phase.LIVE, unit=Unit.SEEN, a=tuple(terminals),
                title=f"Turns right: {', '.join(plan.terminal_label(t) for t in terminals)}", group=f"Rotation of the {what}",
                do="rotation tester on the three in this order", as_planned=" ".join(terminals), proves="motors turn as drawn",
                source="common practice, no source",
            )  # fmt: skip
        yield from _volts_of(
            plan,
            way,
            behind,
            f"{name}.N" if name else "N",
            f"live:{name or SUPPLY}:on",
            f"{what.capitalize()} switched on",
        )


def _volts_of(plan: Plan, way: WayIn, lines: list[str], neutral: str, key: str, words: str) -> Iterator[Step]:
    found = [(line, t) for line in lines if (t := point_of(plan, line)) is not None]
    for n, (one, a) in enumerate(found):
        for other, b in found[n + 1 :]:
            yield _volts(
                plan,
                f"{key}:{one}-{other}",
                f"{_said(one)} to {_said(other)}",
                (a, b),
                way.volts,
                _TENTH,
                SOURCE_SUPPLY,
                words,
            )
        end = point_of(plan, neutral) or (point_of(plan, "PE") if way.earthing in _EARTHED else None)
        if end is not None and way.line_to_neutral and (point_of(plan, neutral) or len(found) == 3):
            to = neutral if point_of(plan, neutral) else "PE"
            yield _volts(
                plan,
                f"{key}:{one}-{to}",
                f"{_said(one)} to {_said(to)}",
                (a, end),
                way.line_to_neutral,
                _TENTH,
                SOURCE_SUPPLY,
                words,
            )


def _said(line: str) -> str:
    return line.removeprefix("in.")


SOURCE_UNLOADED = "0.95 to 1.15 while little hangs on it: IEC 61558-1, from memory"
SOURCE_SUPPLY = "0.9 to 1.1 of the rated volts: IEC 60204-1 4.3.2, from memory"
_EARTHED = frozenset({"tn-s", "tn-c-s", "tt", "wye-grounded"})


def _excepted(plan: Plan) -> Iterator[Step]:
    """Yield the circuits that have their volts with the main switch off, at the device that protects each."""
    for circuit in plan.job.excepted:
        device, supply = f"{circuit.name}.F", f"{circuit.name}.T"
        if device not in plan.parts or circuit.load == "from-elsewhere":
            continue
        outs = [f"{device}:{e.marks[1]}" for e in plan.parts[device].elements if e.kind is ElementKind.POLE]
        back = outs[1] if len(outs) > 1 else f"{supply}:X2" if supply in plan.parts else point_of(plan, "N")
        if not outs or back is None:
            continue
        title = f"{circuit.name}, {circuit.title or circuit.load}: {plan.tags[device]} closed"
        volts = excepted_volts(circuit, plan.job)
        span = (_UNLOADED, SOURCE_UNLOADED) if supply in plan.parts else (_TENTH, SOURCE_SUPPLY)
        yield _volts(
            plan, f"live:{circuit.name}", title, (outs[0], back), volts, *span, "Stays live with the main switch off"
        )


def _phase_lamps(plan: Plan) -> Iterator[Step]:
    tags = [plan.tags[d.id] for d in plan.circuit.devices if d.owner == "phase_lamps" and d.kind == "lamp"]
    if tags:
        words = ", ".join(tags)
        yield Step(
            key="live:phase lamps", phase=Phase.LIVE, unit=Unit.SEEN, group="Supply switched on", title=f"Phase lamps {words} are lit",
            do="each goes out with its own breaker", as_planned=words, proves="whoever is on the phone can read the supply",
            source="common practice, no source",
        )  # fmt: skip


def _residual_devices(plan: Plan) -> Iterator[Step]:
    """Yield the trial of each residual-current device.

    Source:
        By its button, and within 300 ms at its rated residual current: IEC 61008-1, IEC 60364-6 6.4.3.7; one for persons in North America
        trips at 6 mA and not at 4 mA: UL 943, class A; from memory.
    """
    for device in plan.circuit.devices:
        if device.kind == "rcd":
            trial, source = _trial_of(plan.parts[device.id].rating("ma"), plan.job.practice.standard)
            yield Step(
                key=f"rcd:{device.id}", phase=Phase.LIVE, unit=Unit.SEEN, group="Residual-current devices",
                title=f"{plan.tags[device.id]} trips by its button{trial}", do="press its button, then the tester", of=device.id,
                as_planned=plan.parts[device.id].code, proves="a fault to earth is cut off", source=source,
            )  # fmt: skip


def _trial_of(milliamps: float, standard: Standard) -> tuple[str, str]:
    """Return how a residual-current device of a rating is tried by tester, and the source; "" where its rating is not known."""
    if standard is Standard.UL:
        if milliamps > _CLASS_A_MA:
            return f"; by tester at {milliamps:g} mA, as its manual says", "UL 1053, from memory"
        return ("; by tester not at 4 mA, but at 6 mA" if milliamps else ""), "UL 943, class A, from memory"
    by_tester = f"; by tester within 300 ms at {milliamps:g} mA" if milliamps else ""
    return by_tester, "IEC 61008-1, IEC 60364-6 6.4.3.7, from memory"


_CLASS_A_MA = 6.0


def _controls(plan: Plan) -> Iterator[Step]:
    """Yield the control supplies, each behind what it hangs on."""
    for control in sorted(plan.job.controls, key=lambda one: one.group_of is not None):
        ends = point_of(plan, f"{control.name}+"), point_of(plan, f"{control.group_of or control.name}-")
        a, b = ends[0], ends[1] or (point_of(plan, "N") if control.kind == "direct" else None)
        if a is None or b is None:
            continue
        volts = control_volts(control, plan.job)
        yield _volts(
            plan,
            f"live:{control.name}",
            _control_words(plan, control, volts),
            (a, b),
            volts,
            *_span(control),
            "Control supplies",
        )


def _control_words(plan: Plan, control: Control, volts: float) -> str:
    how = {"transformer": "transformer", "psu": "DC supply, trimmed"}.get(control.kind, "direct")
    if control.group_of:
        how = f"group of {control.group_of}"
    return f"{control.name}, {volts:g} V {'DC' if control.is_dc else 'AC'}, {how}, its breaker closed"


def _span(control: Control) -> tuple[tuple[float, float], str]:
    if control.kind == "transformer":
        return _UNLOADED, SOURCE_UNLOADED
    if control.is_dc:
        return _TRIMMED, "trimmed to 0.98 to 1.05: common practice, no source"
    return _TENTH, SOURCE_SUPPLY


def _ways_out(plan: Plan) -> Iterator[Step]:
    neutral = point_of(plan, "N")
    for way in plan.job.ways:
        devices = [d for d in plan.circuit.devices if d.owner == way.name and d.kind in {"breaker", "fuse", "rcd"}]
        poles = [e for d in devices[-1:] for e in plan.parts[d.id].elements if e.kind is ElementKind.POLE]
        ends = [f"{devices[-1].id}:{e.marks[1]}" for e in poles]
        supply = plan.job.supply
        if way.poles == 1 and ends and neutral is not None:
            pair, volts = (ends[0], neutral), supply.line_to_neutral
        elif len(ends) >= 2:
            pair, volts = (ends[0], ends[1]), supply.volts
        else:
            continue
        yield _volts(
            plan,
            f"live:{way.name}",
            f"Way {way.name}, {way.title or 'out'}, its breaker closed",
            pair,
            volts,
            _TENTH,
            SOURCE_SUPPLY,
            "Ways out",
        )


def list_residual(plan: Plan) -> tuple[Step, ...]:
    """Return what may be left when it is switched off, asked where something stores charge: on the lines, and in each drive.

    Source:
        60 V at most 5 s after switching off: IEC 60204-1:2016 6.2.4 and 18.5, NFPA 79 6.2.4; from memory. The DC link of a drive takes
        longer, as its maker says, and shows nothing at the terminals of its lines.
    """
    drives = [device for device in plan.circuit.devices if device.kind == "drive"]
    stores = [
        plan.tags[d.id] for d in plan.circuit.devices if d.kind in {"soft-starter", "psu", "filter"} or d in drives
    ]
    lines = [t for name in plan.job.supply.lines if (t := point_of(plan, name)) is not None]
    if len(lines) < 2:
        lines += [t for t in (point_of(plan, "N"),) if t is not None]
    if not stores or len(lines) < 2:
        return ()
    where = " to ".join(map(plan.terminal_label, lines[:2]))
    return (
        Step(
            key="residual:lines", phase=Phase.RESIDUAL, unit=Unit.VOLT, a=(lines[0],), b=(lines[1],), high=RESIDUAL_V,
            title=f"Left on the lines {RESIDUAL_S:g} s after switching off: {where}", as_planned=" ".join(stores),
            do=f"switch off, wait {RESIDUAL_S:g} s, measure; charge is stored in {', '.join(stores)}",
            proves="nobody touches a charged part", source=_SOURCE_RESIDUAL,
        ),
        *(_dc_link(plan, device.id) for device in drives),
    )  # fmt: skip


_SOURCE_RESIDUAL = "IEC 60204-1 6.2.4 and 18.5, NFPA 79 6.2.4, from memory"


def _dc_link(plan: Plan, drive: str) -> Step:
    tag, seconds = plan.tags[drive], plan.parts[drive].rating("discharge_s")
    wait = f"{seconds:g} s" if seconds else "the time in its manual"
    return Step(
        key=f"residual:{drive}", phase=Phase.RESIDUAL, unit=Unit.VOLT, high=RESIDUAL_V, of=drive, as_planned=f"{tag} {wait}",
        title=f"DC link of {tag}, {wait} after switching off: between the DC terminals that its manual names",
        do="range for DC; the terminals of its lines do not show this charge", proves="nobody touches a charged part",
        source=_SOURCE_RESIDUAL,
    )  # fmt: skip


def _volts(
    plan: Plan,
    key: str,
    title: str,
    ends: tuple[str, str],
    volts: float,
    span: tuple[float, float],
    source: str,
    group: str = "",
) -> Step:
    return Step(
        group=group,
        key=key, phase=Phase.LIVE, unit=Unit.VOLT, a=(ends[0],), b=(ends[1],),
        low=round(volts * span[0], 1), high=round(volts * span[1], 1),
        expected=volts, title=f"{title}: {plan.terminal_label(ends[0])} to {plan.terminal_label(ends[1])}",
        as_planned=f"{ends[0]} {ends[1]} {volts:g} V", proves="what hangs behind it has its volts", source=source,
    )  # fmt: skip
