"""Owns the edit that arranges the plate on purpose: what it starts from, the search, ducts as wide as their wires ask, the ledger.

Must not know how the search goes (`arrange`).
"""

from collections.abc import Sequence
from typing import Any

from riktig.job.edits import replace
from riktig.job.entries import DUCT_KEY, RAIL_KEY, SIZE_KEY, OnDoor
from riktig.job.ledger import Choice
from riktig.job.model import Job
from riktig.plan.arrange.cost import pulls_of, run_keys, weighted_length
from riktig.plan.arrange.search import SEED, Progress, Search
from riktig.plan.arrange.slots import Arrangement, Slot, bands_for, slots_of
from riktig.plan.place.faults import find_faults
from riktig.plan.place.first_rows import first_layout, straightened
from riktig.plan.place.items import PART_GAP_MM, Band, PlateItem
from riktig.plan.place.layout import PlateLayout
from riktig.plan.place.places import arranged_size, holds_plate
from riktig.plan.place.stack import (
    RAIL_GAP_MM,
    ROW_FILL,
    DuctSizes,
    Row,
    inner_span,
    least_sizes,
    stack_rows,
    usual_ducts,
)
from riktig.plan.plan import Plan, compute_plan
from riktig.plan.settle import let_go, settle, with_real_groups
from riktig.plan.wiring.duct_sizes import needed_ducts


def is_pinned(job: Job) -> bool:
    """Return whether something on the plate is held, so that rails and ducts stay where they are."""
    return holds_plate(job.ledger.places)


def _go_on(share: float, cost: float) -> bool:
    return True


def arrange_plate(job: Job, *, seed: int = SEED, effort: float = 1.0, progress: Progress = _go_on) -> Job:
    """Return the settled Job with its plate arranged: parts in the order that needs least wire, ducts and rails to measure.

    What is held stays; where anything on the plate is, its rails and ducts stay too, and the rest goes on what they leave free.

    Args:
        job: the Job.
        seed: the same one gives the same plate.
        effort: how long is searched, 1 as usual.
        progress: is told how far it is, and may say no.

    Raises:
        Cancelled: the progress said no.
        JobError: the Job does not fit together.
    """
    start = (
        settle(replace(job, ledger=let_go(job.ledger, "places", "links", "groups")))
        if not is_pinned(job)
        else _loosened(job)
    )
    plan = compute_plan(start)
    found = (
        _in_frame(start, plan, seed, effort, progress)
        if is_pinned(job)
        else _in_rows(start, plan, seed, effort, progress)
    )
    if job.practice.wiring == "shortest":
        found = settle(replace(found, ledger=let_go(found.ledger, "links")))
    return settle(with_real_groups(found))


def _loosened(job: Job) -> Job:
    """Return the Job with wires that nobody holds chained anew, places as they are."""
    settled = settle(job)
    return settle(replace(settled, ledger=let_go(settled.ledger, "links")))


def _in_rows(start: Job, plan: Plan, seed: int, effort: float, progress: Progress) -> Job:
    """Arrange rows that are made to measure; then give each duct the size that its wires ask for."""
    items = tuple(plan.plate.items.values())
    asked = start.ledger.places[SIZE_KEY].value.ducts
    rows, ducts = first_layout(start, items, least_sizes(asked))
    slots = slots_of(start, rows, items, ducts, ROW_FILL)
    made = Arrangement(start, items, pulls_of(plan), slots, ducts, run_keys(plan))
    search = Search(made, seed=seed, effort=effort)
    search.run(progress)
    found = []
    for _ in search.candidates():
        rows = made.rows() if not made.columns else straightened(made.rows(), inner_span(start, ducts))
        found.append((compute_plan(_with_rows(start, rows, ducts)), rows))
    routed, rows = min(found, key=lambda entry: weighted_length(entry[0]), default=(plan, rows))
    sized = needed_ducts(routed.plate, routed.duct_loads, ducts)
    if sized != ducts:
        trial = compute_plan(_with_rows(start, rows, sized))
        if _is_no_worse(trial.plate, routed.plate):
            return trial.job
    return routed.job


def _with_rows(start: Job, rows: Sequence[Row], ducts: DuctSizes) -> Job:
    """Return the settled Job with its plate stacked from rows."""
    return with_places(start, stack_rows(start, rows, ducts).values())


