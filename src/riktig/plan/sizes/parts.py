"""Owns which catalogue part each device is. Must not know where it stands."""

from collections import Counter
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace

from riktig.catalogue.loader import all_parts, extensions_of, find_part, parts_of_kind, poles_of_kind
from riktig.catalogue.model import CONTACT_KINDS, ElementKind, Part
from riktig.job.ledger import Choice, Choices
from riktig.job.paths import nodes_of, refs_of
from riktig.job.practice import Standard
from riktig.pipeline.rows import by_row
from riktig.plan.basis.strength import Before, panel_protection, strength_of
from riktig.plan.circuit.model import Circuit, CircuitDevice
from riktig.plan.circuit.uses import Demand, Use, allocate_device, demand_of, ends_of, holds_marks
from riktig.plan.sizes.needs import Coil, Need, find_rating_lacks, least_ratings
from riktig.standards.tables import own_tables

_EXACT_POLES = frozenset({"breaker", "disconnect", "fuse", "rcd"})
_BY_WORLD = frozenset({"breaker", "fuse", "rcd"})
_LEADS = frozenset({"motor", "load", "surge", "heater", "fan", "light"})
_CHANNELS = {
    "inputs": ElementKind.INPUT,
    "outputs": ElementKind.OUTPUT,
    "ain": ElementKind.ANALOG_IN,
    "aout": ElementKind.ANALOG_OUT,
}


@dataclass(frozen=True, slots=True, kw_only=True)
class ChosenParts:
    """The part of every device, and what each use of a contact got (see `allocate_device`)."""

    parts: Mapping[str, Part]
    contacts: Mapping[str, str]
    short_uses: tuple[Use, ...]
    unmet: Mapping[str, tuple[str, ...]]


@dataclass(frozen=True, slots=True, kw_only=True)
class _Wish:
    """All that is asked of one device; its need, and what stands ahead of it, are other ones from pass to pass."""

    device: CircuitDevice
    coil: Coil | None
    uses: tuple[Use, ...]
    standard: Standard
    need: Need | None = None
    before: Before | None = None
    asked: Demand | None = field(default=None, compare=False)
    """What its uses ask for, once it is looked at."""

    @property
    def demand(self) -> Demand:
        """What the paths ask of it."""
        assert self.asked is not None
        return self.asked

    @property
    def key(self) -> tuple[object, ...]:
        """All that is asked but for contacts."""
        device, need = self.device, self.need
        before, ahead = self.before, None
        if before is not None:
            ahead = tuple(part.code if part is not None else None for part in (before.branch, before.feeder))
        return (
            device.kind, ahead, max(self.demand.poles, device.poles or 0), device.colour, len(self.positions),
            need.numbers if need else None, self.coil,
            tuple(sorted(device.wants.items())), tuple(sorted(device.least.items())), self.standard,
        )  # fmt: skip

    @property
    def positions(self) -> tuple[str, ...]:
        return self.device.positions or ()


@dataclass(frozen=True, slots=True, kw_only=True)
class _Choice:
    """What a device got."""

    part: Part
    contacts: Mapping[str, str]
    lacking: tuple[str, ...]
    short: tuple[Use, ...]


