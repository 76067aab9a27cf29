"""Recalculates the sizes of a panel from its brief alone and compares them with a Plan as JSON. It imports nothing of the product.

Tables are typed in here again, from memory of IEC 60947-4-1 Annex G, IEC 60204-1 Tables 1, 6, D.1 and D.2, IEC 60364-5-52 Table B.52.4
(above 120 mm2, 0.87 for 40 degC), IEC 60228, IEC 60898-1 (ratings of the catalogue, which has no 8 A), IEC 60269-1, NEC 430.250, 430.52,
240.6, 310.16, 250.122 and UL 508A Table 28.1; rules of practice as the documents of the product state them.
"""

from collections.abc import Iterator
from math import sqrt
from typing import Any

KW_400 = {0.37: 1.1, 1.5: 3.6, 2.2: 4.9, 4: 8.5, 5.5: 11.5, 7.5: 15.5, 11: 22, 15: 29, 18.5: 35, 22: 41, 30: 55}
HP = {
    480: {2: 3.4, 3: 4.8, 5: 7.6, 7.5: 11, 10: 14, 15: 21, 20: 27, 30: 40, 40: 52},
    240: {2: 6.8, 3: 9.6, 7.5: 22, 15: 42, 20: 54},
}
MM2 = (1.0, 1.5, 2.5, 4, 6, 10, 16, 25, 35, 50, 70, 95, 120, 150, 185)
B1 = dict(zip(MM2, (10.3, 13.5, 18.3, 24, 31, 44, 59, 77, 96, 117, 149, 180, 208, 0.87 * 262, 0.87 * 296), strict=True))
B2 = dict(zip(MM2, (10.1, 13.1, 17.4, 23, 30, 40, 54, 70, 86, 103, 130, 156, 179, 0.87 * 225, 0.87 * 255), strict=True))
E = dict(zip(MM2, (12.4, 16.1, 22, 30, 37, 52, 70, 88, 110, 133, 171, 207, 240, 0.87 * 319, 0.87 * 364), strict=True))
AIR = {30: 1.15, 35: 1.08, 40: 1.0, 45: 0.91, 50: 0.82}
GROUP = {"b1": {1: 1.0, 2: 0.8, 4: 0.65, 6: 0.57, 9: 0.5}, "e": {1: 1.0, 2: 0.88}}
OHM_KM = dict(
    zip(
        MM2[1:],
        (13.3, 7.98, 4.95, 3.30, 1.91, 1.21, 0.780, 0.554, 0.386, 0.272, 0.206, 0.161, 0.129, 0.106),
        strict=True,
    )
)
BREAKERS = (0.5, 1, 2, 3, 4, 6, 10, 13, 16, 20, 25, 32, 40, 50, 63, 80, 100, 125)
GG = (2, 4, 6, 8, 10, 12, 16, 20, 25, 32, 40, 50, 63, 80, 100, 125, 160, 200, 250)
NEC = (15, 20, 25, 30, 35, 40, 45, 50, 60, 70, 80, 90, 100, 110, 125, 150, 175, 200, 225)
AWG = ("16", "14", "12", "10", "8", "6", "4", "3", "2", "1", "1/0", "2/0")
UL_INSIDE = dict(zip(AWG, (10, 15, 20, 30, 50, 65, 85, 100, 115, 130, 150, 175), strict=True))
NEC_FIELD = dict(zip(AWG[1:], (20, 25, 35, 50, 65, 85, 100, 115, 130, 150, 175), strict=True))
NEC_AIR = {30: 1.0, 35: 0.94, 40: 0.88}
MM2_OF = dict(zip(AWG, (1.31, 2.08, 3.31, 5.26, 8.37, 13.3, 21.15, 26.67, 33.63, 42.41, 53.49, 67.43), strict=True))
EARTH_AWG = ((15, "14"), (20, "12"), (60, "10"), (100, "8"), (200, "6"), (300, "4"))
HOT = 1 + 0.00393 * 50
RATIOS = {"drive": 1.5, "star-delta": 2.4, "soft": 3.5}
LOADS = frozenset({"load", "heater", "transformer"})


def up(steps: tuple[float, ...], least: float) -> float:
    return next(step for step in steps if step >= least - 1e-9)


def values_of(plan: dict[str, Any]) -> dict[tuple[str, str], float]:
    """Return the values of a Plan by device id and quantity; they are called by tags there."""
    ids = {device["tag"]: device["id"] for device in plan["devices"]}
    return {(ids.get(v["subject"], v["subject"]), v["quantity"]): v["value"] for v in plan["sizing"]}


