"""Keys of operations say what they are of, and tell it in words when the thing is gone."""

import pytest

from riktig.record.keys import OperationKey, Sort, WireStep, removed, wire_key
from riktig.record.operations import list_operations
from support import HEAD, STARTER, plan_of


def test_every_key_of_a_plan_tells_its_thing_and_step() -> None:
    plan = plan_of(HEAD + STARTER)
    keys = [operation.key for operation in list_operations(plan)]
    assert {key.sort for key in keys} >= {Sort.PIECE, Sort.HOLES, Sort.CUTOUT, Sort.ENTRY, Sort.DEVICE, Sort.WIRE}
    for key in keys:
        assert key.sort is not None and key.thing and key.words and bool(key.step) is key.sort.has_steps
        assert OperationKey(f"{key.whole}:{key.step}" if key.step else key.whole) == key
    wires = {key.thing for key in keys if key.sort is Sort.WIRE}
    assert wires == {c.id for c in plan.conductors if c.is_wired}


@pytest.mark.parametrize(
    ("key", "words", "again"),
    [
        ("wire:M1.K:A1 X2:3 1:marked", "the wire from M1.K:A1 to X2:3", "relabel"),
        ("device:M1.K:mounted", "device M1.K", "move"),
        ("screen:field/M2", "the screen of the cable to field/M2", "remake"),
        ("wire:x", "the wire ", "remake"),
        ("nail:N1:driven", "nail N1 driven", "remake"),
        ("", "", "remake"),
    ],
)
def test_any_subject_of_an_event_can_be_told(key: str, words: str, again: str) -> None:
    read = OperationKey(key)
    assert (read.words, read.again) == (words, again)
    assert removed(read) == f"removed:{read.whole}"


def test_a_wire_is_landed_by_its_last_end() -> None:
    assert wire_key("M1.K:A1 X2:3 1", WireStep.OTHER_END).is_landing
    assert not wire_key("M1.K:A1 X2:3 1", WireStep.ONE_END).is_landing
