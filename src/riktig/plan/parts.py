"""Owns which catalogue part each device is. Must not know where it stands."""

from collections import Counter, defaultdict
from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from riktig.catalogue.loader import extensions_of, find_part, parts_of_kind
from riktig.catalogue.model import CONTACT_KINDS, ElementKind, Part
from riktig.job.ledger import Choices
from riktig.job.model import Standard
from riktig.plan.circuit import Circuit, CircuitDevice
from riktig.plan.contacts import Demand, Use, allocate_device, holds_marks, sum_demands

_EXACT_POLES = frozenset({"breaker", "disconnect", "fuse", "rcd"})
_BY_WORLD = frozenset({"breaker", "fuse", "rcd"})
_LEADS = frozenset({"motor", "load", "surge"})
_CHANNELS = {
    "inputs": ElementKind.INPUT,
    "outputs": ElementKind.OUTPUT,
    "ain": ElementKind.ANALOG_IN,
    "aout": ElementKind.ANALOG_OUT,
}


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
class Coil:
    """What a coil or lamp is fed with: volts, and AC or DC."""

    volts: float
    current: str

    def label(self, offered: str) -> str | None:
        """Return the volts of a part's coil that fit within 10 %, of those offered; None if none does."""
        fitting = []
        for label in offered.split():
            volts = float(label[:-2])
            if label.endswith(self.current) and abs(volts - self.volts) <= 0.1 * self.volts + 1e-9:
                fitting.append((abs(volts - self.volts), label))
        return min(fitting)[1] if fitting else None


@dataclass(frozen=True, slots=True, kw_only=True)
class ChosenParts:
    """The part of every device, and what each use of a contact got (see `allocate_device`)."""

    parts: Mapping[str, Part]
    contacts: Mapping[str, str]
    short_uses: tuple[Use, ...]
    unmet: Mapping[str, tuple[str, ...]]


@dataclass(frozen=True, slots=True, kw_only=True)
class _Wish:
    """All that is asked of one device."""

    device: CircuitDevice
    demand: Demand
    need: Need | None
    coil: Coil | None
    uses: list[Use]
    standard: Standard

    @property
    def key(self) -> tuple[object, ...]:
        """All that is asked but for contacts."""
        device, need = self.device, self.need
        numbers = (need.amps, need.setting, need.va, need.inrush_va, need.curves, need.breaking_ka) if need else None
        return (
            device.kind, max(self.demand.poles, device.poles or 0), device.colour, len(self.positions), numbers, self.coil,
            tuple(sorted(device.wants.items())), tuple(sorted(device.least.items())), self.standard,
        )  # fmt: skip

    @property
    def positions(self) -> tuple[str, ...]:
        return self.device.positions or ()


