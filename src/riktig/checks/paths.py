"""Rules about what lies on a way: contacts in the earth and on the bonded side, sockets that nothing guards, a neutral that stays on."""

from collections.abc import Collection, Iterable, Iterator, Mapping
from itertools import permutations

from riktig.checks.finding import Finding, Severity
from riktig.checks.wired import about_wiring
from riktig.job.mends import Mend
from riktig.job.practice import Standard
from riktig.plan.answers.blocks import spread
from riktig.plan.answers.feeding import Feeding, feeding_of
from riktig.plan.answers.links import Link, Sort
from riktig.plan.plan import Plan
from riktig.standards.colours import ConductorFunction

_SWITCHES = frozenset({Sort.MAKE, Sort.BREAK, Sort.POLE})
_MAY_RETURN = frozenset({"overload", "motor-breaker"})
"""Whose trip contact may stand on the bonded side."""
_CUT_NEUTRAL = frozenset({"tt", "it"})


@about_wiring
def check_switched_earth(plan: Plan) -> Iterator[Finding]:
    """Yield contacts, breakers and switches in a protective conductor.

    Source:
        IEC 60204-1:2016 8.2.3 (no switching or overcurrent device in the protective bonding circuit), NFPA 79 8.2.3.3, from memory.
    """
    for link in feeding_of(plan).links:
        ends = [plan.potential_at.get(end) for end in link.ends]
        if link.sort in _SWITCHES and any(p is not None and p.net.function is ConductorFunction.EARTH for p in ends):
            yield Finding(
                rule="switched-earth", severity=Severity.MUST, subject=link.device,
                message=f"{plan.tags[link.device]} can open a protective conductor: lead the earth past it, straight to the bar",
                evidence=f"between {link.ends[0].rpartition(':')[2]} and {link.ends[1].rpartition(':')[2]}", limit="nothing that opens",
                source="IEC 60204-1:2016 8.2.3, NFPA 79 8.2.3.3, from memory",
            )  # fmt: skip


@about_wiring
def check_bonded_side(plan: Plan) -> Iterator[Finding]:
    """Yield coils with a contact on the side that is bonded to earth: an earth fault bridges it, and the coil stays in.

    Source:
        IEC 60204-1:2016 9.4.3.1.2 (one end of a coil straight on the bonded side, contacts on the other; trip contacts of overload relays
        may stand there), NFPA 79 9.4.3.1, from memory.
    """
    feeding = feeding_of(plan)
    bonded = {
        feeding.node(p.net.terminals[0]) for p in plan.potentials
        if p.net.terminals and {f"{c.name}-" for c in plan.job.controls if c.earthed or c.kind == "direct"} & set(p.net.names)
    }  # fmt: skip
    for coil in sorted(feeding.coiled):
        for ends in feeding.ends_of(coil)[:1]:
            for node in ends:
                inside = [
                    link for link in _toward(feeding, node, bonded) if plan.parts[link.device].kind not in _MAY_RETURN
                ]
                if inside:
                    tags = ", ".join(dict.fromkeys(plan.tags[link.device] for link in inside))
                    yield Finding(
                        rule="bonded-side", severity=Severity.SHOULD, subject=coil,
                        message=f"{tags} stands between {plan.tags[coil]} and the side of its supply that is bonded to earth, where a "
                        f"fault to earth bridges it: put it on the other side of {plan.tags[coil]}",
                        evidence=tags, limit="nothing but a trip contact",
                        source="IEC 60204-1:2016 9.4.3.1.2, NFPA 79 9.4.3.1, from memory",
                    )  # fmt: skip


def _toward(feeding: Feeding, node: int, goals: set[int]) -> list[Link]:
    """Return the contacts on the ways from a node to the hub where all end at some nodes, none where one ends elsewhere."""
    links = feeding.hangs_on(node)
    hubs = {end for link in links for end in link.nodes if feeding.is_hub(end)}
    return [link for link in links if link.sort in {Sort.MAKE, Sort.BREAK}] if hubs and hubs <= goals else []


