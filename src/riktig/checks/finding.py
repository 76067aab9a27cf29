"""Owns what a finding is. Must not know any rule."""

from dataclasses import dataclass
from enum import StrEnum

from riktig.job.mends import Mend


class Severity(StrEnum):
    """How much a finding weighs: it must be mended, should be, or is good to know."""

    MUST = "must"
    SHOULD = "should"
    NOTE = "note"


SEVERITIES = (Severity.MUST, Severity.SHOULD, Severity.NOTE)


@dataclass(frozen=True, slots=True, kw_only=True)
class Finding:
    """Something to decide. `subject` is a device, starter or code that it is about; `message` names the mend;
    `evidence` and `limit` are what was found and what the rule asks for.
    """

    rule: str
    severity: Severity
    subject: str
    message: str
    evidence: str
    limit: str
    source: str
    waived: str = ""
    """Who lets it stand, when and why; "" for nobody."""
    asks: str = ""
    """The key of the brief, or of a catalogue entry, whose answer is missing: until it is there the rule cannot judge."""
    mend: Mend | None = None
    """The edit that mends it, where one can."""
