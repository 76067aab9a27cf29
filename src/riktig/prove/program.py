"""Owns the whole test of a panel: all its steps in the order of the work, those of a phase in the order that moves the hands least. Must
not read meters.
"""

from collections.abc import Sequence
from dataclasses import replace

from riktig.job.scripts import Script, seen_in_words
from riktig.plan.plan import Plan
from riktig.prove.dead import DeadPanel
from riktig.prove.dead_steps import list_bonds, list_through
from riktig.prove.insulation import list_insulation
from riktig.prove.live_steps import list_live, list_residual
from riktig.prove.looks import list_fitting, list_looks
from riktig.prove.probing import Reach, travel_mm, walk
from riktig.prove.shorts import list_shorts
from riktig.prove.steps import Phase, Step, Unit


def list_steps(plan: Plan, reach: Reach | None = None) -> tuple[Step, ...]:
    """Return every step of the test of a panel in working order: what is tried and looked at, dead, live, what it does, and switched off.

    What it does are the scripts that the job keeps: a derived one is kept there.

    Source:
        Continuity, then shorts, then volts in order, then every function: common practice, no source; IEC 60204-1:2016 clause 18 for what
        must be among it, from memory.
    """
    reach = reach or Reach(plan)
    return (
        *list_fitting(plan), *list_looks(plan), *_walked(reach, list_through(plan)), *_walked(reach, list_bonds(plan)),
        *list_shorts(plan, DeadPanel(plan)), *list_insulation(plan), *list_live(plan), *_functions(plan), *list_residual(plan),
    )  # fmt: skip


def travel_m(plan: Plan, steps: Sequence[Step], reach: Reach | None = None) -> tuple[float, float]:
    """Return how many metres both probes go through the continuity tests in the order of the steps, and along the schematic, potential by
    potential.
    """
    reach = reach or Reach(plan)
    walked = [step for step in steps if step.phase is Phase.THROUGH]
    place: dict[str, int] = {conductor.id: n for n, conductor in enumerate(plan.conductors)}
    drawn = sorted(walked, key=lambda step: place.get(step.wire or "", len(place)))
    ways = (travel_mm(reach, [(step.a[0], step.b[0]) for step in order]) for order in (walked, drawn))
    ours, schematic = (round(way / 1000, 1) for way in ways)
    return ours, schematic


def _walked(reach: Reach, steps: Sequence[Step]) -> list[Step]:
    """Return steps in the order that moves both probes least; probes change hands where that is nearer."""
    found = []
    for n, is_turned in walk(reach, [(step.a[0], step.b[0]) for step in steps]):
        step = steps[n]
        # what is lifted is at the second probe, which therefore stays the second one
        found.append(replace(step, a=step.b, b=step.a) if is_turned and not step.prepare else step)
    return found


def _functions(plan: Plan) -> list[Step]:
    found = [step for script in plan.job.scripts for step in function_steps(plan, script)]
    return found or [
        Step(
            key="function:none", phase=Phase.FUNCTION, unit=Unit.SEEN, title="No function test is kept with this job",
            do="derive it, or write what the panel must do, and what it must not, as scripts on the Circuit bench", as_planned="none",
            proves="it does what is drawn, and nothing else", source="IEC 60204-1 18.6, from memory",
        )
    ]  # fmt: skip


def function_steps(plan: Plan, script: Script) -> list[Step]:
    """Return the steps of a script: done, looked at, and judged by whoever stands before the panel, in the words on its labels."""
    found = []
    for number, step in enumerate(script.steps, 1):
        done = [_spoken(plan, text) for text in step.do]
        expect, never = ([_with_tags(plan, text) for text in texts] for texts in (step.expect, step.never))
        words = seen_in_words(expect, never) or "nothing changes"
        found.append(
            Step(
                key=f"function:{script.name}:{number}:{'; '.join(step.do)}", phase=Phase.FUNCTION, unit=Unit.SEEN,
                title=f"{number}. {', '.join(done) or 'as it stands'}", group=script.title or script.name, do=words,
                as_planned=words, proves="it does what is drawn, and nothing else",
                source="the circuit as drawn; IEC 60204-1 18.6, from memory",
            )
        )  # fmt: skip
    return found


def _spoken(plan: Plan, action: str) -> str:
    """Return an action of a script as one says it to whoever stands before the panel."""
    verb, _, rest = action.partition(" ")
    name, _, value = rest.partition(" ")
    if verb == "wait":
        return f"wait {rest} s" + (", motors cool" if float(rest) >= _COOLS_S else "")
    if verb == "set" and value == "0" and name in plan.motors:
        return f"{plan.tags.get(name, name)} without load"
    return _with_tags(plan, action)


_COOLS_S = 30.0


def _with_tags(plan: Plan, text: str) -> str:
    """Return words of a script with what stands on the labels in place of the names of the brief."""
    return " ".join(plan.tags.get(word, word) if word in plan.circuit.index else word for word in text.split(" "))
