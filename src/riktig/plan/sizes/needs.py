"""Owns what sizing asks of a part, and which ratings a part lacks of it. Must not choose parts."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from math import inf

from riktig.catalogue.model import LANE_KINDS, Part


@dataclass(frozen=True, slots=True, kw_only=True)
class Need:
    """What sizing asks of a part: least `amps` (at most `most`), `va`, `inrush_va`, `hp` at 460 V, `ac4` current, `air` in m3/h
    and rated `volts`, a `setting` in A inside its range and the least `top` of that range, a `curve`, and what it must stand in kA
    where it is: behind the part of device `behind` in its branch. `quantity`, `formula`, `source`, `inputs` explain it.

    `mm2` is the section that its power clamps must take. `asked` and `limit` are what its circuit asks for at least and at most where a
    person gave another rating.
    """

    quantity: str
    formula: str
    source: str
    amps: float = 0.0
    setting: float | None = None
    va: float = 0.0
    inrush_va: float = 0.0
    curves: tuple[str, ...] = ()
    strength_ka: float = 0.0
    most: float = 0.0
    top: float = 0.0
    ac4: float = 0.0
    air: float = 0.0
    volts: float = 0.0
    hp: float = 0.0
    motor_hp: float = 0.0
    mm2: float = 0.0
    asked: float = 0.0
    limit: float = 0.0
    behind: str | None = None
    inputs: Mapping[str, float | str] = field(default_factory=dict)
    places: Mapping[str, str] = field(default_factory=dict)
    reason: str | None = None
    computed: float | None = None

    @property
    def numbers(self) -> tuple[object, ...]:
        """All that a part is chosen by."""
        return (
            self.amps, self.setting, self.va, self.inrush_va, self.curves, self.strength_ka, self.most, self.top, self.ac4,
            self.hp, self.motor_hp, self.air, self.volts, self.mm2,
        )  # fmt: skip


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


def lacks_rating(part: Part, need: Need) -> list[str]:
    """Return what of a need the ratings of a part do not reach, in words; empty if they do."""
    return list(find_rating_lacks(part, need))


def least_ratings(need: Need) -> list[tuple[str, str, float]]:
    """Return which ratings must reach what: name, unit and least value."""
    asked = (
        ("amps", "A", need.amps), ("va", "VA", need.va), ("inrush_va", "VA of inrush", need.inrush_va),
        ("hp_460", "hp", need.hp), ("amps_ac4", "A in AC-4", need.ac4), ("amps_max", "A at the upper end of its range", need.top),
        ("m3h", "m³/h", need.air),
    )  # fmt: skip
    return [(name, unit, wanted) for name, unit, wanted in asked if wanted]


def find_rating_lacks(part: Part, need: Need) -> Iterator[str]:
    """Yield what a part lacks of a need in words; not what it must stand where it is, which depends on what stands ahead."""
    for name, unit, wanted in least_ratings(need):
        if part.rating(name) < wanted - 1e-9:
            yield f"{wanted:.4g} {unit} (it has {part.rating(name):g})"
    rated_v = part.rating("volts_max")
    if rated_v and rated_v < need.volts - 1e-9:
        yield f"{need.volts:g} V (it is for {rated_v:g})"
    if need.most and part.rating("amps") > need.most + 1e-9:
        yield f"at most {need.most:.4g} A (it has {part.rating('amps'):g})"
    if need.setting is not None and not part.rating("amps_min") <= need.setting <= part.rating("amps_max"):
        yield f"a range with {need.setting:.4g} A in it"
    if need.curves and part.traits.get("curve") not in need.curves:
        yield f"curve {' or '.join(need.curves)}"
    if need.mm2 and (clamp := power_clamp_mm2(part)) < need.mm2 - 1e-9:
        yield f"clamps for {need.mm2:.3g} mm² (they take {clamp:g})"


def power_clamp_mm2(part: Part) -> float:
    """Return the section that all power terminals of a part take, infinite where it has none."""
    marks = {mark for element in part.elements if element.kind in LANE_KINDS for mark in element.marks}
    return min((t.clamp.mm2_max for t in part.terminals if t.mark in marks), default=inf)
