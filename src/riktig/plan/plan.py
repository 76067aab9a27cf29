"""Owns the Plan: everything that follows from a settled Job, as the stages make it. Must not compute: stages do."""

from collections.abc import Mapping
from dataclasses import dataclass, fields

from riktig.catalogue.model import Clamp as ClampSpec
from riktig.catalogue.model import Part
from riktig.job.model import Job
from riktig.pipeline.engine import Run
from riktig.plan.basis.conductor import Laid
from riktig.plan.basis.motor import MotorSize
from riktig.plan.basis.sized import SizedValue
from riktig.plan.circuit.model import DOOR, Circuit
from riktig.plan.circuit.power import PowerCircuit
from riktig.plan.circuit.uses import Use
from riktig.plan.circuit.zones import device_of, zone_of
from riktig.plan.net.netlist import Netlist
from riktig.plan.net.numbers import Potential
from riktig.plan.net.runs import Runs
from riktig.plan.net.strips import Clamp
from riktig.plan.panel import PanelTotals
from riktig.plan.place.door import DoorLayout
from riktig.plan.place.layout import PlateLayout
from riktig.plan.place.pieces import Cut, Hole
from riktig.plan.place.walls import WallLayout
from riktig.plan.sheets.allocation import Place, SheetSet
from riktig.plan.sizes.loops import Loop
from riktig.plan.sizes.needs import Need
from riktig.plan.sizes.own_loads import OwnLoad
from riktig.plan.sizes.sections import Sections
from riktig.plan.sizes.starter import StarterSizes
from riktig.plan.wiring.cables import Cable
from riktig.plan.wiring.combs import Comb
from riktig.plan.wiring.conductors import Conductor
from riktig.plan.wiring.duct_fill import DuctLoad, fill_percent
from riktig.plan.wiring.ends import WireEnd, class_of, finish_end
from riktig.plan.wiring.entries import CableWay, Entry
from riktig.plan.wiring.grouping import Crowded
from riktig.plan.wiring.links import HINGE, Link
from riktig.plan.wiring.stations import Station
from riktig.units.conductor_size import ConductorSize


