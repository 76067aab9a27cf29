"""Owns a panel that somebody plays with: what a touch does, what has been, and what was done as a script. Must not know screens."""

from collections import deque
from collections.abc import Sequence
from dataclasses import dataclass

from riktig.job.modules import Level
from riktig.job.scripts import FieldBody, Script, Step
from riktig.live.actions import perform
from riktig.live.claims import measure, volts_of
from riktig.live.coils import Relay
from riktig.live.consumers import Consumer
from riktig.live.currents import LIVE_VOLTS, LiveState, Snapshot, snapshot, state_of
from riktig.live.gear import Gear
from riktig.live.motors import Motor
from riktig.live.names import Names
from riktig.live.operators import Operated, Selector
from riktig.live.protection import Overload, Switchgear
from riktig.live.questions import feed_ends, floats, why_live, why_off_words
from riktig.live.scripts import Miss, play_step, put_in_field
from riktig.live.simulation import Simulation
from riktig.plan.plan import Plan

MOST_KEPT = 600
"""So many instants one can go back."""
_WAITED_S = 0.6
"""A pause as long as this is one of a script."""
_EMPTIES_S = 60.0
_HELD = frozenset({"pushbutton"})


@dataclass(frozen=True, slots=True, kw_only=True)
class Lane:
    """When a device was on: from and to in s, the last one open where it still is."""

    device: str
    spans: tuple[tuple[float, float | None], ...]


class Player:
    """A panel that is switched on and played with."""

    def __init__(self, plan: Plan) -> None:
        self.plan = plan
        self.simulation = Simulation(plan)
        self._names = Names(self.simulation)
        self._field: dict[str, FieldBody] = {}
        self.kept: deque[Snapshot] = deque([snapshot(self.simulation)], maxlen=MOST_KEPT)
        self._turned: dict[str, str] = {}
        """To where each selector was turned last."""
        self._done: list[tuple[float, str, frozenset[str]]] = []
        self._spans: dict[str, list[list[float | None]]] = {}
        self._was: dict[str, bool] = {name: self._is_on(gear) for name, gear in self.simulation.gears.items()}
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

    @property
    def levels(self) -> dict[str, tuple[float, float]]:
        """Each level of the job with where it stands and how high it can, in m."""
        return {body.name: (body.value_at(self.simulation.now), body.high) for body in self.simulation.field}

    def set_level(self, name: str, metres: float) -> None:
        """Let a level stand so high."""
        before, words = self.simulation.now, f"level {name} {metres:.2f}"
        perform(self.simulation, self._names, words)
        self._done.append((before, words, frozenset(self._changed())))

    def _is_on(self, gear: Gear) -> bool:
        return "stopped" not in gear.states if isinstance(gear, Motor) else gear.is_on

    def _note(self) -> None:
        now = self.simulation.now
        if self.kept[-1].time == now:
            self.kept.pop()
        self.kept.append(snapshot(self.simulation))
        for name, gear in self.simulation.gears.items():
            is_on = self._is_on(gear)
            if is_on != self._was[name]:
                self._was[name] = is_on
                spans = self._spans.setdefault(name, [] if is_on else [[0.0, None]])
                if is_on:
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

    def way_of(self, ref: str) -> tuple[str, ...]:
        """Return the devices and potentials (`net:16`) by which a potential or device is fed now, from it on to what feeds it."""
        simulation = self.simulation
        if ref.startswith("net:"):
            potential = self._names.potential(ref.removeprefix("net:"))
            node = simulation.rig.node(potential.net.terminals[0]) if potential is not None else None
        else:
            ends = feed_ends(simulation, ref) if ref in simulation.gears else ()
            node = ends[0][0] if ends else None
        if node is None or max(abs(simulation.volts.ac[node]), abs(simulation.volts.dc[node])) < LIVE_VOLTS:
            return ()
        found = [ref]
        for gap in why_live(simulation, node):
            found += [gap.device, *(f"net:{self.plan.number_at(end)}" for end in (gap.a, gap.b))]
        return tuple(dict.fromkeys(found))

    def words_of(self, ref: str) -> str:
        """Return what a device or potential (`net:16`) is now, and what stands in the way of a device that is off; "" for nothing."""
        simulation = self.simulation
        names = self._names
        if ref.startswith("net:"):
            number = ref.removeprefix("net:")
            potential = names.potential(number)
            if potential is None:
                return ""
            is_floating = floats(simulation, simulation.rig.node(potential.net.terminals[0]))
            to = "to its own return, nothing joins it to earth" if is_floating else "to earth"
            return f"{number}: {volts_of(simulation, names, number):.3g} V {to}"
        gear = simulation.gears.get(ref)
        if gear is None:
            return ""
        words = f"{names.tag(ref)}: {', '.join(sorted(gear.states)) or gear.device.kind}"
        if gear.probes:
            words += f", {measure(simulation, names, ref, 'A'):.3g} A"
        if isinstance(gear, Motor | Relay | Consumer) and not self._is_on(gear):
            why = why_off_words(simulation, names, ref)
            words += f". Off: {why}" if why else ""
        return words

    # -- time

    def run(self, seconds: float) -> None:
        """Let time go by."""
        self.simulation.run(seconds)

    def step(self) -> bool:
        """Let what comes next happen; return whether anything did."""
        return self.simulation.step()

    def state_at(self, time: float | None = None) -> LiveState:
        """Return the state now, or as it was at a time: at the earliest that is kept."""
        if time is None or time >= self.kept[-1].time:
            return state_of(self.kept[-1])
        return state_of(next((one for one in reversed(self.kept) if one.time <= time), self.kept[0]))

    @property
    def lanes(self) -> tuple[Lane, ...]:
        """When motors, coils and lamps were on, those that ever changed, in the order of the circuit."""
        order = {name: n for n, name in enumerate(self.simulation.gears)}
        return tuple(
            Lane(device=name, spans=tuple((float(a or 0.0), b) for a, b in self._spans[name]))
            for name in sorted(self._changed(), key=order.__getitem__)
        )

    def play(self, script: Script) -> tuple[Miss, ...]:
        """Play a script on the panel as it is now, with what lives along; return what was not as it expects.

        Raises:
            ActionError: it says nothing that is known here.
        """
        for name, body in script.field.items():
            put_in_field(self.simulation, self._names, name, body)
        steps = [play_step(self.simulation, self._names, step, number) for number, step in enumerate(script.steps, 1)]
        return tuple(miss for one in steps for miss in one.misses)

    # -- what was done

    def script(self, name: str, title: str) -> Script:
        """Return what was done so far as a script: each action a step, with what was so after it as expectations."""
        steps: list[Step] = []
        ends = [*(begun for begun, *_ in self._done[1:]), self.simulation.now]
        for (begun, words, changed), end in zip(self._done, ends, strict=True):
            pause = end - begun
            do = (words,) if pause < _WAITED_S else (words, f"wait {pause:.2f}")
            steps.append(Step(do=do, expect=self._expected(end, sorted(changed))))
        field = self._field if any(words.startswith("level ") for _, words, _ in self._done) else {}
        return Script(name=name, title=title, steps=tuple(steps), field=field)

    def _expected(self, time: float, devices: Sequence[str]) -> tuple[str, ...]:
        kept = next((one for one in reversed(self.kept) if one.time <= time), self.kept[0])
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
