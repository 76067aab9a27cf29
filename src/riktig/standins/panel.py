"""Owns a simulated panel that is measured: what a meter reads in it, as designed or with faults. Must not judge readings."""

from functools import cached_property
from math import inf

from riktig.live.built import AS_PLANNED, Built
from riktig.live.readings import volts_between
from riktig.live.resistance import DeadNetwork, wire_resistors
from riktig.live.rig import WiringState
from riktig.live.simulation import Simulation
from riktig.plan.basis.union import UnionFind
from riktig.plan.plan import Plan
from riktig.prove.dead import DeadPanel
from riktig.prove.dead_steps import ohms_of
from riktig.prove.insulation import inner_ways
from riktig.prove.steps import Phase, Step, Unit

SOUND_MEGOHM = 550.0
"""What insulation reads that is dry and whole (common practice, no source)."""


class SimulatedPanel:
    """A panel as designed, or built with faults that somebody put in on purpose.

    Args:
        plan: the Plan.
        built: how it was built.
    """

    def __init__(self, plan: Plan, built: Built = AS_PLANNED) -> None:
        self._plan, self.built = plan, built
        self._wires = {conductor.id: conductor for conductor in plan.conductors}

    @cached_property
    def _dead(self) -> DeadPanel:
        return DeadPanel(self._plan)

    @cached_property
    def _network(self) -> DeadNetwork:
        return self._dead.network(self.built)

    @cached_property
    def _wired(self) -> DeadNetwork:
        return self._dead.network(self.built, has_motors=True)

    @cached_property
    def _live(self) -> Simulation:
        return Simulation(self._plan, WiringState(built=self.built))

    @cached_property
    def _tested(self) -> UnionFind[str]:
        """What the insulation tester finds joined: through every device that is not electronic."""
        joined = UnionFind[str]()
        for one in wire_resistors(self._plan, self.built):
            joined.join(one.a, one.b)
        for a, b, _ in inner_ways(self._plan):
            joined.join(a, b)
        return joined

    def between(self, a: tuple[str, ...], b: tuple[str, ...]) -> float:
        """Return the ohms between two sides, several terminals of one clipped together; infinite where nothing joins them."""
        return self._wired.between(a, b)

    def read(self, step: Step) -> float:
        """Return what is there to be read at a step, in its unit: what it asks to be prepared is done."""
        if step.unit is Unit.VOLT:
            return 0.0 if step.phase is Phase.RESIDUAL else volts_between(self._live, step.a[0], step.b[0])
        if step.unit is Unit.MEGOHM:
            earthed = {self._tested.find(end) for end in step.b}
            return 0.0 if any(self._tested.find(end) in earthed for end in step.a) else SOUND_MEGOHM
        if step.wire is not None and step.prepare:
            return self._lifted(step)
        if step.of in self._plan.circuit.index and self._plan.circuit.index[step.of].kind == "link":
            ends = [f"{step.of}:{mark}" for element in self._plan.parts[step.of].elements for mark in element.marks]
            return self._dead.network(self.built.and_also(Built(extra=((ends[0], ends[1]),)))).between(step.a, step.b)
        return (self._network if step.phase is Phase.APART else self._wired).between(step.a, step.b)

    def _lifted(self, step: Step) -> float:
        """Return the ohms of a wire whose end is off its clamp: of itself alone, if it is the one that should be there."""
        wire = self._wires[step.wire or ""]  # type: ignore[index]
        ends = self.built.ends_of(wire)
        return ohms_of(wire) if ends is not None and set(ends) == {wire.a, wire.b} else inf

    def looks_right(self, step: Step) -> bool:
        """Return whether somebody who looks sees what a step asks: of contacts before they are fitted, whether they are the right ones."""
        turned = {end.rpartition(":")[0] for pair in self.built.turned for end in pair}
        return step.phase is not Phase.FITTING or step.of not in turned
