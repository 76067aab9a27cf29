"""Owns what a finding is. Must not know any rule."""

import re
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

    @property
    def margin_percent(self) -> float | None:
        """By how much in percent of the limit what was found misses it, below zero; None where they are no figures of one unit."""
        found, limit = _figure_in(self.evidence), _figure_in(self.limit)
        if self.severity is Severity.NOTE or found is None or limit is None or found[1] != limit[1] or not limit[0]:
            return None
        return -100.0 * abs(found[0] - limit[0]) / abs(limit[0])


_FIGURE = re.compile(r"(?:\w+ )?(?:least |most )?(-?\d+(?:\.\d+)?(?:e[+-]?\d+)?) ([^\d\s,;()]+)")
_NO_UNITS = frozenset({"x", "to", "and"})


def _figure_in(text: str) -> tuple[float, str] | None:
    """Return the figure with which a text begins, and its unit."""
    match = _FIGURE.match(text)
    return (float(match[1]), match[2]) if match is not None and match[2] not in _NO_UNITS else None


def miss_words(finding: Finding) -> str:
    """Return by how much a finding misses its limit, in brackets behind that; "" where there is no figure for it."""
    margin = finding.margin_percent
    return "" if margin is None else f" (missed by {-margin:.0f} %)" if margin <= -1 else " (missed by less than 1 %)"
