"""Owns how the section of one conductor inside the panel follows from what it carries, in both worlds of standards, and why. Must not
know circuits.
"""

from collections.abc import Mapping
from dataclasses import replace

from riktig.catalogue.model import Part
from riktig.job.model import Job
from riktig.job.practice import Standard
from riktig.plan.basis.conductor import Laid, choose_size, largest_size
from riktig.plan.basis.sized import Chosen, SizedValue, chosen_values, decide
from riktig.plan.basis.strength import PANEL_PROTECTION, panel_protection
from riktig.plan.circuit.model import PASS_THROUGH
from riktig.plan.sizes.load import PanelLoad
from riktig.plan.sizes.starter import StarterSizes, as_decided, section_value, size_of_mm2
from riktig.standards import iec_60204_1, iec_60364_5, nec
from riktig.units.conductor_size import AWG_SIZES, METRIC_MM2, ConductorSize, from_awg, from_mm2
from riktig.units.numbers import format_number

MAIN = "Q0"
"""The subject of what belongs to the whole panel."""
LEAST_BOND_MM2 = 2.5
"""Least bond laid by itself but protected, as in a duct: IEC 60364-5-54 543.1.3, from memory."""


def own_rating(parts: Mapping[str, Part]) -> float:
    """Return the rating in A of what protects the whole panel, 0 where nothing of its own does."""
    own = panel_protection(parts)
    return own.rating("amps") if own is not None else 0.0