@dataclass(frozen=True, slots=True, kw_only=True)
class Plan:
    """All that follows from a Job. Device ids key `tags`, `parts`, `uses_of` and `conductors_of`, clamp ids `clamp_parts` and
    `clamp_by_id`, terminals `potential_at` and `conductors_at`, codes of ducts `duct_loads`, numbers `shunned`, the uprights that their
    wires keep out of; `body` is the circuit without what people call its devices and paths; `twins` are the terminals that take a twin
    ferrule, `paired` those that have one.
    """

    job: Job
    circuit: Circuit
    body: Circuit
    uses: tuple[Use, ...]
    uses_of: Mapping[str, tuple[Use, ...]]
    short_uses: tuple[Use, ...]
    unmet: Mapping[str, tuple[str, ...]]
    parts: Mapping[str, Part]
    contacts: Mapping[str, str]
    tags: Mapping[str, str]
    netlist: Netlist
    potentials: tuple[Potential, ...]
    potential_at: Mapping[str, Potential]
    motors: Mapping[str, MotorSize]
    starters: Mapping[str, StarterSizes]
    needs: Mapping[str, Need]
    sections: Sections
    power_circuits: Mapping[str, PowerCircuit]
    laid_inside: Laid
    loops: tuple[Loop, ...]
    motor_roles: Mapping[str, tuple[str, str]]
    own_loads: Mapping[str, OwnLoad]
    sizing: tuple[SizedValue, ...]
    panel: PanelTotals
    clamps: tuple[Clamp, ...]
    clamp_by_id: Mapping[str, Clamp]
    clamp_parts: Mapping[str, Part]
    plate: PlateLayout
    door: DoorLayout
    links: tuple[Link, ...]
    conductors: tuple[Conductor, ...]
    conductors_at: Mapping[str, tuple[Conductor, ...]]
    conductors_of: Mapping[str, tuple[Conductor, ...]]
    duct_loads: Mapping[str, DuctLoad]
    crowded: tuple[Crowded, ...]
    shunned: Mapping[str, frozenset[str]]
    cables: tuple[Cable, ...]
    cable_ways: tuple[CableWay, ...]
    entries: tuple[Entry, ...]
    stations: tuple[Station, ...]
    walls: tuple[WallLayout, ...]
    runs: Runs
    combs: tuple[Comb, ...]
    twins: frozenset[str]
    paired: frozenset[str]
    cuts: tuple[Cut, ...]
    holes: tuple[Hole, ...]
    sheets: SheetSet
    sheet_places: Mapping[str, Place]

    def terminal_label(self, terminal: str) -> str:
        """Return a terminal as people read it, `TAG:MARK`."""
        device, _, mark = terminal.rpartition(":")
        return f"{self.tags.get(device, device)}:{self.mark_words(device, mark)}"

    def mark_words(self, device: str, mark: str) -> str:
        """Return a terminal's mark as it stands on the thing: in North America motor leads are T1 to T13.

        Source:
            NEMA MG 1 2.20 and 2.60, from memory.
        """
        known = self.circuit.index.get(device)
        if known is None or known.kind != "motor" or self.job.practice.standard != "ul":
            return mark
        traits = self.parts[device].traits
        special = (
            _SINGLE_PHASE_LEADS
            if traits.get("phases") == "1"
            else _TAPPED_LEADS
            if traits.get("winding") == "tapped"
            else {}
        )
        return special.get(mark) or _LEADS.get(mark, mark)

    def cable_size(self, load: str) -> ConductorSize:
        """Return the size of the cores that lead to a motor or load."""
        return self.sections.core_of(zone_of(self.circuit.device(load)))

    def setting_of(self, device: str) -> float | None:
        """Return what an overload relay, motor breaker, drive or soft starter is set to in A, None of any other device."""
        motor, role = self.motor_roles.get(device, ("", ""))
        sizes = self.starters.get(motor)
        return sizes.motor.settings.get(device) if sizes is not None and role else None

    def name_of(self, key: str) -> str:
        """Return what people call a device, strip, rail, duct or cut-out."""
        return self.tags.get(key, key)

    def item_of(self, terminal: str) -> str:
        """Return what a terminal belongs to on the plate: its device, its strip or the piece of that where it stands."""
        clamp = self.clamp_by_id.get(terminal)
        return clamp.piece if clamp is not None else device_of(terminal)

    def heading_of(self, owner: str) -> tuple[str, str]:
        """Return tag and title of a motor or module, "" where it has none."""
        device = self.circuit.index.get(owner)
        if device is not None:
            return self.name_of(owner), device.title
        every = (getattr(self.job, name) for name in type(self.job).model_fields)
        members = (member for members in every if isinstance(members, tuple) for member in members)
        return owner, next((m.title for m in members if getattr(m, "name", "") == owner and hasattr(m, "title")), "")

    @property
    def bridges(self) -> tuple[tuple[str, ...], ...]:
        """The strip terminals that each bridge joins, from left to right."""
        after = {c.a: c.b for c in self.conductors if c.kind == "bridge" and c.a in self.clamp_by_id}
        runs = []
        for start in after:
            if start not in after.values():
                run = [start]
                while run[-1] in after:
                    run.append(after[run[-1]])
                runs.append(tuple(run))
        return tuple(runs)

    @property
    def fill_percent(self) -> dict[str, float]:
        """The fill of each duct in percent of its inside at its fullest place."""
        return fill_percent(self.plate.ducts, self.duct_loads)

    def markers_of(self, conductor: Conductor) -> tuple[str, str]:
        """Return what is printed at both ends of a conductor: its number, or in the school of both ends the terminal where its
        other end is; nothing on a join without a wire.
        """
        if not conductor.is_wired:
            return "", ""
        if self.job.practice.numbering == "both-ends":
            return self.terminal_label(conductor.b), self.terminal_label(conductor.a)
        return conductor.number, conductor.number

    def ends_of(self, conductor: Conductor) -> tuple[WireEnd, WireEnd] | None:
        """Return how both ends of a conductor are finished, None of a join without a wire."""
        if not conductor.is_wired:
            return None
        sort = class_of(self.job.practice)
        first, second = (
            finish_end(conductor.size, self.clamp_at(end), sort, is_twin=end in self.paired, stud=self.stud_at(end))
            for end in (conductor.a, conductor.b)
        )
        return first, second

    def remark(self, sort: str, key: str) -> str:
        """Return what a person wrote of a wire (by the key of its link), clamp or cable (by its run); "" for nothing."""
        choice = self.job.ledger.texts.get(f"{sort}:{key}")
        return choice.value if choice is not None else ""

    def lands_outside(self, conductor: Conductor, clamp: Clamp) -> bool:
        """Return whether a conductor lands on the field side of a strip terminal: a core, or a wire to the door over the strip."""
        return conductor.kind == "core" or (conductor.location == HINGE and clamp.drop == DOOR)

    def wires_at(self, terminal: str) -> tuple[tuple[Conductor, ...], tuple[Conductor, ...]]:
        """Return the wires and cores that land at a terminal: on the inside, and on the field side of one on a strip."""
        wires = tuple(c for c in self.conductors_at.get(terminal, ()) if c.is_wired)
        clamp = self.clamp_by_id.get(terminal)
        if clamp is None:
            return wires, ()
        outside = tuple(c for c in wires if self.lands_outside(c, clamp))
        return tuple(c for c in wires if c not in outside), outside

    def stud_at(self, terminal: str) -> str:
        """Return the thread of the bolt at a terminal, "" where its part does not say."""
        part = self.parts.get(terminal.rpartition(":")[0])
        return part.traits.get("thread", "") if part is not None else ""

    def clamp_at(self, terminal: str) -> ClampSpec:
        """Return how a terminal takes its conductors."""
        part = self.clamp_parts.get(terminal)
        if part is not None:
            return part.terminals[0].clamp
        device, _, mark = terminal.rpartition(":")
        owner = self.parts.get(device)
        spec = owner.terminal(mark) if owner is not None else None
        return spec.clamp if spec is not None else ClampSpec()

    def number_at(self, terminal: str) -> str:
        """Return the number of a device terminal, "" if it is unused."""
        potential = self.potential_at.get(terminal)
        return potential.number if potential is not None else ""

    def potential_of(self, terminal: str) -> Potential | None:
        """Return the potential of a device terminal, None if it is unused."""
        return self.potential_at.get(terminal)


_LEADS = {
    "U1": "T1", "V1": "T2", "W1": "T3", "U2": "T4", "V2": "T5", "W2": "T6", "U3": "T7", "V3": "T8", "W3": "T9",
    "U4": "T10", "V4": "T11", "W4": "T12", "1U": "T1", "1V": "T2", "1W": "T3", "2U": "T11", "2V": "T12", "2W": "T13",
}  # fmt: skip
_TAPPED_LEADS = {"2U": "T4", "2V": "T5", "2W": "T6"}
_SINGLE_PHASE_LEADS = {"U1": "T1", "U2": "T2"}


def plan_of(job: Job, run: Run) -> Plan:
    """Return the Plan that the products of a Job make up."""
    return Plan(job=job, **{field.name: run[field.name] for field in fields(Plan) if field.name != "job"})


def compute_plan(job: Job) -> Plan:
    """Return the Plan of a settled Job.

    Raises:
        KeyError: the Job was not settled.
    """
    from riktig.plan.stages import run_of  # a window has Plans without making them

    return plan_of(job, run_of(job))
