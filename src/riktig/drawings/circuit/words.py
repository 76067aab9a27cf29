"""Owns what is written beside the symbols of the circuit. Must not place it."""

from dataclasses import dataclass

from riktig.catalogue.model import CONTACT_KINDS, ElementKind
from riktig.job.practice import Standard
from riktig.plan.circuit.model import DOOR, PLATE
from riktig.plan.circuit.uses import Use, holds_marks
from riktig.plan.plan import Plan
from riktig.plan.sheets.allocation import WORKED_BY_COIL, Place
from riktig.units.numbers import format_number

CONVERTERS = {"drive": ("~", "f"), "soft-starter": ("~", "~")}


@dataclass(frozen=True, slots=True, kw_only=True)
class Words:
    """What stands beside a symbol: its tag, where its coil or main part is drawn (label and device to go to), rating, title, and the
    place it is mounted in where that is not the plate; `is_in_panel` on plate or door.
    """

    tag: str
    place: Place | None
    rating: str
    title: str
    location: str
    is_in_panel: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class ContactRow:
    """One contact in the map under a coil: marks, where it is drawn (None while free), the use to go to, whether it breaks."""

    marks: str
    place: Place | None
    use: str
    is_break: bool


class Wording:
    """Looks up the words of a plan."""

    def __init__(self, plan: Plan) -> None:
        self._plan = plan

    def element(self, use: Use) -> ElementKind | None:
        """Return what sort of element a use is, None where the part lacks it."""
        left, right = self._plan.netlist.ends[use.key]
        pair = (left[0], right[0] if right else left[-1])
        return next((e.kind for e in self._plan.parts[use.device].elements if holds_marks(e, pair)), None)

    def place_of(self, use: Use) -> Place:
        """Return where a use is drawn."""
        return self._plan.sheets.mentions[use.mention]

    def words(self, use: Use) -> Words:
        """Return the words beside a use."""
        plan, device = self._plan, self._plan.circuit.device(use.device)
        here, main = self.place_of(use), plan.sheet_places.get(use.device)
        is_part = main is not None and main.label != here.label
        rating = rating_words(plan, use.device) if use.is_feeder or device.kind == "timer" else use.position or ""
        is_told = use.is_feeder or use.position is not None or (use.wants_contact and device.kind in WORKED_BY_COIL)
        title = "" if is_told else device.title.split(",")[0]
        is_plain = device.place == PLATE or device.kind == "motor"
        location = "" if is_plain else f"+{device.place}"
        return Words(
            tag=plan.tags[use.device],
            place=main if is_part else None,
            rating=rating,
            title=title,
            location=location,
            is_in_panel=device.location in {PLATE, DOOR},
        )

    def contact_map(self, device: str) -> tuple[ContactRow, ...]:
        """Return the contacts of a device with a coil: main poles first, then auxiliaries by marks, the free ones too."""
        plan = self._plan
        rows: list[ContactRow] = []
        taken: set[frozenset[str]] = set()
        for use in plan.uses_of.get(device, ()):
            left, right = plan.netlist.ends[use.key]
            element = self.element(use)
            if element is ElementKind.POLE:
                marks = f"{left[0].split('/')[0]}-{right[-1].split('/')[0]}" if right else left[0]
                rows.append(ContactRow(marks=marks, place=self.place_of(use), use=use.key, is_break=False))
            elif use.key in plan.contacts:
                taken.add(frozenset(plan.contacts[use.key].split("-")))
                is_break = _is_break(plan, device, left[0], right[0] if right else left[-1])
                rows.append(
                    ContactRow(marks=plan.contacts[use.key], place=self.place_of(use), use=use.key, is_break=is_break)
                )
        for element_ in plan.parts[device].elements:
            if element_.kind in CONTACT_KINDS and not any(pair <= set(element_.marks) for pair in taken):
                is_break = element_.kind in {ElementKind.NC, ElementKind.TIMED_NC}
                rows.append(ContactRow(marks=element_.name, place=None, use="", is_break=is_break))
        return tuple(rows)

    def sort_drawn(self, use: Use) -> str | None:
        """Return the sort of a contact as drawn: half of a changeover by its marks, where those are asked for."""
        left, right = self._plan.netlist.ends[use.key]
        if use.ref.marks is not None:
            return "nc" if right and _is_break(self._plan, use.device, left[0], right[0]) else None
        return None if use.position is not None else use.ref.what


def _is_break(plan: Plan, device: str, left: str, right: str) -> bool:
    """Return whether two marks of a device are a contact at rest closed: the first and second of a changeover, or a break contact."""
    element = next((e for e in plan.parts[device].elements if holds_marks(e, (left, right))), None)
    if element is None:
        return False
    if len(element.marks) == 3:
        return element.marks[2] not in {left, right}
    return element.kind in {ElementKind.NC, ElementKind.TIMED_NC, ElementKind.AUX_NC, ElementKind.ALARM_NC}


def short_mark(mark: str) -> str:
    """Return a terminal mark as it is written at a pin: the number of `1/L1`; a terminal that the part lacks is a question mark."""
    return "?" if mark.endswith("*") else mark.split("/")[0]


def motor_words(plan: Plan, motor: str) -> tuple[str, ...]:
    """Return power, where it is stated, and current of a motor."""
    sizes = plan.starters[motor]
    power = {"kW": sizes.starter.kw, "hp": sizes.starter.hp}
    stated = tuple(f"{value:g} {unit}" for unit, value in power.items() if value is not None)
    return (*stated, f"{format_number(sizes.motor.current)} A")


def rating_words(plan: Plan, device_id: str) -> str:
    """Return rating or setting at the symbol, a number and its unit joined by a fixed space."""
    part, device = plan.parts[device_id], plan.circuit.device(device_id)
    if device_id in plan.starters:
        return " ".join(words.replace(" ", "\u00a0") for words in motor_words(plan, device_id))
    if (setting := plan.setting_of(device_id)) is not None:
        return f"set {format_number(setting)}\u00a0A"
    if device.kind == "timer":
        return f"{device.settings.get('seconds', 0):g}\u00a0s"
    if device.draws:
        units = {"kw": "kW", "va": "VA", "amps": "A"}
        return " ".join(f"{device.draws[key]:g}\u00a0{unit}" for key, unit in units.items() if key in device.draws)
    if device.kind == "transformer" and not part.rating("amps"):
        return f"{part.rating('va'):g}\u00a0VA"
    curve = part.traits.get("curve", "")
    if device_id == "Q0" and device.kind == "fuse":
        return f"fuses {curve} {part.rating('amps'):g} A".replace(" ", "\u00a0")
    is_lettered = len(curve) == 1 and plan.job.practice.standard is Standard.IEC
    return f"{curve if is_lettered else ''} {part.rating('amps'):g}\u00a0A".strip() if part.rating("amps") else ""
