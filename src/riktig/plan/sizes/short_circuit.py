"""Owns the short-circuit rating of the panel along every branch, and what limits it. Must not judge it."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from riktig.catalogue.model import Part
from riktig.job.model import Job
from riktig.job.paths import refs_of
from riktig.job.practice import Standard
from riktig.plan.basis.motor import MotorSize
from riktig.plan.basis.sized import Chosen, SizedValue, decide
from riktig.plan.basis.strength import PROTECTING, Before, Strength, panel_protection, strength_of
from riktig.plan.circuit.model import DOOR, PLATE, Circuit, CircuitPath, is_bar
from riktig.plan.circuit.power import PowerCircuit
from riktig.standards import iec_60269, iec_61439_1, ul_508a

PANEL = "panel"
"""Subject of the values of the whole panel."""
_STOPS = frozenset({"transformer", "psu", "motor", "load"})
"""Behind these a path carries no power current of the supply any more."""


@dataclass(frozen=True, slots=True, kw_only=True)
class ChainLink:
    """One device on a branch and what it stands."""

    device: str
    strength: Strength


@dataclass(frozen=True, slots=True, kw_only=True)
class Branch:
    """A way of the fault current: the panel's own protection first, then one starter, module or feeder.

    `owner` is its name, `available_ka` the fault current ahead of it.
    """

    owner: str
    available_ka: float
    links: tuple[ChainLink, ...]

    @property
    def ka(self) -> float | None:
        """What the weakest link stands, None without any rated device."""
        return min((link.strength.ka for link in self.links), default=None)


@dataclass(frozen=True, slots=True, kw_only=True)
class ShortCircuit:
    """The panel's rating in kA and the device ids that limit it; `cut_off_ka` is the peak that its protection lets
    through (IEC), None where nothing limits it.
    """

    branches: tuple[Branch, ...]
    rating_ka: float
    limited_by: tuple[str, ...]
    cut_off_ka: float | None
    value: SizedValue


def rate_short_circuit(
    job: Job,
    circuit: Circuit,
    parts: Mapping[str, Part],
    circuits: Mapping[str, PowerCircuit],
    motors: Mapping[str, MotorSize],
    chosen: Chosen,
) -> ShortCircuit:
    """Return the rating of every branch and of the panel: that of its weakest power component.

    Source:
        UL 508A SB4.4 and SB5.1, IEC 61439-1 10.11, from memory. Control circuits behind their own transformer or supply
        and devices outside the panel do not count.
    """
    branches = tuple(_find_branches(job, circuit, parts, circuits, motors))
    links = [(link.device, link.strength) for branch in branches for link in branch.links]
    least = min((strength.ka for _, strength in links), default=0.0)
    limiting = tuple(dict.fromkeys(device for device, strength in links if strength.ka == least))
    reason = next((strength for device, strength in links if limiting and device == limiting[0]), None)
    value = decide(_panel_value(job, least, limiting, reason), chosen)
    return ShortCircuit(
        branches=branches, rating_ka=value.value, value=value, cut_off_ka=_cut_off(job, parts),
        limited_by=limiting if value.reason is None else (),
    )  # fmt: skip


def _panel_value(job: Job, least: float, limiting: tuple[str, ...], reason: Strength | None) -> SizedValue:
    is_ul = job.practice.standard is Standard.UL
    source = str(ul_508a.WEAKEST) if is_ul else str(iec_61439_1.SOURCE_PROOF)
    why = f": {reason.why}" if reason is not None else ""
    return SizedValue(
        subject=PANEL, quantity="short_circuit_rating", value=least, unit="kA", needed=job.supply.available_ka,
        formula=f"that of the weakest of the power components{why}" if limiting else "no power component is rated",
        source=f"{source}; {reason.source}" if reason is not None else source,
        inputs={"fault_ka": job.supply.available_ka, **({"weakest": limiting[0]} if limiting else {})},
        places={"fault_ka": "supply.fault_ka", **({"weakest": limiting[0]} if limiting else {})},
    )  # fmt: skip


def _cut_off(job: Job, parts: Mapping[str, Part]) -> float | None:
    """Return the peak that gG fuses of the panel let through, None without them."""
    feeder = panel_protection(parts)
    if feeder is None or feeder.traits.get("curve") != "gG":
        return None
    return iec_60269.cut_off_ka(feeder.rating("amps"), job.supply.available_ka)


def _find_branches(
    job: Job,
    circuit: Circuit,
    parts: Mapping[str, Part],
    circuits: Mapping[str, PowerCircuit],
    motors: Mapping[str, MotorSize],
) -> Iterator[Branch]:
    is_iec = job.practice.standard is Standard.IEC
    feeder = panel_protection(parts)

    def branch(
        owner: str, devices: list[str], extra: str | None, motor: str | None, *, is_excepted: bool
    ) -> Branch | None:
        way_in = job.way_in(extra)
        ahead = feeder if way_in is job.supply and owner != "incoming" and not is_excepted else None
        hp = motors[motor].hp if motor is not None and motor in motors else 0.0
        before = Before(
            is_iec=is_iec, available_ka=way_in.available_ka, feeder=ahead, hp=hp, is_way_in=owner == "incoming"
        )
        links = tuple(_link(devices, parts, before))
        return Branch(owner=owner, available_ka=way_in.available_ka, links=links) if links else None

    read = {name: one for name, one in circuits.items() if one.is_read and one.supply is not None}
    covered = {device for name, one in read.items() for device in (name, *(d for d, _ in one.devices))}
    by_owner: dict[str, list[CircuitPath]] = {}
    for path in circuit.paths:
        if path.is_power and not (path.owner is None and all(ref.device in covered for ref in refs_of(path.items))):
            by_owner.setdefault(path.owner or path.key, []).append(path)
    for owner, paths in by_owner.items():
        devices = [d for d in _devices_on(paths, circuit) if d in parts]
        starter = job.starter(owner)
        extra = starter.power if starter is not None else owner
        found = branch(owner, devices, extra, owner if starter is not None else None, is_excepted=paths[0].is_excepted)
        if found is not None:
            yield found
    blocks = [d.id for d in circuit.devices if d.kind == "busbar" and d.id in parts and is_bar(d.id)]
    found = branch("distribution", blocks, None, None, is_excepted=False)
    if found is not None:
        yield found
    for name, one in read.items():
        devices = [d for d, _ in one.devices if d in parts and circuit.index[d].location in {PLATE, DOOR}]
        is_excepted = any(line.startswith("in.") for line in one.lines)
        found = branch(name, devices, one.supply or None, name if one.is_motor else None, is_excepted=is_excepted)
        if found is not None:
            yield found


def _devices_on(paths: list[CircuitPath], circuit: Circuit) -> list[str]:
    """Return the devices in the panel on the paths, up to what the supply's fault current does not pass."""
    found: dict[str, None] = {}
    is_behind = False
    for path in paths:
        for ref in refs_of(path.items):
            device = circuit.index.get(ref.device)
            if device is None or device.location not in {PLATE, DOOR}:
                continue
            is_behind = is_behind or device.kind in _STOPS
            if not is_behind:
                found.setdefault(device.id)
    return list(found)


def _link(devices: list[str], parts: Mapping[str, Part], before: Before) -> Iterator[ChainLink]:
    branch: Part | None = None
    for device in devices:
        part = parts[device]
        here = Before(
            is_iec=before.is_iec,
            available_ka=before.available_ka,
            branch=branch,
            feeder=before.feeder,
            hp=before.hp,
            is_way_in=before.is_way_in,
        )
        strength = strength_of(part, here)
        if strength is not None:
            yield ChainLink(device=device, strength=strength)
        if part.kind in PROTECTING:
            branch = part