def choose_parts(
    circuit: Circuit,
    uses: tuple[Use, ...],
    needs: Mapping[str, Need],
    coils: Mapping[str, Coil],
    standard: Standard,
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
        wish = _Wish(
            device=device, demand=demands.get(device.id, Demand()), need=needs.get(device.id), coil=coils.get(device.id),
            uses=by_device[device.id], standard=standard,
        )  # fmt: skip
        kept = kept_parts.get(device.id)
        part = _choose(wish, kept.value if kept is not None else None, is_held=kept is not None and kept.is_held)
        parts[device.id] = part
        given = allocate_device(wish.uses, part, kept_contacts, wish.positions)
        contacts.update(given)
        lacking = _lacks(part, wish)
        if lacking:
            unmet[device.id] = tuple(lacking)
        short.extend(use for use in wish.uses if _is_short(use, part, given))
    return ChosenParts(parts=parts, contacts=contacts, short_uses=tuple(short), unmet=unmet)


def _choose(wish: _Wish, kept_code: str | None, *, is_held: bool) -> Part:
    """Return the part: a person's, else the one in the ledger that still serves, else the smallest that does."""
    given = find_part(wish.device.part) if wish.device.part is not None else None
    if given is not None:
        return _with_coil(given, wish)
    kept = find_part(kept_code) if kept_code is not None else None
    if kept is not None and kept.kind == wish.device.kind:
        if is_held:
            return _with_coil(kept, wish)
        bare = find_part(kept.code.partition("@")[0])
        if bare is not None and not _lacks(kept := _with_coil(bare, wish), wish) and not _count_short(kept, wish):
            return kept
    best: tuple[int, int, Part] | None = None
    for part in _candidates(wish):
        lacking = len(_lacks(_with_coil(part, wish), wish))
        short = _count_short(part, wish) if wish.device.contacts is None else 0
        if best is None or (lacking, short) < best[:2]:
            best = (lacking, short, part)
        if best[:2] == (0, 0):
            break
    assert best is not None, wish.device.kind
    return _with_coil(best[2], wish)


def _candidates(wish: _Wish) -> Iterator[Part]:
    """Yield parts, the preferred first: smaller ratings and sizes, and blocks only where contacts are asked for.

    Where no part reaches the rating, the largest comes first.
    """
    key = wish.key
    fitting = _FITTING.get(key)
    if fitting is None or fitting[0] is not parts_of_kind(wish.device.kind):
        fitting = _FITTING[key] = (parts_of_kind(wish.device.kind), _fitting(wish))
    has_contacts = wish.device.contacts is not None or any(use.wants_contact for use in wish.uses)
    for part in fitting[1]:
        if has_contacts and part.traits.get("blocks"):
            yield from extensions_of(part.code)
        else:
            yield part


_FITTING: dict[tuple[object, ...], tuple[tuple[Part, ...], tuple[Part, ...]]] = {}
"""What is asked of a device, contacts left out -> the parts of its kind, and those that serve, the preferred first."""


def _fitting(wish: _Wish) -> tuple[Part, ...]:
    bases = parts_of_kind(wish.device.kind)
    lacking = {part.code: len(_lacks(_with_coil(part, wish), wish, but_contacts=True)) for part in bases}
    least = min(lacking.values())
    fitting = [part for part in bases if lacking[part.code] == least]
    if least and wish.need is not None:
        fitting.sort(key=lambda p: -max(p.rating("amps"), p.rating("amps_max"), p.rating("va")))
    else:
        fitting.sort(key=lambda p: (p.rating("amps"), p.rating("amps_max"), p.width * p.height, len(p.elements)))
    return tuple(fitting)


def _with_coil(part: Part, wish: _Wish) -> Part:
    offered = part.traits.get("coils", "")
    label = wish.coil.label(offered) if wish.coil is not None and "@" not in part.code else None
    fitted = find_part(f"{part.code}@{label}") if label is not None else None
    return fitted or part


def _count_short(part: Part, wish: _Wish) -> int:
    given = allocate_device(wish.uses, part, {}, wish.positions)
    return sum(_is_short(use, part, given) for use in wish.uses)


def _is_short(use: Use, part: Part, given: Mapping[str, str]) -> bool:
    if use.key in given:
        return False
    if use.wants_contact:
        return True
    kind = {"coil": ElementKind.COIL, "lamp": ElementKind.LAMP}.get(use.ref.what or "")
    return kind is not None and all(e.kind is not kind for e in part.elements)


def _lacks(part: Part, wish: _Wish, *, but_contacts: bool = False) -> list[str]:
    """Return what the part lacks in words; empty if it serves."""
    device = wish.device
    lacking = [*_lacks_form(part, wish)]
    if not but_contacts and device.contacts is not None:
        contacts = Counter(str(e.kind) for e in part.elements if e.kind in CONTACT_KINDS)
        if Counter(device.contacts) - contacts:
            lacking.append(f"contacts {' '.join(device.contacts)}")
    marks = wish.demand.marks
    if not but_contacts and marks and not all(any(holds_marks(e, m) for e in part.elements) for m in marks):
        lacking.append("the marks asked for")
    if device.positions and sum(e.kind is ElementKind.NO for e in part.elements) < len(device.positions):
        lacking.append(f"{len(device.positions)} positions")
    for name, least in device.least.items():
        kind = _CHANNELS.get(name)
        there = sum(e.kind is kind for e in part.elements) if kind is not None else part.rating(name)
        if there < least - 1e-9:
            lacking.append(f"{least:g} {name} (it has {there:g})")
    if wish.coil is not None and "coils" in part.traits and "volts" not in part.ratings:
        lacking.append(f"a coil or lamp for {wish.coil.volts:.0f} V {wish.coil.current}")
    if wish.need is not None:
        lacking.extend(_lacks_rating(part, wish.need))
    return lacking


def _lacks_form(part: Part, wish: _Wish) -> Iterator[str]:
    """Yield what it lacks in poles, leads, colour, world of standards and traits."""
    device = wish.device
    poles = max(wish.demand.poles, device.poles or 0)
    there = sum(e.kind is ElementKind.POLE for e in part.elements)
    if there and poles and there != poles and (part.kind in _EXACT_POLES or there < poles):
        yield f"{poles} poles (it has {there})"
    if part.kind in _LEADS and poles:
        kinds = {ElementKind.LOAD, ElementKind.WINDING}
        if len({m for e in part.elements if e.kind in kinds for m in e.marks}) != poles:
            yield f"{poles} leads"
    if device.colour is not None and part.traits.get("colour", device.colour) != device.colour:
        yield f"colour {device.colour}"
    if part.kind in _BY_WORLD:
        words = part.traits.get("type", "")
        if wish.standard.value.upper() not in words or "supplementary" in words:
            yield f"a {wish.standard.value.upper()} type"
    for trait, value in device.wants.items():
        if part.traits.get(trait) != value:
            yield f"{trait} {value}"
    if "lock" in part.traits and "lock" not in device.wants:
        yield "no key"


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
