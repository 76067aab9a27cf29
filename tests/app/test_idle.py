"""Python's collector passes where nothing is edited, and at no other time."""

import gc
from collections.abc import Iterator

import pytest
from pytestqt.qtbot import QtBot

from riktig.app.idle import IdleCollector
from riktig.app.shell import Shell

IDLE_LIMIT_MS = 10_000


@pytest.fixture
def passes() -> Iterator[list[int]]:
    """The generations that are passed through, as it happens; the collector is put back afterwards."""
    seen: list[int] = []

    def note(phase: str, info: dict[str, int]) -> None:
        if phase == "stop":
            seen.append(info["generation"])

    gc.callbacks.append(note)
    yield seen
    gc.callbacks.remove(note)
    gc.unfreeze()
    gc.enable()


def test_a_job_that_is_there_is_set_apart_in_idle_time_and_new_circles_are_collected_then(
    shell: Shell, qtbot: QtBot, passes: list[int]
) -> None:
    IdleCollector(shell.session, shell, idle_ms=300)
    shell.files.open_demo("iec")
    qtbot.waitUntil(lambda: not shell.session.is_stale, timeout=60_000)
    assert passes == [], "none while the job is computed"
    qtbot.waitUntil(lambda: gc.get_freeze_count() > 0, timeout=IDLE_LIMIT_MS)
    passes.clear()
    for _ in range(20_000):
        circle: list[object] = []
        circle.append(circle)
    assert passes == []
    qtbot.waitUntil(lambda: passes == [2], timeout=IDLE_LIMIT_MS)
