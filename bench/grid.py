"""Sizes every row of both motor tables in both worlds, at 35 and 50 degC, and prints what came of it as counts."""

from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass

from riktig.files.brief_reader import parse_brief
from riktig.pipeline.engine import Run
from riktig.plan.stages import run_of
from riktig.standards import iec_60947_4_1, nec

MOST_KW, MOST_HP = 90.0, 125.0
AIR_C = (35, 50)
HEAD = """brief = 1
[job]
number = "G-1"
[practice]
standard = "{world}"
overload_contact = "{school}"
[supply]
{supply}
fault_ka = 10
[enclosure]
width = 800
height = 2000
depth = 400
ambient = {air}
inside_max = 70
[control.C1]
kind = "transformer"
from = "{lines}"
volts = {control}
[starter.M1]
{power}
supply = "C1"
"""
SUPPLIES = {
    ("iec", 3): 'system = "3ph+n"\nvolts = 400', ("ul", 3): 'system = "3ph"\nearthing = "wye-grounded"\nvolts = 480\nhertz = 60',
    ("ul", 1): 'system = "1ph3w"\nearthing = "wye-grounded"\nvolts = 240\nhertz = 60', ("iec", 1): 'system = "1ph+n"\nvolts = 230',
}  # fmt: skip
NEEDED = ("motor_current", "overload_setting", "drive_rating", "protective_rating", "contactor_rating", "conductor_section",
          "cable_section", "voltage_drop", "start_drop", "earth_section")  # fmt: skip


@dataclass(frozen=True)
class Case:
    """A motor in a world: its power as a brief has it, kind of starter, phases, and air in degC."""

    world: str
    power: str
    kind: str
    phases: int
    air: int

    @property
    def group(self) -> str:
        """What it is counted under."""
        unit = "hp" if "hp" in self.power else "kW"
        return f"{self.world:4} {unit:3} {self.kind:11} {self.phases} ph"


def list_cases() -> Iterator[Case]:
    """Yield every row of both tables in both worlds as DOL, larger ones as star-delta too, and one phase."""
    kws = [kw for kw in iec_60947_4_1.listed_powers_kw() if 0.06 <= kw <= MOST_KW]
    hps = [hp for hp in nec.listed_powers_hp() if 0.5 <= hp <= MOST_HP]
    ones = [hp for hp in nec.listed_powers_hp(1) if hp <= 10]
    for air in AIR_C:
        for world in ("iec", "ul"):
            yield from (Case(world, f"kw = {kw}", "dol", 3, air) for kw in kws)
            yield from (Case(world, f"hp = {hp}", "dol", 3, air) for hp in hps)
            yield from (Case(world, f"kw = {kw}", "star-delta", 3, air) for kw in kws if kw >= 5.5)
        yield from (Case("ul", f"hp = {hp}\nphases = 1", "dol", 1, air) for hp in ones)


def size(case: Case) -> tuple[Run, list[str]]:
    """Return the products of a case, and the names of quantities that it lacks."""
    supply = SUPPLIES[case.world, case.phases]
    job = parse_brief(
        HEAD.format(
            world=case.world, school="return" if case.world == "ul" else "live", supply=supply, air=case.air, lines="L1 L2",
            control=120 if case.world == "ul" else 230, power=f'{case.power}\nkind = "{case.kind}"',
        )
    )  # fmt: skip
    made = run_of(job)
    values = made["sizing"]
    there = {v.quantity for v in values if v.subject.partition(".")[0] == "M1" and v.value > 0}
    short = [
        v.name
        for v in values
        if v.margin_percent is not None and v.margin_percent < -1e-6 and v.subject.startswith("M1")
    ]
    missing = [q for q in NEEDED if q not in there and q != "drive_rating"]
    return made, [*missing, *(f"{name} too small" for name in short)]


def main() -> None:
    """Print the counts."""
    counts: dict[str, Counter[str]] = {}
    gaps: Counter[str] = Counter()
    for case in list_cases():
        made, lacking = size(case)
        count = counts.setdefault(f"{case.group} {case.air} °C", Counter())
        unmet = {d: words for d, words in made["unmet"].items() if d.startswith("M1")}
        count["cases"] += 1
        count["sized"] += not lacking
        count["parts"] += not unmet
        gaps.update(f"{case.world} {case.power} {case.air} °C: {word}" for word in lacking)
        gaps.update(
            f"{case.world} {case.power} {case.kind} {case.air} °C: {d}: {', '.join(w)}" for d, w in unmet.items()
        )
    print(f"{'world power kind':34} cases  all sized  all parts found")
    for group, count in sorted(counts.items()):
        print(f"{group:34} {count['cases']:5}  {count['sized']:9}  {count['parts']:15}")
    total = sum(counts.values(), Counter())
    print(f"{'together':34} {total['cases']:5}  {total['sized']:9}  {total['parts']:15}")
    for gap in gaps:
        print("missing:", gap)


if __name__ == "__main__":
    main()
