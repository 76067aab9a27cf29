"""What every starter comes to, read from the netlist alone by code that shares nothing with the expansion."""

from collections import Counter, defaultdict

import pytest
from hypothesis import given, settings

from effort import examples
from relay_simulation import CONTACTS, Panel, can_be_fed, shorted
from riktig.catalogue.model import ElementKind
from riktig.job.roles import STARTER_ROLES, module_roles, roles_of
from riktig.plan.plan import Plan
from strategies import PANEL, POWER, options_of, panels, starter_text
from support import HEAD, plan_of

LEVEL = "[level.TANK]\nfloats = { stop = 0.4, start = 1.2, alarm = 1.6 }\n"
BASE = PANEL.format(school="live") + LEVEL
EACH = [(kind, name) for kind in POWER for name in ("", *options_of(kind))]
_FED = {ElementKind.COIL, ElementKind.LAMP, ElementKind.SOUNDER}


def each_option(kind: str, name: str) -> str:
    return BASE + starter_text("M1", kind, *([options_of(kind)[name]] if name else []))


def check_whole(plan: Plan) -> None:
    """Every contact once and at both ends, every coil and lamp fed and returned, no supply shorted."""
    assert plan.short_uses == () and plan.unmet == {}
    size = {t: len(p.net.terminals) for p in plan.potentials for t in p.net.terminals}
    for device, part in plan.parts.items():
        for element in part.elements:
            ends = [size.get(f"{device}:{mark}", 0) for mark in element.marks]
            if element.kind in CONTACTS and any(ends):
                assert sum(n > 0 for n in ends) >= 2, f"{device} {element.name} hangs at one end"
            if element.kind in _FED and (device.partition(".")[0] in {"M1", "M2", "M3", "A1"} or any(ends)):
                assert min(ends) >= 2, f"{device} {element.name} has a side that leads nowhere"
    used = Counter((use.device, plan.contacts[use.key]) for use in plan.uses if use.key in plan.contacts)
    kinds = {(d, m): e.kind for d, part in plan.parts.items() for e in part.elements for m in e.marks}
    assert [key for key, n in used.items() if n > 1 and kinds[(key[0], key[1].split("-")[0])] in CONTACTS] == []
    assert shorted(plan) == set()


def check_interlocks(plan: Plan) -> None:
    """No coil of a pair reaches its supply, with every contact closed, while the other one's break contacts are open."""
    pairs = [
        (s, a, b) for s in plan.job.starters for a, b in (("K", "KR"), ("KS", "KD")) if f"{s.name}.{b}" in plan.parts
    ]
    for starter, one, other in pairs:
        for a, b in ((one, other), (other, one)):
            fed = can_be_fed(plan, f"{starter.name}.{a}", f"{starter.supply}+", nc_open_of={f"{starter.name}.{b}"})
            assert not fed, f"{starter.name}.{a} is fed past the interlock of {b}"
    for one_starter in plan.job.starters:
        for name in one_starter.never_with:
            other_starter = plan.job.starter(name)
            assert other_starter is not None
            for s, o in ((one_starter, other_starter), (other_starter, one_starter)):
                role = "KA" if s.kind == "soft" else "K"
                for blocked in {"K", "KR"} & {r for r in ("K", "KR") if f"{o.name}.{r}" in plan.parts}:
                    fed = can_be_fed(plan, f"{s.name}.{role}", f"{s.supply}+", nc_open_of={f"{o.name}.{blocked}"})
                    assert not fed, f"{s.name} can be fed while {o.name}.{blocked} is in"


@pytest.mark.parametrize(("kind", "name"), EACH)
def test_every_kind_with_every_option_is_whole(kind: str, name: str) -> None:
    plan = plan_of(each_option(kind, name))
    check_whole(plan)
    check_interlocks(plan)
    Panel(plan)


@settings(max_examples=examples(200))
@given(text=panels())
def test_random_option_sets_are_whole_and_interlocked(text: str) -> None:
    plan = plan_of(text)
    check_whole(plan)
    check_interlocks(plan)