@about_wiring
def check_sneak_paths(plan: Plan) -> Iterator[Finding]:
    """Yield loads that are fed backwards through another load once the contact that both share opens.

    Source:
        Common practice, no source: loads that share a return over a contact are in series once it opens.
    """
    feeding = feeding_of(plan)
    at = _loads_at(plan, feeding)
    sides = [(feeding.named.get(f"{c.name}+"), feeding.named.get(f"{c.name}-")) for c in plan.job.controls]
    for node, hung in at.items():
        shared = sorted({plan.tags[link.device] for link in feeding.at.get(node, ())})
        if len(hung) < 2 or feeding.is_hub(node) or not shared or len({far for _, far in hung}) < 2:
            continue
        for (one, far), (other, back) in permutations(hung, 2):
            through = _reached(feeding, far, {node}, {})
            live = {end for end in through if not feeding.is_hub(end)}
            beyond = _reached(feeding, back, {node, *live}, at, {one, other}) if back not in live else set()
            if any(plus in through and minus in beyond for plus, minus in sides):
                yield Finding(
                    rule="sneak-path", severity=Severity.SHOULD, subject=other, evidence=f"through {plan.tags[one]}",
                    message=f"when {', '.join(shared)} opens, {plan.tags[other]} is fed backwards through {plan.tags[one]}: lead the "
                    "return of each by itself, or let what hangs beside it return before that contact too",
                    limit="no way through another load", source="common practice, no source",
                )  # fmt: skip
                break


def _loads_at(plan: Plan, feeding: Feeding) -> dict[int, list[tuple[str, int]]]:
    """Return by node the coils, lamps and loads that hang there, each with the node of its other end."""
    found: dict[int, list[tuple[str, int]]] = {}
    for device in plan.circuit.devices:
        for a, b in feeding.ends_of(device.id):
            if a != b:
                found.setdefault(a, []).append((device.id, b))
                found.setdefault(b, []).append((device.id, a))
    return found


def _reached(
    feeding: Feeding,
    start: int,
    without: Collection[int],
    loads: Mapping[int, Iterable[tuple[str, int]]],
    but: Collection[str] = (),
) -> set[int]:
    """Return the nodes that can be reached from one by contacts and through some loads, up to hubs and not through others."""

    def beside(node: int) -> Iterator[int]:
        if node == start or not feeding.is_hub(node):
            ends = [link.other(node) for link in feeding.at.get(node, ())]
            ends += [end for load, end in loads.get(node, ()) if load not in but]
            yield from (end for end in ends if end not in without)

    return spread((start,), beside)


@about_wiring
def check_sockets(plan: Plan) -> Iterator[Finding]:
    """Yield sockets that no residual-current device guards.

    Source:
        IEC 60364-4-41 411.3.3 (30 mA for sockets up to 32 A), NEC 210.8 and NFPA 79 15.1.1 (GFCI), from memory.
    """
    feeding = feeding_of(plan)
    for device in plan.circuit.devices:
        if device.kind != "socket":
            continue
        on_the_way = {plan.parts[link.device].kind for link in feeding.links_of(device.id)}
        if "rcd" not in on_the_way and not plan.parts[device.id].traits.get("rcd"):
            yield Finding(
                rule="socket-rcd", severity=Severity.MUST, subject=device.id,
                message=f"no residual-current device guards socket {plan.tags[device.id]}: lead it over one of 30 mA, a GFCI in UL",
                evidence=", ".join(sorted(on_the_way)) or "nothing on its way", limit="30 mA",
                source="IEC 60364-4-41 411.3.3, NEC 210.8, from memory",
            )  # fmt: skip


@about_wiring
def check_neutral_cut(plan: Plan) -> Iterator[Finding]:
    """Yield a main switch that does not cut the neutral of a supply in TT or IT.

    Source:
        IEC 60204-1:2016 5.3.3 (all live conductors; the neutral may stay in TN alone), from memory.
    """
    supply = plan.job.supply
    if "Q0" not in plan.parts or not supply.has_neutral or supply.earthing not in _CUT_NEUTRAL:
        return
    if plan.job.practice.standard is Standard.IEC and any({"in.N", "N"} <= set(p.net.names) for p in plan.potentials):
        yield Finding(
            rule="neutral-cut", severity=Severity.MUST, subject="Q0",
            message=f"{plan.tags['Q0']} leaves the neutral of a supply in {supply.earthing.upper()} connected: take a switch of a pole "
            "more, [incoming] poles = 4",
            evidence="N goes past the main switch", limit="all live conductors", mend=Mend(table="incoming", changes=(("poles",
            len(supply.lines) + 1),)), source="IEC 60204-1:2016 5.3.3, from memory",
        )  # fmt: skip
