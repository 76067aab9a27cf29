"""Owns the list of rules and their order. Must not judge anything itself."""

from collections.abc import Callable, Iterator

from riktig.checks import fit, parts, practice, protection
from riktig.checks.finding import SEVERITIES, Finding
from riktig.plan.plan import Plan

RULES: tuple[Callable[[Plan], Iterator[Finding]], ...] = (
    protection.check_own_protection,
    protection.check_poles,
    protection.check_conductors,
    protection.check_overloads,
    protection.check_short_circuit,
    parts.check_too_small,
    parts.check_doubled,
    parts.check_unmet,
    parts.check_clamps,
    parts.check_estimates,
    fit.check_plate,
    fit.check_door,
    fit.check_ducts,
    fit.check_pieces,
    practice.check_control_voltage,
    practice.check_emergency_stop,
    practice.check_restart,
    practice.check_reversing,
    practice.check_motor_volts,
    practice.check_stays_live,
    practice.check_second_supplies,
    practice.check_return_school,
    practice.check_schools,
    practice.check_supply_protection,
)


def find_all(plan: Plan) -> tuple[Finding, ...]:
    """Return all findings of a Plan, worst first."""
    found = [finding for rule in RULES for finding in rule(plan)]
    return tuple(sorted(found, key=lambda f: SEVERITIES.index(f.severity)))
