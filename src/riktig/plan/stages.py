"""Owns the one way from a Job to what follows: a table of stages, each with what it reads. Must not compute anything itself.

`settle` runs it with its allocating stages, the Plan is its products, a look ahead the same with some of them pinned.
"""

from collections.abc import Callable, Mapping
from typing import Any

from riktig.catalogue.loader import find_part
from riktig.catalogue.model import Part
from riktig.catalogue.shop import Shop, shop_now
from riktig.job.entries import SIZE_KEY, ClampPlace, OnDoor, WirePlace
from riktig.job.ids import TerminalId
from riktig.job.ledger import Choices, merge_choices
from riktig.job.model import Job
from riktig.job.names import named_members
from riktig.pipeline.engine import SHOP, Memory, Run, Stage
from riktig.pipeline.rows import forget_rows
from riktig.plan.basis.conductor import laid_inside
from riktig.plan.basis.sized import SizedValue, cited
from riktig.plan.circuit.expand import expand
from riktig.plan.circuit.incoming import supplies_in
from riktig.plan.circuit.model import Circuit, with_titles, without_titles
from riktig.plan.circuit.power import find_power_circuits, roles_in_circuits
from riktig.plan.circuit.uses import find_uses
from riktig.plan.circuit.zones import device_of, mark_of, zones_of
from riktig.plan.net.netlist import build_netlist
from riktig.plan.net.numbers import Potential, allocate_numbers, read_potentials, scheme_of
from riktig.plan.net.runs import find_runs
from riktig.plan.net.signals import find_signals
from riktig.plan.net.strips import Clamp, allocate_clamps, clamp_part, part_strips, read_clamps, strip_names
from riktig.plan.net.tags import allocate_tags
from riktig.plan.panel import total_panel, wire_losses_w
from riktig.plan.place.door import read_door
from riktig.plan.place.door_places import Behind, allocate_door, behind_door, groups_on_door
from riktig.plan.place.items import plate_items, strip_widths
from riktig.plan.place.layout import PlateLayout, read_layout
from riktig.plan.place.pieces import cut_pieces, drill_holes
from riktig.plan.place.places import allocate_places
from riktig.plan.place.routes import DuctNetwork
from riktig.plan.place.stack import strip_room
from riktig.plan.place.walls import build_walls
from riktig.plan.sheets.allocation import allocate_sheets, device_places, find_sections, order_figures, read_sheets
from riktig.plan.sizes.coils import coils_of
from riktig.plan.sizes.electrical import equip
from riktig.plan.sizes.fed import Fed
from riktig.plan.sizes.loops import find_lines, find_loops
from riktig.plan.sizes.sections import size_sections, strip_sections
from riktig.plan.sizes.starter import size_starters
from riktig.plan.wiring.apart import find_bands, shunned_uprights
from riktig.plan.wiring.balance import shun_full_uprights
from riktig.plan.wiring.cables import allocate_cables, build_cables
from riktig.plan.wiring.capacities import Bars, find_twins
from riktig.plan.wiring.chains import Lengths, allocate_links
from riktig.plan.wiring.combs import find_combs, with_sections
from riktig.plan.wiring.conductors import Conductor, Ways, build_conductors, led_round, size_links
from riktig.plan.wiring.duct_fill import duct_loads
from riktig.plan.wiring.ends import class_of
from riktig.plan.wiring.entries import hole_key, lay_cables, place_entries
from riktig.plan.wiring.geometry import Geometry
from riktig.plan.wiring.grouping import crowded_wires, loaded_legs, real_groups
from riktig.plan.wiring.index import by_clamp, by_device, by_terminal, landed_at, landed_on_device
from riktig.plan.wiring.links import Link
from riktig.plan.wiring.sites import Site, find_sites
from riktig.plan.wiring.stations import build_stations
from riktig.plan.wiring.taps import TapSizes, wire_sizes
from riktig.standards.colours import ConductorFunction
from riktig.standards.tables import own_tables

_MODULES = (
    "extra_supplies", "controls", "levels", "pumps", "estops", "phase_relays", "controllers", "starters", "ways", "alarms", "surges",
    "excepted", "devices", "locations",
)  # fmt: skip


def _job(*fields: str) -> tuple[str, ...]:
    return tuple(f"job.{field}" for field in fields)


