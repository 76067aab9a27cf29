"""What is said of a value beside its formula: inputs that lead somewhere, margin, and true neighbours."""

import pytest

from riktig.plan.answers.explain import Explanation, explain
from riktig.plan.answers.lookup import Lookup
from riktig.plan.plan import Plan
from support import HEAD, STARTER, demo_text, plan_of, small_text


def of(plan: Plan, subject: str, quantity: str) -> Explanation:
    return explain(plan, next(v for v in plan.sizing if (v.subject, v.quantity) == (subject, quantity)))


@pytest.fixture(scope="module")
def plan() -> Plan:
    return plan_of(HEAD + STARTER)


@pytest.mark.parametrize(
    "text", [small_text(), small_text("ul"), HEAD + STARTER.replace("kw = 1.5", 'kind = "star-delta"\nkw = 11')]
)
def test_every_input_leads_somewhere_that_exists(text: str) -> None:
    plan = plan_of(text)
    lookup, job = Lookup(plan), plan.job
    tables = {"starter": job.starter, "control": job.control, "location": job.location}
    for value in plan.sizing:
        for line in explain(plan, value).inputs:
            if line.place is None or lookup.describe(line.place) is not None:
                continue
            table, *names = line.place.split(".")
            model = tables[table](names[0]) if len(names) == 2 else getattr(job, table)
            assert model is not None and hasattr(model, names[-1]), line


@pytest.mark.parametrize("text", [small_text(), small_text("ul")])
def test_every_value_has_a_formula_and_a_source(text: str) -> None:
    for value in plan_of(text).sizing:
        assert value.formula and value.source and value.unit, value.key


def test_the_neighbours_of_a_section_are_judged_by_the_same_rule(plan: Plan) -> None:
    """By hand: 3.6 A; 2.5 mm2 carries 18.3 · 0.91 = 16.7 A, 1.5 mm2 12.3 A; 1 mm2 10.3 · 0.91 = 9.4 A would carry it too."""
    told = of(plan, "M1", "conductor_section")
    assert told.margin == "241 % to spare: 12.3 A, needed 3.6 A"
    assert told.larger.startswith("2.5 mm² carries 16.7 A, 363 % to spare")
    assert "but below the least section used, 1.5 mm²" in told.smaller


def test_the_neighbours_of_a_motor_are_those_of_the_table(plan: Plan) -> None:
    """IEC 60947-4-1 Annex G: 1.1 kW 2.7 A, 2.2 kW 4.9 A."""
    told = of(plan, "M1", "motor_current")
    assert told.smaller.startswith("1.1 kW draws 2.7 A") and told.larger.startswith("2.2 kW draws 4.9 A")
    assert [line.place for line in told.inputs][:1] == ["starter.M1.kw"]


def test_the_neighbours_of_a_part_say_what_they_lack_or_have_too_much(plan: Plan) -> None:
    told = of(plan, "M1.Q", "protective_rating")
    assert "4 A: does not serve, it needs 5.76 A (it has 4)" in told.smaller
    assert "8 A: serves too" in told.larger or "10 A: serves too" in told.larger
    assert of(plan, "M1.F", "overload_setting").smaller.endswith("does not hold it")


def test_a_longer_cable_of_the_next_size_tells_its_drop(plan: Plan) -> None:
    drop = of(plan, "M1", "voltage_drop")
    running = next(v.value for v in plan.sizing if (v.subject, v.quantity) == ("M1", "voltage_drop"))
    words = drop.larger.split()
    assert (
        words[2] == "drops"
        and float(words[3]) < running
        and drop.smaller == ""
        or float(drop.smaller.split()[3]) > running
    )


def test_a_higher_enclosure_is_cooler(plan: Plan) -> None:
    told = of(plan, "panel", "temperature_rise")
    lower, higher = (float(t.split(": ")[1].split()[0]) for t in (told.smaller, told.larger))
    assert higher < plan.panel.heat.rise_k < lower


@pytest.mark.parametrize("world", ["iec", "ul"])
def test_each_value_names_places_that_there_are(world: str) -> None:
    """A place leads from a value to where it is decided; `supply.available_ka` stands in no brief."""
    plan = plan_of(demo_text(world))
    told = [tuple(place.split(".")) for value in plan.sizing for place in value.places.values()]
    tables = {"supply", "incoming", "enclosure", "practice"}
    stated = [(table, key) for table, *keys in told if table in tables for key in keys[-1:]]
    assert ("supply", "fault_ka") in stated
    assert [(table, key) for table, key in stated if key not in type(getattr(plan.job, table)).model_fields] == []
