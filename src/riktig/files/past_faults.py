"""Owns which faults were found in the jobs of a folder: a shop's own record of past slips. Must not weigh them."""

from collections import Counter
from collections.abc import Mapping
from contextlib import suppress
from pathlib import Path

from riktig.files.job_file import JobFile
from riktig.prove.faults import Slip
from riktig.record.testing import found_before
from riktig.refusal import Refusal

MOST_JOBS = 200
"""So many jobs of a folder are read, those that were written last."""


def count_past(folder: Path, but: Path) -> Mapping[Slip, int]:
    """Return how often each slip was found in the jobs of a folder, without one of them; what cannot be read counts for nothing."""
    counts: Counter[Slip] = Counter()
    with suppress(OSError):
        jobs = [path for path in folder.glob("*.riktig") if path.resolve() != but.resolve()]
        for path in sorted(jobs, key=lambda one: -one.stat().st_mtime)[:MOST_JOBS]:
            with suppress(Refusal), JobFile.open(path, read_only=True) as file:
                counts.update(found_before(file.events(kind="fault")))
    return counts