@settings(max_examples=examples(40))
@given(text=panels())
def test_a_starter_has_exactly_the_roles_that_a_path_may_name(text: str) -> None:
    plan = plan_of(text)
    found = defaultdict(set)
    for device in plan.circuit.devices:
        if device.owner is not None and device.role is not None:
            found[device.owner].add(device.role)
    for starter in plan.job.starters:
        assert {*found[starter.name], "M"} == set(roles_of(starter, plan.job))
        assert {role.partition("_")[0] for role in roles_of(starter, plan.job)} <= set(STARTER_ROLES)
    for name, roles in module_roles(plan.job).items():
        repeats = {role for role in found[name] if role.startswith("K_")}
        assert found[name] - repeats == set(roles), name


def lines_of_motor(plan: Plan, device: str, marks: tuple[str, ...]) -> list[str | None]:
    net = {t: p.net.phase for p in plan.potentials for t in p.net.terminals}
    return [net[f"{device}:{mark}"] for mark in marks]


def joined_by(plan: Plan, *closed: str) -> dict[str, str]:
    """Return motor mark -> line, with the contactors of some roles in."""
    panel = Panel(plan)
    panel.on |= {f"M1.{role}" for role in closed}
    groups = panel.joined()
    lines = {groups.find(p.number): p.number for p in plan.potentials if p.number in {"L1", "L2", "L3"}}
    marks = [m for e in plan.parts["M1"].elements if e.kind is ElementKind.WINDING for m in e.marks]
    return {m: lines.get(groups.find(panel.net[f"M1:{m}"]), groups.find(panel.net[f"M1:{m}"])) for m in marks}


def test_the_reverse_contactor_exchanges_exactly_two_phases() -> None:
    plan = plan_of(BASE + starter_text("M1", "reversing"))
    assert joined_by(plan, "K") == {"U1": "L1", "V1": "L2", "W1": "L3"}
    assert joined_by(plan, "KR") == {"U1": "L3", "V1": "L2", "W1": "L1"}


@pytest.mark.parametrize("option", [(), ("isolator = true",)])
def test_six_leads_are_joined_in_star_and_in_delta_as_the_standard_has_it(option: tuple[str, ...]) -> None:
    """IEC 60034-8: star joins U2 V2 W2; in delta each second end lies on the line of another winding (from memory)."""
    plan = plan_of(BASE + starter_text("M1", "star-delta", *option))
    star = joined_by(plan, "K", "KS")
    assert (star["U1"], star["V1"], star["W1"]) == ("L1", "L2", "L3")
    assert star["U2"] == star["V2"] == star["W2"] and star["U2"] not in {"L1", "L2", "L3"}
    delta = joined_by(plan, "K", "KD")
    assert {k: delta[k] for k in ("U1", "V1", "W1")} == {"U1": "L1", "V1": "L2", "W1": "L3"}
    assert (delta["U2"], delta["V2"], delta["W2"]) == ("L3", "L1", "L2")


def test_a_drive_has_no_contactor_or_overload_behind_it_and_its_poles_do_not_conduct() -> None:
    """Common practice, no source."""
    plan = plan_of(BASE + starter_text("M1", "drive"))
    behind = next(p for p in plan.potentials if "M1:U1" in p.net.terminals)
    assert {t.partition(":")[0] for t in behind.net.terminals} == {"M1.A", "M1"}


def test_a_single_phase_motor_goes_through_three_poles() -> None:
    """One line through one pole, the other through two in series: common practice, no source."""
    plan = plan_of(BASE + starter_text("M1", "dol", "phases = 1", "isolator = true"))
    nets = [set(p.net.terminals) for p in plan.potentials]
    assert {"M1.F:4/T2", "M1.F:5/L3"} in nets
    check_whole(plan)


def test_the_three_wire_numbers_stand_whatever_else_the_panel_has() -> None:
    """Overload, stop, start with seal-in, coil: 1 to 5 from left to right, common practice."""
    plan = plan_of(HEAD + '[estop.E1]\nstops = []\n[starter.M1]\nkw = 1.5\nsupply = "C1"\n')
    number = {t: p.number for p in plan.potentials for t in p.net.terminals}
    path = ("M1.F:95", "M1.S0:11", "M1.S0:12", "M1.S1:14", "M1.K:A2")
    assert [number[t] for t in path] == ["1", "2", "3", "4", "5"]


def test_the_search_for_shorts_finds_one() -> None:
    text = HEAD + '[device.K9]\nkind = "relay"\n[[rung]]\npath = "C1+ > K9:no > C1-"\n'
    assert shorted(plan_of(text)) == {"C1"}
