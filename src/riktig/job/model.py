"""Owns the Job: every decision a person takes about a panel. Must not compute anything from it."""

from enum import StrEnum
from typing import Annotated, Any, Literal

from pydantic import BaseModel, BeforeValidator, ConfigDict, Field, StringConstraints, model_validator

from riktig.job.ledger import Ledger
from riktig.job.paths import WORD
from riktig.units.quantity import parse_quantity


def _quantity(unit: str) -> BeforeValidator:
    return BeforeValidator(lambda value: None if value is None else parse_quantity(value, unit))


Word = Annotated[str, StringConstraints(pattern=rf"^{WORD}$")]
LengthMm = Annotated[float, _quantity("mm"), Field(gt=0, le=20_000)]
LengthM = Annotated[float, _quantity("m"), Field(gt=0, le=5_000)]
Volts = Annotated[float, _quantity("V"), Field(gt=0, le=1_000)]
Amps = Annotated[float, _quantity("A"), Field(gt=0, le=6_300)]
VoltAmps = Annotated[float, _quantity("VA"), Field(gt=0, le=100_000)]


class Frozen(BaseModel):
    """A value that never changes and takes no unknown keys."""

    model_config = ConfigDict(frozen=True, extra="forbid")


class Named(Frozen):
    """A thing that people gave a name."""

    name: Word


class Standard(StrEnum):
    """The world of standards that a job follows."""

    IEC = "iec"
    UL = "ul"


class JobInfo(Frozen):
    """What the job is called."""

    number: Annotated[str, StringConstraints(min_length=1)]
    title: str = ""
    customer: str = ""


class Practice(Frozen):
    """The schools that a shop works by."""

    standard: Standard = Standard.IEC
    scope: Literal["machine", "assembly"] = "machine"
    tags: Literal["letter-number", "sheet-column", "number-letter"] = "letter-number"
    numbering: Literal["sequence", "sheet-column", "line", "both-ends"] = "sequence"
    earth: Literal["beside", "bar"] = "beside"
    fixing: Literal["tapped", "self-drilling"] = "tapped"
    door: Literal["direct", "terminals"] = "direct"
    overload_contact: Literal["live", "return"] = "live"


class Supply(Frozen):
    """The way in. Volts are line to line, for one phase with neutral line to neutral; fault current in kA."""

    system: Literal["1ph+n", "1ph3w", "3ph", "3ph+n"]
    earthing: Literal["tn-s", "tn-c-s", "tt", "it", "wye-grounded", "delta", "corner-grounded"] = "tn-s"
    volts: Volts
    hertz: Annotated[float, _quantity("Hz"), Field(gt=0, le=400)] = 50.0
    fault_ka: Annotated[float, _quantity("kA"), Field(gt=0, le=200)] = 6.0
    entry: Literal["top", "bottom"] = "bottom"

    @property
    def lines(self) -> tuple[str, ...]:
        """The line conductors, without neutral and earth."""
        return {"1ph+n": ("L1",), "1ph3w": ("L1", "L2")}.get(self.system, ("L1", "L2", "L3"))

    @property
    def has_neutral(self) -> bool:
        """Whether a neutral comes in."""
        return self.system != "3ph"

    @property
    def line_to_neutral(self) -> float:
        """Volts from a line to neutral."""
        if self.system == "1ph+n":
            return self.volts
        return self.volts / 2 if self.system == "1ph3w" else self.volts / 3**0.5


class Enclosure(Frozen):
    """The box: outside lengths in mm, ambient in degC."""

    width: LengthMm = 600.0
    height: LengthMm = 800.0
    depth: LengthMm = 250.0
    rating: str = "IP65"
    mounting: Literal["wall", "floor", "free"] = "wall"
    ambient: Annotated[float, _quantity("degC"), Field(ge=-40, le=60)] = 35.0


class Incoming(Frozen):
    """The switch that stands before everything. `poles` None: all lines, and the neutral of one phase."""

    switch: Literal["door", "plate", "none"] = "door"
    poles: Annotated[int, Field(ge=1, le=4)] | None = None


