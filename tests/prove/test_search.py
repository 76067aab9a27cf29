"""The way to a fault: it is found, soon, and the true one never drops out."""

from math import log2
from random import Random

import pytest

from effort import examples
from riktig.live.built import AS_PLANNED
from riktig.plan.plan import Plan
from riktig.prove.coverage import FaultCover, cover_faults
from riktig.prove.dead import DeadPanel
from riktig.prove.faults import Slip, list_faults
from riktig.prove.probing import Reach
from riktig.prove.program import list_steps
from riktig.prove.search import Search
from riktig.prove.steps import Phase, Step
from support import HEAD, STARTER, demo_text, plan_of

DEAD = {Phase.THROUGH, Phase.BOND, Phase.APART}


def search_for(
    plan: Plan, covers: tuple[FaultCover, ...], cover: FaultCover, steps: list[Step], noise: Random
) -> tuple[Search, float, int]:
    """Let a search follow a fault from the first dead step that reveals it; return it, log2 of its suspects then, its measurements."""
    network = DeadPanel(plan).network(cover.fault.built or AS_PLANNED)
    search = Search(DeadPanel(plan), Reach(plan), covers)
    first = next(step for step in steps if step in cover.steps)
    for step in steps[: steps.index(first) + 1]:
        search.take_step(step, is_passed=step is not first)
    bits, count = log2(len(search.suspects)), 0
    while count < 30 and search.suspects[0].share < 0.95 and (probe := search.next_probe()) is not None:
        search.take_reading(probe.a, probe.b, network.between((probe.a,), probe.b) + 0.1 + noise.gauss(0, 0.05))
        count += 1
    return search, bits, count


@pytest.mark.parametrize("world", ["iec", "ul"])
def test_a_hidden_fault_is_found_in_few_measurements_and_never_dropped(world: str) -> None:
    """At most 1.5 times log2 of the candidates on average: a yes or no halves them at best (information theory, Shannon 1948)."""
    plan, draw = plan_of(demo_text(world)), Random(7)
    steps = list_steps(plan)
    covers = cover_faults(plan, steps, list_faults(plan))
    dead = [step for step in steps if step.phase in DEAD]
    able = [c for c in covers if c.fault.built is not None and not DEAD.isdisjoint(s.phase for s in c.steps)]
    bits, measured = 0.0, 0
    for cover in draw.sample(able, examples(12)):
        search, asked, count = search_for(plan, covers, cover, dead, draw)
        assert cover.fault.key in {s.fault.key for s in search.suspects}, cover.fault.words
        bits, measured = bits + asked, measured + count
    assert measured <= 1.5 * bits


def test_what_was_found_before_is_suspected_first() -> None:
    """The shop's own record of faults is added to the odds (Bayes)."""
    plan = plan_of(HEAD + STARTER)
    steps = list_steps(plan)
    covers = cover_faults(plan, steps, list_faults(plan))
    failed = next(s for s in steps if s.phase is Phase.THROUGH and s.title.startswith("Wire 1L2"))

    def shares(before: dict[Slip, int]) -> dict[Slip, float]:
        search = Search(DeadPanel(plan), Reach(plan), covers, found_before=before)
        search.take_step(failed, is_passed=False)
        found: dict[Slip, float] = {}
        for suspect in search.suspects:
            found[suspect.fault.slip] = found.get(suspect.fault.slip, 0.0) + suspect.share
        return found

    assert shares({Slip.SWAPPED: 50})[Slip.SWAPPED] > shares({})[Slip.SWAPPED]


def test_one_wrong_reading_is_outvoted() -> None:
    plan = plan_of(HEAD + STARTER)
    steps = list_steps(plan)
    covers = cover_faults(plan, steps, list_faults(plan))
    cover = next(
        c for c in covers if c.fault.slip is Slip.SWAPPED and c.first is not None and c.first.phase is Phase.THROUGH
    )
    network = DeadPanel(plan).network(cover.fault.built or AS_PLANNED)
    search, is_first = Search(DeadPanel(plan), Reach(plan), covers), True
    search.take_step(cover.first, is_passed=False)  # type: ignore[arg-type]
    for _ in range(12):
        probe = search.next_probe()
        if probe is None:
            break
        ohms = network.between((probe.a,), probe.b)
        search.take_reading(probe.a, probe.b, (0.0 if ohms > 2 else 1e9) if is_first else ohms)
        is_first = False
    assert cover.fault.key in {s.fault.key for s in search.suspects}
