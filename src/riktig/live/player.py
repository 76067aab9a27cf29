"""Owns a panel that somebody plays with: what a touch does, what has been, and what was done as a script. Must not know screens."""

from collections import deque
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from riktig.job.modules import Level
from riktig.job.scripts import FieldBody, Script, Step
from riktig.live.actions import perform
from riktig.live.coils import Relay
from riktig.live.consumers import Consumer
from riktig.live.currents import LiveState, Snapshot, snapshot, state_of
from riktig.live.motors import Motor
from riktig.live.names import Names
from riktig.live.operators import Operated, Selector
from riktig.live.protection import Overload, Switchgear
from riktig.live.readings import Reading, is_on, read_past, read_thing
from riktig.live.scripts import Played, play_on, put_in_field
from riktig.live.simulation import Simulation
from riktig.plan.plan import Plan

MOST_KEPT = 600
"""So many instants one can go back."""
_WAITED_S = 0.6
"""A pause as long as this is one of a script."""
_EMPTIES_S = 60.0
_HELD = frozenset({"pushbutton"})
_Deed = tuple[float, str, frozenset[str]]


@dataclass(frozen=True, slots=True, kw_only=True)
class Lane:
    """When a device was on: from and to in s, the last one open where it still is."""

    device: str
    spans: tuple[tuple[float, float | None], ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Tank:
    """A level as it stands, how high it can, and where its floats are with what each of them does, all in m."""

    name: str
    metres: float
    high: float
    floats: tuple[tuple[str, float], ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Turning:
    """A motor: its device and tag, its speed as a share of the rated one (below 0 backwards), and what is true of it."""

    device: str
    tag: str
    speed: float
    states: frozenset[str]


class Player:
    """A panel that is switched on and played with.

    Args:
        plan: the panel.
        simulation: the panel, switched on; None switches it on.
    """

    def __init__(self, plan: Plan, simulation: Simulation | None = None) -> None:
        self.plan = plan
        self.simulation = simulation or Simulation(plan)
        self._names = Names(self.simulation)
        self._field: dict[str, FieldBody] = {}
        self._floats = {
            level.name: tuple(sorted(level.floats.items(), key=lambda f: f[1])) for level in plan.job.levels
        }
        self.kept: deque[Snapshot] = deque([snapshot(self.simulation)], maxlen=MOST_KEPT)
        self._turned: dict[str, str] = {}
        """To where each selector was turned last."""
        self._done: list[_Deed] = []
        """When something was done, what, and what had changed ever till then."""
        self._spans: dict[str, list[list[float | None]]] = {}
        self._was: dict[str, bool] = {name: is_on(gear) for name, gear in self.simulation.gears.items()}
        self.simulation.watch = self._note
        for level in plan.job.levels:
            self._fill(level)

    def _fill(self, level: Level) -> None:
        """Let a level of the job live along: its pumps draw it down from its highest float in a minute; a hand raises it."""
        job, high = self.plan.job, 1.2 * max(level.floats.values())
        pumps = [starter.name for starter in job.starters if starter.level == level.name]
        pumps += [name for group in job.pumps if group.level == level.name for name in group.starters]
        moves = {f"{pump} forward": -high / _EMPTIES_S for pump in dict.fromkeys(pumps)}
        self._field[level.name] = FieldBody(low=0.0, high=high, moves=moves)
        put_in_field(self.simulation, self._names, level.name, self._field[level.name])

    def tanks(self, time: float | None = None) -> tuple[Tank, ...]:
        """Return each level of the job as it stands, or stood at a time."""
        kept = self._kept_at(time)
        return tuple(
            Tank(
                name=body.name, high=body.high, floats=self._floats[body.name],
                metres=body.value_at(self.simulation.now) if kept is None else kept.levels.get(body.name, 0.0),
            )
            for body in self.simulation.field
            if body.name in self._floats
        )  # fmt: skip

    def motors(self, time: float | None = None) -> tuple[Turning, ...]:
        """Return each motor as it turns, or turned at a time."""
        kept, now, names = self._kept_at(time), self.simulation.now, self._names
        return tuple(
            Turning(
                device=name, tag=names.tag(name), speed=gear.speed_at(now) if kept is None else kept.speeds[name],
                states=gear.states if kept is None else kept.states[name],
            )
            for name, gear in self.simulation.gears.items()
            if isinstance(gear, Motor)
        )  # fmt: skip

    def set_level(self, name: str, metres: float) -> None:
        """Let a level stand so high."""
        before, words = self.simulation.now, f"level {name} {metres:.2f}"
        perform(self.simulation, self._names, words)
        self._done.append((before, words, frozenset(self._changed())))

    def _note(self) -> None:
        now = self.simulation.now
        if self.kept[-1].time == now:
            self.kept.pop()
        self.kept.append(snapshot(self.simulation))
        for name, gear in self.simulation.gears.items():
            now_on = is_on(gear)
            if now_on != self._was[name]:
                self._was[name] = now_on
                spans = self._spans.setdefault(name, [] if now_on else [[0.0, None]])
                if now_on:
                    spans.append([now, None])
                else:
                    spans[-1][1] = now

    # -- hands

    def may_touch(self, device: str) -> bool:
        """Return whether a touch does anything to a device."""
        gear = self.simulation.gears.get(device)
        return isinstance(gear, Selector | Switchgear) or (isinstance(gear, Operated) and gear.part.kind != "surge")

    def touch(self, device: str) -> str:
        """Press, turn, open or close a device, and return what was done in words of a script, "" where nothing can be."""
        gear = self.simulation.gears.get(device)
        if isinstance(gear, Selector):
            self._turned[device] = _next_position(gear, self._turned.get(device, ""))
            return self._do(device, "turn", self._turned[device])
        if isinstance(gear, Overload):
            return self._do(device, "reset" if gear.has_tripped else "trip")
        if isinstance(gear, Switchgear):
            return self._do(device, "open" if gear.is_closed else "close")
        if isinstance(gear, Operated) and gear.device.kind in _HELD:
            return self._do(device, "press")
        if isinstance(gear, Operated) and gear.device.kind == "emergency-stop":
            return self._do(device, "release" if gear.is_moved else "press")
        if isinstance(gear, Operated) and gear.part.kind != "surge":
            return self._do(device, "open" if gear.is_moved else "close")
        return ""

    def let_go(self, device: str) -> str:
        """Let go of what is held: a button springs back, and a selector that does."""
        gear = self.simulation.gears.get(device)
        if isinstance(gear, Operated) and gear.device.kind in _HELD and gear.is_moved:
            return self._do(device, "release")
        if isinstance(gear, Selector) and gear.part.traits.get("return") == "spring" and gear.position:
            return self._do(device, "release")
        return ""

    def _do(self, device: str, verb: str, value: str = "") -> str:
        words = f"{verb} {device} {value}".strip()
        before = self.simulation.now
        self.simulation.act(device, verb, value)
        self.simulation.rest()
        self._done.append((before, words, frozenset(self._changed())))
        return words

    def _changed(self) -> list[str]:
        """Return the motors, coils and lamps that ever changed."""
        gears = self.simulation.gears
        return [name for name in self._spans if isinstance(gears[name], Motor | Relay | Consumer)]

    def reading_of(self, ref: str, time: float | None = None) -> Reading | None:
        """Return what a device or potential (`net:16`) is now, or was at a time; None for what is neither."""
        if self._kept_at(time) is None:
            return read_thing(self.simulation, self._names, ref)
        return read_past(self.state_at(time), self.simulation, self._names, ref)

    # -- time

    def run(self, seconds: float) -> None:
        """Let time go by."""
        self.simulation.run(seconds)

    def step(self) -> bool:
        """Let what comes next happen; return whether anything did."""
        return self.simulation.step()

    def state_at(self, time: float | None = None) -> LiveState:
        """Return the state now, or as it was at a time: at the earliest that is kept."""
        return state_of(self._kept_at(time) or self.kept[-1])

    def _kept_at(self, time: float | None) -> Snapshot | None:
        """Return what was kept last up to a time, the earliest where that is before all; None where that is how it is now."""
        if time is None or time >= self.kept[-1].time:
            return None
        return next((one for one in reversed(self.kept) if one.time <= time), self.kept[0])

    @property
    def lanes(self) -> tuple[Lane, ...]:
        """When motors, coils and lamps were on, those that ever changed, in the order of the circuit."""
        order = {name: n for n, name in enumerate(self.simulation.gears)}
        return tuple(
            Lane(device=name, spans=tuple((float(a or 0.0), b) for a, b in self._spans[name]))
            for name in sorted(self._changed(), key=order.__getitem__)
        )

    def play(self, script: Script) -> Iterator[Played]:
        """Play a script on the panel as it is now, with what lives along, and yield how each of its steps came out.

        Raises:
            ScriptError: it says nothing that is known here.
        """
        return play_on(self.simulation, self._names, script)

    # -- what was done

    def script(self, title: str) -> Script:
        """Return what was done so far as a script: each action a step, with what was so after it as expectations."""
        steps: list[Step] = []
        done = _pushed(self._done)
        ends = [*(begun for begun, *_ in done[1:]), self.simulation.now][: len(done)]
        for (begun, words, changed), end in zip(done, ends, strict=True):
            pause = end - begun
            do = (words,) if pause < _WAITED_S else (words, f"wait {pause:.2f}")
            steps.append(Step(do=do, expect=self._expected(end, sorted(changed))))
        field = self._field if any(words.startswith("level ") for _, words, _ in self._done) else {}
        return Script(title=title, steps=tuple(steps), field=field)

    def _expected(self, time: float, devices: Sequence[str]) -> tuple[str, ...]:
        kept = self._kept_at(time) or self.kept[-1]
        found = []
        for device in devices[:20]:
            states = kept.states[device]
            motor = isinstance(self.simulation.gears[device], Motor)
            word = (
                next(iter(sorted(states & {"forward", "reverse", "stopped"})), "")
                if motor
                else "on"
                if "on" in states
                else "off"
            )
            if word:
                found.append(f"{device} {word}")
        return tuple(found)


def _pushed(done: Sequence[_Deed]) -> list[_Deed]:
    """Return what was done with each press that is let go of at once as one push."""
    found: list[_Deed] = []
    for deed in done:
        begun, words, _ = deed
        device = words.removeprefix("release ")
        before = found[-1] if found else None
        if (
            before is not None
            and words == f"release {device}"
            and before[1] == f"press {device}"
            and begun - before[0] < _WAITED_S
        ):
            found[-1] = (before[0], f"push {device}", deed[2])
        else:
            found.append(deed)
    return found


def _next_position(selector: Selector, last: str) -> str:
    """Return the position after this one, from left to right and round: off lies between two of three, and what springs back to it goes to
    the other side than the last time.
    """
    choices = list(selector.choices)
    if selector.part.traits.get("return") == "spring":
        return choices[(choices.index(last) + 1) % len(choices)] if last in choices else choices[0]
    places = [*choices[:1], "off", *choices[1:]] if "off" not in choices else choices
    here = selector.position or "off"
    return places[(places.index(here) + 1) % len(places)]