class Control(Named):
    """A control supply with potentials NAME+ and NAME-; `amps` overrides the rating of its breaker.

    `earthed` bonds NAME- of a transformer to earth through a removable link.
    """

    kind: Literal["direct", "transformer"] = "direct"
    from_lines: tuple[str, ...] = ()
    volts: Volts | None = None
    va: VoltAmps | None = None
    amps: Amps | None = None
    earthed: bool = True

    @model_validator(mode="before")
    @classmethod
    def _split_from(cls, data: Any) -> Any:
        """Accept `from` as one text of one or two lines."""
        if isinstance(data, dict) and "from" in data:
            data = dict(data)
            given = data.pop("from")
            data["from_lines"] = tuple(given.split()) if isinstance(given, str) else given
        return data


class Location(Named):
    """A place other than plate and door; `distance` in m of cable route from the panel."""

    title: str = ""
    distance: LengthM = 20.0
    box: Literal["metal", "insulating"] = "metal"


class Starter(Named):
    """The starter of one motor: expands to its protection, contactor, overload, buttons, lamps and circuit."""

    title: str = ""
    kind: Literal["dol"] = "dol"
    kw: Annotated[float, _quantity("kW"), Field(ge=0.06, le=1000)] | None = None
    hp: Annotated[float, _quantity("hp"), Field(ge=0.08, le=1340)] | None = None
    amps: Amps | None = None
    efficiency: Annotated[float, Field(gt=0, le=1)] | None = None
    cos_phi: Annotated[float, Field(gt=0, le=1)] | None = None
    service_factor: Annotated[float, Field(ge=1, le=2)] = 1.0
    phases: Literal[1, 3] = 3
    control: Literal["buttons"] = "buttons"
    supply: Word
    lamps: tuple[Literal["run", "trip"], ...] = ()
    motor_at: Word = "field"
    buttons_at: Word = "door"

    @model_validator(mode="after")
    def _has_one_power(self) -> "Starter":
        if (self.kw is None) == (self.hp is None):
            raise ValueError("give the motor's power once, as kw or as hp")
        return self


class Device(Named):
    """A device of one's own. `contacts` None: Riktig picks a part that has what the paths ask for."""

    kind: str
    title: str = ""
    contacts: tuple[str, ...] | None = None
    at: Word | None = None
    part: str | None = None
    kw: Annotated[float, _quantity("kW"), Field(gt=0)] | None = None
    hp: Annotated[float, _quantity("hp"), Field(gt=0)] | None = None
    amps: Amps | None = None
    va: VoltAmps | None = None
    colour: str | None = None
    poles: Annotated[int, Field(ge=1, le=4)] | None = None


class PathRow(Named):
    """A path as a person wrote it."""

    path: str


class Rung(PathRow):
    """A path of one conductor in the control circuit."""


class Feeder(PathRow):
    """A path of one or more conductors in the power circuit."""


class Job(Frozen):
    """Everything people decided about one panel."""

    info: JobInfo
    supply: Supply
    practice: Practice = Practice()
    enclosure: Enclosure = Enclosure()
    incoming: Incoming = Incoming()
    controls: tuple[Control, ...] = ()
    locations: tuple[Location, ...] = ()
    starters: tuple[Starter, ...] = ()
    devices: tuple[Device, ...] = ()
    rungs: tuple[Rung, ...] = ()
    feeders: tuple[Feeder, ...] = ()
    ledger: Ledger = Ledger()
    revision: str | None = None

    def starter(self, name: str) -> Starter | None:
        """Return the starter of that name, None if there is none."""
        return next((s for s in self.starters if s.name == name), None)

    def location(self, name: str) -> Location | None:
        """Return the location of that name; `field` is there without being declared."""
        found = next((place for place in self.locations if place.name == name), None)
        return Location(name="field", title="Field") if found is None and name == "field" else found


def job_schema() -> dict[str, Any]:
    """Return the JSON Schema of a Job as it stands in a job file."""
    return Job.model_json_schema()
