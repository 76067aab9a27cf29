"""Running a table of stages: only what changed runs, equal results stop, and nothing undeclared is read."""

import pytest

from riktig.job import edits
from riktig.job.model import Job
from riktig.pipeline.engine import Memory, Run, Stage, check_table
from riktig.pipeline.facets import UndeclaredInput
from support import HEAD, STARTER, job_of


def stages(calls: list[str]) -> tuple[Stage, ...]:
    def power(job: Job) -> float:
        calls.append("power")
        return sum(starter.kw or 0.0 for starter in job.starters)

    def is_large(kw: float) -> bool:
        calls.append("large")
        return kw > 100

    def words(job: Job, large: bool) -> str:
        calls.append("words")
        return f"{job.info.number} {large}"

    return (
        Stage(name="power", make=power, inputs=("job.starters",)),
        Stage(name="large", make=is_large, inputs=("power",)),
        Stage(name="words", make=words, inputs=("job.info", "large")),
    )


def test_a_stage_runs_only_where_an_input_changed_and_an_equal_result_stops_what_hangs_on_it() -> None:
    calls: list[str] = []
    memory, job = Memory(stages(calls)), job_of(HEAD + STARTER)
    assert Run(memory, job, (), allocates=False)["words"] == "T-1 False"
    assert calls == ["power", "large", "words"]
    warmer = edits.change_part(job, "enclosure", ambient=20.0)
    assert Run(memory, warmer, (), allocates=False)["words"] == "T-1 False" and len(calls) == 3
    larger = edits.change_starter(job, "M1", kw=4.0)
    assert Run(memory, larger, (), allocates=False)["words"] == "T-1 False"
    assert calls[3:] == ["power", "large"], "4 kW is not large either: the words stay"
    assert Run(memory, job, (), allocates=False)["power"] == 1.5 and len(calls) == 5, "the way back is remembered"


def test_a_run_keeps_its_products_while_others_run() -> None:
    memory, job = Memory(stages([])), job_of(HEAD + STARTER)
    first = Run(memory, job, (), allocates=False)
    for kw in (4.0, 5.5, 7.5):
        assert Run(memory, edits.change_starter(job, "M1", kw=kw), (), allocates=False)["power"] == kw
    assert first["power"] == 1.5


def test_a_pinned_product_is_taken_as_it_is() -> None:
    run = Run(Memory(stages([])), job_of(HEAD + STARTER), (), allocates=False, pins={"power": 500.0})
    assert run["words"] == "T-1 True"


def test_reading_what_is_not_declared_is_an_error() -> None:
    stage = Stage(name="cheat", make=lambda job: job.supply.volts, inputs=("job.info",))
    with pytest.raises(UndeclaredInput, match=r"job\.supply is no declared input"):
        Run(Memory((stage,)), job_of(HEAD), (), allocates=False)["cheat"]
    sort = Stage(name="cheat", make=lambda job: job.ledger.tags, inputs=("job.info", "kept.numbers"))
    with pytest.raises(UndeclaredInput, match=r"kept\.tags is no declared input"):
        Run(Memory((sort,)), job_of(HEAD), (), allocates=False)["cheat"]


@pytest.mark.parametrize(
    "names",
    [(("a", ("b",)), ("b", ("job.info",))), (("a", ("job.info",)), ("a", ("job.info",))), (("a", ("shop", "shop")),)],
)
def test_a_table_out_of_order_or_with_a_name_twice_is_refused(names: tuple[tuple[str, tuple[str, ...]], ...]) -> None:
    with pytest.raises(ValueError, match="a"):
        check_table([Stage(name=name, make=lambda *_: None, inputs=inputs) for name, inputs in names])