class Panel:
    """One brief, and what a Plan says of it."""

    def __init__(self, brief: dict[str, Any], plan: dict[str, Any]) -> None:
        self.brief = brief
        self.is_ul = brief.get("practice", {}).get("standard") == "ul"
        self.volts = brief["supply"]["volts"]
        self.found = values_of(plan)
        self.air = brief["enclosure"]["ambient"]
        self.rise = brief["enclosure"].get("inside_rise", 10)
        own = [n for n, d in brief.get("device", {}).items() if d["kind"] in {"motor", *LOADS}]
        self.grouped = min(4, len(brief["starter"]) + len(own) + len(brief.get("way", {})))
        self.laid = {
            v["subject"]: v["inputs"].get("grouped", 1) for v in plan["sizing"] if v["quantity"] == "conductor_section"
        }
        """Motor -> how many circuits the Plan says lie together in its ducts: it has no places here to count them again."""
        paths = [feeder["path"].replace("(", "").split(" > ") for feeder in brief.get("feeder", ())]
        at = {path[-1]: path[1] for path in paths if path[-1].startswith("@")}
        self.shared: dict[str, str] = {
            path[-1]: at[path[0]] for path in paths if path[0] in at and path[-1].startswith("M")
        }
        """Motor -> the breaker that it shares with others."""

    def place(self, name: str) -> tuple[float, str]:
        at = self.brief.get("location", {}).get(name, {})
        return at.get("distance", 20.0), {"tray": "e"}.get(at.get("laid", ""), "b2")

    def together(self, name: str) -> int:
        return max(self.grouped, int(self.laid[name]))

    def section(self, amps: float, laid: str, circuits: int, *, least: float = 1.5) -> float:
        table = {"b1": B1, "b2": B2, "e": E}[laid]
        air = self.air + self.rise if laid == "b1" else self.air
        factor = AIR[air] * next(f for n, f in GROUP["e" if laid == "e" else "b1"].items() if n >= min(circuits, 9))
        return next(mm2 for mm2 in MM2 if mm2 >= least and table[mm2] * factor >= amps - 1e-9)

    def gauge(self, amps: float, *, inside: bool, conductors: int = 3) -> str:
        factor = 1.0 if inside else NEC_AIR[self.air] * (0.8 if conductors > 3 else 1.0)
        table = UL_INSIDE if inside else NEC_FIELD
        return next(awg for awg in AWG[1:] if table[awg] * factor >= amps - 1e-9)

    def motors(self) -> Iterator[tuple[str, dict[str, Any], dict[str, str]]]:
        """Yield name, what is stated, and its devices by role."""
        for name, starter in self.brief["starter"].items():
            tripper = (
                "A"
                if starter.get("kind") in {"drive", "soft"}
                else "Q"
                if starter.get("protection") == "motor-breaker"
                else "F"
            )
            yield name, starter, {"Q": f"{name}.Q", "K": f"{name}.K", "F": f"{name}.{tripper}", "A": f"{name}.A"}
        for name, device in self.brief.get("device", {}).items():
            if device["kind"] == "motor":
                own = {n: d["kind"] for n, d in self.brief["device"].items() if n.lstrip("QKFCBOL") == name[1:]}
                kinds = {"breaker": "Q", "contactor": "K", "overload": "F"}
                roles = {kinds[kind]: n for n, kind in own.items() if kind in kinds}
                roles |= {"Q": self.shared[name]} if name in self.shared else {}
                yield name, {"motor_at": device.get("at", "field"), **device, "kind": "dol"}, roles

    def dials(self, motor: str, overload: str) -> list[str]:
        """Return the overloads of a motor that a person set: of two speeds the one named next as well."""
        own = self.brief.get("device", {})
        names = [overload, f"F{int(overload.lstrip('FOL')) + 1}"] if motor in own else []
        return [name for name in names if own.get(name, {}).get("amps")]

    def table_a(self, motor: dict[str, Any]) -> float:
        return HP[self.volts][motor["hp"]] if self.is_ul else KW_400[motor["kw"]]


def recalculate(brief: dict[str, Any], plan: dict[str, Any]) -> dict[tuple[str, str], float]:
    """Return what each size comes to, by subject and quantity."""
    panel, want = Panel(brief, plan), {}
    for name, motor, role in panel.motors():
        want |= _ul_motor(panel, name, motor, role) if panel.is_ul else _iec_motor(panel, name, motor, role)
    want |= _totals(panel)
    return want


