"""Owns settling: after an edit, keep in the ledger what still holds and allocate only what is new."""

from riktig.job.edits import replace
from riktig.job.ledger import Choices, Ledger, merge_choices
from riktig.job.model import Job
from riktig.job.validate import check_job
from riktig.plan.cables import allocate_cables
from riktig.plan.chains import BarClamps, allocate_links
from riktig.plan.door import allocate_door
from riktig.plan.electrical import wire_up
from riktig.plan.numbers import allocate_numbers, read_potentials
from riktig.plan.plan import strip_sections, strip_widths
from riktig.plan.plate import allocate_places
from riktig.plan.strips import allocate_clamps, read_clamps
from riktig.plan.tags import allocate_tags
from riktig.plan.zones import zones_of


def settle(job: Job) -> Job:
    """Return the Job with a ledger that fits it.

    Raises:
        JobError: names, places or paths do not fit together; the ledger is left alone.
    """
    check_job(job)
    old = job.ledger
    electrical = wire_up(job)
    circuit, parts = electrical.circuit, electrical.chosen.parts
    tags = merge_choices(old.tags, allocate_tags(job, circuit, old.tags))
    chosen = merge_choices(old.parts, {d: part.code for d, part in parts.items()})
    contacts = merge_choices(old.contacts, electrical.chosen.contacts)
    numbers = merge_choices(old.numbers, allocate_numbers(electrical.netlist, electrical.uses, old.numbers))
    potentials = read_potentials(electrical.netlist, numbers)
    clamp_values = allocate_clamps(job, circuit, potentials, old.clamps)
    clamps = read_clamps(potentials, merge_choices(old.clamps, clamp_values))
    sections = electrical.size(job, potentials)
    widths, height = strip_widths(clamps, strip_sections(clamps, sections))
    place_values = allocate_places(job, circuit, parts, widths, height, old.places)
    place_values.update(allocate_door(job, circuit, old.places, place_values, parts))
    bar = BarClamps(old.clamps)
    links = allocate_links(circuit, parts, potentials, clamps, bar, old.links)
    drops = tuple(dict.fromkeys(zones_of(circuit).values()))
    new: dict[str, Choices] = {
        "tags": tags,
        "parts": chosen,
        "contacts": contacts,
        "numbers": numbers,
        "clamps": merge_choices(old.clamps, {**clamp_values, **bar.used}),
        "cables": merge_choices(old.cables, allocate_cables(clamps, drops, old.cables)),
        "links": merge_choices(old.links, {x.key: x.where for x in links if not x.is_factory}),
        "places": merge_choices(old.places, place_values),
    }
    if all(choices is getattr(old, name) for name, choices in new.items()):
        return job
    return replace(job, ledger=Ledger(**new))


def rearrange_plate(job: Job) -> Job:
    """Return the Job with plate and door laid out afresh; held places stay."""
    return settle(replace(job, ledger=_let_go(job.ledger, "places")))


def renumber(job: Job) -> Job:
    """Return the Job with wire numbers given out afresh; held numbers stay."""
    return settle(replace(job, ledger=_let_go(job.ledger, "numbers", "clamps", "links")))


def _let_go(ledger: Ledger, *names: str) -> Ledger:
    held: dict[str, Choices] = {
        name: {key: choice for key, choice in getattr(ledger, name).items() if choice.is_held} for name in names
    }
    return replace(ledger, **held)


def issue_revision(job: Job, name: str) -> Job:
    """Return the Job as issued under a revision name: every choice in its ledger is frozen."""
    settled = settle(job)
    frozen = settled.ledger.frozen()
    return replace(settled, ledger=frozen, revision=name)