def _keep_groups(job: Job) -> Choices:
    """Return how many circuits lie together with those that are still there."""
    there = {*(starter.name for starter in job.starters), *(device.name for device in job.devices)}
    old = job.ledger.groups
    return old if old.keys() <= there else {name: choice for name, choice in old.items() if name in there}


def _merge_parts(job: Job, parts: Mapping[str, Part]) -> Choices:
    """Return the codes of the parts; one that a person holds and no catalogue has stays written, for it may be imported yet."""
    old = job.ledger.parts
    codes = {device: part.code for device, part in parts.items()}
    unknown = {d: old[d].value for d in codes if d in old and old[d].is_held and find_part(old[d].value) is None}
    return merge_choices(old, codes | unknown)


def _merge_tags(job: Job, circuit: Circuit, own: frozenset[str], strips: Mapping[str, str], places: Any) -> Choices:
    return merge_choices(job.ledger.tags, allocate_tags(job, circuit, own, strips.values(), places))


def _merge_numbers(job: Job, netlist: Any, uses: Any, scheme: Any) -> Choices:
    kept = job.ledger.numbers
    return merge_choices(kept, allocate_numbers(netlist, uses, kept, scheme))


def _merge_strips(job: Job, circuit: Circuit, potentials: Any, runs: Any, names: Mapping[str, str]) -> Choices:
    kept = job.ledger.clamps
    return merge_choices(kept, allocate_clamps(job, circuit, potentials, runs, names, kept))


def _behind_door(job: Job, circuit: Circuit, plate: PlateLayout, choices: Choices, parts: Mapping[str, Part]) -> Behind:
    size = choices[SIZE_KEY].value
    return behind_door(job, circuit, plate, parts, is_arranged=size.is_arranged)


def _merge_places(job: Job, plate: Choices, door: Mapping[str, OnDoor]) -> Choices:
    return merge_choices(job.ledger.places, {**{key: choice.value for key, choice in plate.items()}, **door})


def _merge_plate(job: Job, items: Any, potentials: Any, clamps: Any) -> Choices:
    kept = job.ledger.places
    return merge_choices(kept, allocate_places(job, items, potentials, clamps, kept))


def _merge_holes(job: Job, circuit: Circuit, cables: Mapping[str, str]) -> Choices:
    """Return the holes that somebody holds of what is still there; the others are where they come to be."""
    present = {device.id for device in circuit.devices}
    present.update(hole_key(name) for name in (*cables.values(), *supplies_in(job)))
    return merge_choices(
        job.ledger.holes, {k: c.value for k, c in job.ledger.holes.items() if c.is_held and k in present}
    )


def _lengths(job: Job, ways: Ways) -> Lengths | None:
    """Return how lengths are asked for where wires are chained by them, None where they go in drawing order."""
    return ways.lengths if job.practice.wiring == "shortest" else None


def _clamp_parts(clamps: tuple[Clamp, ...], mm2: Mapping[str, float]) -> dict[str, Part]:
    return {clamp.id: clamp_part(clamp, mm2[clamp.id]) for clamp in clamps}


def _join(
    job: Job, circuit: Circuit, sites: Mapping[str, Site], lengths: Lengths | None
) -> tuple[tuple[Link, ...], Mapping[str, str]]:
    """Return all links, and the clamps of bars and blocks that they take."""
    bars = Bars(circuit, job.ledger.clamps)
    return allocate_links(sites, bars, job.ledger.links, lengths), bars.used


def _merge_clamps(job: Job, strips: Choices, used: Mapping[str, TerminalId]) -> Choices:
    taken = {key: ClampPlace(device_of(clamp), int(mark_of(clamp))) for key, clamp in used.items()}
    return merge_choices(job.ledger.clamps, {**{key: choice.value for key, choice in strips.items()}, **taken})


def _merge_links(job: Job, links: tuple[Link, ...]) -> Choices:
    return merge_choices(
        job.ledger.links, {link.key: WirePlace((link.a, link.b), link.where) for link in links if link.is_wired}
    )


def _merge_tables(job: Job) -> Choices:
    """Return which tables of the shop are in use; what a release was sized with stays written."""
    old = job.ledger.tables
    held = {name: choice.value for name, choice in old.items() if choice.is_held}
    return merge_choices(old, {**{name: f"{t.digest} {t.title}" for name, t in own_tables().items()}, **held})


