"""Owns what is said of a sized value beside its formula: margin, where its inputs are decided, and its neighbours.

A neighbour is the next smaller and the next larger choice, with what it would do.
"""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

from riktig.catalogue.loader import find_part, parts_of_kind
from riktig.catalogue.model import Part
from riktig.job.edits import replace
from riktig.job.model import Starter
from riktig.plan.basis.conductor import Laid, carries_a, carry_words, laid_outside, least_size, sizes
from riktig.plan.basis.sized import SizedValue
from riktig.plan.plan import Plan
from riktig.plan.sizes.heat import surface_m2
from riktig.plan.sizes.needs import lacks_rating
from riktig.plan.sizes.short_circuit import PANEL
from riktig.plan.sizes.starter import drops_of, size_starter
from riktig.standards import iec_60890, iec_60947_4_1, nec
from riktig.units.conductor_size import ConductorSize
from riktig.units.numbers import format_number

_WORDS = {
    "power": ("motor power", ""), "kw": ("motor power", "kW"), "volts": ("voltage", "V"), "amps": ("nameplate current", "A"),
    "efficiency": ("efficiency", ""), "cos_phi": ("power factor", ""), "motor_current": ("motor current", "A"),
    "service_factor": ("service factor", ""), "current": ("current", "A"), "air": ("air around it", "°C"),
    "grouped": ("circuits together", ""), "length_m": ("length", "m"), "section": ("section", ""), "line": ("line conductor", ""),
    "start_s": ("start takes", "s"), "share": ("share of the motor current", ""), "hold_va": ("held at once", "VA"),
    "hold_w": ("load", "W"), "va": ("transformer", "VA"), "watts": ("supply", "W"), "full_load": ("full load", "A"),
    "fault_ka": ("fault current", "kA"), "weakest": ("weakest part", ""), "ambient": ("air around the panel", "°C"),
    "area_m2": ("effective surface", "m²"), "material": ("walls", ""), "mounting": ("mounting", ""), "losses": ("losses", "W"),
    "devices_w": ("devices", "W"), "wires_w": ("wires", "W"), "diversity": ("diversity", ""), "motors_a": ("motors", "A"),
    "others_a": ("all else", "A"), "locked": ("largest motor starting", "A"), "given": ("as given", ""), "lines": ("lines", ""),
    "coldest": ("coldest air around it", "°C"), "hold": ("held at once", "VA"), "inrush_extra": ("largest pull-in adds", "VA"),
}  # fmt: skip
_HIDDEN = frozenset({"size", "needed"})
_SECTIONS = frozenset({"conductor_section", "lead_section", "cable_section", "main_section"})
_DROPS = ("voltage_drop", "start_drop")
_SIMILAR = ("curve", "type", "trip_class", "class_2", "fuse_class")
_STEP_MM = 200.0


@dataclass(frozen=True, slots=True, kw_only=True)
class InputLine:
    """An input in words; `place` leads to where it is decided: `starter.M1.kw` in the brief, or a device; None: nowhere."""

    name: str
    text: str
    place: str | None


@dataclass(frozen=True, slots=True, kw_only=True)
class Explanation:
    """A sized value with its margin in words (None without a limit), its inputs, and both its neighbours ("" if none)."""

    value: SizedValue
    margin: str | None
    inputs: tuple[InputLine, ...]
    smaller: str
    larger: str


def explain_all(plan: Plan, values: Sequence[SizedValue]) -> tuple[Explanation, ...]:
    """Return the explanations of several values."""
    return tuple(explain(plan, value) for value in values)


def explain(plan: Plan, value: SizedValue) -> Explanation:
    """Return what there is to be said of a value."""
    smaller, larger = _neighbours(plan, value)
    return Explanation(
        value=value, margin=_margin_words(value), inputs=_inputs(plan, value), smaller=smaller, larger=larger
    )


def _margin_words(value: SizedValue) -> str | None:
    margin = value.margin_percent
    if margin is None:
        return None
    limit = value.needed if value.needed else value.most
    unit = "A" if value.carries is not None else value.unit.replace("mm2", "mm²")
    sort = "needed" if value.needed else "at most"
    there = f"{format_number(value.carries)} A, " if value.carries is not None else ""
    words = f"{abs(margin):.0f} % {'to spare' if margin >= -1e-9 else 'short'}"
    return f"{words}: {there}{sort} {format_number(limit or 0.0)} {unit}"


def _inputs(plan: Plan, value: SizedValue) -> tuple[InputLine, ...]:
    lines = []
    for name, given in value.inputs.items():
        if name in _HIDDEN:
            continue
        words, unit = _WORDS.get(name, (name.replace("_", " "), ""))
        text = plan.tags.get(given, given) if isinstance(given, str) else f"{format_number(given)} {unit}".strip()
        lines.append(InputLine(name=words, text=text, place=value.places.get(name)))
    return tuple(lines)


