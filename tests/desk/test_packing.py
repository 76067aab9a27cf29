"""Values that go through the pipe come out as they were, whichever side is old."""

import pickle
from dataclasses import FrozenInstanceError, dataclass
from importlib.resources import files

import pytest

from riktig.desk.packing import pack, quicken, quicken_all, unpack
from riktig.files.brief_reader import parse_brief
from riktig.plan.plan import compute_plan
from riktig.plan.settle import settle


@dataclass(frozen=True, slots=True)
class _One:
    value: object


@dataclass(frozen=True, slots=True, kw_only=True)
class _Two(_One):
    name: str = "K1"
    places: tuple[float, ...] = ()


def test_packing_gives_back_a_whole_plan_packed_before_and_after_its_records_are_quick() -> None:
    plan = compute_plan(settle(parse_brief(files("riktig").joinpath("demos", "ul.toml").read_text(encoding="utf-8"))))
    before = pickle.dumps(plan)
    assert unpack(before) == plan
    quicken_all()
    assert unpack(pack(plan)) == plan == pickle.loads(before)


@pytest.mark.parametrize(
    "record", [_One(None), _One((1, 2)), _Two(value=_One(3)), _Two(value=4, name="M1", places=(1.5,))]
)
def test_packing_reads_what_python_packed_and_python_what_it_packed(record: _One) -> None:
    plain = pickle.dumps(record)
    quicken(type(record))
    quicken(type(record))  # twice does no harm
    assert unpack(plain) == pickle.loads(pack(record)) == record
    with pytest.raises(FrozenInstanceError):
        unpack(plain).value = 5
