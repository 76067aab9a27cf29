"""Rules about parts: what a part lacks for its paths, and how clamps and motors were taken."""

from collections import Counter
from collections.abc import Iterator
from operator import attrgetter

from riktig.catalogue.loader import find_part
from riktig.checks.finding import Finding, Severity
from riktig.plan.answers.clamping import clamping_of
from riktig.plan.answers.contact_use import ContactUse, find_mend, overbooked
from riktig.plan.answers.remembered import remembered
from riktig.plan.circuit.model import DOOR, PLATE, is_bar
from riktig.plan.circuit.zones import device_of, mark_of
from riktig.plan.plan import Plan
from riktig.plan.wiring.capacities import Capacities


def check_too_small(plan: Plan) -> Iterator[Finding]:
    """Yield devices whose part has fewer contacts than the paths use, with the next part that has enough, or no poles to lead lines on.

    Source:
        A contact is used once: common practice, no source.
    """
    for device in dict.fromkeys(use.device for use in plan.short_uses if use.is_feeder):
        width, part = max(use.width for use in plan.short_uses if use.device == device), plan.parts[device]
        lines = f"{width} lines" if width > 1 else "a line"
        yield Finding(
            rule="part-too-small", severity=Severity.MUST, subject=device, evidence=f"{part.title}: {part.poles} poles",
            message=f"{plan.tags[device]} is to lead {lines} on and {part.title} ({part.code}) has no poles for that: write part = of one "
            "that has, or let the path end in it",
            limit=f"{width} poles", source="the part's own data",
        )  # fmt: skip
    short = Counter(use.device for use in plan.short_uses if not use.is_feeder)
    for device, count in short.items():
        part = plan.parts[device]
        uses = plan.uses_of.get(device, ())
        larger = find_mend(part, uses, plan.circuit.device(device).positions or ())
        made = find_part(larger.code) if larger is not None else None
        mend = f"take {made.title} ({made.code})" if made is not None else "add a relay for the further contacts"
        asked = (use.ref.what or "contact" for use in plan.short_uses if use.device == device)
        wanted = ", ".join(
            f"{count} {_SORTS.get(what, what)}{'s' if count > 1 else ''} ({what})" if what in _SORTS else what
            for what, count in Counter(asked).items()
        )
        yield Finding(
            rule="part-too-small",
            severity=Severity.MUST,
            subject=device,
            message=f"{plan.tags[device]} has no contact left where a path asks for {wanted}: {mend}",
            evidence=f"{part.title}: {count} too few",
            limit="one contact for each use",
            source="common practice, no source",
        )


_SORTS = {"no": "make contact", "nc": "break contact", "co": "changeover", "coil": "coil", "tno": "delayed make contact",
          "tnc": "delayed break contact"}  # fmt: skip


def check_doubled(plan: Plan) -> Iterator[Finding]:
    """Yield contacts that two paths ask for by their marks.

    Source:
        A contact is used once: common practice, no source.
    """
    for use in overbooked(plan):
        for double in use.doubled:
            mend = _mend_of(use, double.sort, plan.parts[use.device].kind)
            if double.joins:
                yield Finding(
                    rule="contact-common", severity=Severity.MUST, subject=use.device, evidence=f"{double.marks} in {double.path}",
                    message=f"{use.tag}:{double.marks} in {double.path} begins elsewhere than the other half of this changeover: both "
                    f"points would be joined by the common; {mend}",
                    limit="one point for the common of a changeover", source="common practice, no source",
                )  # fmt: skip
                continue
            yield Finding(
                rule="contact-twice", severity=Severity.MUST, subject=use.device,
                message=f"{use.tag}:{double.marks} is used twice, again in {double.path}: {mend}",
                evidence=f"{double.marks} in two paths", limit="one use of a contact", source="common practice, no source",
            )  # fmt: skip


def _mend_of(use: ContactUse, sort: str, kind: str) -> str:
    """Return what to do about a contact used twice; each contact of a drive or soft starter says another thing, so none stands in."""
    if kind in _SPEAKING:
        return "let the coil of a relay take this contact, and the paths the contacts of the relay"
    free = next((slot.marks for slot in use.free if slot.sort == sort), None)
    return f"the next free one is {free}" if free is not None else "write the sort, and a larger part is taken"


_SPEAKING = ("drive", "soft-starter")

_STRENGTH = " kA (it has "


