"""Owns what a script claims of a panel, and whether it is so now. Must not know what is done to it."""

import re
from collections.abc import Sequence
from dataclasses import dataclass

from riktig.live.currents import LIVE_VOLTS
from riktig.live.gear import ActionError
from riktig.live.names import Names
from riktig.live.questions import floats
from riktig.live.simulation import Simulation

_COMPARED = re.compile(r"^(\S+)\s*(<=|>=|<|>)\s*(-?[\d.]+)\s*(mV|V|kV|mA|A|kA)$")
_UNITS = {"mV": ("V", 1e-3), "V": ("V", 1.0), "kV": ("V", 1e3), "mA": ("A", 1e-3), "A": ("A", 1.0), "kA": ("A", 1e3)}
WORDS = frozenset({
    "on", "off", "forward", "reverse", "stopped", "star", "delta", "single-phasing", "live", "dead", "floating", "tripped", "healthy",
    "operated", "released", "elapsed", "waiting", "welded", "chattering", "ready", "starting", "running", "stopping",
})  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class Claim:
    """One thing that is said of a name: a word, or that a value is more or less than a number (in V or A)."""

    name: str
    word: str = ""
    sign: str = ""
    value: float = 0.0
    unit: str = ""
    is_not: bool = False

    @property
    def text(self) -> str:
        """The claim as people write it."""
        said = self.word or f"{self.sign} {self.value:g} {self.unit}"
        return f"{'not ' if self.is_not else ''}{self.name} {said}"


def read_claims(text: str) -> tuple[Claim, ...]:
    """Return the claims of a text, joined by `and`: `K1 on`, `K1` (is on), `not K1`, `M1 forward`, `17 dead`, `B1 > 3.5 mA`.

    Raises:
        ActionError: it is none.
    """
    return tuple(_read(one.strip()) for one in re.split(r"\band\b", text))


def _read(text: str) -> Claim:
    bare = text.removeprefix("not ")
    is_not = bare != text
    compared = _COMPARED.match(bare)
    if compared:
        name, sign, value, unit = compared.groups()
        base, factor = _UNITS[unit]
        try:
            return Claim(name=name, sign=sign, value=float(value) * factor, unit=base, is_not=is_not)
        except ValueError:
            raise ActionError(f"{value} is no number") from None
    words = bare.split()
    if len(words) == 1:
        return Claim(name=words[0], word="on", is_not=is_not)
    if len(words) == 2:
        return Claim(name=words[0], word=words[1], is_not=is_not)
    raise ActionError(f"{text!r} claims nothing: NAME WORD, or NAME > NUMBER UNIT")


def holds(simulation: Simulation, names: Names, claim: Claim) -> bool:
    """Return whether a claim is so now.

    Raises:
        ActionError: nothing is called so, or it has no such state.
    """
    if claim.sign:
        value = measure(simulation, names, claim.name, claim.unit)
        is_so = {
            "<": value < claim.value,
            ">": value > claim.value,
            "<=": value <= claim.value,
            ">=": value >= claim.value,
        }[claim.sign]
    elif claim.word == "floating":
        is_so = floats(simulation, simulation.rig.node(names.terminal_of(claim.name)))
    elif claim.word in {"live", "dead"}:
        is_so = (volts_of(simulation, names, claim.name) >= LIVE_VOLTS) == (claim.word == "live")
    else:
        states = simulation.gears[names.device(claim.name)].states
        if claim.word not in WORDS | states | _positions(simulation, names, claim.name):
            raise ActionError(f"{claim.word} is no state: {', '.join(sorted(WORDS))}")
        is_so = claim.word in states
    return is_so != claim.is_not


def _positions(simulation: Simulation, names: Names, name: str) -> frozenset[str]:
    return frozenset(getattr(simulation.gears[names.device(name)], "choices", ()))


def all_hold(simulation: Simulation, names: Names, claims: Sequence[Claim]) -> bool:
    """Return whether all of some claims are so now."""
    return all(holds(simulation, names, claim) for claim in claims)


def volts_of(simulation: Simulation, names: Names, name: str) -> float:
    """Return the volts to earth of a potential or terminal, AC or DC, the larger.

    Raises:
        ActionError: there is none.
    """
    node = simulation.rig.node(names.terminal_of(name))
    return float(max(abs(simulation.volts.ac[node]), abs(simulation.volts.dc[node])))


def measure(simulation: Simulation, names: Names, name: str, unit: str) -> float:
    """Return the volts of a potential to earth or across a device, or the current through a device in A.

    Raises:
        ActionError: nothing is called so, or it leads no current of its own.
    """
    if not names.has_device(name):
        if unit == "A":
            raise ActionError(f"the current of {name} is asked for at a device: a breaker, an overload, a motor")
        return volts_of(simulation, names, name)
    gear = simulation.gears[names.device(name)]
    if not gear.probes:
        raise ActionError(f"{name} leads no current of its own")
    if unit == "A":
        return max(abs(simulation.amps(probe, is_dc=is_dc)) for probe in gear.probes for is_dc in (False, True))
    a, b, *_ = simulation.network.elements[gear.probes[0]]
    return max(simulation.across(a, b, is_dc=is_dc) for is_dc in (False, True))


def now_is(simulation: Simulation, names: Names, claim: Claim) -> str:
    """Return what is so in place of a claim that is not."""
    if claim.sign:
        return f"{claim.name} {measure(simulation, names, claim.name, claim.unit):.4g} {claim.unit}"
    if claim.word in {"live", "dead", "floating"}:
        return f"{claim.name} {volts_of(simulation, names, claim.name):.3g} V"
    states = simulation.gears[names.device(claim.name)].states
    return f"{claim.name} {', '.join(sorted(states)) or 'has no state'}"
