"""Owns the panel modules of a Job: what people decide about each. Must not expand them."""

from typing import Annotated, Any, ClassVar, Literal

from pydantic import BeforeValidator, Field, StringConstraints, model_validator

from riktig.job.fields import Amps, Frozen, Hertz, KiloAmps, Named, Ohms, Places, Volts, Word
from riktig.job.plain import MOST_PATH

SYSTEMS = Literal["1ph+n", "1ph3w", "3ph", "3ph+n"]
EARTHINGS = Literal["tn-s", "tn-c-s", "tt", "it", "wye-grounded", "delta", "corner-grounded"]
Refs = Annotated[
    tuple[Annotated[str, StringConstraints(min_length=1)], ...],
    BeforeValidator(lambda value: (value,) if isinstance(value, str) else value),
]
AllOrNames = Literal["all"] | tuple[Word, ...]


ASSUMED_FAULT_KA = 6.0
"""What a supply is taken to deliver until somebody states it; a finding says so (common practice, no source)."""


class WayIn(Frozen):
    """A way in. Volts are line to line, for one phase with neutral line to neutral; fault current in kA.

    `entry` is the side where its cable comes in. What is known of what lies ahead of it, None for what is not: `loop_ohm` the impedance
    from line to earth at the panel, `earth_ohm` the resistance of the earth electrode (TT and IT), `rcd_ma` what a residual-current
    device ahead trips at and `rcd_type` which currents it sees, `protection_a` the rating of the device ahead; `monitored`: its
    insulation is watched (IT).
    """

    system: SYSTEMS
    earthing: EARTHINGS = "tn-s"
    volts: Volts
    hertz: Hertz = 50.0
    fault_ka: KiloAmps | None = None
    entry: Literal["top", "bottom"] = "bottom"
    loop_ohm: Ohms | None = None
    earth_ohm: Ohms | None = None
    rcd_ma: Annotated[float, Field(ge=1, le=30_000)] | None = None
    rcd_type: Literal["AC", "A", "F", "B"] | None = None
    protection_a: Amps | None = None
    monitored: bool = False

    @property
    def available_ka(self) -> float:
        """The prospective fault current at the panel in kA: as stated, else assumed."""
        return ASSUMED_FAULT_KA if self.fault_ka is None else self.fault_ka

    @property
    def lines(self) -> tuple[str, ...]:
        """The line conductors, without neutral and earth."""
        return {"1ph+n": ("L1",), "1ph3w": ("L1", "L2")}.get(self.system, ("L1", "L2", "L3"))

    @property
    def has_neutral(self) -> bool:
        """Whether a neutral comes in."""
        return self.system != "3ph"

    @property
    def breaks_neutral(self) -> bool:
        """Whether what disconnects it opens the neutral too, where nobody says otherwise.

        Source:
            Only in TN may the neutral stay closed: IEC 60204-1:2016 5.3.3, IEC 60364-4-46 461.2, from memory.
        """
        return self.has_neutral and (self.system == "1ph+n" or self.earthing in {"tt", "it"})

    @property
    def conductors(self) -> tuple[str, ...]:
        """Lines and neutral, without earth."""
        return (*self.lines, "N") if self.has_neutral else self.lines

    @property
    def grounded_line(self) -> str | None:
        """The line that a corner-grounded delta grounds at its source, None in any other system."""
        return "L2" if self.earthing == "corner-grounded" and len(self.lines) == 3 else None

    @property
    def live_pair(self) -> tuple[str, ...]:
        """Two lines that a load between lines hangs on, none of them grounded where that can be."""
        return tuple(line for line in self.lines if line != self.grounded_line)[:2]

    @property
    def line_to_neutral(self) -> float:
        """Volts from a line to neutral."""
        if self.system == "1ph+n":
            return self.volts
        return self.volts / 2 if self.system == "1ph3w" else self.volts / 3**0.5

    @property
    def line_to_line(self) -> float:
        """Volts between two lines, of one phase with neutral those of its line."""
        return self.volts


class Supply(WayIn):
    """The main way in; all cables come in on its side."""


class ExtraSupply(WayIn, Named):
    """A second way in with potentials NAME.L1 ... NAME.N, isolated here by a switch of its own, or elsewhere."""

    isolated: Literal["here", "elsewhere"] = "here"
    title: str = ""

    @property
    def switched(self) -> tuple[str, ...]:
        """The conductors that its switch here opens, none where it is isolated elsewhere."""
        if self.isolated == "elsewhere":
            return ()
        return (*self.lines, *(("N",) if self.breaks_neutral else ()))


