"""Owns how much short-circuit current a part stands where it is, and why. Must not know the circuit."""

from collections.abc import Mapping
from dataclasses import dataclass

from riktig.catalogue.model import Part
from riktig.standards import iec_60947_4_1, iec_61439_1, ul_508a
from riktig.units.numbers import format_number

PROTECTING = frozenset({"breaker", "fuse", "motor-breaker"})
PANEL_PROTECTION = "incoming.FP"
"""What protects the whole panel behind its main switch; a main breaker or fused switch does both."""


def panel_protection(parts: Mapping[str, Part]) -> Part | None:
    """Return the part that protects the whole panel: behind its main switch, or that switch itself; None without one."""
    main = parts.get("Q0")
    return parts.get(PANEL_PROTECTION) or (main if main is not None and main.kind in PROTECTING else None)


_COMBINED = frozenset({"contactor", "overload"})
_SOURCE_SERIES = "series rating as marked on the parts: UL 489, NEC 240.86, UL 508A SB4.4, from memory"
_SOURCE_BACKUP = "back-up protection as the maker states: IEC 60947-2 Annex A, from memory"
_SOURCE_COORDINATION = "conditional rating with its short-circuit device: IEC 60947-4-1 8.2.5, from memory"
_SOURCE_MARK = "the part's own marking"


@dataclass(frozen=True, slots=True, kw_only=True)
class Before:
    """What stands ahead of a part: the world, the protection of its `branch` and that of the panel (`feeder`), the fault
    current in kA ahead of them, the motor's power in hp, and whether it is part of the way in, which a device in the supply
    protects.
    """

    is_iec: bool
    available_ka: float
    branch: Part | None = None
    feeder: Part | None = None
    hp: float = 0.0
    is_way_in: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Strength:
    """What a part stands in kA: `own_ka` by itself or in its combination, `ka` after what stands ahead raised it.

    `how` is marked, default, combination, series, back-up or let-through; `why` says it in words.
    """

    own_ka: float
    ka: float
    how: str
    why: str
    source: str


def strength_of(part: Part, before: Before) -> Strength | None:
    """Return what a part stands, None for a part that no short-circuit current flows through or that has no rating."""
    found = _own_strength(part, before)
    if found is None or found.ka >= before.available_ka:
        return found
    if part.kind in PROTECTING:
        return _raised_in_series(part, before, found)
    return _raised_by_let_through(before, found)


def _plain(ka: float, how: str, why: str, source: str) -> Strength:
    return Strength(own_ka=ka, ka=ka, how=how, why=why, source=source)


def _own_strength(part: Part, before: Before) -> Strength | None:
    if part.kind in PROTECTING or part.kind in {"drive", "soft-starter"}:
        ka = part.rating("breaking_ka")
        words = "breaking capacity" if part.kind in PROTECTING else "marked"
        if ka:
            return _plain(ka, "marked", f"{words} {ka:g} kA", _SOURCE_MARK)
    elif part.rating("sccr_ka") and not before.is_iec:
        return _plain(part.rating("sccr_ka"), "marked", f"marked {part.rating('sccr_ka'):g} kA", _SOURCE_MARK)
    return _iec_strength(part, before) if before.is_iec else _ul_strength(part, before)


def _iec_strength(part: Part, before: Before) -> Strength | None:
    """Return the conditional rating with the device ahead, else the current that a contactor is tested with."""
    if part.kind == "disconnect":
        ka, amps = part.rating("icc_ka"), part.rating("amps")
        why = f"conditional {ka:g} kA behind a gG fuse of at most {amps:g} A, in the panel or in its supply"
        return _plain(ka, "combination", why, "IEC 60947-3, from memory") if ka else None
    if part.kind not in _COMBINED:
        return None
    ka, most, branch = part.rating("iq_ka"), part.rating("scpd_max_a"), before.branch
    ahead = _rated_a(branch) if branch is not None else 0.0
    if ka and branch is None and before.is_way_in:
        why = f"conditional {ka:g} kA behind at most {most:g} A in the supply of the panel"
        return _plain(ka, "combination", why, _SOURCE_COORDINATION)
    if ka and branch is not None and ahead <= most:
        why = f"conditional {ka:g} kA behind at most {most:g} A (there: {branch.title[:1].lower()}{branch.title[1:]})"
        return _plain(ka, "combination", why, _SOURCE_COORDINATION)
    tested = iec_60947_4_1.test_current_ka(max(part.rating("amps"), part.rating("amps_max")))
    if tested is None:
        return None
    why = f"tested with {tested:g} kA only: no coordination is stated for {ahead:g} A ahead"
    return _plain(tested, "default", why, str(iec_60947_4_1.SOURCE_TEST))


