"""Owns the cross-section of cables to motors and loads: by current, by drop, so that a fault is cleared. Must not know runs."""

from collections.abc import Callable, Mapping

from riktig.catalogue.model import Part
from riktig.job.model import Job
from riktig.plan.basis.conductor import Laid, choose_size, fitting_sizes, laid_outside, largest_size, sizes
from riktig.plan.basis.sized import SizedValue, chosen_values, value_key
from riktig.plan.circuit.model import Circuit
from riktig.plan.sizes.loops import Line, loop_of
from riktig.plan.sizes.own_loads import OwnLoad
from riktig.plan.sizes.starter import DROP_LIMIT_PERCENT, StarterSizes, as_decided, drops_of, section_value, size_of_mm2
from riktig.standards import iec_60204_1, iec_60228
from riktig.units.conductor_size import ConductorSize
from riktig.units.numbers import format_number

_MOST_STEPS = 5
"""So many sizes above what current and drop ask a cable grows for a fault to be cleared; beyond that another device is the better mend
(common practice, no source)."""


class CableSizer:
    """Sizes the cables to motors and to loads of a person's own, once the parts ahead of them are known."""

    def __init__(self, job: Job, circuit: Circuit, parts: Mapping[str, Part], lines: Mapping[str, Line]) -> None:
        self._job, self._circuit, self._parts, self._lines = job, circuit, parts, lines
        self._chosen = chosen_values(job)

    def motor(
        self, sized: StarterSizes, least_a: float | None, values: list[SizedValue], *, earths_motor: bool
    ) -> ConductorSize:
        """Return the size of the cores to a motor; its values are added where they differ from those by current and drop.

        Args:
            sized: the motor's sizes.
            least_a: what the cores must carry because nothing but their protection guards them, None where an overload does.
            values: what is sized so far.
            earths_motor: whether the earth that a person may set is the core in this cable, not that of a drive in the panel.
        """
        name, laid = sized.starter.name, sized.world.outside
        if value_key(name, "cable_section") in self._chosen:
            return sized.cable
        size, words = sized.cable, ""
        if least_a is not None:
            carrying = choose_size(least_a, laid, is_power=True) or largest_size(laid)
            size = max(size, carrying, key=lambda s: s.mm2)
            words = f"nothing is set to its current: protected by {format_number(least_a)} A; "
        grown = self._cleared(name, size, laid)
        if grown is not size:
            words = f"{size.label()} would do, {grown.label()} so that a fault at its end is cleared; "
        earth = self._earth_by_hand(name, laid) if earths_motor else None
        if earth is not None and earth.mm2 > grown.mm2:
            grown, words = earth, f"{grown.label()} would do, {earth.label()} for its earth as set by hand; "
        if grown == sized.cable and least_a is None:
            return sized.cable
        needed = next(v.needed or 0.0 for v in sized.values if v.quantity == "cable_section")
        place = next(v.places for v in sized.values if v.quantity == "cable_section")
        values.append(
            section_value(name, "cable_section", grown, laid, max(needed, least_a or 0.0), words=words, places=place)
        )
        values.extend(drops_of(sized.starter, sized.motor, grown, sized.world))
        return grown

    def _earth_by_hand(self, name: str, laid: Laid) -> ConductorSize | None:
        override = self._chosen.get(value_key(name, "earth_section"))
        return size_of_mm2(override.number, metric=laid.metric) if override is not None else None

    def load(self, load: OwnLoad, values: list[SizedValue]) -> ConductorSize:
        """Return the size of the cores to a load: for what its protection lets through, or its current, and little enough drop."""
        name = load.circuit.load
        device = self._circuit.device(name)
        laid = laid_outside(self._job, device.location, to_load=True)
        protection = self._parts.get(load.circuit.protection or "")
        rating = (protection.rating("amps") or protection.rating("amps_max")) if protection is not None else 0.0
        amps = max(rating, load.amps or 0.0, 0.1)
        drop = self._drop_of(load, device.location)
        fitting = list(fitting_sizes(amps, laid, is_power=True)) or [largest_size(laid)]
        size = next((s for s in fitting if drop(s).value <= DROP_LIMIT_PERCENT), fitting[-1])
        grown = self._cleared(name, size, laid)
        words = f"protected by {rating:g} A; " if rating else ""
        words += f"{grown.label()} so that a fault at its end is cleared; " if grown is not size else ""
        value = section_value(
            name, "cable_section", grown, laid, amps, words=words, places={"current": load.circuit.protection or name}
        )
        grown, value = as_decided(value, grown, laid, self._chosen)
        values.extend((value, drop(grown)))
        return grown

    def _cleared(self, name: str, size: ConductorSize, laid: Laid) -> ConductorSize:
        """Return the size, or the next one with which a fault at the end is cleared and stood; as it is where none near it does."""
        line = self._lines.get(name)
        if line is None:
            return size
        above = [s for s in sizes(laid) if s.mm2 > size.mm2][:_MOST_STEPS]
        for candidate in (size, *above):
            loop = loop_of(line, candidate)
            if loop.is_cleared and loop.is_stood:
                return candidate
        return size

    def _drop_of(self, load: OwnLoad, location: str) -> Callable[[ConductorSize], SizedValue]:
        """Return what tells the voltage drop of a size in percent, at the load's own current."""
        place = self._job.location(location)
        metres, amps = place.distance if place is not None else 20.0, load.amps or 0.0
        volts, phases = load.volts, load.phases

        def drop(size: ConductorSize) -> SizedValue:
            lost = iec_60228.voltage_drop_v(amps, metres, size.mm2, 1.0, phases=phases)
            ohm = iec_60228.resistance_ohm_per_m(size.mm2, iec_60228.HOT_C)
            return SizedValue(
                subject=load.circuit.load, quantity="voltage_drop", value=round(100 * lost / volts, 3), unit="%",
                most=DROP_LIMIT_PERCENT,
                formula=f"{'√3' if phases == 3 else '2'} · {format_number(amps)} A · {metres:g} m · {ohm:.4g} Ω/m = "
                f"{format_number(lost)} V of {format_number(volts)} V",
                inputs={"current": round(amps, 3), "length_m": metres, "section": size.label()},
                places={"current": load.circuit.load, "length_m": f"location.{location}.distance"},
                source=f"IEC 60364-5-52 Annex G; {iec_60228.SOURCE_RESISTANCE} at 70 °C; {iec_60204_1.SOURCE_DROP}",
            )  # fmt: skip

        return drop
