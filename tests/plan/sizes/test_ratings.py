"""What devices must be rated for beside their current: warm air, margins, what is behind them."""

import pytest

from riktig.plan.making.labels import build_labels
from support import HEAD, plan_of

DRIVE = '[starter.M1]\nkind = "drive"\nkw = 4\nsupply = "C1"\n'


@pytest.mark.parametrize(("ambient", "needed"), [(30, 8.5), (35, 9.444), (40, 10.625), (45, 12.143)])
def test_a_drive_in_a_warm_panel_is_derated(ambient: int, needed: float) -> None:
    """2 % for each kelvin above 40 degC (common practice, no source), 10 K warmer inside: 8.5 A
    / 0.9 at 45 degC, / 0.8 at 50, / 0.7 at 55.
    """
    plan = plan_of(HEAD.replace("height = 1200", f"height = 1200\nambient = {ambient}") + DRIVE)
    assert plan.needs["M1.A"].amps == pytest.approx(needed, rel=1e-3)
    assert plan.parts["M1.A"].rating("amps") >= needed


@pytest.mark.parametrize("kw", [0.37, 0.75, 1.1, 1.5, 2.2, 3, 4, 5.5, 7.5, 11, 15, 18.5, 22, 30, 37, 45])
def test_an_overload_stands_inside_its_range_with_margin(kw: float) -> None:
    """Not at the end of its dial, so that the nameplate may differ a little: common practice, no source."""
    plan = plan_of(HEAD + f'[starter.M1]\nkw = {kw}\nsupply = "C1"\n')
    overload, setting = plan.parts["M1.F"], plan.starters["M1"].motor.setting
    assert 1.05 * overload.rating("amps_min") <= setting + 1e-9
    assert setting <= overload.rating("amps_max") / 1.05 + 1e-9


def test_a_pump_starts_again_by_itself_with_a_warning_and_another_motor_does_not() -> None:
    """Unattended pumps run again when the supply returns: common practice, no source; others never, IEC 60204-1:2016 7.5."""
    level = "[level.TANK]\nfloats = { stop = 0.4, start = 1.2 }\n"
    pump = plan_of(HEAD + level + '[starter.M1]\nkind = "pump"\nkw = 3\nsupply = "C1"\nlevel = "TANK"\n')
    assert "M1 STARTS BY ITSELF: isolate before any work" in [label.text for label in build_labels(pump)]
    other = plan_of(HEAD + '[starter.M1]\nkw = 3\nsupply = "C1"\n')
    assert not any("BY ITSELF" in label.text for label in build_labels(other))