def _iec_motor(panel: Panel, name: str, motor: dict[str, Any], role: dict[str, str]) -> dict[tuple[str, str], float]:
    amps, kind = panel.table_a(motor), motor.get("kind", "dol")
    is_six = kind == "star-delta"
    share = 0.577 if is_six else 1.0
    ratio = RATIOS.get(kind, 7.2)
    want = {(name, "motor_current"): amps, (role["F"], "overload_setting"): share * amps}
    want |= {(f, "overload_setting"): panel.brief["device"][f]["amps"] for f in panel.dials(name, role["F"])}
    trips = 0.0
    if role["F"] == role["Q"]:
        peak = sqrt(2) * 7.2 * amps / 10
        ranges = ((2.5, 4), (4, 6.3), (6.3, 10), (10, 16))
        want[role["Q"], "protective_rating"] = next(
            hi for lo, hi in ranges if lo <= 0.95 * amps and hi >= max(1.05 * amps, peak)
        )
        trips = 16 * want[role["Q"], "protective_rating"]
    else:
        least = max(1.25, 1.6 * ratio / 7.2, sqrt(2) * (7.2 if is_six else ratio) / 10) * amps
        if name in panel.shared:
            fed = [panel.table_a(m) for n, m, _ in panel.motors() if panel.shared.get(n) == role["Q"]]
            least = max(sum(fed), 1.6 * max(fed), sqrt(2) * (sum(fed) + 6.2 * max(fed)) / 10)
        want[role["Q"], "protective_rating"] = up(BREAKERS, least)
        trips = 20 * want[role["Q"], "protective_rating"]
    line = panel.section(amps, "b1", panel.together(name))
    want[name, "conductor_section"] = line
    if is_six:
        want[name, "lead_section"] = panel.section(share * amps, "b1", panel.together(name))
    earth = line if line <= 16 else 16 if line <= 35 else line / 2
    metres, laid = panel.place(motor.get("motor_at", "field"))
    cable = panel.section(share * amps, laid, 2 if is_six else 1)
    u0, source = panel.volts / sqrt(3), 2 * panel.volts / sqrt(3) / (1000 * panel.brief["supply"]["fault_ka"])

    def longest(mm2: float) -> float:
        return (0.95 * u0 / trips - source) / (2 * OHM_KM[mm2] / 1000 * HOT)

    if kind != "drive":
        ladder = [mm2 for mm2 in MM2 if mm2 >= cable]
        through = let_through(panel, want[role["Q"], "protective_rating"])
        cable = next(mm2 for mm2 in ladder if longest(mm2) >= metres and (115 * mm2) ** 2 >= through)
        want[name, "greatest_length"] = longest(cable)
    want[name, "cable_section"] = cable
    # In the cable a core as all are; to a drive by itself: IEC 60364-5-54 543.1.3
    want[name, "earth_section"] = max(earth, 2.5) if kind == "drive" else cable
    ohm = OHM_KM[cable] / 1000 * HOT
    phases = 2.0 if is_six else sqrt(3)
    want[name, "voltage_drop"] = 100 * phases * share * amps * metres * (ohm * 0.8 + 0.08e-3 * 0.6) / panel.volts
    volts = u0 if is_six else panel.volts
    want[name, "start_drop"] = 100 * phases * ratio * amps * metres * (ohm * 0.35 + 0.08e-3 * sqrt(1 - 0.35**2)) / volts
    return want


def let_through(panel: Panel, amps: float) -> float:
    """Usual let-through of a current-limiting breaker in A2s: 1500 A2s for each ampere at 6 kA and more for small ones, never above."""
    at_6 = (
        (6, 10e3),
        (10, 16e3),
        (16, 22e3),
        (20, 25e3),
        (25, 29e3),
        (32, 34e3),
        (40, 41e3),
        (50, 48e3),
        (63, 56e3),
        (100, 110e3),
    )
    (x0, y0), (x1, y1) = next(((a, b) for a, b in zip(((0.1, 150.0), *at_6), at_6, strict=False) if b[0] >= amps))
    ka = panel.brief["supply"]["fault_ka"]
    return min((y0 + (y1 - y0) * (amps - x0) / (x1 - x0)) * ka / 6, (1000 * ka) ** 2 * 0.01)


def ul_device(panel: Panel, name: str, motor: dict[str, Any], role: dict[str, str]) -> float:
    """Return the rating ahead of a motor: next size above 250 %, the range of a type E, or for several motors the next size below."""
    if motor.get("protection") == "motor-breaker":
        amps = motor.get("amps", panel.table_a(motor))
        return next(
            hi for lo, hi in ((6.3, 10.0), (10.0, 16.0), (16.0, 25.0)) if lo <= 0.95 * amps and hi >= 1.05 * amps
        )
    made = tuple(a for a in NEC if a not in {110})
    alone = {n: max(a for a in made if a <= up(NEC, 2.5 * panel.table_a(m))) for n, m, _ in panel.motors()}
    if name not in panel.shared:
        return alone[name]
    fed = {n: panel.table_a(m) for n, m, _ in panel.motors() if panel.shared.get(n) == role["Q"]}
    largest = max(fed, key=lambda n: alone[n])
    return max(a for a in made if a <= alone[largest] + sum(fed.values()) - fed[largest])