def _keep_texts(job: Job, links: Choices, clamps: Choices, cables: Choices) -> Choices:
    """Return the remarks on what is there, and what people write on labels."""
    sorts = {"wire": links, "clamp": clamps, "cable": cables}
    old = job.ledger.texts
    there = {
        key: choice
        for key, choice in old.items()
        if key.startswith(("label:", "medium:")) or key.partition(":")[2] in sorts.get(key.partition(":")[0], {})
    }
    return old if len(there) == len(old) else there


def _keep_lots(job: Job, links: Choices) -> Choices:
    """Return the lots that somebody holds of wires that are there."""
    old = job.ledger.lots
    there = {wire: choice for wire, choice in old.items() if wire.rpartition(" ")[0] in links}
    return old if len(there) == len(old) else there


def _targets(circuit: Circuit, tags: Mapping[str, str]) -> dict[str, str]:
    """Return what a cable goes to, by place: the location, or the tag of the one device there."""
    return {zone: tags[device] if "/" in zone else zone for device, zone in zones_of(circuit).items()}


def _earth_of(potentials: tuple[Potential, ...]) -> str:
    return next((p.number for p in potentials if p.net.function is ConductorFunction.EARTH), "PE")


def _paired(landed: Mapping[str, tuple[Conductor, ...]], twins: frozenset[str]) -> frozenset[str]:
    """Return the terminals of twin ferrules in which two wires land."""
    return frozenset(terminal for terminal in twins if sum(c.is_wired for c in landed.get(terminal, ())) > 1)


def _sizing(
    job: Job, starters: Any, equipment: Any, sections: Any, loops: Any, taps: Any, panel: Any
) -> tuple[SizedValue, ...]:
    """Return every value once, cited by the job's editions; what was sized again with more known stands in the place of the first."""
    sized = (value for sizes in starters.values() for value in sizes.values)
    looped = (loop.value for loop in loops)
    every = (*sized, *equipment.values, *sections.values, *looped, *taps[1], *panel.values)
    return tuple({value.key: cited(value, job.practice) for value in every}.values())


def _values(choices: Choices) -> dict[str, Any]:
    return {key: choice.value for key, choice in choices.items()}


def _part(name: str) -> Callable[[Any], Any]:
    def read(whole: Any) -> Any:
        for field in name.split("."):
            whole = getattr(whole, field)
        return whole

    return read


def _stage(
    name: str, make: Callable[..., Any], *inputs: str | tuple[str, ...], allocates: str = "", kept: str = ""
) -> Stage:
    flat = tuple(name for entry in inputs for name in ((entry,) if isinstance(entry, str) else entry))
    return Stage(name=name, make=make, inputs=flat, allocates=allocates, kept=kept)


_FIGURES = (*_job("controls", "estops", "excepted", "phase_relays", "practice", "surges"), "bare.starters")
_WAYS_IN = _job("supply", "incoming", "extra_supplies", "pass_through")