def _neighbours(plan: Plan, value: SizedValue) -> tuple[str, str]:
    if value.quantity in _SECTIONS:
        return _of_sections(plan, value)
    if value.quantity in _DROPS:
        return _of_drops(plan, value)
    special: Mapping[str, Callable[[Plan, SizedValue], tuple[str, str]]] = {
        "motor_current": _of_motor, "overload_setting": _of_range, "earth_section": _of_earth,
        "short_circuit_rating": _of_rating, "temperature_rise": _of_rise,
    }  # fmt: skip
    if value.quantity in special:
        return special[value.quantity](plan, value)
    return _of_part(plan, value) if value.subject in plan.needs and value.subject in plan.parts else ("", "")


def _starter(plan: Plan, value: SizedValue) -> Starter | None:
    sizes = plan.starters.get(value.subject) or plan.starters.get(value.subject.partition(".")[0])
    return sizes.starter if sizes is not None else None


def _beside(size_mm2: float, listed: Sequence[ConductorSize]) -> tuple[ConductorSize | None, ConductorSize | None]:
    below = [s for s in listed if s.mm2 < size_mm2 - 1e-6]
    above = [s for s in listed if s.mm2 > size_mm2 + 1e-6]
    return (below[-1] if below else None), (above[0] if above else None)


def _of_sections(plan: Plan, value: SizedValue) -> tuple[str, str]:
    starter = _starter(plan, value)
    is_cable = value.quantity == "cable_section" and starter is not None
    laid = _laid_outside(plan, value, starter) if value.quantity == "cable_section" else plan.laid_inside

    def words(size: ConductorSize | None) -> str:
        if size is None:
            return ""
        text = _carry_verdict(size, laid, value.needed or 0.0, is_power=plan.job.control(value.subject) is None)
        return text + (_drop_words(plan, starter, size) if is_cable and starter is not None else "")

    smaller, larger = _beside(value.value, sizes(laid))
    return words(smaller), words(larger)


def _laid_outside(plan: Plan, value: SizedValue, starter: Starter | None) -> Laid:
    if starter is not None:
        return plan.starters[starter.name].world.outside
    return laid_outside(plan.job, plan.circuit.device(value.subject).location, to_load=True)


def _carry_verdict(size: ConductorSize, laid: Laid, needed: float, *, is_power: bool) -> str:
    carries = carries_a(size, laid) or 0.0
    if needed <= 0:
        return carry_words(size, laid, needed)
    margin = 100 * (carries / needed - 1)
    verdict = f"{margin:.0f} % to spare" if margin >= -1e-9 else f"{-margin:.0f} % short: too small"
    least = least_size(laid, is_power=is_power)
    if size.mm2 < least.mm2 - 1e-6:
        verdict += f", but below the least section used, {least.label()}"
    return f"{size.label()} carries {format_number(carries)} A, {verdict}"


def _drop_words(plan: Plan, starter: Starter, size: ConductorSize) -> str:
    running, starting = drops_of(starter, plan.motors[starter.name], size, plan.starters[starter.name].world)
    over = [v for v in (running, starting) if v.most is not None and v.value > v.most]
    much = f"; drops {format_number(running.value)} %, starting {format_number(starting.value)} %"
    return much + (f", over the {over[0].most:g} % allowed" if over else "")


def _of_drops(plan: Plan, value: SizedValue) -> tuple[str, str]:
    starter = _starter(plan, value)
    if starter is None:
        return "", ""
    place = _DROPS.index(value.quantity)
    world = plan.starters[starter.name].world

    def words(size: ConductorSize | None) -> str:
        if size is None:
            return ""
        return f"{size.label()} drops {format_number(drops_of(starter, plan.motors[starter.name], size, world)[place].value)} %"

    smaller, larger = _beside(plan.cable_size(starter.name).mm2, sizes(world.outside))
    return words(smaller), words(larger)


def _of_earth(plan: Plan, value: SizedValue) -> tuple[str, str]:
    smaller, larger = _beside(value.value, sizes(plan.laid_inside))
    least = value.needed or 0.0
    return tuple(
        ""
        if size is None
        else f"{size.label()}: {'more than asked' if size.mm2 >= least - 0.01 else 'below what is asked'}"
        for size in (smaller, larger)
    )  # type: ignore[return-value]