def check_unmet(plan: Plan) -> Iterator[Finding]:
    """Yield devices for which the catalogue, or the person's part, lacks a rating; a short-circuit strength that decides the panel's own
    rating is said there, and heaters that are too small with the cold.

    Source:
        Ratings as sized; see the sizing of the device.
    """
    short = {use.device for use in plan.short_uses}
    rating = plan.panel.short_circuit
    links = (
        (link, branch.available_ka)
        for branch in rating.branches
        for link in branch.links
        if rating.value.reason is None
    )
    weak = {link.device for link, available in links if link.strength.ka < available}
    warm = {d.id for d in plan.circuit.devices if d.kind == "heater" and d.location in {PLATE, DOOR}}
    for device, lacking in plan.unmet.items():
        words = [
            word for word in lacking
            if not (device in warm and " VA (it has " in word)
            and (device not in short or word != "the marks asked for") and (device not in weak or _STRENGTH not in word)
        ]  # fmt: skip
        if words:
            part = plan.parts[device]
            yield Finding(
                rule="rating-missing",
                severity=Severity.MUST,
                subject=device,
                message=f"{plan.tags[device]} needs {', '.join(words)}: choose another part, or add one to the catalogue",
                evidence=part.title,
                limit="; ".join(words),
                source="sizing of this device",
            )


def check_clamps(plan: Plan) -> Iterator[Finding]:
    """Yield clamps with more conductors than they take.

    Source:
        The part says how many conductors a clamp takes: IEC 60947-7-1, UL 508A 29, from memory.
    """
    for terminal, limit, count in _overfull(plan):
        yield Finding(
            rule="clamp-overfull", severity=Severity.MUST, subject=device_of(terminal), evidence=str(count), limit=str(limit),
            message=f"{plan.terminal_label(terminal)} takes {limit} conductors and would get {count}: add a terminal",
            source="the part's own data",
        )  # fmt: skip


@remembered("links", "clamps", "twins", clamping_of)
def _overfull(plan: Plan) -> tuple[tuple[str, int, int], ...]:
    """Return terminals with more conductors than they take: which, how many they take and would get."""
    capacities = Capacities(plan.parts, plan.clamps, plan.twins)
    limits = _limits_of(plan)
    landed = Counter(map(attrgetter("a"), plan.links))
    landed.update(map(attrgetter("b"), plan.links))
    suspects = {terminal: None for terminal, count in landed.items() if count > limits[terminal]}
    for link in plan.links if suspects else ():
        if link.a in suspects or link.b in suspects:
            capacities.use(link)
    found = ((t, limits[t], -capacities.left(t)) for t in suspects)
    return tuple((terminal, limit, limit + over) for terminal, limit, over in found if over > 0)


class _Limits(dict[str, int]):
    """Terminal -> how many conductors it takes inside, each looked up when it is first asked for."""

    def __init__(self, capacities: Capacities) -> None:
        super().__init__()
        self._limit = capacities.limit

    def __missing__(self, terminal: str) -> int:
        limit = self[terminal] = self._limit(terminal)
        return limit


@remembered("clamps", "twins", clamping_of)
def _limits_of(plan: Plan) -> _Limits:
    return _Limits(Capacities(plan.parts, plan.clamps, plan.twins))


def check_bars(plan: Plan) -> Iterator[Finding]:
    """Yield bars and blocks on which a conductor lands where there is no clamp.

    Source:
        One conductor in each clamp of the earth bar: IEC 60204-1 13.1.1, NFPA 79 13.1.1, from memory.
    """
    for bar, clamp in _last_clamps(plan).items():
        there = plan.parts[bar].rating("clamps")
        if clamp > there:
            yield Finding(
                rule="bar-full", severity=Severity.MUST, subject=bar, evidence=f"clamp {clamp}", limit=f"{there:g} clamps",
                message=f"{plan.tags[bar]} has {there:g} clamps and a conductor lands on clamp {clamp}: write another clamp for it, or "
                "choose a part with more",
                source="IEC 60204-1:2016 13.1.1, NFPA 79:2021 13.1.1, from memory",
            )  # fmt: skip


@remembered("links")
def _last_clamps(plan: Plan) -> dict[str, int]:
    """Return bar or block -> the last of its clamps on which a conductor lands."""
    last: dict[str, int] = {}
    for end in (end for link in plan.links for end in (link.a, link.b) if is_bar(device_of(end))):
        last[device_of(end)] = max(last.get(device_of(end), 0), int(mark_of(end)))
    return last


def check_estimates(plan: Plan) -> Iterator[Finding]:
    """Yield motors whose current no table gives.

    Source:
        Overload settings come from the nameplate: IEC 60947-4-1, NEC 430.6(A)(2), from memory.
    """
    for name, sizes in plan.starters.items():
        size = sizes.motor
        if size.is_estimated:
            yield Finding(
                rule="motor-estimated",
                severity=Severity.SHOULD,
                subject=name,
                message=f"no table gives the current of {name}, {size.current:.3g} A is an estimate: "
                "write amps from the nameplate",
                evidence=f"{size.current:.3g} A",
                limit="nameplate or table",
                source="NEC 430.6(A)(2), from memory",
            )
