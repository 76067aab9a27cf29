"""Owns what practising asks of the worker: a hidden fault, and the best way to it. Must not know the window."""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import islice
from random import Random
from typing import TYPE_CHECKING

from riktig.desk.proof_errands import MOST_FOLLOWED, OnShare, Proof, proof_of

if TYPE_CHECKING:
    from riktig.live.built import Built
    from riktig.plan.plan import Plan
    from riktig.prove.faults import Fault
    from riktig.prove.practice import Effort


@dataclass(frozen=True, slots=True, kw_only=True)
class Hidden:
    """A fault that is hidden in a simulated panel: how that is built, what it is, in words how it shows first, what is done to the panel
    when that is seen in operation, the step that shows it where one does, and at which terminals one begins to measure.
    """

    key: str
    words: str
    built: "Built"
    shows: str
    do: tuple[str, ...] = ()
    step: str = ""
    at: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Model:
    """The best way to a hidden fault: what it takes, and what is measured, in words."""

    effort: "Effort"
    words: tuple[str, ...]


OPERATED = 4
"""The level of practice that begins with a function that fails in a panel that is switched on."""
_MOST_TRIED, _MOST_PLAYED = 25, 120
"""So many faults are tried until one is seen in operation, and so many near one are played to see which show in the same way."""


def hide_fault(plan: "Plan", /, seed: int, level: int, *, on_share: OnShare = lambda share: None) -> tuple[Hidden, ...]:
    """Return faults to practise on: one that a measurement shows (levels 1 and 2), two of them (3), or one that a function shows (4).

    Args:
        plan: the panel.
        seed: of the choice.
        level: 1 an open wire, 2 any single slip, 3 two of them, 4 any single slip, of which the function that fails is told.
        on_share: is told how far it is, 0 to 1, and may raise to end it.
    """
    from riktig.prove.faults import Slip
    from riktig.prove.steps import Phase

    proof, random = proof_of(plan), Random(seed)
    faults = [fault for fault in proof.faults if fault.built is not None and (level > 1 or fault.slip is Slip.OPEN)]
    random.shuffle(faults)
    if level == OPERATED:
        return _hidden_from_sight(plan, faults[:_MOST_TRIED], on_share)
    covers = (proof.cover(fault) for fault in faults)
    able = (c for c in covers if c.first is not None and c.first.phase in {Phase.THROUGH, Phase.APART})
    return tuple(
        Hidden(
            key=cover.fault.key, words=cover.fault.words, built=cover.fault.built, step=cover.first.key,
            shows=f"this step failed: {cover.first.title}", at=(cover.first.a[0], cover.first.b[0]),
        )
        for cover in islice(able, 2 if level == 3 else 1) if cover.fault.built is not None and cover.first is not None
    )  # fmt: skip


def _hidden_from_sight(plan: "Plan", faults: "Sequence[Fault]", on_share: OnShare) -> tuple[Hidden, ...]:
    """Return the first fault that anybody sees who operates the panel."""
    from riktig.prove.practice import find_symptom

    for number, fault in enumerate(faults):
        on_share(number / len(faults))
        symptom = find_symptom(plan, fault.built) if fault.built is not None else None
        if symptom is not None and fault.built is not None:
            hidden = Hidden(key=fault.key, words=fault.words, built=fault.built, shows=symptom.words, do=symptom.do)
            return (hidden,)
    return ()


def show_best_way(plan: "Plan", /, hidden: Sequence[Hidden], *, on_share: OnShare = lambda share: None) -> Model:
    """Return the best way to hidden faults by what is known when one begins: that a step failed, or a function."""
    from riktig.prove.practice import Effort, best_way
    from riktig.prove.search import Search
    from riktig.prove.steps import Unit, value_words

    proof, label = proof_of(plan), plan.terminal_label
    count, seconds, words = 0, 0.0, list[str]()
    for one in hidden:
        step = proof.by_key.get(one.step)
        found = proof.suspected([step])[:MOST_FOLLOWED] if step is not None else _alike(proof, one, on_share)
        suspects = [fault for fault in proof.faults if fault.key == one.key] + [f for f in found if f.key != one.key]
        search = Search(proof.panel, proof.reach, [proof.cover(fault) for fault in suspects], proof.places)
        if step is not None:
            search.take_step(step, is_passed=False)
        way = best_way(proof.panel, search, one.built)
        count, seconds = count + way.effort.measurements, seconds + way.effort.seconds
        words += [
            f"{label(p.a)} – {' '.join(map(label, p.b))}:  {value_words(Unit.OHM, ohms)}" for p, ohms in way.probes
        ]
    return Model(effort=Effort(measurements=count, seconds=seconds), words=tuple(words))


def _alike(proof: Proof, hidden: Hidden, on_share: OnShare) -> "list[Fault]":
    """Return the faults near what is seen that show in the same way as a hidden one."""
    from riktig.prove.practice import Sights, near_faults

    sights = Sights(proof.plan, hidden.do)
    shown = sights.symptom_of(hidden.built)
    near = near_faults(proof.plan, proof.faults, shown.devices if shown is not None else ())[:_MOST_PLAYED]
    found = []
    for number, fault in enumerate(near):
        on_share(number / len(near))
        if fault.built is not None and sights.symptom_of(fault.built) == shown:
            found.append(fault)
    return found
