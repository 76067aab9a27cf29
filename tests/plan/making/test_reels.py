"""Reels hold what is cut from them, few are taken, and the metres are those of the wire list and of what is bought."""

import csv
import io
import random
from collections import defaultdict

import pytest

from effort import examples
from panels import panel_text
from riktig.catalogue.prices import Prices, PricesError, prices_now
from riktig.files.tables import bom_table, wires_table
from riktig.plan.making.reels import fill_reels, reels_of
from riktig.plan.net.runs import Screen
from riktig.plan.plan import Plan
from support import demo_text, plan_of


def fewest(lengths: list[float], reel: float) -> int:
    """Return the fewest reels by integer programming: SciPy `milp` (HiGHS)."""
    import numpy as np
    from scipy.optimize import LinearConstraint, milp

    n = len(lengths)
    cost = np.concatenate((np.zeros(n * n), np.ones(n)))
    rows, low, high = [], [], []
    for i in range(n):
        row = np.zeros(n * n + n)
        row[i * n : (i + 1) * n] = 1
        rows.append(row), low.append(1), high.append(1)
    for r in range(n):
        row = np.zeros(n * n + n)
        row[r : n * n : n] = lengths
        row[n * n + r] = -reel
        rows.append(row), low.append(-np.inf), high.append(0)
    found = milp(
        cost, constraints=LinearConstraint(np.array(rows), low, high), integrality=np.ones(n * n + n), bounds=(0, 1)
    )
    return round(found.fun)


@pytest.mark.parametrize("seed", range(examples(30)))
def test_reels_are_as_few_as_integer_programming_finds_or_one_more(seed: int) -> None:
    chance = random.Random(seed)
    lengths = [chance.randint(5, 70) / 10 for _ in range(chance.randint(1, 7))]
    left = fill_reels(lengths, 10.0)
    assert sum(10.0 - rest for rest in left) == pytest.approx(sum(lengths)) and min(left) >= 0
    assert fewest(lengths, 10.0) <= len(left) <= fewest(lengths, 10.0) + 1


def rows_of(text: str) -> list[dict[str, str]]:
    return list(csv.DictReader(io.StringIO(text)))


def totals(plan: Plan) -> tuple[dict[str, float], dict[str, int]]:
    """Return metres of wire and pieces of ferrules, pins and rings, counted from the wire list alone."""
    metres: defaultdict[str, float] = defaultdict(float)
    ends: defaultdict[str, float] = defaultdict(float)
    screened = {wire.id for wire in plan.conductors if wire.screened}
    rows = rows_of(wires_table(plan).to_csv())
    for row, wire in zip(rows, (c for c in plan.conductors if plan.ends_of(c) is not None), strict=True):
        if row["kind"] == "wire" and wire.id not in screened:
            metres[f"{float(row['section_mm2']):g}-{row['colour'].replace(' ', '-')}"] += float(row["cut_mm"]) / 1000
        for end in (row["end_from"], row["end_to"]):
            if end != "bare":
                ends[end] += 0.5 if end.startswith("twin") else 1
    return metres, {name: round(count) for name, count in ends.items()}


def _reels(count: int) -> str:
    return f"{count} reel{'s' if count > 1 else ''} of 100 m"


@pytest.mark.parametrize(
    "text", [demo_text("iec"), demo_text("ul"), *(panel_text(seed) for seed in range(examples(50)))]
)
def test_metres_and_ends_counted_from_the_wire_list_are_those_that_are_bought_and_reeled(text: str) -> None:
    plan = plan_of(text)
    metres, ends = totals(plan)
    bought = rows_of(bom_table(plan).to_csv())
    wire = {
        row["code"].removeprefix("wire-"): float(row["quantity"]) for row in bought if row["code"].startswith("wire-")
    }
    assert wire == pytest.approx(metres, abs=0.06)
    kinds = ("ferrule-", "twin-ferrule-", "pin-", "ring-")
    crimped = {
        row["title"][:1].lower() + row["title"][1:]: float(row["quantity"])
        for row in bought
        if row["code"].startswith(kinds)
    }
    assert crimped == ends
    shrunk = sum(float(row["quantity"]) for row in bought if row["code"].startswith("shrink-"))
    rings = sum(end.finish == "ring" for c in plan.conductors for end in plan.ends_of(c) or ())
    assert shrunk == pytest.approx(0.03 * rings + 0.06 * sum(c.screen is Screen.PANEL for c in plan.cables), abs=0.05)
    asked = {row["code"]: row["bought"] for row in bought if row["code"].startswith("wire-")}
    assert asked == {
        f"wire-{load.size.mm2:g}-{load.colour.replace(' ', '-')}": _reels(load.reels) for load in reels_of(plan)
    }
    reeled = {f"{load.size.mm2:g}-{load.colour.replace(' ', '-')}": load.cut_m for load in reels_of(plan)}
    assert reeled == pytest.approx(metres, abs=0.06)


def test_the_shop_states_its_prices_and_what_it_leaves_out_is_told_as_assumed(
    tmp_path: pytest.TempPathFactory, monkeypatch: pytest.MonkeyPatch
) -> None:
    path = tmp_path / "shop.toml"
    monkeypatch.setenv("RIKTIG_SHOP", str(path))
    prices_now.forget()
    assert prices_now() == Prices() and "minute" in prices_now().assumed
    path.write_text(
        '[prices]\nminute = 1.2\nmoney = "kr"\nmetre = { 1.5 = 0.31, "2.5" = 0.5 }\n'.replace("1.5 =", '"1.5" =')
    )
    prices_now.forget()
    stated = prices_now()
    assert (stated.minute, stated.metre_of(1.5), stated.metre_of(10)) == (1.2, 0.31, pytest.approx(1.15))
    assert "minute" not in stated.assumed and "reel_m" in stated.assumed
    for wrong in ("[prices]\nminutes = 3\n", "[prices]\nminute = -1\n", "prices = 3\n", "[prices\n"):
        path.write_text(wrong)
        prices_now.forget()
        with pytest.raises(PricesError, match="shop.toml"):
            prices_now()
    prices_now.forget()
