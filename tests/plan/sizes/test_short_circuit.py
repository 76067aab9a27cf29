"""Short-circuit rating along the branches. UL 508A Supplement SB and IEC 60947-4-1 from memory."""

from dataclasses import replace

import pytest

from riktig.catalogue.loader import find_part
from riktig.catalogue.model import Part
from riktig.checks.run import find_all
from riktig.plan.answers.explain import explain
from riktig.plan.basis.strength import Before, Strength, strength_of
from riktig.plan.plan import Plan
from riktig.standards import iec_60269
from support import HEAD, STARTER, plan_of, small_text

FAULT = small_text("ul").replace("fault_ka = 5", "fault_ka = 50")


def part(code: str, **ratings: float) -> Part:
    found = find_part(code)
    assert found is not None
    return replace(found, ratings={**found.ratings, **ratings})


def with_parts(text: str, **codes: str) -> Plan:
    return plan_of(text + "\n[kept.parts]\n" + "".join(f'"M1.{role}" = "{code}"\n' for role, code in codes.items()))


def chain(plan: Plan, owner: str) -> dict[str, float]:
    branch = next(b for b in plan.panel.short_circuit.branches if b.owner == owner)
    return {link.device: link.strength.ka for link in branch.links}


def test_a_65_ka_breaker_with_a_5_ka_contactor_makes_a_5_ka_panel_and_raising_it_leads_to_the_next() -> None:
    """UL 508A SB4.1: an unmarked contactor up to 50 hp stands 5 kA whatever breaks ahead of it; SB5.1: the least counts. Marked
    65 kA behind a breaker it leaves the next weakest, the unmarked overload at 5 kA and then the breaker itself.
    """
    weak = with_parts(FAULT, K="ct18-10@120AC")
    assert (chain(weak, "M1")["M1.Q"], chain(weak, "M1")["M1.K"]) == (65, 5)
    assert (weak.panel.sccr_ka, weak.panel.sccr_limited_by) == (5, ("M1.K",))
    finding = next(f for f in find_all(weak) if f.rule == "short-circuit-rating")
    assert "CON1" in finding.message and finding.severity.value == "must"
    value = next(v for v in weak.sizing if v.quantity == "short_circuit_rating")
    after = explain(weak, value).larger
    better = with_parts(FAULT, K="ch18-10@120AC")
    following = min(ka for b in better.panel.short_circuit.branches for ka in chain(better, b.owner).values())
    assert following > 5 and better.panel.sccr_ka == following and "M1.K" not in better.panel.sccr_limited_by[:1]
    assert f"would stand {following:g} kA" in after


@pytest.mark.parametrize(
    ("code", "feeder", "ka", "how"),
    [
        ("ct18-10", "cc3-20", 50, "let-through"),
        ("ct18-10", "cc3-30", 5, "default"),
        ("ct18-10", "cj3-60", 5, "default"),
        ("ct18-10", "ub3-60", 5, "default"),
        ("ct18-10", None, 5, "default"),
        ("ub3-20", "cc3-20", 25, "marked"),
        ("ub3-20", "cj3-60", 65, "series"),
        ("ub3-20", "uh3-100", 65, "series"),
        ("ub3-20", "ub3-100", 25, "marked"),
    ],
)
def test_what_fuses_of_the_panel_raise_in_north_america(code: str, feeder: str | None, ka: float, how: str) -> None:
    """UL 508A SB4.3: class CC 20 A lets 3 kA through at 50 kA, no more than the contactor's 5; CC 30 A 6 kA and J 60 A 8 kA do
    not help. SB4.3.1: a branch breaker is never raised by let-through, only by a tested series (NEC 240.86).
    """
    found = strength_of(
        part(code), Before(is_iec=False, available_ka=50, feeder=part(feeder) if feeder else None, hp=5)
    )
    assert found is not None and (found.ka, found.how) == (ka, how)