class PartChooser:
    """Chooses the parts of one circuit. What was chosen before is looked at again only if something else is asked for."""

    def __init__(
        self,
        circuit: Circuit,
        uses: Mapping[str, tuple[Use, ...]],
        coils: Mapping[str, Coil],
        standard: Standard,
        kept_parts: Choices,
        kept_contacts: Choices,
    ) -> None:
        self._uses = uses
        self._coils, self._standard = coils, standard
        self._kept_parts, self._kept_contacts = kept_parts, kept_contacts
        self._elsewhere = _not_behind_the_panel(circuit)
        self._asked: list[tuple[_Wish, tuple[Choice[str] | None, ...]]] = []
        self.extend(circuit)

    def extend(self, circuit: Circuit) -> None:
        """Choose for a circuit that has more devices and the same paths from now on."""
        wishes = (
            _Wish(
                device=device,
                coil=self._coils.get(device.id),
                uses=self._uses.get(device.id, ()),
                standard=self._standard,
            )
            for device in circuit.devices
        )
        self._asked = [(wish, tuple(self._kept_contacts.get(use.key) for use in wish.uses)) for wish in wishes]

    def choose(self, needs: Mapping[str, Need], *, pass_: str, anew: frozenset[str] = frozenset()) -> ChosenParts:
        """Return parts and contacts; what is in the ledger stays as long as it still serves and is not larger than needed.

        A part that must stand a fault current is looked at behind the parts chosen before it: order of the circuit. Devices of the
        kinds `anew` are chosen as if the ledger knew nothing of them. What was chosen in the `pass_` of that name is remembered.
        """
        parts: dict[str, Part] = {}
        made: dict[str, _Choice] = {}
        shelf = (all_parts(), own_tables())
        for wish, contacts in self._asked:
            device = wish.device
            need = needs.get(device.id)
            before = _before(device, need, parts, self._standard, is_behind=device.id not in self._elsewhere)
            kept = self._kept_parts.get(device.id) if device.kind not in anew else None
            choice = _made_choice((pass_, device.id), wish, (need, before), kept, contacts, shelf)
            made[device.id], parts[device.id] = choice, choice.part
        return ChosenParts(
            parts=parts, contacts={k: v for choice in made.values() for k, v in choice.contacts.items()},
            short_uses=tuple(use for choice in made.values() for use in choice.short),
            unmet={device: choice.lacking for device, choice in made.items() if choice.lacking},
        )  # fmt: skip


@by_row
def _made_choice(
    _: tuple[str, str],
    wish: _Wish,
    in_pass: tuple[Need | None, Before | None],
    kept: Choice[str] | None,
    contacts: tuple[Choice[str] | None, ...],
    _shelf: tuple[object, ...],
) -> _Choice:
    """Return what a device gets, by what is asked, what the ledger has of it, and the shop's parts and tables."""
    wish = replace(wish, need=in_pass[0], before=in_pass[1], asked=demand_of(wish.uses))
    part = _choose(wish, kept.value if kept is not None else None, is_held=kept is not None and kept.is_held)
    held = {use.key: choice for use, choice in zip(wish.uses, contacts, strict=True) if choice is not None}
    given = allocate_device(wish.uses, part, held, wish.positions)
    short = tuple(use for use in wish.uses if _is_short(use, part, given))
    return _Choice(part=part, contacts=given, lacking=tuple(_lacks(part, _but_clamps(wish))), short=short)


def _but_clamps(wish: _Wish) -> _Wish:
    """Return what is asked of a device but for the section that it takes, which is judged where its wires land."""
    return replace(wish, need=replace(wish.need, mm2=0.0)) if wish.need is not None and wish.need.mm2 else wish


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
        if bare is not None and _serves(kept := _with_coil(bare, wish), wish):
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


def _not_behind_the_panel(circuit: Circuit) -> frozenset[str]:
    """Return the devices that the panel's own protection does not back up: of excepted circuits, and of other supplies."""
    others = [
        path for path in circuit.paths
        if path.is_excepted or any("." in name and name[0] != "@" for nodes in nodes_of(path.items) for name in nodes.names)
    ]  # fmt: skip
    owners = {path.owner for path in others if path.owner is not None}
    drawn = {ref.device for path in others for ref in refs_of(path.items)}
    return frozenset(drawn | {device.id for device in circuit.devices if device.owner in owners})


def _before(
    device: CircuitDevice, need: Need | None, parts: Mapping[str, Part], standard: Standard, *, is_behind: bool
) -> Before | None:
    """Return what stands ahead of a part that must stand a fault current; `is_behind` the panel's own protection."""
    if need is None or not need.strength_ka:
        return None
    feeder = panel_protection(parts) if is_behind and device.owner != "incoming" and device.id != "Q0" else None
    return Before(
        is_iec=standard is Standard.IEC, available_ka=need.strength_ka, branch=parts.get(need.behind or ""), feeder=feeder,
        hp=need.motor_hp, is_way_in=device.owner == "incoming",
    )  # fmt: skip


def _serves(kept: Part, wish: _Wish) -> bool:
    """Return whether the part of the ledger does what is asked and its rating is no larger than that takes."""
    if next(_find_lacks(kept, wish, but_contacts=False), None) is not None or _count_short(kept, wish):
        return False
    least = next(_candidates(wish), None)
    return least is None or all(kept.rating(n) <= least.rating(n) + 1e-9 for n in ("amps", "amps_max", "va", "m3h"))


