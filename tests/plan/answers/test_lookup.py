"""What a word finds and what is said of it."""

from riktig.plan.answers.lookup import Lookup
from support import HEAD, STARTER, plan_of, small_text


def test_every_word_that_is_found_leads_to_a_description() -> None:
    plan = plan_of(small_text())
    lookup = Lookup(plan)
    for word, ref in lookup.find().items():
        assert lookup.describe(ref) is not None, word


def test_a_wire_number_says_all_its_points_and_joins() -> None:
    lookup = Lookup(plan_of(small_text()))
    described = lookup.describe("net:4")
    assert described is not None
    assert {text for name, text in described.facts if name == "Meets"} == {"S2:14", "K1:14", "K1:A1"}
    assert len(lookup.joins("4")) == 2
    assert lookup.marks("M1.K:A1") == ("M1.K:A1", "M1.K", "net:4")


def test_the_reason_of_a_section_is_that_of_its_own_circuit() -> None:
    lookup = Lookup(plan_of(small_text()))
    reasons = {ref: [v.subject for v in lookup.describe(ref).values] for ref in ("net:1", "net:1L1", "net:L1")}  # type: ignore[union-attr]
    assert reasons == {"net:1": ["C1"], "net:1L1": ["M1"], "net:L1": ["Q0"]}
    assert lookup.describe("nothing") is None


def test_a_wire_number_tells_the_size_of_its_own_wires() -> None:
    """The leads of a star-delta motor carry 0.577 of its current and are thinner than its line wires."""
    plan = plan_of(HEAD + STARTER.replace("kw = 1.5", 'kind = "star-delta"\nkw = 22'))
    lookup = Lookup(plan)
    for terminal in ("M1.Q:2", "M1.KD:2/T1", "M1.F:2/T1"):
        potential = plan.potential_of(terminal)
        assert potential is not None
        described = lookup.describe(f"net:{potential.number}")
        assert described is not None and "@" not in described.subtitle
        told = [v.value for v in described.values if v.quantity in {"conductor_section", "lead_section"}]
        assert told == [plan.sections.inside[potential.number].mm2]