def _rated_a(part: Part) -> float:
    return max(part.rating("amps"), part.rating("amps_max"))


def _ul_strength(part: Part, before: Before) -> Strength | None:
    """Return the tested combination with the branch device ahead, else the default of an unmarked component."""
    branch = before.branch
    if part.kind in _COMBINED and branch is not None:
        if branch.kind == "motor-breaker" and branch.rating("type_f_ka"):
            ka = branch.rating("type_f_ka")
            return _plain(ka, "combination", f"type F combination {ka:g} kA", "UL 60947-4-1 type F, from memory")
        name = "sccr_fuse_ka" if branch.kind == "fuse" else "sccr_breaker_ka"
        ka, most = part.rating(name), part.rating("sccr_max_a")
        if ka and (not most or _rated_a(branch) <= most):
            upto = f" of at most {most:g} A" if most else ""
            return _plain(ka, "combination", f"marked {ka:g} kA behind a {branch.kind}{upto}", _SOURCE_MARK)
    default = ul_508a.default_ka(part.kind, before.hp)
    if default is None:
        return None
    words = f"unmarked: assumed {default:g} kA"
    return _plain(default, "default", words, str(ul_508a.SOURCE_DEFAULT))


def _raised_in_series(part: Part, before: Before, own: Strength) -> Strength:
    """Return what a branch's own protection stands behind the panel's: only as a tested series, never by let-through."""
    feeder = before.feeder
    if feeder is None or feeder is part:
        return own
    amps = feeder.rating("amps")
    if before.is_iec:
        ka = part.rating("backup_ka")
        if ka > own.ka and feeder.kind == "fuse" and amps <= part.rating("backup_fuse_a"):
            why = f"{own.why}, backed up to {ka:g} kA by {feeder.title}"
            return Strength(own_ka=own.own_ka, ka=ka, how="back-up", why=why, source=_SOURCE_BACKUP)
        return own
    ka, behind = part.rating("series_ka"), part.traits.get("series_behind", "")
    family, fuse = feeder.code.partition("-")[0], f"class {feeder.traits.get('fuse_class', '-')}"
    if ka > own.ka and (family in behind.split() or fuse in behind) and amps <= part.rating("series_max_a"):
        why = f"{own.why}, series rated {ka:g} kA behind {feeder.title}"
        return Strength(own_ka=own.own_ka, ka=ka, how="series", why=why, source=_SOURCE_SERIES)
    return own


def _raised_by_let_through(before: Before, own: Strength) -> Strength:
    """Return what a component stands behind current-limiting fuses of the panel; those of its own branch do not count.

    Source:
        UL 508A SB4.3.1 to SB4.3.3, from memory: the peak let-through of the feeder's fuses must not exceed the rating of
        the component. In the other world the cut-off current is compared for the whole assembly, not for a part.
    """
    feeder = before.feeder
    fuse = feeder.traits.get("fuse_class") if feeder is not None else None
    if before.is_iec or feeder is None or fuse is None:
        return own
    peak = ul_508a.let_through_ka(fuse, feeder.rating("amps"), before.available_ka)
    if peak is None or peak > own.ka:
        words = "the table does not reach" if peak is None else f"they let {peak:g} kA through"
        return Strength(own_ka=own.own_ka, ka=own.ka, how=own.how, source=own.source,
                        why=f"{own.why}; the panel's class {fuse} fuses do not raise it: {words}")  # fmt: skip
    raised = min(feeder.rating("breaking_ka"), before.available_ka)
    why = f"{own.why}; raised to {raised:g} kA: class {fuse} {feeder.rating('amps'):g} A lets {peak:g} kA through"
    return Strength(own_ka=own.own_ka, ka=raised, how="let-through", why=why, source=str(ul_508a.SOURCE_LET_THROUGH))


def peak_words(available_ka: float) -> str:
    """Return the peak of a prospective current in words."""
    return f"{format_number(iec_61439_1.peak_ka(available_ka))} kA peak"