def _candidates(wish: _Wish) -> Iterator[Part]:
    """Yield parts, the preferred first: smaller ratings and sizes, and blocks only where contacts are asked for.

    Where none does all that is asked, the one that lacks least of the ratings comes first, of ranges one that holds the setting.
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
    fitting = _serving(bases, wish)
    if not fitting and wish.need is not None and wish.need.mm2:
        wish = _but_clamps(wish)
        fitting = _serving(bases, wish)
    is_short = not fitting
    if is_short:
        lacking = {part.code: len(_lacks(_with_coil(part, wish), wish, but_contacts=True)) for part in bases}
        least = min(lacking.values())
        fitting = [part for part in bases if lacking[part.code] == least]
        allowed = [
            part
            for part in fitting
            if wish.need is None or not wish.need.most or part.rating("amps") <= wish.need.most + 1e-9
        ]
        fitting = allowed or fitting
    if is_short and wish.need is not None:
        setting, wanted, poles = wish.need.setting or 0.0, least_ratings(wish.need), _poles_asked(wish)
        fitting.sort(
            key=lambda p: (
                abs((poles or p.poles) - p.poles),
                not p.rating("amps_min") <= setting <= p.rating("amps_max"),
                sum(max(1.0 - p.rating(name) / least, 0.0) for name, _, least in wanted),
                max(p.rating("amps"), p.rating("amps_max"), p.rating("va"), p.rating("m3h")),
            )
        )
    else:
        fitting.sort(
            key=lambda p: (
                _is_at_the_end(p, wish),
                p.rating("amps"),
                p.rating("amps_max"),
                p.width * p.height,
                _is_unusual(p),
                len(p.elements),
            )
        )
    return tuple(fitting)


def _is_unusual(part: Part) -> bool:
    """Return whether a part is an overload relay with one changeover in place of the usual 95-96 and 97-98."""
    return part.kind == "overload" and any(element.kind is ElementKind.CO for element in part.elements)


def _is_at_the_end(part: Part, wish: _Wish) -> bool:
    """Return whether a setting lies so near the end of a range that a motor a little larger or smaller does not fit it.

    Source:
        A twentieth of the setting to both sides: common practice, no source.
    """
    setting = wish.need.setting if wish.need is not None else None
    if setting is None or not part.rating("amps_max"):
        return False
    return not part.rating("amps_min") <= setting * (1 - _SIDE) <= setting * (1 + _SIDE) <= part.rating("amps_max")


_SIDE = 0.05


def _serving(bases: Sequence[Part], wish: _Wish) -> list[Part]:
    """Return the parts that lack nothing but perhaps contacts; what most of them fail by is looked at first."""
    need, poles = wish.need, _poles_asked(wish)
    least = [(name, wanted - 1e-9) for name, _, wanted in least_ratings(need)] if need is not None else []
    curves = need.curves if need is not None else ()
    return [
        part for part, there in zip(bases, poles_of_kind(wish.device.kind), strict=True)
        if (not curves or part.traits.get("curve") in curves)
        and all(part.ratings.get(name, 0.0) >= wanted for name, wanted in least)
        and _do_poles_fit(part.kind, there, poles)
        and next(_find_lacks(_with_coil(part, wish), wish, but_contacts=True), None) is None
    ]  # fmt: skip


def _poles_asked(wish: _Wish) -> int:
    return max(wish.demand.poles, wish.device.poles or 0)


def _do_poles_fit(kind: str, there: int, poles: int) -> bool:
    """Return whether a part with so many poles does where so many are asked for; 0 is a part without any, or no wish."""
    return not there or not poles or there == poles or (kind not in _EXACT_POLES and there > poles)


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
    if use.ref.marks is not None:
        return False  # said of the part: it has not the marks asked for
    return any(mark.endswith("*") for side in ends_of(use, part, None) for mark in side)


def _lacks(part: Part, wish: _Wish, *, but_contacts: bool = False) -> list[str]:
    """Return what the part lacks in words; empty if it serves."""
    return list(_find_lacks(part, wish, but_contacts=but_contacts))


def _find_lacks(part: Part, wish: _Wish, *, but_contacts: bool) -> Iterator[str]:
    device = wish.device
    yield from _lacks_form(part, wish)
    if not but_contacts and device.contacts is not None and _wants_more_contacts(part, device.contacts):
        yield f"contacts {' '.join(device.contacts)}"
    marks = wish.demand.marks
    if not but_contacts and marks and not all(any(holds_marks(e, m) for e in part.elements) for m in marks):
        yield "the marks asked for"
    if device.positions and sum(e.kind is ElementKind.NO for e in part.elements) < len(device.positions):
        yield f"{len(device.positions)} positions"
    for name, least in device.least.items():
        kind = _CHANNELS.get(name)
        there = sum(e.kind is kind for e in part.elements) if kind is not None else part.rating(name)
        if there < least - 1e-9:
            yield f"{least:g} {name} (it has {there:g})"
    if wish.coil is not None and "coils" in part.traits and "volts" not in part.ratings:
        yield f"a coil or lamp for {wish.coil.volts:.0f} V {wish.coil.current}"
    if wish.need is not None:
        yield from find_rating_lacks(part, wish.need)
        yield from _lacks_strength(part, wish)


_CHANGEOVERS = (("no", "nc", "co"), ("tno", "tnc", "tco"))


def _wants_more_contacts(part: Part, asked: Sequence[str]) -> bool:
    """Return whether a part has not the contacts asked for; a changeover serves as a make or a break contact too."""
    left = Counter(asked)
    there = Counter(str(e.kind) for e in part.elements if e.kind in CONTACT_KINDS)
    there, left = there - left, left - there
    return any(left[make] + left[break_] > there[both] for make, break_, both in _CHANGEOVERS) or bool(
        left.keys() - {sort for make, break_, _ in _CHANGEOVERS for sort in (make, break_)}
    )


def _lacks_form(part: Part, wish: _Wish) -> Iterator[str]:
    """Yield what it lacks in poles, leads, colour, world of standards and traits."""
    device = wish.device
    poles, there = _poles_asked(wish), part.poles
    if not _do_poles_fit(part.kind, there, poles):
        yield f"{poles} poles (it has {there})"
    if part.kind in _LEADS and poles:
        kinds = {ElementKind.LOAD, ElementKind.WINDING}
        leads = max(poles, 2)  # what stands in one wire has that on both sides
        if len({m for e in part.elements if e.kind in kinds for m in e.marks}) != leads:
            yield f"{leads} leads"
    if device.colour is not None and part.traits.get("colour", device.colour) != device.colour:
        yield f"colour {device.colour}"
    if part.kind in _BY_WORLD:
        words = part.traits.get("type", "")
        if wish.standard.value.upper() not in words or "supplementary" in words:
            yield f"one made for {wish.standard.value.upper()}"
    for trait, value in device.wants.items():
        if part.traits.get(trait) != value:
            yield f"{trait} {value}"
    if part.traits.get("curve") == "electronic" and not _may_be_electronic(wish):
        yield "protection for AC"
    for trait, words in _ONLY_WHERE_WANTED.items():
        if trait in part.traits and trait not in device.wants:
            yield words


_ONLY_WHERE_WANTED = {
    "lock": "no key",
    "return": "no spring return",
    "use": "a place in the field",
    "action": "no alternation",
    "form": "no switch of its own",
}
"""Traits of parts that nobody gets unasked, with what they lack then."""


def _may_be_electronic(wish: _Wish) -> bool:
    """Return whether a protector for DC alone is asked for: by its circuit, or by a person's `curve`."""
    return (wish.need is not None and "electronic" in wish.need.curves) or wish.device.wants.get(
        "curve"
    ) == "electronic"


def _lacks_strength(part: Part, wish: _Wish) -> Iterator[str]:
    """Yield what it lacks of the fault current that it must stand where it is."""
    need, before = wish.need, wish.before
    if need is None or before is None:
        return
    strength = strength_of(part, before)
    there = strength.ka if strength is not None else 0.0
    if there < need.strength_ka - 1e-9:
        yield f"{need.strength_ka:.4g} kA (it has {there:g})"