def with_places(job: Job, values: dict[str, Any]) -> Job:
    """Return the settled Job with these places on its plate, held ones aside; nobody holds the new ones. The door is laid out anew before
    them, if nobody holds anything on it.
    """
    frame, places = (RAIL_KEY, DUCT_KEY), job.ledger.places
    is_free = not any(c.is_held for c in places.values() if isinstance(c.value, OnDoor))
    gone = {
        k for k, c in places.items() if k.startswith(frame) or k in values or (is_free and isinstance(c.value, OnDoor))
    }
    old = {k: c for k, c in places.items() if c.is_held or k not in gone}
    new = {key: Choice(value) for key, value in values.items() if key not in old or not old[key].is_held}
    before = job.ledger.places.get(SIZE_KEY)
    arranged = Choice(arranged_size(job))
    size = before if before is not None and before.is_held else arranged
    return settle(replace(job, ledger=replace(job.ledger, places={**old, **new, SIZE_KEY: size})))


def _in_frame(start: Job, plan: Plan, seed: int, effort: float, progress: Progress) -> Job:
    """Arrange what nobody holds on the rails as they are, between what is held."""
    layout = plan.plate
    items = tuple(layout.items.values())
    slots = _free_slots(start, layout, items)
    made = Arrangement(start, items, pulls_of(plan), slots, usual_ducts(start), run_keys(plan), layout)
    Search(made, seed=seed, effort=effort).run(progress)
    values: dict[str, Any] = {RAIL_KEY + rail.code: rail.place for rail in layout.rails}
    values.update({DUCT_KEY + duct.code: duct.place for duct in layout.ducts})
    values.update(made.places(layout))
    done = with_places(start, values)
    after = compute_plan(done)
    is_better = weighted_length(after) <= weighted_length(plan) and _is_no_worse(after.plate, layout)
    return done if is_better else start


def _is_no_worse(after: PlateLayout, before: PlateLayout) -> bool:
    """Return whether nothing is wrong with a plate that was not wrong before."""
    return {fault.key for fault in find_faults(after)} <= {fault.key for fault in find_faults(before)}


def _free_slots(job: Job, layout: PlateLayout, items: Sequence[PlateItem]) -> list[Slot]:
    """Return the stretches of rail between what is held, with what stands there and may move."""
    index = {item.id: k for k, item in enumerate(items)}
    held = {key for key, choice in job.ledger.places.items() if choice.is_held}
    fixed = [item for item in items if item.id in held or item.id not in layout.rail_of]
    found = []
    for rail in layout.rails:
        members = sorted((layout.boxes[i].x, i) for i, code in layout.rail_of.items() if code == rail.code)
        row = max(0, sum(duct.level > rail.y for duct in layout.levels) - 1)
        present = [layout.items[i].band for _, i in members]
        bands = bands_for(job, present, row, len(layout.levels) - 1) if present else frozenset(Band)
        ceiling = min((duct.box.y for duct in layout.levels if duct.box.y >= rail.y), default=layout.height)
        floor = max((duct.box.top for duct in layout.levels if duct.box.top <= rail.y), default=0.0)
        walls = sorted(
            (layout.boxes[item.id].x - item.left - PART_GAP_MM, layout.boxes[item.id].right + item.left + PART_GAP_MM)
            for item in fixed
            if floor < layout.boxes[item.id].centre[1] < ceiling
        )
        ends = (rail.x + RAIL_GAP_MM, rail.x + rail.length - RAIL_GAP_MM)
        edges = [ends[0], *(edge for wall in walls for edge in wall), ends[1]]
        for start, end in zip(edges[::2], edges[1::2], strict=True):
            inside = [i for x, i in members if i not in held and start - RAIL_GAP_MM <= x <= end]
            if end <= start and not inside:
                continue
            used = sum(layout.items[i].span for i in inside)
            most = (end - start) * (1.0 if walls else ROW_FILL)
            found.append(
                Slot(
                    row=row, span=(start, end), most=max(most, min(used, end - start)), bands=bands, rail=[index[i] for i in inside],
                    rail_code=rail.code, y=rail.y, up=ceiling - rail.y, down=rail.y - floor,
                )
            )  # fmt: skip
    return found
