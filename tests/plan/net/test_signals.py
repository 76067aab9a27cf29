"""Analogue signals: which wires lie together under a screen, in the panel and outside."""

from riktig.plan.making.bom import build_bom
from riktig.plan.net.runs import Screen
from riktig.plan.plan import Plan
from support import HEAD, plan_of

CONTROLLER = (
    '[control.C2]\nkind = "psu"\nfrom = "L1 L2"\n[controller.P1]\nanalogue_in = 2\nanalogue_out = 2\n'
    '[starter.M1]\nkind = "drive"\nkw = 4\nsupply = "C2"\ncontrol = "controller"\ncontroller = "P1"\nspeed = "controller"\n'
)
LOOP = '[device.B2]\nkind = "transducer"\nat = "field"\n[[rung]]\npath = "C2+ > B2 > P1:AI1-MI1 > C2-"\n'
VALVE = '[device.Y1]\nkind = "valve"\n[device.S1]\nkind = "pushbutton"\n[[rung]]\npath = "C2+ > S1:no > Y1 > C2-"\n'


def screened(plan: Plan) -> list[set[str]]:
    """Return the ends of the wires in the panel that lie under a screen, screen by screen."""
    batches: dict[str, set[str]] = {}
    for c in plan.conductors:
        if c.screened:
            batches.setdefault(c.batch, set()).update((c.a, c.b))
    return list(batches.values())


def test_a_pair_in_the_panel_leads_signal_and_return_from_device_to_device_one_way() -> None:
    """Screened, together, with no coil's return in it: IEC 60204-1:2016 Annex H, from memory; common practice."""
    plan = plan_of(HEAD + CONTROLLER + LOOP)
    assert {"M1.A:AI1", "M1.A:AGND", "P1:AO1", "P1:MO1"} in screened(plan)
    pair = [c for c in plan.conductors if c.screened and c.a.startswith("M1.A") and c.b.startswith("P1")]
    assert len(pair) == 2 and len({c.route for c in pair}) == 1 and {c.stage for c in pair} == {"signals"}
    metres = {line.code: line.quantity for line in build_bom(plan) if "inside the panel" in line.title}
    assert metres["cable-2x1-screened"] >= max(c.length_mm for c in pair) / 1000


def test_a_loop_goes_out_in_one_screened_pair_and_a_valve_on_the_same_supply_in_its_own_cable() -> None:
    """24 V and signal of a two-wire transducer are the pair; the valve's cable has both its cores, screened by nothing."""
    plan = plan_of(HEAD + CONTROLLER + LOOP + VALVE)
    to = {zone: [c for c in plan.cables if c.target == zone] for zone in ("B2", "Y1")}
    assert [len(c.numbers) for c in to["B2"]] == [2] and to["B2"][0].screen is Screen.PANEL
    assert [len(c.numbers) for c in to["Y1"]] == [3] and to["Y1"][0].screen is None, "two cores and earth"


def test_a_potentiometer_in_the_door_hangs_on_three_wires_under_one_screen() -> None:
    text = CONTROLLER.replace(
        'control = "controller"\ncontroller = "P1"\nspeed = "controller"', 'speed = "potentiometer"'
    )
    (three,) = screened(plan_of(HEAD + text))
    assert {t for t in three if t.startswith("M1.A")} == {"M1.A:V10", "M1.A:AI1", "M1.A:AGND"} and len(three) == 6