STAGES: tuple[Stage, ...] = (
    # circuit
    _stage("plain", expand, _job("supply", "practice", "incoming", "phase_lamps", "pass_through", *_MODULES, "rungs", "feeders"), SHOP),
    _stage("bare", without_titles, "plain"),
    _stage("uses", find_uses, "bare"),
    _stage("uses_of", by_device, "uses"),
    # sizes that lead to parts
    _stage("group_choices", _keep_groups, _job("devices"), "bare.starters", "kept.groups", allocates="groups"),
    _stage("laid_inside", laid_inside, _job("practice", "enclosure", "ways", "devices"), "bare.starters", "group_choices"),
    _stage("power_circuits", find_power_circuits, "bare"),
    _stage("motor_roles", roles_in_circuits, "power_circuits"),
    _stage("starters", size_starters, _job("supply", "practice", "enclosure", "extra_supplies", "locations", "devices"), "bare.starters",
           "kept.values", SHOP, "bare", "power_circuits", "laid_inside"),
    _stage("motors", lambda starters: {name: sizes.motor for name, sizes in starters.items()}, "starters"),
    _stage("coils", coils_of, _job("supply", "practice", "controls", "excepted", "extra_supplies"), "bare", "power_circuits"),
    _stage(
        "equipment", equip,
        _job("supply", "practice", "enclosure", "incoming", "extra_supplies", "controls", "ways", "alarms", "excepted", "devices",
             "revision"),
        "bare.starters",
        "kept.parts", "kept.contacts", "kept.values", SHOP, "bare", "uses_of", "power_circuits", "starters", "coils", "laid_inside",
    ),
    _stage("body", _part("circuit"), "equipment"),
    _stage("circuit", with_titles, "body", "plain"),
    _stage("load", _part("load"), "equipment"),
    _stage("own_loads", _part("loads"), "equipment"),
    _stage("needs", _part("needs"), "equipment"),
    _stage("parts", _part("chosen.parts"), "equipment"),
    _stage("contacts", _part("chosen.contacts"), "equipment"),
    _stage("short_uses", _part("chosen.short_uses"), "equipment"),
    _stage("unmet", _part("chosen.unmet"), "equipment"),
    _stage("part_choices", _merge_parts, "kept.parts", SHOP, "parts", allocates="parts"),
    _stage("contact_choices", lambda job, contacts: merge_choices(job.ledger.contacts, contacts), "kept.contacts", "contacts",
           allocates="contacts"),
    # sheets and names
    _stage("netlist", build_netlist, _job("controls"), "body", "uses", "parts", "contacts"),
    _stage("figures", lambda job, circuit: order_figures(circuit, job), _FIGURES, "body"),
    _stage("figure_sections", find_sections, "body", "figures"),
    _stage("sheet_choices", lambda job, figures, sections: merge_choices(
        job.ledger.sheets, allocate_sheets(figures, sections, job.ledger.sheets)), "kept.sheets", "figures", "figure_sections",
        allocates="sheets"),
    _stage("sheets", read_sheets, _job("practice"), "figures", "figure_sections", "sheet_choices"),
    _stage("sheet_places", device_places, "body", "sheets", "parts"),
    _stage("own_names", lambda job: frozenset(name for _, name in named_members(job)), _job(*_MODULES)),
    _stage("strip_names", strip_names, _job("devices"), "kept.clamps"),
    _stage("tag_choices", _merge_tags, _job("practice"), "bare.starters", "kept.tags", "body", "own_names", "strip_names",
           "sheet_places", allocates="tags"),
    _stage("tags", _values, "tag_choices"),
    _stage("scheme", scheme_of, _job("practice", "controls"), "sheets", "uses"),
    _stage("number_choices", _merge_numbers, "kept.numbers", "netlist", "uses", "scheme", allocates="numbers"),
    _stage("potentials", read_potentials, "netlist", "number_choices"),
    _stage("potential_at", by_terminal, "potentials"),
    # what leaves the panel
    _stage("signals", find_signals, SHOP, "body", "parts", "potentials"),
    _stage("runs", find_runs, _WAYS_IN, _job("controls", "locations"), SHOP, "body", "parts", "potentials", "signals"),
    _stage("strip_choices", _merge_strips, _WAYS_IN, _job("practice"), "kept.clamps", SHOP, "body", "potentials", "runs", "strip_names",
           kept="clamps"),
    _stage("read_clamps", read_clamps, "potentials", "strip_choices"),
    _stage("cable_choices", lambda job, runs: merge_choices(job.ledger.cables, allocate_cables(runs, job.ledger.cables)), "kept.cables",
           "runs", allocates="cables"),
    _stage("cable_names", _values, "cable_choices"),
    # sections
    _stage("lines", lambda job, circuit, parts, circuits, starters, loads: find_lines(job, circuit, parts, circuits, {*starters, *loads}),
           _job("supply", "practice", "extra_supplies", "locations", "ways"), SHOP, "body", "parts", "power_circuits", "starters",
           "own_loads"),
    _stage("fed", lambda circuits, starters, loads, lines: Fed(circuits=circuits, starters=starters, loads=loads, lines=lines),
           "power_circuits", "starters", "own_loads", "lines"),
    _stage("sections", size_sections, _job("practice", "enclosure", "locations", "pass_through", "controls"),
           "kept.values", SHOP, "body", "parts", "potentials", "fed", "load", "laid_inside"),
    _stage("loops", lambda lines, circuit, sections: find_loops(lines, circuit, sections.cores), SHOP, "lines", "body", "sections"),
    _stage("strip_mm2", strip_sections, "read_clamps", "sections", "body"),
    _stage("clamps", lambda job, clamps, mm2: part_strips(clamps, mm2, strip_room(job)), _job("enclosure"), SHOP, "read_clamps",
           "strip_mm2"),
    _stage("clamp_by_id", by_clamp, "clamps"),
    _stage("clamp_parts", _clamp_parts, SHOP, "clamps", "strip_mm2"),
    # places
    _stage("items", lambda circuit, parts, circuits, clamps, mm2: plate_items(circuit, parts, circuits, *strip_widths(clamps, mm2)), SHOP,
           "body", "parts", "power_circuits", "clamps", "strip_mm2"),
    _stage("plate_choices", _merge_plate, _job("supply", "enclosure", "incoming", "practice"), "kept.places", SHOP,
           "items", "potentials", "clamps", kept="places"),
    _stage("plate", read_layout, _job("enclosure"), "items", "plate_choices"),
    _stage("behind_door", _behind_door, _job("enclosure", "incoming"), SHOP, "body", "plate", "plate_choices", "parts"),
    _stage("door_groups", groups_on_door, _job("enclosure"), SHOP, "body", "power_circuits"),
    _stage("door_values", allocate_door, _job("enclosure", "practice", "revision"), "door.places", SHOP,
           "body", "door_groups", "behind_door", "parts"),
    _stage("places", _merge_places, "kept.places", "plate_choices", "door_values", allocates="places"),
    _stage("door", read_door, _job("enclosure", "incoming"), SHOP, "body", "parts", "plate", "door_groups", "places"),
    _stage("walls", build_walls, _job("enclosure"), "kept.holes", "body", "parts", "plate", "door"),
    _stage("geometry", Geometry, _job("supply", "enclosure", "practice"), "parts", "plate", "door", "clamps", "clamp_parts", "walls"),
    _stage("ducts", lambda plate: plate.ducts, "plate"),
    _stage("network", DuctNetwork, "ducts"),
    _stage("bands", find_bands, _job("controls", "supply"), "parts", "potentials"),
    _stage("apart", shunned_uprights, _job("practice"), "bands", "geometry"),
    _stage("ways", Ways, "geometry", "network", "apart"),
    _stage("cuts", cut_pieces, _job("practice"), "plate"),
    _stage("holes", drill_holes, _job("practice"), "plate", "parts"),
    # wires
    _stage("found_combs", lambda plate, parts, potentials, sections: find_combs(plate, parts, potentials, sections.inside), "plate",
           "parts", "potentials", "sections"),
    _stage("twins", lambda job, potentials, parts, sections: find_twins(potentials, parts, sections.inside, class_of(job.practice)),
           _job("practice"), "potentials", "parts", "sections"),
    _stage("lengths", _lengths, _job("practice"), "ways"),
    _stage("sites", find_sites, SHOP, "body", "parts", "potentials", "clamps", "runs", "found_combs", "twins"),
    _stage("joins", _join, "kept.clamps", "kept.links", "body", "sites", "lengths"),
    _stage("links", lambda joins: joins[0], "joins"),
    _stage("clamp_choices", lambda job, strips, joins: _merge_clamps(job, strips, joins[1]), "kept.clamps", "strip_choices", "joins",
           allocates="clamps"),
    _stage("link_choices", _merge_links, "kept.links", "links", allocates="links"),
    _stage("taps", lambda job, circuit, parts, potentials, clamps, sections, laid, links: wire_sizes(
        TapSizes(job, circuit, parts, potentials, clamps, sections, laid), links), _job("pass_through", "extra_supplies"), "kept.values",
        SHOP, "body", "parts", "potentials", "clamps", "sections", "laid_inside", "links"),
    _stage("link_sizes", lambda links, sections, runs, taps: size_links(links, sections, runs, taps[0]), "links", "sections", "runs",
           "taps"),
    _stage("laid", build_conductors, _job("supply", "practice", "locations", "excepted", "colours"), "links", "link_sizes", "potentials",
    "ways",
           "cable_names", "signals"),
    _stage("combs", lambda combs, conductors: with_sections(
        combs, {end: c.size.mm2 for c in conductors if c.kind == "comb" for end in (c.a, c.b)}),
           "found_combs", "laid"),
    # cables
    _stage("cables", lambda conductors, runs, names, circuit, tags, potentials: build_cables(
        conductors, runs, names, _targets(circuit, tags), _earth_of(potentials)), SHOP, "laid", "runs", "cable_names", "body", "tags",
        "potentials"),
    _stage("cable_ways", lay_cables, _job("supply", "incoming", "extra_supplies"), SHOP, "laid", "cables", "potentials", "clamps",
           "sections", "ways"),
    _stage("shunned", shun_full_uprights, "laid", "cable_ways", "ways"),
    _stage("conductors", led_round, "laid", "ways", "shunned"),
    _stage("loaded_legs", loaded_legs, SHOP, "conductors", "potential_at", "fed", "sections", "laid_inside", "load"),
    _stage("real_groups", real_groups, "loaded_legs", "laid_inside"),
    _stage("crowded", crowded_wires, SHOP, "loaded_legs", "laid_inside"),
    _stage("conductors_at", landed_at, "conductors"),
    _stage("conductors_of", landed_on_device, "conductors"),
    _stage("paired", _paired, "conductors_at", "twins"),
    _stage("duct_loads", duct_loads, "conductors", "cable_ways"),
    _stage("entries", place_entries, _job("supply", "incoming", "extra_supplies", "enclosure"), SHOP, "cables", "cable_ways", "sections",
           "kept.holes"),
    _stage("stations", build_stations, SHOP, "circuit", "parts", "cables", "kept.holes"),
    _stage("hole_choices", _merge_holes, _job("supply", "incoming", "extra_supplies"), "kept.holes", "body", "cable_names",
           allocates="holes"),
    # totals
    _stage("wires_w", wire_losses_w, SHOP, "conductors", "netlist", "starters", "power_circuits", "load"),
    _stage("panel", total_panel, _job("supply", "practice", "enclosure", "extra_supplies"), "bare.starters", "kept.values", SHOP,
           "body", "parts", "fed", "load", "sections", "wires_w"),
    _stage("sizing", _sizing, _job("practice"), "starters", "equipment", "sections", "loops", "taps", "panel"),
    # what else the ledger holds
    _stage("table_choices", _merge_tables, "kept.tables", SHOP, allocates="tables"),
    _stage("texts", _keep_texts, "kept.texts", "link_choices", "clamp_choices", "cable_choices", allocates="texts"),
    _stage("lot_choices", _keep_lots, "kept.lots", "link_choices", allocates="lots"),
)  # fmt: skip
"""Every stage below those that it reads."""


