"""Every wire end, terminal, device, operator and cable end has exactly its labels, and a change changes exactly the labels that it must."""

from collections import Counter

import pytest

from effort import examples
from panels import panel_text
from riktig.job import edits
from riktig.plan.changes.numbers import set_number
from riktig.plan.making.labels import LabelKind, When, build_labels, stickers_of, write_label
from riktig.plan.making.patches import patches_of
from riktig.plan.making.warnings import warnings_of
from riktig.plan.plan import Plan, compute_plan
from riktig.plan.settle import settle
from support import HEAD, STARTER, demo_text, job_of, plan_of

ASKED_UL = ("Maker", "Supply", "Full load", "Short-circuit rating", "Electrical diagram", "Enclosure")
"""NEC 409.110: maker, supply voltage, phases, frequency, full-load current, short-circuit rating, diagram number, enclosure type number;
UL 508A 55 and NFPA 79 16.4 ask for the largest motor besides; from memory.
"""
ASKED_IEC = (
    "Maker",
    "Panel",
    "Serial number",
    "Year",
    "Main document",
    "Supply",
    "Full load",
    "Short-circuit rating",
    "Standard",
)
"""IEC 60204-1:2016 16.4: name of the supplier, identification, serial number, main document, volts, phases, frequency, full-load current,
short-circuit rating; IEC 61439-1:2020 6.1: maker, identification, date of manufacture, standard; from memory.
"""


@pytest.fixture(scope="module", params=["iec", "ul", *range(examples(20))])
def plan(request: pytest.FixtureRequest) -> Plan:
    return plan_of(demo_text(request.param) if isinstance(request.param, str) else panel_text(request.param))


def test_everything_has_its_labels_and_none_has_them_twice(plan: Plan) -> None:
    found = stickers_of(plan)
    assert len({sticker.key for sticker in found}) == len(found)
    kinds: dict[str, list[str]] = {kind: [s.on for s in found if s.kind is kind] for kind in LabelKind}
    ends = Counter(kinds["wire"])
    assert ends == Counter({f"wire:{c.id}": 2 for c in plan.conductors if c.is_wired})
    assert Counter(kinds["terminal"]) == Counter(clamp.id for clamp in plan.clamps)
    assert Counter(kinds["device"]) == Counter(device.id for device in plan.circuit.devices)
    assert Counter(kinds["inside"]) == Counter(d.id for d in plan.circuit.devices if d.id in plan.door.boxes)
    operated = [
        d.id
        for d in plan.circuit.devices
        if d.id not in plan.plate.boxes and d.place != "plate" and d.kind != "earth-stud"
    ]
    assert Counter(kinds["legend"]) == Counter(operated)
    ends = Counter({f"cable:{cable.name}": 2 for cable in plan.cables})
    assert Counter(kinds["cable"]) == ends + Counter(end for patch in patches_of(plan) for end in (patch.a, patch.b))
    assert Counter(kinds["piece"]) == Counter(cut.code for cut in plan.cuts)
    assert len(kinds["nameplate"]) == 1 and all(sticker.text.strip() and sticker.place for sticker in found)
    assert sum(label.count for label in build_labels(plan)) == len(found)


@pytest.mark.parametrize(("world", "asked"), [("iec", ASKED_IEC), ("ul", ASKED_UL)])
def test_the_nameplate_has_what_its_standards_ask_for(world: str, asked: tuple[str, ...]) -> None:
    (plate,) = [s.text for s in stickers_of(plan_of(demo_text(world))) if s.kind is LabelKind.NAMEPLATE]
    headings = [line.partition(":")[0] for line in plate.split("\n")]
    assert all(heading in headings for heading in (*asked, "Largest motor"))


def test_a_device_that_goes_takes_its_labels_along() -> None:
    text = HEAD + STARTER + '[device.P9]\nkind = "lamp"\n[[rung]]\npath = "C1+ > P9 > C1-"\n'
    before = {s.key for s in stickers_of(plan_of(text))}
    job = job_of(text)
    after = compute_plan(settle(edits.remove(edits.remove(job, "rungs", "rung1"), "devices", "P9")))
    assert {s.key for s in stickers_of(after)} < before and not any(":P9" in s.key for s in stickers_of(after))


def test_renumbering_changes_the_markers_of_that_number_and_no_other_label() -> None:
    job = job_of(HEAD + STARTER)
    before = {s.key: s.text for s in stickers_of(compute_plan(job))}
    after = {s.key: s.text for s in stickers_of(compute_plan(settle(set_number(job, "3", "77"))))}
    changed = {key for key in before if before[key] != after[key]}
    assert changed == {key for key, text in before.items() if text == "3" and key.startswith("wire:")} and changed


def test_words_that_a_person_writes_stand_on_that_label_alone_and_can_be_taken_back() -> None:
    job = job_of(HEAD + STARTER)
    plan = compute_plan(job)
    legend = next(s for s in stickers_of(plan) if s.kind is LabelKind.LEGEND)
    written = settle(write_label(job, legend.key, "  Apples   up "))
    after = {s.key: s for s in stickers_of(compute_plan(written))}
    assert after[legend.key].text == "Apples up" and after[legend.key].own
    assert {k: s.text for k, s in after.items() if k != legend.key} == {
        s.key: s.text for s in stickers_of(plan) if s.key != legend.key
    }
    assert settle(write_label(written, legend.key, "")).ledger.texts == job.ledger.texts


def test_warnings_are_those_that_the_circuit_needs() -> None:
    """IEC 60204-1 16.2, 5.3.5, 6.2.4; UL 508A 53 to 59; from memory."""
    names = {warning.name for warning in warnings_of(plan_of(HEAD + STARTER))}
    assert names == {"shock", "isolate"}
    more = (
        HEAD + STARTER.replace("kw = 1.5", 'kind = "drive"\nkw = 2.2') + '[surge.F9]\n[excepted.X1]\nload = "heater"\n'
    )
    more += '[extra_supply.P]\nsystem = "3ph"\nvolts = 230\nisolated = "here"\n[device.Q8]\nkind = "breaker"\n'
    more += '[device.E8]\nkind = "heater"\n'
    more += 'kw = 1\nat = "field"\n[[feeder]]\npath = "P.L1 P.L2 > Q8 > E8"\n'
    assert {warning.name for warning in warnings_of(plan_of(more))} >= {
        "charge",
        "surge",
        "live",
        "hot",
        "supplies",
        "second",
    }
    assert {"copper", "torque"} <= {warning.name for warning in warnings_of(plan_of(demo_text("ul")))}


def test_markers_go_on_with_the_wires_tags_before_and_plates_after() -> None:
    when = {sticker.kind: sticker.when for sticker in stickers_of(plan_of(demo_text()))}
    assert (when[LabelKind.DEVICE], when[LabelKind.WIRE], when[LabelKind.NAMEPLATE]) == (
        When.BEFORE,
        When.WITH,
        When.AFTER,
    )
