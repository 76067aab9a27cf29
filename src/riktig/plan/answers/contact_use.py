"""Owns how far the contacts of each device are used, and what mends one that has too few. Must not choose parts."""

from collections import defaultdict
from collections.abc import Collection, Sequence
from dataclasses import dataclass

from riktig.catalogue.loader import extensions_of, parts_of_kind
from riktig.catalogue.model import CONTACT_KINDS, ElementKind, Part
from riktig.plan.answers.remembered import remembered
from riktig.plan.circuit.uses import Taken, Use, allocate_device
from riktig.plan.plan import Plan

_PICKED = {
    **dict.fromkeys((ElementKind.NO, ElementKind.NC, ElementKind.CO), ("no", "nc")),
    **dict.fromkeys((ElementKind.TIMED_NO, ElementKind.TIMED_NC, ElementKind.TIMED_CO), ("tno", "tnc")),
    **dict.fromkeys((ElementKind.AUX_NO, ElementKind.AUX_NC), ("aux_no", "aux_nc")),
    **dict.fromkeys((ElementKind.ALARM_NO, ElementKind.ALARM_NC), ("alarm_no", "alarm_nc")),
}
"""How a path asks for a contact of the sort of an element, as a make and as a break contact."""
_CHANNELS = frozenset({ElementKind.INPUT, ElementKind.OUTPUT, ElementKind.ANALOG_IN, ElementKind.ANALOG_OUT})


@dataclass(frozen=True, slots=True, kw_only=True)
class ContactSlot:
    """One contact or channel: its marks, its sort, and the title of the path that uses it, None while it is free."""

    marks: str
    sort: str
    used_by: str | None


@dataclass(frozen=True, slots=True, kw_only=True)
class Mend:
    """What gives a device the contacts that it lacks: the order code of a larger part, and the words for a button."""

    code: str
    words: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Double:
    """A contact that is asked for twice: marks, sort, and the path that came second; `joins`: it is the other half of a changeover
    whose common lies elsewhere, so that two points of the circuit would be joined.
    """

    marks: str
    sort: str
    path: str
    joins: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class ContactUse:
    """The contacts of one device; `missing` are the sorts that found none, `mend` the part that has them, `doubled`
    the contacts that two paths ask for by their marks.
    """

    device: str
    tag: str
    title: str
    slots: tuple[ContactSlot, ...]
    missing: tuple[str, ...]
    doubled: tuple[Double, ...]
    mend: Mend | None

    @property
    def used(self) -> int:
        """How many contacts are in use."""
        return sum(slot.used_by is not None for slot in self.slots)

    @property
    def free(self) -> tuple[ContactSlot, ...]:
        """The contacts that are free, in the order in which they would be taken."""
        return tuple(slot for slot in self.slots if slot.used_by is None)


def overbooked(plan: Plan) -> tuple[ContactUse, ...]:
    """Return the devices of which a contact, or a half of one, is asked for more than once."""
    shared = {device for device in _shared(plan) if _doubles(plan, plan.parts[device], plan.uses_of[device])}
    return tuple(use for use in list_contact_uses(plan, shared) if use.doubled) if shared else ()


@remembered("uses_of", "contacts")
def _shared(plan: Plan) -> frozenset[str]:
    """Return the devices of which two paths ask for one mark."""
    shared = set()
    for device, uses in plan.uses_of.items():
        marks = [mark for use in uses for mark in plan.contacts.get(use.key, "").split("-")]
        if len(marks) > len(set(marks)):
            shared.add(device)
    return frozenset(shared)


def list_contact_uses(plan: Plan, only: Collection[str] | None = None) -> tuple[ContactUse, ...]:
    """Return the devices that have contacts or channels, those of some alone, overbooked ones first, then in drawing order."""
    titles = {path.key: path.title or path.key for path in plan.circuit.paths}
    short: defaultdict[str, list[Use]] = defaultdict(list)
    for use in plan.short_uses:
        short[use.device].append(use)
    found = []
    for device in plan.circuit.devices:
        if only is not None and device.id not in only:
            continue
        part, uses = plan.parts[device.id], plan.uses_of.get(device.id, ())
        taken = {
            frozenset(plan.contacts[use.key].split("-")): titles[use.path] for use in uses if use.key in plan.contacts
        }
        slots = tuple(
            ContactSlot(marks=e.name, sort=e.kind.value, used_by=_user(taken, e.marks))
            for e in part.elements
            if e.kind in CONTACT_KINDS | _CHANNELS
        )
        lacking, doubled = short[device.id], _doubles(plan, part, uses)
        if slots or lacking:
            mend = find_mend(part, uses, device.positions or ()) if lacking else None
            found.append(
                ContactUse(
                    device=device.id, tag=plan.tags[device.id], title=device.title, slots=slots, mend=mend,
                    missing=tuple(use.ref.what or "contact" for use in lacking), doubled=doubled,
                )
            )  # fmt: skip
    return tuple(sorted(found, key=lambda use: not (use.missing or use.doubled)))


def _doubles(plan: Plan, part: Part, uses: Sequence[Use]) -> tuple[Double, ...]:
    taken = Taken()
    found = []
    for use in uses:
        left, _, right = plan.contacts.get(use.key, "").partition("-")
        element = next((e for e in part.elements if e.kind in CONTACT_KINDS and {left, right} <= set(e.marks)), None)
        if element is None:
            continue
        if not taken.has_room(use, element, (left, right)):
            sort = element.kind.value if element.kind.value in {"no", "nc"} else "no"
            joins = taken.joins(use, element, (left, right))
            found.append(Double(marks=plan.contacts[use.key], sort=sort, path=use.path, joins=joins))
        taken.take(use, element, (left, right))
    return tuple(found)


def _user(taken: dict[frozenset[str], str], marks: tuple[str, ...]) -> str | None:
    """Return the titles of the paths that use a contact, two where they share a changeover."""
    return ", ".join(dict.fromkeys(title for pair, title in taken.items() if pair <= set(marks))) or None


def element_to_pick(plan: Plan, device_id: str, *, is_break: bool) -> str:
    """Return how a path asks for a device that is picked: a make or break contact of the first sort that its part has, the next free
    one or, where there is none, of a larger part; a selector by its first position, a device without contacts by itself.
    """
    device = plan.circuit.device(device_id)
    if device.positions:
        return f"{device_id}:{device.positions[0]}"
    sorts = next((_PICKED[e.kind] for e in plan.parts[device_id].elements if e.kind in _PICKED), None)
    return device_id if sorts is None else f"{device_id}:{sorts[is_break]}"


def find_mend(part: Part, uses: Sequence[Use], positions: tuple[str, ...]) -> Mend | None:
    """Return the smallest part that has a contact for every use: this one with a block, else a larger one."""
    wanted = sum(use.wants_contact for use in uses)
    base = part.code.partition("@")[0].split("+")[0]
    candidates = [*extensions_of(base), *(p for p in parts_of_kind(part.kind) if p.code != base)]
    for candidate in candidates:
        if len(allocate_device(uses, candidate, {}, positions)) >= wanted:
            blocks = candidate.code.split("+")[1:]
            words = (
                f"add block {' and '.join(blocks)}"
                if blocks and candidate.code.startswith(base)
                else f"take {candidate.code}"
            )
            return Mend(code=candidate.code, words=words)
    return None
