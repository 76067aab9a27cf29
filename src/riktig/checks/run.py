"""Owns the list of rules and their order. Must not judge anything itself."""

from collections.abc import Callable, Iterator
from dataclasses import replace
from datetime import date
from functools import partial

from riktig.checks import (
    approvals,
    behaviour,
    circuits,
    door,
    duty,
    fit,
    grounded,
    heat,
    isolation,
    locks,
    loops,
    marking,
    parts,
    paths,
    plate,
    practice,
    protection,
    shock,
    sizes,
    supplies,
    wiring,
)
from riktig.checks.finding import SEVERITIES, Finding, Severity
from riktig.checks.waived import with_waivers
from riktig.checks.watched import Watch
from riktig.job.practice import Practice
from riktig.plan.plan import Plan

RULES: tuple[Callable[[Plan], Iterator[Finding]], ...] = (
    protection.check_own_protection,
    protection.check_poles,
    sizes.check_conductors,
    sizes.check_drops,
    sizes.check_overloads,
    sizes.check_trip_class,
    sizes.check_given,
    sizes.check_passed_on,
    circuits.check_unsized,
    circuits.check_unwired,
    circuits.check_behind_loads,
    circuits.check_open_leads,
    circuits.check_motor_overload,
    circuits.check_trips,
    circuits.check_coils,
    circuits.check_dials,
    circuits.check_nameplates,
    circuits.check_enables,
    circuits.check_behind_drives,
    duty.check_duty,
    duty.check_low_level,
    approvals.check_part_standards,
    approvals.check_conditions,
    approvals.check_guards,
    approvals.check_field_wiring,
    approvals.check_adapters,
    loops.check_disconnection,
    loops.check_heating,
    shock.check_monitor,
    shock.check_electrode,
    shock.check_drive_guard,
    shock.check_residual_voltage,
    shock.check_leakage,
    isolation.check_disconnect,
    isolation.check_handle,
    isolation.check_inside_handle,
    isolation.check_door_lock,
    isolation.check_in_sight,
    isolation.check_shroud,
    marking.check_nameplate,
    marking.check_degree,
    marking.check_colours,
    marking.check_insulation,
    grounded.check_grounded_line,
    grounded.check_one_pole,
    supplies.check_returns,
    supplies.check_bonds,
    supplies.check_motor_supply,
    supplies.check_assumed,
    supplies.check_arrester,
    sizes.check_neutral,
    sizes.check_short_circuit,
    sizes.check_proof,
    sizes.check_slash_ratings,
    sizes.check_by_hand,
    sizes.check_tables,
    heat.check_inside,
    heat.check_cold,
    heat.check_condensation,
    heat.check_declared_rise,
    parts.check_too_small,
    parts.check_doubled,
    parts.check_unmet,
    parts.check_clamps,
    parts.check_bars,
    wiring.check_joined_supplies,
    wiring.check_mains_in_control,
    wiring.check_fed_twice,
    wiring.check_clamp_sizes,
    wiring.check_pairs,
    wiring.check_class_2,
    wiring.check_taps,
    parts.check_estimates,
    plate.check_places,
    door.check_holes,
    door.check_heights,
    door.check_openings,
    door.check_depth,
    door.check_shaft,
    door.check_entries,
    door.check_stations,
    door.check_walls,
    fit.check_ducts,
    fit.check_grouping,
    fit.check_pieces,
    behaviour.check_emergency_stop_reach,
    behaviour.check_emergency_stop_opening,
    behaviour.check_emergency_stop_release,
    behaviour.check_supply_return,
    locks.check_stop_first,
    locks.check_overload_first,
    behaviour.check_overload_reset,
    locks.check_contradictory,
    locks.check_mirror_contacts,
    locks.check_reversal,
    locks.check_star_delta,
    behaviour.check_alarm_ahead,
    locks.check_hold_to_run,
    paths.check_switched_earth,
    paths.check_bonded_side,
    paths.check_sneak_paths,
    paths.check_sockets,
    paths.check_neutral_cut,
    practice.check_control_voltage,
    practice.check_emergency_stop,
    practice.check_restart,
    practice.check_reversing,
    practice.check_interlocks,
    practice.check_stays_live,
    practice.check_second_supplies,
    practice.check_control_groups,
    practice.check_return_school,
    practice.check_supply_protection,
)


def find_impossible(plan: Plan) -> tuple[Finding, ...]:
    """Return what makes plate, door or a wall impossible to build as they are drawn."""
    rules = (plate.check_places, door.check_holes, door.check_entries, door.check_walls)
    return tuple(finding for rule in rules for finding in rule(plan) if finding.severity is Severity.MUST)


def find_all(plan: Plan, watch: Watch | None = None) -> tuple[Finding, ...]:
    """Return all findings of a Plan, worst first; with a watch only rules are judged again whose part of the Plan changed. No
    rule reads what people call a device or path, so that a title judges none again.
    """
    untitled = replace(plan, circuit=plan.body)
    answers = (
        watch.ask(question, untitled, words=_WORDS) if watch is not None else question(untitled)
        for question in _QUESTIONS
    )
    judged = [_cited(finding, plan.job.practice) for answer in answers for finding in answer]
    found = with_waivers(judged, plan.job.waivers, plan.tags, date.today())
    return tuple(sorted(found, key=lambda f: SEVERITIES.index(f.severity)))


def _cited(finding: Finding, practice: Practice) -> Finding:
    """Return a finding with the clauses of the editions by which the job is judged."""
    source = practice.cite(finding.source)
    return finding if source == finding.source else replace(finding, source=source)


def _judge(rule: Callable[[Plan], Iterator[Finding]], plan: Plan) -> tuple[Finding, ...]:
    return tuple(rule(plan))


_WORDS = frozenset({"tags"})
_QUESTIONS = tuple(partial(_judge, rule) for rule in RULES)