_MEMORY = Memory(STAGES)
_MOST_RUNS = 4
_runs: list[tuple[Job, Shop, Run]] = []


def run_of(job: Job) -> Run:
    """Return the products of a Job as its ledger has them; nothing is allocated, each is made when it is first asked for."""
    shop = shop_now()
    for known, in_shop, run in _runs:
        if known is job and in_shop == shop:
            return run
    return _note(job, shop, Run(_MEMORY, job, shop, allocates=False))


def allocate(job: Job) -> Run:
    """Return the products of a Job with its ledger allocated anew where it does not fit."""
    return Run(_MEMORY, job, shop_now(), allocates=True)


def look_ahead(job: Job, pins: Mapping[str, Any]) -> Run:
    """Return the products of a Job with its ledger allocated anew, and some products held as they are given."""
    return Run(_MEMORY, job, shop_now(), allocates=True, pins=pins)


def settled_run(before: Run, job: Job) -> None:
    """Note that a run came out at this settled Job: what the Job is asked for then is known already."""
    _note(job, shop_now(), before.settle_on(job))


def _note(job: Job, shop: Shop, run: Run) -> Run:
    _runs[:] = [(job, shop, run), *_runs[: _MOST_RUNS - 1]]
    return run


def forget() -> None:
    """Let go of all that the stages of this process remember, as a fresh start has it."""
    global _MEMORY
    _MEMORY = Memory(STAGES)
    forget_rows()
    _runs.clear()


def memory() -> Memory:
    """Return what the stages of this process remember: which ran last, and how long each took."""
    return _MEMORY