def test_fuses_of_the_own_branch_raise_nothing() -> None:
    """UL 508A SB4.3.1: only a current-limiting device in the feeder counts, not one of the branch."""
    found = strength_of(part("ct18-10"), Before(is_iec=False, available_ka=50, branch=part("cc3-20"), hp=5))
    assert found is not None and found.ka == 5


def iec(code: str, **ahead: str) -> Strength:
    found = strength_of(part(code), Before(is_iec=True, available_ka=50, **{k: part(c) for k, c in ahead.items()}))  # type: ignore[arg-type]
    assert found is not None
    return found


def test_conditional_ratings_and_back_up_in_the_other_world() -> None:
    """IEC 60947-4-1 8.2.5: a contactor stands its conditional rating behind a device up to its limit, else the test current of
    Table 11 (1 kA up to 16 A, 3 kA up to 63 A); IEC 60947-2 Annex A: a fuse ahead backs a breaker up.
    """
    most = part("ct18-10").rating("scpd_max_a")
    assert iec("ct18-10", branch="cb3-d25").ka == 50 and most < 100
    assert (iec("ct18-10", branch="nh3-100").ka, iec("ct18-10", branch="nh3-100").how) == (3, "default")
    assert (iec("cb3-d16").ka, iec("cb3-d16", feeder="nh3-100").ka, iec("cb3-d16", feeder="nh3-125").ka) == (10, 50, 10)


def test_a_whole_panel_behind_feeder_fuses_gets_its_series_rating() -> None:
    """The panel's own class J fuses carry the branch breakers from 25 to 65 kA as marked on them."""
    text = FAULT + '[incoming]\nprotection = "fuse"\n'
    plan = with_parts(text, Q="ub3-35")
    link = next(x for b in plan.panel.short_circuit.branches for x in b.links if x.device == "M1.Q")
    assert (link.strength.own_ka, link.strength.ka, link.strength.how) == (25, 65, "series")
    alone = with_parts(FAULT, Q="ub3-35")
    assert chain(alone, "M1")["M1.Q"] == 25


@pytest.mark.parametrize(
    ("fault", "fuse", "asks"), [(9, False, False), (12, False, True), (12, True, False), (60, True, False)]
)
def test_bars_and_wiring_need_proof_above_ten_kiloamperes_or_a_fuse(fault: float, fuse: bool, asks: bool) -> None:
    """IEC 61439-1:2011 10.11.2: up to 10 kA, or behind what lets at most 17 kA through, nothing is to be proven."""
    text = small_text().replace("fault_ka = 6", f"fault_ka = {fault}")
    plan = plan_of(text + ('[incoming]\nprotection = "fuse"\n' if fuse else ""))
    found = [f.severity.value for f in find_all(plan) if f.rule == "short-circuit-proof"]
    assert found == (["should"] if asks else ["note"] if fuse else [])


def test_what_lies_behind_a_transformer_does_not_count() -> None:
    """UL 508A SB4.4: control circuits behind their own transformer carry no fault current of the supply."""
    plan = plan_of(FAULT)
    owners = {d: b.owner for b in plan.panel.short_circuit.branches for d in (x.device for x in b.links)}
    assert "C1.FP" in owners and not {"C1.F", "C1.T"} & owners.keys()


def test_a_main_contactor_relies_on_the_supply_and_says_so() -> None:
    """IEC 60947-4-1 8.2.5: conditional behind a device of at most its limit, which stands in the supply here."""
    text = HEAD + STARTER + "[incoming]\nmain_contactor = true\n"
    plan = plan_of(text)
    assert chain(plan, "incoming")["incoming.K"] == 50
    (note,) = [f.message for f in find_all(plan) if f.rule == "supply-protection"]
    most = min(plan.parts["Q0"].rating("amps"), plan.parts["incoming.K"].rating("scpd_max_a"))
    carries = next(v.carries for v in plan.sizing if v.quantity == "main_section")
    assert carries is not None
    assert plan.panel.supply.value == max(a for a in iec_60269.preferred_ratings_a() if a <= min(most, carries))
    assert f"no more than {plan.panel.supply.value:g} A" in note
