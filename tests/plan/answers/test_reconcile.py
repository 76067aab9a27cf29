"""Comparing a list of existing wires with the circuit: what is planted is found and named, and nothing else."""

import csv
import io
from dataclasses import replace

import networkx as nx
import pytest

from riktig.files.from_to import parse_from_to
from riktig.files.tables import wires_table
from riktig.plan.answers.reconcile import FromTo, Reconciliation, reconcile
from riktig.plan.changes.numbers import take_numbers
from riktig.plan.plan import Plan, compute_plan
from support import HEAD, STARTER, TWO_STATIONS, job_of, plan_of, small_text


def listed(plan: Plan) -> list[FromTo]:
    """Return the list that the plan itself exports."""
    table = csv.reader(io.StringIO(wires_table(plan).to_csv()))
    return list(parse_from_to(enumerate((tuple(row) for row in table), start=1)))


def told(found: Reconciliation) -> list[tuple[str, str]]:
    return [(d.sort.value, d.message) for d in found.discrepancies]


@pytest.mark.parametrize(
    "text",
    [small_text(), small_text("ul"), TWO_STATIONS, HEAD + STARTER.replace("kw = 1.5", 'kw = 11\nkind = "star-delta"')],
)
def test_a_panel_agrees_with_its_own_list(text: str) -> None:
    plan = plan_of(text)
    found = reconcile(plan, listed(plan))
    assert told(found) == [] and found.numbers == {}


def test_ten_planted_discrepancies_are_all_found_and_none_invented() -> None:
    """Each on potentials of its own: three wires gone, a stray wire, a cut, two stray ends, a wrong number, a short chain, a number
    twice.
    """
    plan = plan_of(HEAD + STARTER + STARTER.replace("M1", "M2") + STARTER.replace("M1", "M3"))
    label = plan.terminal_label
    rows = listed(plan)

    def at(terminal: str) -> FromTo:
        """Return the only row that ends on a terminal."""
        (row,) = [r for r in rows if label(terminal) in (r.a, r.b)]
        return row

    def number(terminal: str) -> str:
        potential = plan.potential_of(terminal)
        assert potential is not None
        return potential.number

    trips = [at(f"M{n}.HT:X1") for n in (1, 2, 3)]
    wrong = at("M3.H:X1")
    doubled = next(r for r in rows if r.number == number("M2.S0:12"))
    leaf = at("M3.S0:11")
    returns = nx.Graph([(r.a, r.b) for r in rows if r.number == number("M1.K:A2")])
    cut = next(e for e in returns.edges if min(returns.degree[e[0]], returns.degree[e[1]]) > 1)
    returns.remove_edge(*cut)
    far = nx.node_connected_component(returns, cut[1])
    planted = [row for row in rows if row not in [*trips, wrong, doubled, leaf] and {row.a, row.b} != set(cut)]
    planted = [replace(r, number="R9") if r.number == number("M1.K:A2") and r.a in far else r for r in planted]
    planted += [
        FromTo(line=901, number=number("M1.H:X1"), a=label("M1.H:X1"), b=label("M2.H:X1")),
        FromTo(line=902, number=number("M2.F:96"), a=label("M2.F:96"), b="K99:A1"),
        FromTo(line=903, number=number("M3.F:96"), a=label("M3.F:96"), b="K1:44"),
        replace(doubled, number="2x"),
        replace(wrong, number=number("M1.S0:12")),
    ]
    expected = [
        *(("missing", label(f"M{n}.HT:X1")) for n in (1, 2, 3)),
        ("missing", label("M3.S0:11")),
        ("joined", label("M2.H:X1")), ("joined", "2x"), ("joined", label("M3.H:X1")),
        ("split", "R9"), ("extra", "K99:A1"), ("extra", "K1:44"),
    ]  # fmt: skip
    found = told(reconcile(plan, planted))
    assert len(found) == len(expected) == 10, found
    for sort, words in expected:
        assert sum(s == sort and words in message for s, message in found) == 1, (sort, words, found)


def test_numbers_of_the_list_are_taken_over_where_it_agrees() -> None:
    job = job_of(TWO_STATIONS)
    plan = compute_plan(job)
    other = {"1": "101", "2": "102", "3": "103", "4": "104", "5": "105", "6": "106"}
    rows = [FromTo(line=r.line, number=other.get(r.number, r.number), a=r.a.lower(), b=r.b) for r in listed(plan)]
    found = reconcile(plan, rows)
    assert told(found) == [] and dict(found.numbers) == other
    taken = compute_plan(take_numbers(job, found.numbers))
    assert {p.number for p in taken.potentials} >= set(other.values())
    assert [(c.id, c.length_mm) for c in sorted(taken.conductors, key=lambda c: c.id)] == [
        (c.id, c.length_mm) for c in sorted(plan.conductors, key=lambda c: c.id)
    ], "no wire moves"