def _ul_motor(panel: Panel, name: str, motor: dict[str, Any], role: dict[str, str]) -> dict[tuple[str, str], float]:
    table, kind = panel.table_a(motor), motor.get("kind", "dol")
    amps = motor.get("amps", table)
    is_six = kind == "star-delta"
    share = 0.577 if is_six else 1.0
    rating = ul_device(panel, name, motor, role)
    want = {
        (name, "motor_current"): amps,
        (role["F"], "overload_setting"): share * amps,
        (role["Q"], "protective_rating"): rating,
    }
    want |= {(f, "overload_setting"): panel.brief["device"][f]["amps"] for f in panel.dials(name, role["F"])}
    carry = 1.25 * table
    if kind == "drive":
        want[role["A"], "drive_rating"] = up(
            (1.2, 1.9, 2.4, 3.3, 4.1, 5.6, 7.3, 9.5, 12.5, 17, 25, 32, 38, 45),
            amps / (1 - 0.02 * (panel.air + panel.rise - 40)),
        )
        carry = 1.25 * want[role["A"], "drive_rating"]
    line = panel.gauge(carry, inside=True)
    want[name, "conductor_section"] = MM2_OF[line]
    want[name, "cable_section"] = MM2_OF[panel.gauge(1.25 * share * table, inside=False, conductors=6 if is_six else 3)]
    earth = next(awg for most, awg in EARTH_AWG if rating <= most)
    want[name, "earth_section"] = min(MM2_OF[earth], MM2_OF[line]) if kind == "drive" else want[name, "cable_section"]
    return want


def _totals(panel: Panel) -> dict[tuple[str, str], float]:
    tables = [panel.table_a(motor) for _, motor, _ in panel.motors()]
    currents = [motor.get("amps", panel.table_a(motor)) for _, motor, _ in panel.motors()]
    held = sum(panel.found[c, "control_va"] / panel.volts for c in panel.brief["control"])
    others = held + sum(
        d["va"] / panel.volts if "va" in d else d["kw"] * 1000 / (sqrt(3) * panel.volts)
        for d in panel.brief.get("device", {}).values()
        if d["kind"] in LOADS and ("va" in d or "kw" in d)
    )
    others += max((way["amps"] for way in panel.brief.get("way", {}).values()), default=0.0)
    full = sum(currents) + others
    want = {("panel", "full_load"): full}
    if panel.is_ul:
        carry = 0.25 * max(tables) + sum(tables) + others
        branch = {name: panel.found[role["Q"], "protective_rating"] for name, _, role in panel.motors()}
        largest = max(branch, key=lambda name: branch[name])
        rest = sum(panel.table_a(m) for name, m, _ in panel.motors() if name != largest)
        want["panel", "supply_protection"] = most = max(a for a in NEC if a <= branch[largest] + rest + others)
        if panel.brief.get("incoming", {}).get("disconnect", "switch") != "switch":
            want["Q0", "protective_rating"] = carry = most
        want["Q0", "main_section"] = MM2_OF[panel.gauge(carry, inside=True)]
        return want
    socket = 16.0 if "X2" in panel.brief.get("excepted", {}) else 0.0
    light = 11 / 230 if "X1" in panel.brief.get("excepted", {}) else 0.0
    starts = {n: RATIOS.get(m.get("kind", ""), 7.2) * panel.table_a(m) for n, m, _ in panel.motors()}
    worst = max(starts, key=lambda n: starts[n])
    running = next(panel.table_a(m) for n, m, _ in panel.motors() if n == worst)
    fuse = up(GG, max(full + socket + light, (full - running + starts[worst]) / 3.75))
    want["panel", "supply_protection"] = fuse
    want["Q0", "main_section"] = panel.section(fuse, "b1", 1)
    return want


def differences(brief: dict[str, Any], plan: dict[str, Any]) -> list[str]:
    """Return every value that differs by more than half a percent, or is missing."""
    found = values_of(plan)
    told = []
    for key, value in recalculate(brief, plan).items():
        if key not in found:
            told.append(f"{key}: missing, {value:.4g} by hand")
        elif abs(found[key] - value) > 0.005 * abs(value) + 0.02:
            told.append(f"{key}: {found[key]:.4g}, by hand {value:.4g}")
    return told
