"""Owns what a record comes to for those who inspect. Must not judge it."""

from riktig.checks.recorded import Recorded
from riktig.record.progress import Progress


def recorded_of(progress: Progress, unit: str, *, is_issued: bool) -> Recorded:
    """Return what happened to a unit, as rules about the record see it."""
    testing = progress.testing
    titles = {step.key: step.title for step in testing.steps}
    return Recorded(
        unit=unit, rework=tuple(line.text for line in progress.rework), tests=len(testing.steps),
        passed=sum(progress.verdicts.values()), failed=tuple(titles[key] for key, verdict in progress.verdicts.items() if not verdict),
        outdated=tuple(titles[key] for key in testing.outdated), is_issued=is_issued,
        is_begun=bool(progress.done or progress.verdicts or progress.rework or testing.outdated),
    )  # fmt: skip
