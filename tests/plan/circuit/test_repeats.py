"""A float has one contact: a relay repeats it where several paths need it. Common practice, no source."""

from riktig.checks.run import find_all
from riktig.plan.plan import Plan
from support import HEAD, STARTER, plan_of

PUMP = '[starter.{name}]\nkind = "pump"\nkw = 3\nsupply = "C1"\nlevel = "SUMP"\n'
SUMP = HEAD + "[level.SUMP]\nfloats = { stop = 0.4, start = 1.0, lag = 1.4, alarm = 1.8 }\n"
TWO = SUMP + PUMP.replace("{name}", "M1") + PUMP.replace("{name}", "M2")


def uses(plan: Plan, device: str) -> int:
    return len(plan.uses_of.get(device, ()))


def test_two_pumps_on_one_level_read_each_float_through_a_relay() -> None:
    plan = plan_of(TWO)
    for float_ in ("SUMP.stop", "SUMP.start"):
        assert uses(plan, float_) == 1
        relay = f"SUMP.K_{float_.rpartition('.')[2]}"
        assert plan.circuit.device(relay).kind == "relay"
        assert uses(plan, relay) >= 3, "its coil and a contact for each pump"
    assert [f.message for f in find_all(plan) if f.rule in {"part-too-small", "contact-twice"}] == []


def test_a_float_used_once_stays_itself() -> None:
    plan = plan_of(SUMP + PUMP.replace("{name}", "M1"))
    assert not [d.id for d in plan.circuit.devices if d.id.startswith("SUMP.K_")]


def test_what_a_person_gave_contacts_stays_as_it_is() -> None:
    own = '[device.B7]\nkind = "float"\n{more}[device.P1]\nkind = "lamp"\n[device.P2]\nkind = "lamp"\n' + "".join(
        f'[[rung]]\npath = "C1+ > B7:no > P{n} > C1-"\n' for n in (1, 2)
    )
    assert "B7.K" in plan_of(HEAD + own.replace("{more}", "")).circuit.index
    assert "B7.K" not in plan_of(HEAD + own.replace("{more}", 'contacts = ["no", "no"]\n')).circuit.index


def test_permissives_of_a_starter_lie_ahead_of_its_stop_and_start() -> None:
    """What else must be healthy stands in the motor's own circuit, closed while healthy: common practice, no source."""
    gate = '[device.B4]\nkind = "limit-switch"\n[device.B5]\nkind = "switch"\n'
    plan = plan_of(HEAD + gate + STARTER + 'needs = ["B4:nc", "B5:no"]\n')
    (path,) = [p for p in plan.circuit.paths if {"B4", "B5"} & {u.device for u in plan.uses if u.path == p.key}]
    assert path.owner == "M1"
    assert uses(plan, "B4") == uses(plan, "B5") == 1