class Sizer:
    """Sizes conductors inside the panel in the job's world of standards, and says why."""

    def __init__(self, job: Job, laid: Laid) -> None:
        self.is_iec = job.practice.standard is Standard.IEC
        self._chosen: Chosen = chosen_values(job)
        self.laid = laid

    def inside(
        self,
        subject: str,
        amps: float,
        values: list[SizedValue],
        *,
        words: str,
        ahead: str,
        is_power: bool,
        circuits: tuple[str, ...] = (),
    ) -> ConductorSize:
        """Return the section for a current in A of some circuits, by default of the subject alone; its value, one for each subject, is
        added.
        """
        laid = self.laid.of(subject, *circuits)
        size = choose_size(amps, laid, is_power=is_power) or largest_size(laid)
        places = {"current": ahead} if ahead else {}
        value = section_value(subject, "conductor_section", size, laid, amps, words=words, places=places)
        return self._add(value, size, values)

    def passed_on(self, mm2: float | None, supply_a: float, values: list[SizedValue]) -> ConductorSize:
        """Return the section of the lines that go on to the next panel: as a person gives it, and at least what the protection of this
        panel's supply asks for, in A, for nothing else protects them. They are one circuit, led by themselves.

        Source:
            IEC 60364-4-43 433.1, NEC 240.4, 240.21; from memory.
        """
        laid = replace(self.laid, grouped=1)
        size = choose_size(supply_a, laid, is_power=True) or largest_size(laid)
        words = f"nothing protects them but the supply's {format_number(supply_a)} A; "
        if mm2 is not None:
            given = size_of_mm2(mm2, metric=laid.metric)
            size, words = max(given, size, key=lambda s: s.mm2), f"{given.label()} as given; {words}"
        value = section_value(
            PASS_THROUGH, "conductor_section", size, laid, supply_a, words=words, places={"current": "panel"}
        )
        return self._add(value, size, values)

    def _add(self, value: SizedValue, size: ConductorSize, values: list[SizedValue]) -> ConductorSize:
        size, value = as_decided(value, size, self.laid, self._chosen)
        older = next((n for n, v in enumerate(values) if v.key == value.key), None)
        if older is None:
            values.append(value)
        elif (value.needed or 0.0) > (values[older].needed or 0.0):
            values[older] = value
        return size

    def main(
        self,
        supply: str,
        load: PanelLoad,
        parts: Mapping[str, Part],
        starters: Mapping[str, StarterSizes],
        values: list[SizedValue],
    ) -> ConductorSize:
        """Return the section of the main conductors of a supply: for all that can run at once, and what protects them in the panel.

        They are one circuit, led by themselves to where it parts: no grouping is taken off, the routes are checked.
        """
        own = load.of(supply)
        panel = own_rating(parts) if not supply else 0.0
        is_by_feeder = own.supply <= (nec.standard_rating_a(own.full_load) or 0.0)  # NEC 430.62(B)
        protected = panel or (own.supply if self.is_iec or is_by_feeder else 0.0)
        carry = max(own.main_carry, own.neutral)
        amps = max(carry, protected, 0.1)
        laid = replace(self.laid, grouped=1)
        size = choose_size(amps, laid, is_power=True)
        if size is None and not panel:
            amps = max(carry, 0.1)
            size = choose_size(amps, laid, is_power=True)
        size = max([size or largest_size(laid), *(starters[name].line for name in own.motors)], key=lambda s: s.mm2)
        is_protected = amps == protected
        why = (
            f"{format_number(own.neutral)} A of single-phase loads in the neutral" if carry > own.main_carry and not is_protected
            else f"{_ahead_words(panel, is_iec=self.is_iec)} {format_number(protected)} A" if is_protected
            else f"full load {format_number(own.main_carry)} A" if self.is_iec
            else f"125 % of the largest motor and the rest = {format_number(own.main_carry)} A, NEC 430.24"
        )  # fmt: skip
        lead = self._arrester_lead(parts) if not supply else None
        if lead is not None and lead.mm2 > size.mm2:
            size, why = lead, f"{why}, and the leads of the surge arrester"
        place = {
            "current": (PANEL_PROTECTION if PANEL_PROTECTION in parts else MAIN)
            if panel and is_protected
            else supply or "panel"
        }
        value = section_value(supply or MAIN, "main_section", size, laid, amps, words=f"{why}; ", places=place)
        return self._add(value, size, values)

    def _arrester_lead(self, parts: Mapping[str, Part]) -> ConductorSize | None:
        """Return the least section of what leads to the arresters, IEC 60364-5-53 534.4.10; None where there are none, or in gauges."""
        types = [part.rating("type") for part in parts.values() if part.kind == "surge"]
        return from_mm2(iec_60364_5.arrester_line_mm2(min(types))) if types and self.is_iec else None

    def earth(
        self, subject: str, line: ConductorSize, device_a: float, *, is_alone: bool = False
    ) -> tuple[ConductorSize, SizedValue]:
        """Return the earth conductor for a line conductor (IEC) or for a protective device in A (UL); `is_alone` one that is laid by
        itself, not in a cable.
        """
        if self.is_iec:
            least = iec_60204_1.protective_section_mm2(line.mm2)
            formula, source = f"goes with {line.label()}: at least {least:g} mm2", str(iec_60204_1.SOURCE_EARTH)
            if is_alone and least < LEAST_BOND_MM2:
                least, formula = LEAST_BOND_MM2, f"{formula}, by itself {LEAST_BOND_MM2:g} mm2"
        else:
            awg = nec.equipment_ground_awg(min(device_a, 1200.0))
            least = min(from_awg(awg).mm2, line.mm2)
            formula = (
                f"device of {format_number(device_a)} A: {from_awg(awg).label()}, never above the line's {line.label()}"
            )
            source = str(nec.SOURCE_EARTH)
        metric = ((from_mm2(m)) for m in METRIC_MM2)
        gauges = sorted((from_awg(awg) for awg in AWG_SIZES), key=lambda s: s.mm2)
        size = next(
            (s for s in (metric if self.laid.metric else gauges) if s.mm2 >= least - 1e-6), largest_size(self.laid)
        )
        value = decide(SizedValue(
            subject=subject, quantity="earth_section", value=size.mm2, unit="mm2", formula=f"{formula}; {size.label()}",
            source=source, needed=round(least, 3), inputs={"size": size.label(), "line": line.label()},
            places={"line": subject},
        ), self._chosen)  # fmt: skip
        return (size if value.reason is None else size_of_mm2(value.value, metric=self.laid.metric)), value


def _ahead_words(panel_a: float, *, is_iec: bool) -> str:
    return "panel protection" if panel_a else f"behind {'a fuse gG' if is_iec else 'protection'} of the supply of"
