"""Owns the edits of sizes that people set, and what they type for one. Must not know what any size means."""

from riktig.job.edits import keep_choice, replace
from riktig.job.entries import Override
from riktig.job.model import Job
from riktig.units.conductor_size import AWG_SIZES, awg_area_mm2
from riktig.units.numbers import BadNumber, parse_number


def read_typed(text: str, unit: str) -> float:
    """Return what a person typed as a size, in `unit`: a number with or without its unit, or a gauge such as `12 AWG`.

    Raises:
        BadNumber: it is none of these.
    """
    words = text.replace("mm²", "mm2").split()
    gauge = [word for word in words if word.upper() not in {"AWG", "KCMIL"}]
    if unit == "mm2" and len(gauge) == 1 and len(words) == 2:
        if gauge[0] not in AWG_SIZES:
            raise BadNumber(f"'{text.strip()}' is no gauge used in panels: write one of {', '.join(AWG_SIZES)}")
        return round(awg_area_mm2(gauge[0]), 2)
    return parse_number(text.strip().replace("mm²", "mm2").removesuffix(unit))


def override_value(job: Job, key: str, number: float, reason: str) -> Job:
    """Return the Job with a size that a person set, `key` being `subject|quantity`.

    Raises:
        JobError: there is no reason, or the number is no size.
    """
    return keep_choice(job, "values", key, Override(number, reason.strip()))


def compute_value(job: Job, key: str) -> Job:
    """Return the Job with a size computed again that a person had set."""
    left = {name: choice for name, choice in job.ledger.values.items() if name != key}
    return replace(job, ledger=replace(job.ledger, values=left))
