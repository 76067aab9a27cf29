"""How far contacts are used, what is overbooked, and that the mend mends it."""

import pytest

from riktig.checks.run import find_all
from riktig.job import edits
from riktig.plan.answers.contact_use import ContactUse, element_to_pick, list_contact_uses
from riktig.plan.plan import Plan, compute_plan
from riktig.plan.settle import settle
from support import HEAD, STARTER, demo_text, job_of, plan_of

RELAY = '[device.K9]\nkind = "relay"\npart = "kr-22"\n[device.P1]\nkind = "lamp"\n'
COIL = '[[rung]]\npath = "C1+ > M1.K:no > K9:coil > C1-"\n'


def lamp(what: str) -> str:
    return f'[[rung]]\npath = "C1+ > K9:{what} > P1 > C1-"\n'


def use_of(plan: Plan, device: str) -> ContactUse:
    return next(use for use in list_contact_uses(plan) if use.device == device)


def test_used_and_free_contacts_are_told_in_the_order_in_which_they_are_taken() -> None:
    use = use_of(plan_of(HEAD + STARTER + RELAY + COIL + lamp("no") + lamp("nc")), "K9")
    assert [(s.marks, s.used_by is not None) for s in use.slots] == [
        ("13-14", True), ("21-22", True), ("31-32", False), ("43-44", False),
    ]  # fmt: skip
    assert [slot.marks for slot in use.free] == ["31-32", "43-44"] and use.used == 2 and use.missing == ()


def test_an_overbooked_device_stands_first_and_its_mend_is_enough() -> None:
    job = job_of(HEAD + STARTER + RELAY + COIL + "".join(lamp("no") for _ in range(4)))
    use = list_contact_uses(compute_plan(job))[0]
    assert (use.device, use.missing) == ("K9", ("no", "no")) and use.mend is not None
    assert use.mend.words == "add block br-40"
    mended = compute_plan(settle(edits.give_part(job, "K9", use.mend.code)))
    assert use_of(mended, "K9").missing == () and mended.short_uses == ()


def test_a_part_of_a_starter_takes_a_persons_choice() -> None:
    job = settle(edits.give_part(job_of(HEAD + STARTER), "M1.K", "ct25-10+bf-22"))
    plan = compute_plan(job)
    assert plan.parts["M1.K"].code == "ct25-10+bf-22@230AC" and plan.unmet == {}
    assert job.ledger.parts["M1.K"].is_held


def test_a_contact_asked_for_twice_is_found_and_the_next_free_one_taken() -> None:
    """A contact is used once: common practice, no source."""
    job = job_of(HEAD + STARTER + RELAY + COIL + lamp("13-14") + lamp("13-14"))
    plan = compute_plan(job)
    (finding,) = [f for f in find_all(plan) if f.rule == "contact-twice"]
    assert "the next free one is 43-44" in finding.message
    (double,) = use_of(plan, "K9").doubled
    assert (double.marks, double.path) == ("13-14", "rung3")
    mended = compute_plan(settle(edits.ask_for_next_free(job, "rung3", "K9:13-14", double.sort)))
    assert use_of(mended, "K9").doubled == () and not [f for f in find_all(mended) if f.rule == "contact-twice"]


@pytest.mark.parametrize(
    ("device", "make", "opens"),
    [
        ("M1.K", "M1.K:no", "M1.K:nc"), ("M2.T", "M2.T:tno", "M2.T:tnc"), ("M5.SL", "M5.SL:hand", "M5.SL:hand"),
        ("M1.H", "M1.H", "M1.H"), ("TANK.stop", "TANK.stop:no", "TANK.stop:nc"),
    ],
)  # fmt: skip
def test_a_device_that_is_picked_is_asked_for_by_the_contacts_that_its_part_has(
    device: str, make: str, opens: str
) -> None:
    plan = plan_of(demo_text("iec"))
    assert [element_to_pick(plan, device, is_break=b) for b in (False, True)] == [make, opens]