def _of_motor(plan: Plan, value: SizedValue) -> tuple[str, str]:
    """Return the currents of the next smaller and larger motor of the table."""
    starter = _starter(plan, value)
    if starter is None:
        return "", ""
    is_kw = starter.kw is not None
    listed = iec_60947_4_1.listed_powers_kw() if is_kw else nec.listed_powers_hp(starter.phases)
    power, unit = (starter.kw if is_kw else starter.hp) or 0.0, "kW" if is_kw else "hp"

    def words(other: float | None) -> str:
        if other is None:
            return ""
        fields = {"amps": None, "kw": other if is_kw else None, "hp": None if is_kw else other}
        sized = size_starter(replace(starter, **fields), plan.starters[starter.name].world)
        return f"{other:g} {unit} draws {format_number(sized.motor.current)} A and takes {sized.line.label()}"

    below = [p for p in listed if p < power - 1e-9]
    above = [p for p in listed if p > power + 1e-9]
    return words(below[-1] if below else None), words(above[0] if above else None)


def _likes(part: Part, name: str) -> list[Part]:
    """Return parts of the same sort that differ in a rating, smaller first; one of each rating."""
    found: dict[float, Part] = {}
    for other in parts_of_kind(part.kind):
        is_like = all(other.traits.get(t) == part.traits.get(t) for t in _SIMILAR) and other.poles == part.poles
        if is_like and (other.rating(name) != part.rating(name)):
            found.setdefault(other.rating(name), other)
    return [found[rating] for rating in sorted(found)]


def _of_part(plan: Plan, value: SizedValue) -> tuple[str, str]:
    """Return the neighbours of a chosen part in the catalogue, and what they lack or have too much."""
    part, need = plan.parts[value.subject], plan.needs[value.subject]
    base = find_part(part.code.partition("@")[0].partition("+")[0]) or part
    name = next(
        (n for n in ("m3h", "va", "amps", "amps_max") if base.rating(n) and (n != "va" or value.unit in {"VA", "W"})),
        "amps",
    )

    def words(other: Part | None) -> str:
        if other is None:
            return ""
        lacking = lacks_rating(other, need)
        if lacking:
            return f"{other.title}: does not serve, it needs {', '.join(lacking)}"
        over = f", {100 * (other.rating(name) / value.needed - 1):.0f} % to spare" if value.needed else ""
        return f"{other.title}: serves too{over}"

    likes = _likes(base, name)
    below = [p for p in likes if p.rating(name) < base.rating(name)]
    above = [p for p in likes if p.rating(name) > base.rating(name)]
    return words(below[-1] if below else None), words(above[0] if above else None)


def _of_range(plan: Plan, value: SizedValue) -> tuple[str, str]:
    """Return the neighbouring ranges of what is set."""
    part = plan.parts.get(value.subject)
    if part is None or not part.rating("amps_max"):
        return "", ""
    base = find_part(part.code.partition("@")[0].partition("+")[0]) or part

    def words(other: Part | None) -> str:
        if other is None:
            return ""
        low, high = other.rating("amps_min"), other.rating("amps_max")
        verdict = "holds it too" if low <= value.value <= high else "does not hold it"
        return f"{low:g} to {high:g} A {verdict}"

    likes = _likes(base, "amps_max")
    below = [p for p in likes if p.rating("amps_max") < base.rating("amps_max")]
    above = [p for p in likes if p.rating("amps_max") > base.rating("amps_max")]
    return words(below[-1] if below else None), words(above[0] if above else None)


def _of_rating(plan: Plan, value: SizedValue) -> tuple[str, str]:
    """Return what the panel would stand if its weakest parts were stronger."""
    links = [link for branch in plan.panel.short_circuit.branches for link in branch.links]
    steps = sorted({link.strength.ka for link in links})
    if len(steps) < 2:
        return "", ""
    following = dict.fromkeys(plan.tags[x.device] for x in links if x.strength.ka == steps[1])
    weakest = ", ".join(plan.tags[d] for d in plan.panel.sccr_limited_by)
    return "", f"with {weakest} raised the panel would stand {steps[1]:g} kA, then limited by {', '.join(following)}"


def _of_rise(plan: Plan, value: SizedValue) -> tuple[str, str]:
    """Return how warm it would get in a lower and a higher enclosure."""
    heat, box = plan.panel.heat, plan.job.enclosure

    def words(height: float) -> str:
        if height < _STEP_MM:
            return ""
        area = surface_m2(box.model_copy(update={"height": height}))
        rise = iec_60890.temperature_rise_k(plan.panel.heat_w, area, heat.coefficient, heat.fans_m3h)
        return f"{height:g} mm high: {format_number(rise)} K, {format_number(box.ambient + rise)} °C inside"

    return words(box.height - _STEP_MM), words(box.height + _STEP_MM)


def values_of_panel(plan: Plan) -> tuple[SizedValue, ...]:
    """Return the sized values of the whole panel."""
    return tuple(value for value in plan.sizing if value.subject == PANEL)
