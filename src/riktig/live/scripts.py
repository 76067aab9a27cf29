"""Owns scripts: what is done to a panel step by step, what is expected of it, what must never be, and how that came out."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from riktig.live.actions import perform
from riktig.live.claims import Claim, all_hold, holds, now_is, read_claims
from riktig.live.gear import ActionError
from riktig.live.names import Names
from riktig.live.questions import why_off_words
from riktig.live.simulation import Happening, Simulation
from riktig.plan.plan import Plan


@dataclass(frozen=True, slots=True, kw_only=True)
class Step:
    """What is done one after the other, what is expected then, and what must not be at any instant of it."""

    do: tuple[str, ...] = ()
    expect: tuple[str, ...] = ()
    never: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Miss:
    """An expectation that was not met: as written, what was in its place, what stood in the way, and when, in s."""

    expected: str
    was: str
    because: str
    time: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Played:
    """How one step came out: when it ended in s, what happened in it, what was not as expected."""

    step: Step
    time: float
    happened: tuple[Happening, ...]
    misses: tuple[Miss, ...]


class ScriptError(ActionError):
    """A script cannot be played; `step` counts from 1."""

    def __init__(self, step: int, why: str) -> None:
        super().__init__(f"step {step}: {why}")
        self.step = step


def play(plan: Plan, steps: Sequence[Step]) -> tuple[Played, ...]:
    """Play a script on a panel that has just been switched on and return how each of its steps came out.

    Raises:
        ScriptError: an action or expectation says nothing that is known.
    """
    simulation = Simulation(plan)
    names = Names(simulation)
    return tuple(_play_step(simulation, names, step, number) for number, step in enumerate(steps, 1))


def _play_step(simulation: Simulation, names: Names, step: Step, number: int) -> Played:
    before = len(simulation.log)
    misses: list[Miss] = []
    try:
        forbidden = [(text, read_claims(text)) for text in step.never]
        watch = _Watch(simulation, names, forbidden, misses)
        simulation.watch = watch.look
        watch.look()
        for action in step.do:
            perform(simulation, names, action)
        for text in step.expect:
            misses += [
                _miss(simulation, names, text, claim)
                for claim in read_claims(text)
                if not holds(simulation, names, claim)
            ]
    except ActionError as error:
        raise ScriptError(number, str(error)) from error
    finally:
        simulation.watch = None
    return Played(step=step, time=simulation.now, happened=tuple(simulation.log[before:]), misses=tuple(misses))


@dataclass(slots=True)
class _Watch:
    """Looks at each instant whether anything is that must never be; each is told once."""

    simulation: Simulation
    names: Names
    forbidden: list[tuple[str, tuple[Claim, ...]]]
    misses: list[Miss]

    def look(self) -> None:
        for text, claims in list(self.forbidden):
            if all_hold(self.simulation, self.names, claims):
                self.forbidden.remove((text, claims))
                self.misses.append(Miss(expected=f"never {text}", was=text, because="", time=self.simulation.now))


def _miss(simulation: Simulation, names: Names, text: str, claim: Claim) -> Miss:
    because = ""
    if names.has_device(claim.name) and claim.word not in {"off", "dead"} and not claim.is_not:
        because = why_off_words(simulation, names, names.device(claim.name))
    return Miss(expected=text, was=now_is(simulation, names, claim), because=because, time=simulation.now)


def report(played: Sequence[Played], names: Plan) -> dict[str, Any]:
    """Return how a script came out as JSON: per step what was done, when it ended, what happened and what was missed."""
    return {
        "passed": not any(one.misses for one in played),
        "steps": [
            {
                "do": list(one.step.do),
                "time_s": round(one.time, 6),
                "happened": [
                    {"time_s": round(h.time, 6), "device": names.tags.get(h.device, h.device), "words": h.words}
                    for h in one.happened
                ],
                "missed": [
                    {"expected": m.expected, "was": m.was, "because": m.because, "time_s": round(m.time, 6)}
                    for m in one.misses
                ],
            }
            for one in played
        ],
    }
