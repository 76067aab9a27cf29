"""Owns which catalogue part each device is. Must not know where it stands."""

from collections import defaultdict
from collections.abc import Mapping
from dataclasses import dataclass

from riktig.catalogue.loader import parts_by_code, parts_of_kind
from riktig.catalogue.model import CONTACT_KINDS, ElementKind, Part
from riktig.job.ledger import Choices
from riktig.plan.circuit import Circuit, CircuitDevice
from riktig.plan.contacts import Demand, Use, allocate_device, holds_marks, sum_demands


@dataclass(frozen=True, slots=True, kw_only=True)
class Need:
    """What sizing asks of a part: least `amps`, `va` and `inrush_va`, a `setting` in A inside its range, a `curve`
    and least breaking capacity in kA. `quantity`, `formula` and `source` explain it in a SizedValue.
    """

    quantity: str
    formula: str
    source: str
    amps: float = 0.0
    setting: float | None = None
    va: float = 0.0
    inrush_va: float = 0.0
    curves: tuple[str, ...] = ()
    breaking_ka: float = 0.0


@dataclass(frozen=True, slots=True, kw_only=True)
class ChosenParts:
    """The part of every device, and what each use of a contact got (see `allocate_device`)."""

    parts: Mapping[str, Part]
    contacts: Mapping[str, str]
    short_uses: tuple[Use, ...]
    unmet: Mapping[str, tuple[str, ...]]


def choose_parts(
    circuit: Circuit,
    uses: tuple[Use, ...],
    needs: Mapping[str, Need],
    kept_parts: Choices,
    kept_contacts: Choices,
) -> ChosenParts:
    """Return parts and contacts; what is in the ledger stays as long as it still serves."""
    demands = sum_demands(uses)
    by_device: defaultdict[str, list[Use]] = defaultdict(list)
    for use in uses:
        by_device[use.device].append(use)
    parts: dict[str, Part] = {}
    contacts: dict[str, str] = {}
    short: list[Use] = []
    unmet: dict[str, tuple[str, ...]] = {}
    for device in circuit.devices:
        demand, need = demands.get(device.id, Demand()), needs.get(device.id)
        kept = kept_parts.get(device.id)
        part = _choose(device, demand, need, parts_by_code().get(kept.value) if kept is not None else None,
                       is_held=kept is not None and kept.is_held, uses=by_device[device.id])  # fmt: skip
        parts[device.id] = part
        given = allocate_device(by_device[device.id], part, kept_contacts)
        contacts.update(given)
        lacking = _lacks(part, device, demand, need)
        if lacking:
            unmet[device.id] = tuple(lacking)
        short.extend(use for use in by_device[device.id] if _is_short(use, part, given))
    return ChosenParts(parts=parts, contacts=contacts, short_uses=tuple(short), unmet=unmet)


def _choose(
    device: CircuitDevice,
    demand: Demand,
    need: Need | None,
    kept: Part | None,
    *,
    is_held: bool,
    uses: list[Use],
) -> Part:
    if device.part is not None:
        return parts_by_code()[device.part]
    candidates = parts_of_kind(device.kind)

    def badness(part: Part) -> tuple[int, int]:
        given = allocate_device(uses, part, {})
        return len(_lacks(part, device, demand, need)), sum(_is_short(use, part, given) for use in uses)

    if kept is not None and kept.kind == device.kind and (is_held or badness(kept) == (0, 0)):
        return kept
    best = min(badness(part) for part in candidates)
    fitting = [part for part in candidates if badness(part) == best]
    if best[0] and need is not None:
        fitting.sort(key=lambda part: -max(part.rating("amps"), part.rating("amps_max"), part.rating("va")))
        return fitting[0]
    return min(fitting, key=lambda part: (part.rating("amps"), part.rating("amps_max"), part.width * part.height,
                                          len(part.elements)))  # fmt: skip


def _is_short(use: Use, part: Part, given: Mapping[str, str]) -> bool:
    if use.key in given:
        return False
    if use.ref.marks is not None or use.ref.what in {"no", "nc", "co"}:
        return True
    kind = {"coil": ElementKind.COIL, "lamp": ElementKind.LAMP}.get(use.ref.what or "")
    return kind is not None and all(e.kind is not kind for e in part.elements)


def _lacks(part: Part, device: CircuitDevice, demand: Demand, need: Need | None) -> list[str]:
    """Return what the part lacks in words; empty if it serves."""
    lacking: list[str] = []
    poles = max(demand.poles, device.poles or 0)
    there = sum(e.kind is ElementKind.POLE for e in part.elements)
    loads = [e for e in part.elements if e.kind in {ElementKind.LOAD, ElementKind.PRIMARY}]
    if there and poles and there != poles and (part.kind in {"breaker", "disconnect"} or there < poles):
        lacking.append(f"{poles} poles (it has {there})")
    if part.kind == "motor" and poles and all(len(e.marks) != poles for e in loads):
        lacking.append(f"{poles} leads")
    if device.colour is not None and part.traits.get("colour", device.colour) != device.colour:
        lacking.append(f"colour {device.colour}")
    if device.contacts is not None and _contacts_of(part) != tuple(sorted(device.contacts)):
        lacking.append(f"contacts {' '.join(device.contacts)}")
    if demand.marks and not all(any(holds_marks(e, m) for e in part.elements) for m in demand.marks):
        lacking.append("the marks asked for")
    if need is not None:
        lacking.extend(_lacks_rating(part, need))
    return lacking


def _contacts_of(part: Part) -> tuple[str, ...]:
    return tuple(sorted(str(e.kind) for e in part.elements if e.kind in CONTACT_KINDS))


def _lacks_rating(part: Part, need: Need) -> list[str]:
    lacking = []
    for name, unit in (("amps", "A"), ("va", "VA"), ("inrush_va", "VA of inrush"), ("breaking_ka", "kA")):
        wanted = getattr(need, name)
        if wanted and part.rating(name) < wanted - 1e-9:
            lacking.append(f"{wanted:.4g} {unit} (it has {part.rating(name):g})")
    if need.setting is not None and not part.rating("amps_min") <= need.setting <= part.rating("amps_max"):
        lacking.append(f"a range with {need.setting:.4g} A in it")
    if need.curves and part.traits.get("curve") not in need.curves:
        lacking.append(f"curve {' or '.join(need.curves)}")
    return lacking
