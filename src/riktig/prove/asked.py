"""Owns which tests the standards ask of a panel that is made, and by which phases of the test each is met. Must not judge one.

Everything here is from memory of the standards; the edition that is law and a competent person decide.
"""

from dataclasses import dataclass

from riktig.job.practice import Standard
from riktig.prove.steps import Phase


@dataclass(frozen=True, slots=True, kw_only=True)
class AskedTest:
    """A test that a standard asks for: its clause, what it is, the phases that meet it, and what is to be said of it otherwise."""

    clause: str
    title: str
    phases: tuple[Phase, ...] = ()
    words: str = ""


_BY_HAND = "not part of this test: done and signed by whoever is responsible"
_MACHINE = (
    ("18.1 a", "the equipment agrees with its technical documents", (Phase.LOOK, Phase.THROUGH), ""),
    ("18.2.2", "continuity of the protective bonding circuit", (Phase.BOND,), ""),
    ("18.2.3", "fault loop, automatic disconnection", (), "calculated: the Compliance report; measured where the panel is put up"),
    ("18.3", "insulation resistance", (Phase.INSULATION,), ""),
    ("18.4", "voltage test", (), _BY_HAND),
    ("18.5", "residual voltage", (Phase.RESIDUAL,), ""),
    ("18.6", "functional tests", (Phase.LIVE, Phase.FUNCTION), ""),
    ("18.7", "test again what was changed", (), "what a change touches is open again by itself"),
)  # fmt: skip
_ASSEMBLY = (
    ("11.2", "degree of protection", (), "the Compliance report; looked at with the panel closed"),
    ("11.3", "clearances and creepage distances", (Phase.LOOK,), ""),
    ("11.4", "protection against shock, integrity of protective circuits", (Phase.BOND,), ""),
    ("11.5", "built-in components as they should be", (Phase.LOOK,), ""),
    ("11.6", "internal circuits and connections, torque", (Phase.LOOK, Phase.THROUGH), ""),
    ("11.7", "terminals for external conductors", (Phase.LOOK,), ""),
    ("11.8", "mechanical operation", (Phase.FITTING,), ""),
    ("11.9", "dielectric properties", (Phase.APART, Phase.INSULATION), "insulation stands for it up to 250 A: 11.9, from memory"),
    ("11.10", "wiring, performance and function", (Phase.THROUGH, Phase.LIVE, Phase.FUNCTION), ""),
)  # fmt: skip
_MACHINE_UL = (
    ("18.1", "the equipment agrees with its technical documents", (Phase.LOOK, Phase.THROUGH), ""),
    ("18.2", "continuity of the equipment grounding (protective bonding) circuit", (Phase.BOND,), ""),
    ("18.3", "insulation resistance", (Phase.INSULATION,), ""),
    ("18.4", "voltage tests", (), _BY_HAND),
    ("18.5", "residual voltages", (Phase.RESIDUAL,), ""),
    ("18.6", "functional tests", (Phase.LIVE, Phase.FUNCTION), ""),
    ("18.7", "retesting", (), "what a change touches is open again by itself"),
)  # fmt: skip


def asked_tests(standard: Standard) -> tuple[AskedTest, ...]:
    """Return the tests that the standards of a world ask for, in the order of their clauses.

    Source:
        IEC 60204-1:2016 clause 18, IEC 61439-1:2020 clause 11, NFPA 79:2021 chapter 18, UL 508A production tests; from memory.
    """
    if standard is Standard.UL:
        return (
            *_listed("NFPA 79", _MACHINE_UL),
            AskedTest(
                clause="UL 508A", title="production tests",
                words="as the procedure of the listing asks; which clause and which tests is not sure here: see that procedure",
            ),
        )  # fmt: skip
    return (*_listed("IEC 60204-1", _MACHINE), *_listed("IEC 61439-1", _ASSEMBLY))


def _listed(standard: str, rows: tuple[tuple[str, str, tuple[Phase, ...], str], ...]) -> tuple[AskedTest, ...]:
    return tuple(AskedTest(clause=f"{standard} {c}", title=t, phases=p, words=w) for c, t, p, w in rows)
