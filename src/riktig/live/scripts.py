"""Owns scripts: what is done to a panel step by step, what is expected of it, what must never be, and how that came out."""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from functools import partial
from math import inf
from typing import Any

from riktig.job.scripts import FieldBody, Script, Step
from riktig.live.actions import perform
from riktig.live.claims import Claim, all_hold, holds, now_is, read_claims
from riktig.live.field import ALWAYS, FLOAT_BACK_M, StandIn, Threshold
from riktig.live.gear import ActionError, number_of
from riktig.live.names import Names
from riktig.live.readings import why_off_words
from riktig.live.simulation import Happening, Simulation
from riktig.plan.plan import Plan


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
    """A script cannot be played; `step` counts from 1, 0 is what stands ahead of them."""

    def __init__(self, step: int, why: str) -> None:
        super().__init__(f"step {step}: {why}" if step else why)
        self.step = step


def play(plan: Plan, script: Script) -> tuple[Played, ...]:
    """Play a script on a panel that has just been switched on and return how each of its steps came out.

    Raises:
        ScriptError: an action or expectation says nothing that is known.
    """
    simulation = Simulation(plan)
    return tuple(play_on(simulation, Names(simulation), script))


def play_on(simulation: Simulation, names: Names, script: Script) -> Iterator[Played]:
    """Play a script on a panel as it is now, with what lives along, and yield how each of its steps came out.

    Raises:
        ScriptError: an action or expectation says nothing that is known.
    """
    for name, body in script.field.items():
        try:
            put_in_field(simulation, names, name, body)
        except ActionError as error:
            raise ScriptError(0, f"field {name}: {error}") from error
    for number, step in enumerate(script.steps, 1):
        yield play_step(simulation, names, step, number)


def put_in_field(simulation: Simulation, names: Names, name: str, body: FieldBody) -> None:
    """Let something of the field live along with a panel; a level brings its floats.

    Raises:
        ActionError: it speaks of something that nobody is called.
    """
    claims: list[Callable[[], bool]] = []
    for text in body.moves:
        read = () if text == ALWAYS else read_claims(text)
        all_hold(simulation, names, read)  # what nobody is called is refused before it runs
        claims.append(partial(all_hold, simulation, names, read))
    thresholds = [_threshold(names, device, text) for device, text in body.operates.items()]
    if names.has_level(name):
        thresholds += [Threshold(device=d, value=m, is_above=True, back=FLOAT_BACK_M) for d, m in names.floats(name)]
    low, high = -inf if body.low is None else body.low, inf if body.high is None else body.high
    moves = tuple(body.moves.items())
    stand_in = StandIn(name=name, value=body.at, low=low, high=high, moves=moves, thresholds=thresholds)
    simulation.put_in_field(stand_in, claims)


def _threshold(names: Names, name: str, text: str) -> Threshold:
    sign, _, value = text.strip().partition(" ")
    if sign not in {"<", ">"}:
        raise ActionError(f"{name} = {text!r} says not when it is moved: '> 0.4' or '< 0.1'")
    return Threshold(device=names.device(name), value=number_of(value, -1e6, 1e6), is_above=sign == ">")


def play_step(simulation: Simulation, names: Names, step: Step, number: int) -> Played:
    """Play one step on a panel as it is now; whoever watches it goes on watching.

    Raises:
        ScriptError: an action or expectation says nothing that is known.
    """
    before, outer = len(simulation.log), simulation.watch
    misses: list[Miss] = []
    try:
        forbidden = [(text, read_claims(text)) for text in step.never]
        watch = _Watch(simulation, names, forbidden, misses, outer)
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
        simulation.watch = outer
    return Played(step=step, time=simulation.now, happened=tuple(simulation.log[before:]), misses=tuple(misses))


@dataclass(slots=True)
class _Watch:
    """Looks at each instant whether anything is that must never be; each is told once."""

    simulation: Simulation
    names: Names
    forbidden: list[tuple[str, tuple[Claim, ...]]]
    misses: list[Miss]
    outer: Callable[[], None] | None

    def look(self) -> None:
        if self.outer is not None:
            self.outer()
        for text, claims in list(self.forbidden):
            if all_hold(self.simulation, self.names, claims):
                self.forbidden.remove((text, claims))
                self.misses.append(Miss(expected=f"never {text}", was=text, because="", time=self.simulation.now))


def _miss(simulation: Simulation, names: Names, text: str, claim: Claim) -> Miss:
    because = ""
    if names.has_device(claim.name) and claim.word not in {"off", "dead"} and not claim.is_not:
        because = why_off_words(simulation, names, names.device(claim.name))
    return Miss(expected=text, was=now_is(simulation, names, claim), because=because, time=simulation.now)


@dataclass(frozen=True, slots=True, kw_only=True)
class KeptPlay:
    """How a kept script came out: its steps as far as it could be played, and why no further; "" where it could to its end."""

    script: Script
    played: tuple[Played, ...]
    refusal: str

    @property
    def passes(self) -> bool:
        """Whether all is as it expects."""
        return not self.refusal and not any(one.misses for one in self.played)


def play_kept(plan: Plan, names: Sequence[str] | None = None) -> tuple[KeptPlay, ...]:
    """Return how the scripts that a job keeps come out on its circuit, each on a panel that has just been switched on; all of them, or
    those of some names.
    """
    found = []
    for script in (one for one in plan.job.scripts if names is None or one.name in names):
        simulation, played, refusal = Simulation(plan), list[Played](), ""
        try:
            for one in play_on(simulation, Names(simulation), script):
                played.append(one)
        except ActionError as error:
            refusal = str(error)
        found.append(KeptPlay(script=script, played=tuple(played), refusal=refusal))
    return tuple(found)


def report(played: Sequence[Played], plan: Plan, script: Script) -> dict[str, Any]:
    """Return how a script came out as JSON: per step what was done, when it ended, what happened and what was missed."""
    tags = plan.tags
    return {
        "title": script.title,
        "passed": not any(one.misses for one in played),
        "steps": [
            {
                "do": list(one.step.do),
                "time_s": round(one.time, 6),
                "happened": [
                    {"time_s": round(h.time, 6), "device": tags.get(h.device, h.device), "words": h.words}
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
