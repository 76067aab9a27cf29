"""Two pumps that take turns, by a relay simulation over the netlist that knows nothing of their expansion."""

from itertools import pairwise

import pytest

from relay_simulation import Panel
from riktig.checks.run import find_all
from riktig.files.brief_reader import BriefError, parse_brief
from riktig.files.brief_writer import write_brief
from riktig.plan.circuit.expand import expand
from support import HEAD, job_of, plan_of

PUMP = '[starter.{0}]\nkind = "pump"\nkw = 4\nsupply = "C1"\nlamps = [{1}]\n'
LEVEL = "[level.SUMP]\nfloats = {{ stop = 0.4, start = 1.2, {} }}\n"
PAIR = '[pumps.P1]\nstarters = ["M1", "M2"]\nlevel = "SUMP"\n'


def text(floats: str = "lag = 1.6", lamps: str = '"run", "trip"') -> str:
    return HEAD + LEVEL.format(floats) + PUMP.format("M1", lamps) + PUMP.format("M2", lamps) + PAIR


def panel_of(*more: str) -> Panel:
    panel = Panel(plan_of(text(*more)))
    return panel.turn("M1.SL", "auto").turn("M2.SL", "auto")


def at(panel: Panel, *floats: str) -> set[str]:
    """Let the level stand above these floats and return which pumps run."""
    wet = {f"SUMP.{name}" for name in floats}
    panel.release(*{d for d in panel.pressed if d.startswith("SUMP.")} - wet)
    panel.hold(*wet)
    return {name for name in ("M1", "M2") if f"{name}.K" in panel.on}


FILL = (("stop",), ("stop", "start"), ("stop",), ())


@pytest.mark.parametrize("lamps", ['"run", "trip"', ""])
def test_each_start_takes_the_other_pump_and_it_runs_down_to_the_stop_float(lamps: str) -> None:
    panel = panel_of("lag = 1.6", lamps)
    seen = [at(panel, *floats) for _ in range(4) for floats in FILL]
    assert seen == [set(), {"M1"}, {"M1"}, set(), set(), {"M2"}, {"M2"}, set()] * 2


def test_the_lag_float_brings_both_and_both_run_down() -> None:
    panel = panel_of()
    assert at(panel, "stop", "start") == {"M1"}
    assert at(panel, "stop", "start", "lag") == {"M1", "M2"}
    assert at(panel, "stop") == {"M1", "M2"} and at(panel) == set()


@pytest.mark.parametrize(("first", "standby"), [("M1", "M2"), ("M2", "M1")])
def test_where_the_one_whose_turn_it_is_trips_the_other_takes_over_and_hand_runs_one_alone(
    first: str, standby: str
) -> None:
    panel = panel_of()
    if first == "M2":
        assert [at(panel, *floats) for floats in FILL][1] == {"M1"}
    assert at(panel, "stop", "start") == {first}
    panel.trip(f"{first}.F")
    assert at(panel, "stop", "start") == {standby}
    panel.reset(f"{first}.F")
    assert at(panel) == set()
    panel.turn("M2.SL", "hand")
    assert at(panel) == {"M2"}


def test_no_order_moves_from_a_running_pump_to_the_other_while_the_demand_lasts() -> None:
    panel = panel_of()
    runs = [
        at(panel, *floats) for floats in (("stop", "start"), ("stop",), ("stop", "start"), ("stop",), ("stop", "start"))
    ]
    assert runs == [{"M1"}] * 5 and all(a == b for a, b in pairwise(runs))


def test_each_float_has_one_contact_and_a_level_without_lag_has_no_demand_of_both() -> None:
    circuit = expand(job_of(text()))
    assert not [d.id for d in circuit.devices if d.id.startswith("SUMP.K_")]
    assert {"P1.KD", "P1.KA", "P1.KL", "P1.K1", "P1.K2", "P1.KT1", "P1.KT2"} <= circuit.index.keys()
    bare = plan_of(text("alarm = 2.0"))
    assert "P1.KL" not in bare.parts and bare.parts["P1.KA"].traits["action"] == "alternating"
    assert [f.message for f in find_all(bare) if f.severity == "must"] == []


def test_a_pair_is_written_and_read_back() -> None:
    job = parse_brief(text())
    assert parse_brief(write_brief(job)) == job


@pytest.mark.parametrize(
    ("change", "words"),
    [
        (('"M1", "M2"]', '"M1", "M3"]'), "pumps.P1.starters: no starter 'M3'"),
        (('"M1", "M2"]', '"M1", "M1"]'), "pumps.P1.starters: a pump cannot take turns with itself"),
        (('level = "SUMP"\n', 'level = "WELL"\n'), "pumps.P1.level: no level 'WELL'"),
        (('kind = "pump"\n', 'kind = "dol"\n'), "pumps.P1.starters: M1 is no pump"),
        (('kind = "pump"\n', 'kind = "pump"\nlevel = "SUMP"\n'), "starter.M1: M1 is ordered by"),
        ((PAIR, PAIR + PAIR.replace("P1", "P2")), "pumps.P2.starters: M1 is in another pair already"),
    ],
)  # fmt: skip
def test_a_pair_that_does_not_fit_is_told_with_its_place_and_mend(change: tuple[str, str], words: str) -> None:
    with pytest.raises(BriefError, match=words):
        parse_brief(text().replace(*change, 1))
