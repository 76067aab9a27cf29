"""Jobs to measure with: starters of every kind in turn, with door, controller, emergency stop and floats; made without their ledger."""

HEAD = """brief = 1
[job]
number = "B-{count}"
[supply]
system = "3ph+n"
volts = 400
[enclosure]
width = 2400
height = 6000
[control.C1]
kind = "transformer"
from = "L1 L2"
volts = 230
[control.C2]
kind = "psu"
[estop.E1]
[controller.P1]
inputs = 250
outputs = 125
[level.TANK]
floats = {{ stop = 0.4, start = 1.2, alarm = 1.6 }}
"""
MIXED = (
    'kw = 1.5\nsupply = "C1"\nlamps = ["run", "trip"]',
    'kind = "reversing"\nkw = 3\nsupply = "C1"\nlamps = ["run", "trip"]',
    'kind = "star-delta"\nkw = 11\nsupply = "C1"\nlamps = ["run", "trip", "ready"]\nhours = true',
    'kind = "drive"\nkw = 2.2\nsupply = "C2"\ncontrol = "controller"\ncontroller = "P1"\nlamps = ["run", "trip"]',
    'kind = "soft"\nkw = 15\nsupply = "C1"\nlamps = ["run", "trip"]',
    'kind = "pump"\nkw = 1.1\nsupply = "C1"\nlamps = ["run", "trip"]',
)
"""One starter of every kind."""


def mixed_brief_of(count: int) -> str:
    """Return a brief of so many starters, every kind in turn."""
    starters = (f'[starter.M{n + 1}]\ntitle = "Drive {n + 1}"\n{MIXED[n % len(MIXED)]}\n' for n in range(count))
    return HEAD.format(count=count) + "".join(starters)
