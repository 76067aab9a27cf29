"""UL 508A (industrial control panels): internal wiring, and short-circuit ratings of Supplement SB."""

from riktig.standards.tables import Source, read_table, step_up

SOURCE_WIRING = Source("UL 508A 28.3, Table 28.1", ("ampacity_ul508a_28_1",))
SOURCE_DEFAULT = Source("UL 508A Table SB4.1", ("sccr_ul508a_sb4_1",))
SOURCE_LET_THROUGH = Source("UL 508A SB4.3, Table SB4.2", ("let_through_ul508a_sb4_2",))
WEAKEST = Source("UL 508A SB4.4 and SB5.1")
SURROUNDINGS_C = 40.0
"""Air around a panel in degC that its internal wiring is listed for: UL 508A 49, from memory."""
_COMPONENTS = {
    "breaker": "circuit_breaker",
    "overload": "overload_relay",
    "disconnect": "switch",
    "fuse": "fuseholder",
    "terminal": "terminal_block",
    "busbar": "power_distribution_block",
    "socket": "receptacle",
}


def wiring_ampacity_a(awg: str, column: str = "c75") -> float | None:
    """Return what a copper conductor inside a panel carries in A, None if the size is not listed.

    Args:
        awg: the size.
        column: `c60` or `c75`, by the temperature of the terminals.

    Source:
        UL 508A Table 28.1, from memory; 16 and 18 AWG for control circuits by Table 38.1.
    """
    for row in read_table("ampacity_ul508a_28_1"):
        if row["awg"] == awg:
            return float(row[column])
    return None


def default_ka(kind: str, hp: float = 0.0) -> float | None:
    """Return the assumed short-circuit rating in kA of an unmarked component, None where the table has no such kind.

    Args:
        kind: the device kind.
        hp: horsepower of a motor controller.

    Source:
        UL 508A Table SB4.1, from memory.
    """
    if kind in {"contactor", "drive", "soft-starter"}:
        rows = [r for r in read_table("sccr_ul508a_sb4_1") if r["component"] == "motor_controller"]
        return step_up(tuple((float(r["max_hp"]), float(r["ka"])) for r in rows), hp)
    component = _COMPONENTS.get(kind)
    return next((float(r["ka"]) for r in read_table("sccr_ul508a_sb4_1") if r["component"] == component), None)


def let_through_ka(fuse_class: str, amps: float, available_ka: float) -> float | None:
    """Return the peak current in kA that a current-limiting fuse lets through, None where the table does not reach.

    Args:
        fuse_class: CC, J, RK1 or RK5.
        amps: rating of the fuse; the row next above holds.
        available_ka: fault current ahead of it, up to 200; the column next above holds.

    Source:
        UL 508A Table SB4.2, from memory.
    """
    column = next((c for limit, c in ((50, "ka50"), (100, "ka100"), (200, "ka200")) if available_ka <= limit), None)
    if column is None:
        return None
    rows = [r for r in read_table("let_through_ul508a_sb4_2") if r["class"] == fuse_class]
    return step_up(tuple((float(r["amps"]), float(r[column])) for r in rows), amps)
