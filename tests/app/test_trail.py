"""The way back."""

from riktig.app.trail import MOST, Stop, Trail


def test_stops_come_back_last_first_and_the_oldest_are_forgotten() -> None:
    trail = Trail()
    assert trail.back() is None
    for n in range(MOST + 5):
        trail.leave(Stop(stage="circuit", ref=f"net:{n}"))
    assert len(trail) == MOST
    found = []
    while (stop := trail.back()) is not None:
        found.append(stop.ref)
    assert found == [f"net:{n}" for n in range(MOST + 4, 4, -1)]
