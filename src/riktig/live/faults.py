"""Owns what can be wrong in a panel, as scripts say it, and how it is put in and mended. Must not know time."""

import re
from dataclasses import replace

from riktig.live.gear import ActionError
from riktig.live.names import Names
from riktig.live.simulation import Simulation

FAULTS = ("open", "swap", "weld", "short")


def put_fault(simulation: Simulation, names: Names, words: str, *, is_mended: bool = False) -> None:
    """Put a fault in, or take it out again: `open 17@K1:A1`, `swap L1 L2`, `swap K1:A1 K2:A1`, `weld K2`, `short 24V 0V`.

    Raises:
        ActionError: nothing is called so, or no such fault is known.
    """
    sort, _, rest = words.partition(" ")
    given = rest.split()
    if sort == "open" and len(given) == 1:
        _open(simulation, names, given[0], is_mended=is_mended)
    elif sort == "swap" and len(given) == 2:
        _swap(simulation, names, given[0], given[1], is_mended=is_mended)
    elif sort == "weld" and len(given) == 1:
        simulation.act(names.device(given[0]), "mend" if is_mended else "weld")
    elif sort == "short" and len(given) == 2:
        pair = (names.terminal_of(given[0]), names.terminal_of(given[1]))
        shorted = simulation.wiring.shorted
        kept = tuple(one for one in shorted if set(one) != set(pair)) if is_mended else (*shorted, pair)
        simulation.rewire(replace(simulation.wiring, shorted=kept))
    else:
        raise ActionError(
            f"{words or 'nothing'} is no fault: open NUMBER@TERMINAL, swap LINE LINE, swap TERMINAL TERMINAL, weld NAME, "
            "short NUMBER NUMBER"
        )


def _open(simulation: Simulation, names: Names, given: str, *, is_mended: bool) -> None:
    number, _, label = given.partition("@")
    terminal = names.terminal(label)
    if simulation.plan.number_at(terminal) != number:
        raise ActionError(f"no wire {number} is at {label}: {simulation.plan.number_at(terminal) or 'none'} is")
    off = simulation.wiring.off
    cut = (number, terminal)
    simulation.rewire(replace(simulation.wiring, off=off - {cut} if is_mended else off | {cut}))


def _swap(simulation: Simulation, names: Names, first: str, second: str, *, is_mended: bool) -> None:
    lines = names.line(first), names.line(second)
    if lines[0] is not None and lines[1] is not None and lines[0][0] is lines[1][0]:
        lines[0][0].exchange(lines[0][1], lines[1][1])
        simulation.feed()
        return
    pair = (names.terminal(first), names.terminal(second))
    swapped = simulation.wiring.swapped
    kept = tuple(one for one in swapped if set(one) != set(pair)) if is_mended else (*swapped, pair)
    simulation.rewire(replace(simulation.wiring, swapped=kept))


def is_fault(words: str) -> bool:
    """Return whether words that are to be mended are those of a fault, and not a name."""
    return re.match(rf"({'|'.join(FAULTS)}) ", words) is not None
