"""Owns changes of the order of strip terminals on purpose: one moved, or all by practice. Must not decide what that order is."""

from collections.abc import Collection, Mapping, Sequence

from riktig.job.edits import replace
from riktig.job.entries import ClampPlace, WirePlace
from riktig.job.faults import Fault, JobError
from riktig.job.ids import TerminalId
from riktig.job.ledger import Choice, ChoiceState
from riktig.job.model import Job
from riktig.plan.circuit.model import is_bar
from riktig.plan.net.strips import SPARE, allocate_clamps
from riktig.plan.settle import settle
from riktig.plan.stages import run_of
from riktig.plan.wiring.links import link_key


def move_clamp(job: Job, clamp: str, step: int) -> Job:
    """Return the settled Job with a strip terminal moved along its strip; wires follow it, and a person holds its place.

    Args:
        job: the Job.
        clamp: its id, such as `X1:3`.
        step: by how many places, to the right above zero; it stops at the ends of the strip.

    Raises:
        JobError: there is no such terminal, or a release holds it or one that it would pass.
    """
    strip = clamp.partition(":")[0]
    row = clamps_of(job, strip)
    if clamp not in row:
        raise JobError([Fault(at=("kept", "clamps", clamp), message=f"there is no terminal {clamp}")])
    place = row.index(clamp)
    order = list(row)
    order.insert(min(max(place + step, 0), len(row) - 1), order.pop(place))
    return settle(place_clamps(job, strip, order, kept=(clamp,)))


def clamps_of(job: Job, strip: str) -> list[str]:
    """Return the terminals of a strip from left to right."""
    found = [c.value for key, c in job.ledger.clamps.items() if _stands_on(key, c, strip)]
    return [place.terminal for place in sorted(found, key=lambda place: place.position)]


def place_clamps(job: Job, strip: str, order: Sequence[str], kept: Collection[str]) -> Job:
    """Return the Job, not settled, with the terminals of a strip in another order; their wires go with them.

    Args:
        job: the Job.
        strip: its name.
        order: all its terminals as they are called now, in the order that is wanted.
        kept: those whose new place a person holds.

    Raises:
        JobError: a release holds a terminal that would move.
    """
    row = clamps_of(job, strip)
    names = {old: new for old, new in zip(order, row, strict=True) if old != new}
    frozen = {c.value.terminal for c in job.ledger.clamps.values() if c.state is ChoiceState.FROZEN}
    held = [old for old in names if old in frozen]
    if held:
        raise JobError([Fault(at=("kept", "clamps", held[0]), message=f"{held[0]} was released: it stays where it is")])
    return _rename(job, names, kept={names[old] for old in kept if old in names})


def reorder_strips(job: Job) -> Job:
    """Return the settled Job with its strips ordered by practice again; wires follow, held terminals stay.

    Raises:
        JobError: the Job does not fit together.
    """
    run = run_of(job)
    held = {key: choice for key, choice in job.ledger.clamps.items() if choice.is_held}
    fresh = allocate_clamps(job, run["circuit"], run["potentials"], run["runs"], run["strip_names"], held)
    now = {key: choice.value for key, choice in job.ledger.clamps.items()}
    pairs = [(now[key], value) for key, value in fresh.items() if key in now]
    for strip in {place.strip for place in fresh.values()}:
        pairs.extend(zip(_spares(now, strip), _spares(fresh, strip), strict=False))
    names: dict[str, str] = {old.terminal: new.terminal for old, new in pairs if old != new}
    return settle(_rename(job, names))


def _spares(places: Mapping[str, ClampPlace], strip: str) -> list[ClampPlace]:
    found = [place for key, place in places.items() if key.startswith(f"{SPARE}|") and place.strip == strip]
    return sorted(found, key=lambda place: place.position)


def _stands_on(key: str, choice: Choice[ClampPlace], strip: str) -> bool:
    return not is_bar(key.partition("|")[0]) and choice.value.strip == strip


def _rename(job: Job, names: Mapping[str, str], *, kept: Collection[str] = ()) -> Job:
    """Return the Job with strip terminals called otherwise, in the ledger's clamps and at the ends of its links."""
    clamps = {}
    for key, choice in job.ledger.clamps.items():
        of_bar, _, terminal = key.partition("|")
        if is_bar(of_bar):
            clamps[f"{of_bar}|{names.get(terminal, terminal)}"] = choice
            continue
        terminal = names.get(choice.value.terminal, choice.value.terminal)
        place = ClampPlace(choice.value.strip, int(terminal.rpartition(":")[2]))
        clamps[key] = Choice(place, ChoiceState.KEPT if terminal in kept else choice.state)
    links = {}
    for link in job.ledger.links.values():
        a, b = (TerminalId(names.get(end, end)) for end in link.value.ends)
        links[link_key(a, b)] = Choice(WirePlace((a, b), link.value.where), link.state)
    return replace(job, ledger=replace(job.ledger, clamps=clamps, links=links))
