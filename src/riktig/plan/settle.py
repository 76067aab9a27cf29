"""Owns settling: after an edit, keep in the ledger what still holds and allocate only what is new."""

from collections.abc import Mapping
from functools import partial

from riktig.job.edits import replace
from riktig.job.faults import JobError
from riktig.job.ledger import Choices, Ledger, merge_choices
from riktig.job.model import Job
from riktig.job.upgrade import upgrade
from riktig.job.validate import check_job
from riktig.plan.net.numbers import allocate_numbers, find_clashes, read_potentials, scheme_of
from riktig.plan.net.runs import find_runs
from riktig.plan.net.strips import allocate_clamps, clamp_part, read_clamps
from riktig.plan.net.tags import allocate_tags
from riktig.plan.place.door import read_door
from riktig.plan.place.door_places import allocate_door
from riktig.plan.place.items import plate_items
from riktig.plan.place.layout import make_layout
from riktig.plan.place.places import allocate_places
from riktig.plan.place.routes import DuctNetwork
from riktig.plan.plan import strip_sections, strip_widths
from riktig.plan.sheets.allocation import allocate_sheets, device_places, read_sheets
from riktig.plan.sizes.electrical import wire_up
from riktig.plan.wiring.cables import allocate_cables
from riktig.plan.wiring.capacities import Bars, find_twins
from riktig.plan.wiring.chains import allocate_links
from riktig.plan.wiring.combs import find_combs
from riktig.plan.wiring.conductors import Geometry
from riktig.plan.wiring.ends import class_of
from riktig.standards.tables import own_tables


def settle(job: Job) -> Job:
    """Return the Job with a ledger that fits it.

    Raises:
        JobError: names, places or paths do not fit together; the ledger is left alone.
    """
    check_job(job)
    job = upgrade(job)
    old = job.ledger
    electrical = wire_up(job)
    circuit, parts = electrical.circuit, electrical.chosen.parts
    clashes = find_clashes(electrical.netlist, old.numbers)
    if clashes:
        raise JobError(clashes)
    sheets = merge_choices(old.sheets, allocate_sheets(job, circuit, old.sheets))
    sheet_set = read_sheets(job, circuit, sheets)
    tags = merge_choices(old.tags, allocate_tags(job, circuit, old.tags, device_places(circuit, job, sheet_set, parts)))
    chosen = merge_choices(old.parts, {d: part.code for d, part in parts.items()})
    contacts = merge_choices(old.contacts, electrical.chosen.contacts)
    numbers = merge_choices(
        old.numbers,
        allocate_numbers(electrical.netlist, electrical.uses, old.numbers, scheme_of(job, sheet_set, electrical.uses)),
    )
    potentials = read_potentials(electrical.netlist, numbers)
    runs = find_runs(job, circuit, parts, potentials)
    clamp_values = allocate_clamps(job, circuit, potentials, runs, old.clamps)
    clamps = read_clamps(potentials, merge_choices(old.clamps, clamp_values))
    sections = electrical.size(job, potentials)
    widths, height = strip_widths(clamps, strip_sections(clamps, sections, circuit))
    items = plate_items(circuit, parts, widths, height)
    place_values = allocate_places(job, items, potentials, clamps, old.places)
    layout = make_layout(job, items, place_values)
    place_values.update(allocate_door(job, circuit, old.places, layout, parts))
    bars = Bars(circuit, old.clamps)
    place_choices = merge_choices(old.places, place_values)
    combs = find_combs(layout, parts, potentials, sections.inside)
    twins = find_twins(potentials, parts, sections.inside, class_of(job.practice))
    lengths = None
    if job.practice.wiring == "shortest":
        mm2 = strip_sections(clamps, sections, circuit)
        clamp_parts = {clamp.id: clamp_part(clamp, mm2[clamp.id]) for clamp in clamps}
        door = read_door(job, circuit, parts, layout, place_choices)
        lengths = partial(Geometry(job, parts, layout, door, clamps, clamp_parts).lengths, network=DuctNetwork(layout))
    links = allocate_links(circuit, parts, potentials, clamps, bars, old.links, runs, combs, twins, lengths)
    new: dict[str, Choices] = {
        "tags": tags,
        "parts": chosen,
        "contacts": contacts,
        "numbers": numbers,
        "clamps": merge_choices(old.clamps, {**clamp_values, **bars.used}),
        "cables": merge_choices(old.cables, allocate_cables(runs, old.cables)),
        "links": merge_choices(old.links, {x.key: x.where for x in links if x.is_wired}),
        "places": place_choices,
        "values": old.values,
        "tables": _tables(old.tables),
        "sheets": sheets,
    }
    new["texts"] = _texts(old.texts, new)
    if all(choices is getattr(old, name) for name, choices in new.items()):
        return job
    return replace(job, ledger=Ledger(**new))


def _tables(old: Choices) -> Choices:
    """Return which tables of the shop are in use; what a release was sized with stays written."""
    held = {name: choice.value for name, choice in old.items() if choice.is_held}
    return merge_choices(old, {**{name: f"{t.digest} {t.title}" for name, t in own_tables().items()}, **held})


def _texts(old: Choices, new: Mapping[str, Choices]) -> Choices:
    """Return the remarks on what is there."""
    sorts = {"wire": "links", "clamp": "clamps", "cable": "cables"}
    there = {key: choice for key, choice in old.items() if key.partition(":")[2] in new[sorts[key.partition(":")[0]]]}
    return old if len(there) == len(old) else there


def let_go(ledger: Ledger, *names: str) -> Ledger:
    """Return the ledger without what Riktig chose of some sorts; what a person or a release holds stays."""
    held: dict[str, Choices] = {
        name: {key: choice for key, choice in getattr(ledger, name).items() if choice.is_held} for name in names
    }
    return replace(ledger, **held)


def issue_revision(job: Job, name: str) -> Job:
    """Return the Job as issued under a revision name: every choice in its ledger is frozen."""
    settled = settle(job)
    frozen = settled.ledger.frozen()
    return replace(settled, ledger=frozen, revision=name)
