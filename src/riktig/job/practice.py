"""Owns the schools that a shop works by, and the world and editions of standards that a job follows. Must not compute from them."""

from enum import StrEnum
from typing import Annotated, Literal

from pydantic import Field, StringConstraints

from riktig.job.fields import Frozen, LengthMm, Volts, quantity
from riktig.standards.editions import Edition, cite, edition


class Standard(StrEnum):
    """The world of standards that a job follows."""

    IEC = "iec"
    UL = "ul"


class Practice(Frozen):
    """The schools that a shop works by; `stock` and `kerf` are the mm of a bar of rail or duct and of what a cut takes,
    `paper` is that of templates in full size, None: A4, Letter in North America; `jumpers` how many mm apart two clamps of one row may be
    whose wire goes straight from one to the other, 0: each lies in a duct; `uprights` whether wires of power and of extra-low voltage keep
    apart or share one; `wire_volts` for what the wires in the panel are insulated, None: 750 V, 600 V in North America. `terminal_c`:
    the degC for which the terminals of devices are marked, which in North America decides the column of ampacities.
    `batching` parts the wires of a bundle into lots of one length: 0 each wire by itself, 50 where it costs least, 100 all of a bundle.
    `iec_60204_1` and `nec` are the editions by which the job is judged.
    """

    standard: Standard = Standard.IEC
    scope: Literal["machine", "assembly"] = "machine"
    tags: Literal["letter-number", "sheet-column", "number-letter"] = "letter-number"
    numbering: Literal["sequence", "sheet-column", "line", "both-ends"] = "sequence"
    number_prefix: Annotated[str, StringConstraints(pattern=r"^[A-Za-z0-9.+-]{0,8}$")] = ""
    number_start: Annotated[int, Field(ge=1, le=9999)] = 1
    control_ends: Literal["as-met", "first"] = "as-met"
    wiring: Literal["drawing", "shortest"] = "drawing"
    drawing: Literal["columns", "rungs"] | None = None
    symbols: Literal["iec", "nema"] | None = None
    earth: Literal["beside", "bar"] = "beside"
    layout: Literal["columns", "rows", "free"] = "columns"
    jumpers: Annotated[float, quantity("mm"), Field(ge=0, le=300)] = 150.0
    uprights: Literal["apart", "shared"] = "apart"
    fixing: Literal["tapped", "self-drilling"] = "tapped"
    paper: Literal["a4", "a3", "letter", "tabloid"] | None = None
    stock: Annotated[LengthMm, Field(ge=500, le=12000)] = 2000.0
    kerf: Annotated[float, quantity("mm"), Field(ge=0, le=10)] = 3.0
    door: Literal["direct", "terminals"] = "direct"
    distribution: Literal["auto", "chain", "block"] = "auto"
    spare_terminals: Annotated[int, Field(ge=0, le=100)] = 10
    overload_contact: Literal["live", "return"] = "live"
    motor_protection: Literal["breaker", "motor-breaker", "magnetic", "fuse"] = "breaker"
    diversity: Literal["none", "table"] = "none"
    grouped: Annotated[int, Field(ge=1, le=20)] = 4
    grouping: Literal["declared", "laid"] = "laid"
    conductors: Literal["mm2", "awg"] | None = None
    conductor_class: Literal["5", "2"] | None = None
    wire_volts: Volts | None = None
    terminal_c: Literal[60, 75] = 75
    batching: Annotated[float, Field(ge=0, le=100)] = 50.0
    iec_60204_1: Literal["2016", "2005"] = "2016"
    nec: Literal["2023", "2020", "2017"] = "2023"

    def cite(self, source: str) -> str:
        """Return a source with its clauses as the editions have them by which the job is judged."""
        return cite(source, (("IEC 60204-1", self.iec_60204_1), ("NEC", self.nec)))

    @property
    def edition(self) -> Edition:
        """The edition of the first standard of its world, by which the job is judged."""
        return edition("IEC 60204-1", self.iec_60204_1) if self.standard is Standard.IEC else edition("NEC", self.nec)

    @property
    def template_paper(self) -> str:
        """The paper on which templates in full size are printed: as said, else A4, Letter in North America."""
        return self.paper or ("letter" if self.standard is Standard.UL else "a4")
