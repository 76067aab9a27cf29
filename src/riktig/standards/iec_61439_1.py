"""IEC 61439-1 and -2 (assemblies): diversity, and what of short-circuit strength needs proof."""

from riktig.standards.tables import Source, read_columns, step_up

SOURCE_DIVERSITY = Source("IEC 61439-2:2011 Table 101", ("diversity_iec_61439_2_t101",))
SOURCE_PROOF = Source("IEC 61439-1:2011 10.11.2", ("peak_factor_iec_61439_1_t7",))
PROOF_FREE_KA, PROOF_FREE_PEAK_KA = 10.0, 17.0
"""No proof of short-circuit strength up to this prospective current, or up to this cut-off peak: 10.11.2, from memory."""


def diversity_factor(circuits: int) -> float:
    """Return the assumed loading of the outgoing circuits of an assembly by their number: 1 to 0.6.

    Source:
        IEC 61439-2:2011 Table 101, from memory (2 and 3: 0.9; 4 and 5: 0.8; 6 to 9: 0.7; 10 and more: 0.6).
    """
    pairs = read_columns("diversity_iec_61439_2_t101", "circuits", "factor")
    found = step_up(pairs, circuits)
    return found if found is not None else pairs[-1][1]


def peak_ka(rms_ka: float) -> float:
    """Return the peak in kA of a short-circuit current given as its r.m.s. value in kA.

    Source:
        IEC 61439-1:2011 Table 7, from memory.
    """
    pairs = read_columns("peak_factor_iec_61439_1_t7", "ka_max", "factor")
    factor = step_up(pairs, rms_ka)
    return rms_ka * (factor if factor is not None else pairs[-1][1])


def needs_proof(prospective_ka: float) -> bool:
    """Return whether the short-circuit strength of an assembly must be proven at a prospective current in kA.

    Source:
        IEC 61439-1:2011 10.11.2 a), from memory.
    """
    return prospective_ka > PROOF_FREE_KA
