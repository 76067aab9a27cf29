"""A corner-grounded delta: its grounded line is white, and nothing opens it alone."""

from riktig.checks.run import find_all
from riktig.plan.plan import Plan
from support import HEAD, STARTER, plan_of

DELTA = HEAD.replace(
    '"3ph+n"\nvolts = 400',
    '"3ph"\nvolts = 240\nearthing = "corner-grounded"\nfault_ka = 5\n[practice]\nstandard = "ul"',
).replace('from = "L1 L2"\n', "").replace("volts = 230", "volts = 120") + STARTER.replace(
    "kw = 1.5", "hp = 5\namps = 14.2"
)


def rules(plan: Plan) -> dict[str, str]:
    return {f.rule: f.message for f in find_all(plan) if f.severity == "must"}


def test_the_grounded_line_is_white_and_the_others_are_not() -> None:
    """NEC 200.6(A), from memory."""
    plan = plan_of(DELTA)
    colours = {c.colour for c in plan.conductors if c.number == "L2" and c.is_wired}
    others = {c.colour for c in plan.conductors if c.number in {"L1", "L3"} and c.is_wired}
    assert colours and all(colour.startswith("white") for colour in colours)
    assert others and not any(colour.startswith("white") for colour in others)


def test_control_lies_between_the_two_other_lines_and_nothing_opens_the_grounded_one_alone() -> None:
    """NEC 240.22, from memory."""
    plan = plan_of(DELTA)
    assert plan.job.supply.live_pair == ("L1", "L3")
    assert "grounded-line" not in rules(plan)


def test_a_device_in_the_grounded_line_alone_is_found() -> None:
    own = (
        '[device.Q9]\nkind = "breaker"\n[device.E9]\nkind = "load"\nva = 500\n[[feeder]]\npath = "{lines} > Q9 > E9"\n'
    )
    fuses = own.replace('"breaker"', '"fuse"').replace("{lines}", "L1 L2")
    assert "grounded line L2" in rules(plan_of(DELTA + fuses))["grounded-line"]
    assert "grounded-line" not in rules(plan_of(DELTA + own.replace("{lines}", "L1 L2")))
