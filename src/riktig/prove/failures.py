"""Owns which devices may have failed where a step of a function test does: contacts that do not close or do not open, coils and lamps that
are open. Must not know slips of wiring.
"""

from collections.abc import Iterator

from riktig.catalogue.model import CONSUMER_KINDS, CONTACT_KINDS, ElementKind
from riktig.job.scripts import Script, Step
from riktig.live.built import Built
from riktig.live.currents import CARRYING_A, LiveState, snapshot, state_of
from riktig.live.gear import ActionError
from riktig.live.names import Names
from riktig.live.rig import WiringState
from riktig.live.scripts import play_step
from riktig.live.simulation import Simulation
from riktig.plan.plan import Plan
from riktig.prove.faults import Fault, Slip

_SWITCHES = CONTACT_KINDS | {ElementKind.POLE}
_NO_SWITCHES = frozenset({"link", "transformer", "resistor"})


def list_failures(plan: Plan, ends: frozenset[str]) -> Iterator[Fault]:
    """Yield what may have failed inside devices at some terminals: there the circuit is open, or closed where it should not be."""
    used = {end for potential in plan.potentials for end in potential.net.terminals}
    for device in plan.circuit.devices:
        tag = plan.tags.get(device.id, device.id)
        for element in plan.parts[device.id].elements:
            for mark in element.marks[1:]:
                a, b = f"{device.id}:{element.marks[0]}", f"{device.id}:{mark}"
                if not {a, b} <= used or ends.isdisjoint((a, b)):
                    continue
                if element.kind in _SWITCHES and device.kind not in _NO_SWITCHES:
                    sort = "pole" if element.kind is ElementKind.POLE else "contact"
                    where = f"{sort} {element.marks[0]}-{mark} of {tag}"
                    yield _failed(plan, f"{where} does not close", tag, (a, b), _parted(plan, b))
                    yield _failed(plan, f"{where} does not open", tag, (a, b), Built(extra=((a, b),)))
                elif element.kind in CONSUMER_KINDS:
                    yield _failed(
                        plan, f"{tag} is open inside, {element.marks[0]}-{mark}", tag, (a, b), _parted(plan, b)
                    )


def _failed(plan: Plan, words: str, tag: str, ends: tuple[str, str], built: Built) -> Fault:
    key = f"failed {words.replace(' ', '_')}"
    return Fault(
        key=key, slip=Slip.FAILED, words=words, built=built, at=ends, mend=f"exchange {tag}, or what has failed of it"
    )


def _parted(plan: Plan, end: str) -> Built:
    """Return a panel in which what comes to a terminal does not get into the device."""
    inside = f"{end} "
    ends = {c.id: tuple(inside if t == end else t for t in (c.a, c.b)) for c in plan.conductors_at.get(end, ())}
    return Built(ends=ends)  # type: ignore[arg-type]


def explain_step(plan: Plan, script: Script, number: int) -> list[Fault]:
    """Return what may have failed where a step of a script did, counted from 1, and those before it did not: of what the step moves or lets
    carry current, all that makes it fail; poles last, for they are the sturdiest.

    Raises:
        ScriptError: the script cannot be played.
    """
    panel = Simulation(plan)
    names = Names(panel)
    for count, step in enumerate(script.steps[: number - 1], 1):
        play_step(panel, names, step, count)
    step = script.steps[number - 1]
    moved = _moved_by(panel, step, number)
    found = []
    for failure in list_failures(plan, frozenset(moved)):
        tried = panel.fork()
        try:
            tried.rewire(WiringState(built=failure.built or Built()))
            tried.rest()
            if play_step(tried, Names(tried), step, number).misses:
                found.append(failure)
        except ActionError:
            found.append(failure)
    return sorted(found, key=lambda failure: failure.words.startswith("pole"))


def _moved_by(panel: Simulation, step: Step, number: int) -> set[str]:
    """Return the terminals at which something closes, opens, or begins or ceases to carry current at any instant of a step."""
    before, after = state_of(snapshot(panel)), panel.fork()
    moved: set[str] = set()

    def look() -> None:
        now = state_of(snapshot(after))
        moved.update(end for pair in before.closed ^ now.closed for end in pair)
        moved.update(_carrying(before) ^ _carrying(now))

    after.watch = look
    play_step(after, Names(after), step, number)
    return moved


def _carrying(state: LiveState) -> set[str]:
    return {end for end, amps in state.amps.items() if abs(amps) >= CARRYING_A}
