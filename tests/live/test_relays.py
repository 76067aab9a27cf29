"""The live circuit against an independent relay simulation: every coil, after each of random actions on random panels."""

import random

import pytest

from effort import EFFORT, examples
from panels import panel_text
from relay_simulation import Panel
from riktig.live.simulation import Simulation
from riktig.plan.plan import Plan
from support import demo_text, plan_of

COILS = frozenset({"contactor", "relay", "timer"})
SEQUENCES, ACTIONS = examples(20), 12


class Pair:
    """One panel in both simulations."""

    def __init__(self, plan: Plan) -> None:
        self.plan, self.live, self.relays = plan, Simulation(plan), Panel(plan)
        doors = [d.id for d in plan.circuit.devices if d.kind == "limit-switch" and d.wants.get("use") == "enclosure"]
        self.relays.hold(*doors).wait()
        self.coils = [d.id for d in plan.circuit.devices if d.kind in COILS]
        self.by_kind: dict[str, list[str]] = {}
        for device in plan.circuit.devices:
            self.by_kind.setdefault(device.kind, []).append(device.id)

    def differ(self) -> list[str]:
        return [c for c in self.coils if ("on" in self.live.gears[c].states) != (c in self.relays.on)]

    def act(self, rng: random.Random) -> str:
        kind = rng.choice([k for k in _DOES if k in self.by_kind])
        device = rng.choice(self.by_kind[kind])
        does = rng.choice(_DOES[kind])
        if kind == "selector":
            position = rng.choice([None, *self.live.gears[device].choices])  # type: ignore[attr-defined]
            self.live.act(device, "turn", position or "off")
            self.relays.turn(device, position)
            does = f"turn {position}"
        else:
            self.live.act(device, does)
            _IN_RELAYS[does](self.relays, device)
        self.live.rest()
        if rng.random() < 0.3:
            self.live.run(100.0)
            self.relays.wait()
            does += ", wait"
        return f"{device} {does}"


_DOES = {
    "pushbutton": ("press", "release"), "emergency-stop": ("press", "release"), "float": ("press", "release"),
    "limit-switch": ("press", "release"), "thermostat": ("press", "release"), "selector": ("turn",),
    "overload": ("trip", "reset"), "breaker": ("open", "close"), "disconnect": ("open", "close"), "motor-breaker": ("open", "close"),
}  # fmt: skip
_IN_RELAYS = {
    "press": Panel.hold, "release": Panel.release, "trip": Panel.trip, "reset": Panel.reset, "open": Panel.switch_off,
    "close": Panel.switch_on,
}  # fmt: skip


def compare(plan: Plan, seed: int, sequences: int) -> None:
    for sequence in range(sequences):
        rng, pair, done = random.Random(f"{seed} {sequence}"), Pair(plan), []
        assert pair.differ() == [], (seed, "at the start")
        for _ in range(ACTIONS):
            done.append(pair.act(rng))
            assert pair.differ() == [], (seed, done)


@pytest.mark.parametrize("seed", range(100 if EFFORT >= 0.5 else 25))
def test_every_coil_is_where_relays_alone_would_have_it(seed: int) -> None:
    """20 sequences of 12 actions on each of 100 panels, with full effort."""
    compare(plan_of(panel_text(seed)), seed, SEQUENCES)


@pytest.mark.parametrize("world", ["iec", "ul"])
def test_every_coil_of_the_demos_is_where_relays_alone_would_have_it(world: str) -> None:
    compare(plan_of(demo_text(world)), 0, 2 * SEQUENCES)
