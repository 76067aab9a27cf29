"""Briefs and plans that several tests need."""

from importlib.resources import files

from riktig.files.brief_reader import parse_brief
from riktig.job.model import Job
from riktig.plan.plan import Plan, compute_plan

HEAD = """brief = 1
[job]
number = "T-1"
[supply]
system = "3ph+n"
volts = 400
[enclosure]
width = 800
height = 1200
[control.C1]
kind = "transformer"
from = "L1 L2"
volts = 230
[location.st1]
[location.st2]
"""
WAYS = "".join(f"[way.W{n}]\namps = 2\n" for n in (1, 2, 3))
"""Three circuits more, so that four are grouped as the practice has it."""
STARTER = '[starter.M1]\nkw = 1.5\nsupply = "C1"\nlamps = ["run", "trip"]\n'
TWO_STATIONS = (
    HEAD
    + """
[device.K1]
kind = "contactor"
[device.P1]
kind = "lamp"
[device.S0a]
kind = "pushbutton"
at = "st1"
[device.S1a]
kind = "pushbutton"
at = "st1"
[device.S0b]
kind = "pushbutton"
at = "st2"
[device.S1b]
kind = "pushbutton"
at = "st2"
[[rung]]
path = "C1+ > S0a:nc > S0b:nc > (S1a:no | S1b:no | K1:no) > K1:coil > C1-"
[[rung]]
path = "C1+ > K1:no > P1 > C1-"
"""
)
GROUPS = (
    HEAD
    + """
[device.K1]
kind = "contactor"
[device.P1]
kind = "lamp"
[device.S1]
kind = "pushbutton"
[device.S2]
kind = "pushbutton"
at = "st1"
[device.S3]
kind = "pushbutton"
at = "st1"
[device.S4]
kind = "pushbutton"
at = "st2"
[device.S5]
kind = "pushbutton"
at = "st2"
[[rung]]
path = "C1+ > S1:nc > @run > (S2:no > S3:no | (S4:no | K1:13-14) > S5:nc) > K1:coil > C1-"
[[rung]]
path = "@run > K1:no > P1 > C1-"
"""
)


SMALL = {
    "iec": """brief = 1

[job]
number = "R-0417"
title = "Apple elevator"
customer = "Tollgate Orchard Co-operative"

[practice]
standard = "iec"

[supply]
system = "3ph+n"
volts = 400
hertz = 50
fault_ka = 6

[enclosure]
width = 500
height = 700
depth = 250
rating = "IP65"
ambient = 35

[control.C1]
kind = "transformer"
from = "L1 L2"
volts = 230

[location.field]
title = "At the elevator"
distance = 18

[starter.M1]
title = "Apple elevator"
kind = "dol"
kw = 1.5
control = "buttons"
supply = "C1"
lamps = ["run", "trip"]
""",
    "ul": """brief = 1

[job]
number = "CF-12"
title = "Grain dryer fan"
customer = "Cedar Fork Grain"

[practice]
standard = "ul"
overload_contact = "return"

[supply]
system = "3ph"
earthing = "wye-grounded"
volts = 480
hertz = 60
fault_ka = 5

[enclosure]
width = "24 in"
height = "30 in"
depth = "10 in"
rating = "Type 12"
ambient = 40

[control.C1]
kind = "transformer"
from = "L1 L2"
volts = 120

[location.station]
title = "Station at the dryer"
distance = "60 ft"

[starter.M1]
title = "Dryer fan"
kind = "dol"
hp = 10
control = "buttons"
supply = "C1"
buttons_at = "station"
lamps = ["run"]
""",
}


def small_text(world: str = "iec") -> str:
    """Return the brief of one direct-on-line starter in either world of standards."""
    return SMALL[world]


def demo_text(world: str = "iec") -> str:
    """Return the brief of a shipped demo."""
    return files("riktig").joinpath("demos", f"{world}.toml").read_text(encoding="utf-8")


def plan_of(text: str) -> Plan:
    """Return the Plan of a brief's text."""
    return compute_plan(parse_brief(text))


def job_of(text: str) -> Job:
    """Return the settled Job of a brief's text."""
    return parse_brief(text)


def cores(plan: Plan, target: str) -> list[str]:
    """Return the numbers of a cable's cores, earth left out."""
    cable = next(c for c in plan.cables if c.target == target)
    return [number for number in cable.numbers if number != "PE"]
