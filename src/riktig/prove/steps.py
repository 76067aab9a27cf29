"""Owns what a step of a test is: what is done or between which points is measured, and what must be read. Must not know a Plan."""

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum
from math import inf, isinf

from riktig.units.numbers import format_number, format_ohms


class Phase(StrEnum):
    """What a step proves, in the order of the work."""

    FITTING = "before fitting"
    LOOK = "look"
    THROUGH = "continuity"
    BOND = "bonding"
    APART = "no short"
    INSULATION = "insulation"
    LIVE = "live"
    FUNCTION = "functions"
    RESIDUAL = "residual voltage"

    @property
    def is_live(self) -> bool:
        """Whether the panel is switched on for it."""
        return self in {Phase.LIVE, Phase.FUNCTION, Phase.RESIDUAL}


class Unit(StrEnum):
    """In what a step is read; SEEN is yes or no."""

    OHM = "ohms"
    VOLT = "volts"
    MEGOHM = "megohms"
    SEEN = "seen"


PREPARATIONS: Mapping[Phase, str] = {
    Phase.FITTING: "Not fitted yet, nothing wired to it. One probe on each mark.",
    Phase.LOOK: "Supply isolated, locked off and proved dead. The drawings of this revision lie beside the panel.",
    Phase.THROUGH: "Supply isolated, locked off and proved dead. Main switch off, all breakers open, earth links out, electronics "
    "unplugged; overloads tripped, emergency stops pressed in. Coils, lamps and windings read low: that is no fault.",
    Phase.BOND: "Supply isolated, locked off and proved dead. One probe stays on the earth clamp of the supply.",
    Phase.APART: "Supply isolated, locked off and proved dead. Main switch off, all breakers open, earth links out, electronics "
    "unplugged; overloads tripped, emergency stops pressed in, motors off their terminals. Clip the terminals of each side together.",
    Phase.INSULATION: "Proved dead. Electronics and surge arresters disconnected. The tester gives up to 500 V: keep hands off, and "
    "discharge each circuit through it afterwards.",
    Phase.LIVE: "Live work: competent persons alone, two of them, one hand, covers on what is not measured. Local code decides.",
    Phase.FUNCTION: "Live. Nobody near what may move; motors uncoupled or not connected. Field signals are mimicked at the terminals.",
    Phase.RESIDUAL: "Switched off and not yet proved dead: treat as live until the reading is below the limit.",
}
"""What is done before the steps of a phase, and the caution that goes with it (common practice, no source)."""
CAUTION = (
    "Mains voltage kills. Live tests are done by competent persons alone, under the local code, after the dead tests. "
    "I know who stands by, where the supply is cut off, and that nobody else works on the panel."
)
"""What a named person acknowledges before the first live step."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Step:
    """A step of a test: a reading from `low` to `high` in `unit` between two sides, or something that is looked at.

    `key` is its subject in events; `as_planned` what a verdict vouches for; `a` and `b` the terminals of each side, several clipped
    together, none where nothing is probed; `do` what is done, in words; `prepare` what is done for this one before, "" for nothing;
    `wire` the conductor that it proves; `expected` what a sound panel reads, None where anything within the limits is as likely.
    """

    key: str
    phase: Phase
    title: str
    as_planned: str
    proves: str
    source: str
    a: tuple[str, ...] = ()
    b: tuple[str, ...] = ()
    unit: Unit = Unit.OHM
    low: float = 0.0
    high: float = inf
    expected: float | None = None
    do: str = ""
    prepare: str = ""
    wire: str | None = None
    of: str = ""
    """The device that it is about, "" where it is a wire or more than one."""
    group: str = ""
    """Under which heading it stands in its phase, "" under none."""

    @property
    def limit_words(self) -> str:
        """What must be read, in words; of what is looked at what must be seen."""
        if self.unit is Unit.SEEN:
            return self.do or "looked at"
        low, high = value_words(self.unit, self.low), value_words(self.unit, self.high)
        if isinf(self.high):
            return f"at least {low}"
        return f"at most {high}" if self.low == 0 else f"{low} to {high}"

    @property
    def is_read(self) -> bool:
        """Whether a number is read, and not just looked."""
        return self.unit is not Unit.SEEN

    def is_passed(self, reading: float) -> bool:
        """Return the verdict on a reading in its unit; an open circuit reads infinite; of something seen 1 is as it should be."""
        return reading >= 1.0 if self.unit is Unit.SEEN else self.low <= reading <= self.high


def value_words(unit: Unit, value: float) -> str:
    """Return a reading as a meter shows it, `OL` for over range, "" of what is only looked at."""
    if unit is Unit.SEEN:
        return ""
    if isinf(value):
        return "OL"
    if unit is Unit.OHM:
        return format_ohms(value)
    return f"{format_number(value)} {'V' if unit is Unit.VOLT else 'MΩ'}"