class PhaseLamps(Frozen):
    """A lamp for each supply phase, each with protection of its own."""

    colour: str = "white"
    at: Word = "door"


class PhaseRelay(Named):
    """A phase-monitoring relay; `acts_on` are the starters that it lets run, or all."""

    acts_on: AllOrNames = "all"


class Surge(Named):
    """A surge arrester with its status on a lamp: lit when spent, or lit while healthy."""

    type: Literal[1, 2, 3] = 2
    lamp: Literal["spent", "healthy", "none"] = "spent"
    supply: Word | None = None
    at: Word = "door"


class Estop(Named):
    """An emergency stop group: buttons at several places, and the starters that it stops.

    `reset` by a button that pulls in a control-on relay, or by twisting the emergency stop back. `category` as
    IEC 60204-1 9.2.2: 0 takes power off at once, 1 after `seconds`, once drives have stopped.
    """

    at: Places = ("door",)
    stops: AllOrNames = "all"
    category: Literal[0, 1] = 0
    reset: Literal["button", "twist"] = "button"
    seconds: Annotated[float, Field(gt=0, le=30)] = 3.0


class Way(Named):
    """An outgoing way with its own breaker and terminals; `line` None spreads the ways over the phases."""

    title: str = ""
    amps: Amps = 10.0
    poles: Literal[1, 2, 3] = 1
    line: Literal["L1", "L2", "L3"] | None = None
    rcd: bool = False
    at: Word = "field"


class PassThrough(Frozen):
    """Incoming lines carried on to the next panel, ahead of the main switch; `section_mm2` at least, None for what they must carry."""

    section_mm2: Annotated[float, Field(gt=0, le=300)] | None = None
    title: str = "Next panel"
    at: Word = "field"


class Alarm(Named):
    """Beacon, horn, silence that latches and resets, and a test position; `from` names the contacts that raise it."""

    from_refs: Refs
    at: Word = "door"
    test: bool = True
    supply: Word | None = None
    title: str = "Alarm"

    @model_validator(mode="before")
    @classmethod
    def _take_from(cls, data: Any) -> Any:
        return {("from_refs" if k == "from" else k): v for k, v in data.items()} if isinstance(data, dict) else data


class Pumps(Named):
    """Two pumps on one level that take turns: the other one comes in at the lag float, and where the first has tripped."""

    starters: Annotated[tuple[Word, ...], Field(min_length=2, max_length=2)]
    level: Word
    title: str = "Pumps"


class Excepted(Named):
    """A circuit that stays live with the main switch off. `volts` are those of its load.

    `door_switch` lights the panel when its door opens. `isolated` tells, of a circuit from elsewhere, where it is
    switched off; `source` says what it comes from.
    """

    load: Literal["light", "socket", "heater", "fan", "memory", "from-elsewhere"]
    title: str = ""
    amps: Amps | None = None
    volts: Volts | None = None
    door_switch: bool = True
    isolated: Literal["here", "elsewhere"] = "elsewhere"
    source: str = "another panel"


class Controller(Named):
    """A programmable controller on a 24 V DC supply, with as many channels as asked for, or as its uses need.

    `program` is what it does when the circuit is played: one equation for each output.
    """

    most_letters: ClassVar[int] = MOST_PATH
    title: str = ""
    program: str = ""
    supply: Word | None = None
    inputs: Annotated[int, Field(ge=0, le=512)] = 8
    outputs: Annotated[int, Field(ge=0, le=512)] = 6
    analogue_in: Annotated[int, Field(ge=0, le=128)] = 0
    analogue_out: Annotated[int, Field(ge=0, le=128)] = 0
    operator_panel: Word | None = None
    network_switch: bool = False


class Level(Named):
    """Floats of a vessel in metres above its floor, bottom up: `stop`, `start`, `alarm` where wanted, and others by names of one's own."""

    floats: dict[Word, Annotated[float, Field(ge=0, le=100)]]
    at: Word = "field"
    title: str = ""

    @model_validator(mode="after")
    def _floats_rise(self) -> "Level":
        heights = [self.floats[name] for name in ("stop", "start", "alarm") if name in self.floats]
        if "stop" not in self.floats or "start" not in self.floats:
            raise ValueError("floats has stop and start at least: write floats = { stop = 0.4, start = 1.2 }")
        if heights != sorted(set(heights)):
            raise ValueError("floats rise from stop over start to alarm: give them in metres, each above the last")
        return self
