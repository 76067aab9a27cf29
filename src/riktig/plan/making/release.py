"""Owns issuing a revision: from then on nothing that was chosen moves by itself. Must not store it."""

from riktig.job.edits import replace
from riktig.job.ledger import merge_choices
from riktig.job.model import Job
from riktig.plan.making.lots import cut_lengths
from riktig.plan.plan import compute_plan
from riktig.plan.settle import settle
from riktig.plan.wiring.stations import hole_places


def issue_revision(job: Job, name: str) -> Job:
    """Return the Job as issued under a revision name: every choice in its ledger is frozen, and where each hole comes to be and to which
    length each wire is cut are some now.
    """
    settled = settle(job)
    plan = compute_plan(settled)
    holes = merge_choices(settled.ledger.holes, hole_places(plan.entries, plan.stations, plan.walls))
    lots = merge_choices(settled.ledger.lots, cut_lengths(plan))
    return replace(settled, ledger=settled.ledger.with_sorts(holes=holes, lots=lots).frozen(), revision=name)
