"""Owns the Job: every decision a person takes about a panel. Must not compute anything from it."""

from typing import Annotated, Any, ClassVar, Literal, Self

from pydantic import Field, StringConstraints, field_validator, model_validator

from riktig.job.fields import (
    Amps,
    DeviceName,
    Frozen,
    HorsePower,
    KiloWatts,
    LengthM,
    LengthMm,
    Named,
    Places,
    RowName,
    VoltAmps,
    Volts,
    Word,
    quantity,
)
from riktig.job.ledger import Ledger
from riktig.job.modules import (
    Alarm,
    Controller,
    Estop,
    Excepted,
    ExtraSupply,
    Level,
    PassThrough,
    PhaseLamps,
    PhaseRelay,
    Pumps,
    Refs,
    Supply,
    Surge,
    Way,
    WayIn,
)
from riktig.job.plain import MOST_PATH, find_too_many, find_unfit
from riktig.job.practice import Practice
from riktig.job.scripts import Script
from riktig.job.stated import Colours, Risk
from riktig.job.waivers import Waiver


class JobInfo(Frozen):
    """What the job is called, and what a nameplate has that only a person knows: who makes the panel, its serial number, year and main
    document.
    """

    number: Annotated[str, StringConstraints(min_length=1)]
    title: str = ""
    customer: str = ""
    maker: str = ""
    serial: str = ""
    year: Annotated[int, Field(ge=1950, le=2100)] | None = None
    document: str = ""


class Enclosure(Frozen):
    """The box: outside lengths in mm, temperatures in degC, altitude in m.

    `inside_rise` is by how many kelvin the air inside is taken to be warmer when conductors are sized, `inside_max` the
    warmest air that its devices may stand in, `ambient_min` the coldest air around it. `hinge` is the side of the door's hinges seen
    from the front, `window` width and height of the cut-out of a window in it, None for none. `floor_to_bottom` is how high its lower
    edge is above the floor on which people stand; None: as it is usual for its mounting and height.
    `lock` is what it takes to open the door: a tool, a key, the main switch off (interlock), or nothing. `outdoors`: it stands in the
    weather. `glands` is the degree of protection of what leads cables in, None: at least that of the enclosure, as the parts list asks.
    """

    width: LengthMm = 600.0
    height: LengthMm = 800.0
    depth: LengthMm = 250.0
    rating: str = "IP65"
    mounting: Literal["wall", "floor", "free"] = "wall"
    hinge: Literal["left", "right"] = "left"
    floor_to_bottom: Annotated[float, quantity("mm"), Field(ge=0, le=2500)] | None = None
    window: tuple[LengthMm, LengthMm] | None = None
    ambient: Annotated[float, quantity("degC"), Field(ge=-40, le=60)] = 35.0
    ambient_min: Annotated[float, quantity("degC"), Field(ge=-60, le=60)] = 5.0
    material: Literal["steel", "stainless", "polyester", "aluminium"] = "steel"
    inside_rise: Annotated[float, Field(ge=0, le=40)] = 10.0
    inside_max: Annotated[float, quantity("degC"), Field(ge=30, le=70)] = 55.0
    altitude: Annotated[float, quantity("m"), Field(ge=0, le=5000)] = 0.0
    lock: Literal["tool", "key", "interlock", "none"] = "tool"
    outdoors: bool = False
    glands: str | None = None


class Incoming(Frozen):
    """The switch that stands before everything. `poles` None: all lines, and the neutral of one phase.

    `main_contactor` stands behind it, and is let in by a phase relay that acts on all and by the door switch.
    `protection` is a device of the panel's own behind the switch, `amps` its rating, else as large as the load asks; with a
    `disconnect` other than a switch the first device is both, a main breaker or a fused switch. `handle` is the colour of its handle,
    red on yellow where it is to switch off in an emergency. `inside_handle`: it is operated with the door open too, without a tool.
    `shrouded`: what stays live on its line side is covered against touch. None: nobody has said.
    """

    switch: Literal["door", "plate", "none"] = "door"
    poles: Annotated[int, Field(ge=1, le=4)] | None = None
    main_contactor: bool = False
    door_switch: bool = True
    protection: Literal["none", "breaker", "fuse"] = "none"
    disconnect: Literal["switch", "breaker", "fused-switch"] = "switch"
    amps: Amps | None = None
    handle: Literal["black", "red-yellow"] = "black"
    inside_handle: bool | None = None
    shrouded: bool | None = None

    @property
    def own_protection(self) -> str:
        """The kind of device that protects the whole panel, behind its switch or as its switch; "" for none."""
        if self.switch == "none":
            return ""
        kinds = {"breaker": "breaker", "fused-switch": "fuse"}
        return kinds.get(self.disconnect) or (self.protection if self.protection != "none" else "")


class Control(Named):
    """A control supply with potentials NAME+ and NAME-; `amps` overrides the rating of its breaker or fuse.

    `earthed` bonds NAME- of a transformer or DC supply to earth through a removable link. `protection` None: fuses on a
    transformer in North America, breakers elsewhere. `class_2`: a DC supply of at most 100 VA. `group_of` names the DC supply that it
    hangs on behind a device of its own: kind, volts and lines are then those of that supply.
    """

    kind: Literal["direct", "transformer", "psu"] = "direct"
    from_lines: tuple[str, ...] = ()
    volts: Volts | None = None
    va: VoltAmps | None = None
    amps: Amps | None = None
    earthed: bool = True
    protection: Literal["breaker", "fuse"] | None = None
    class_2: bool = False
    group_of: Word | None = None

    @model_validator(mode="before")
    @classmethod
    def _split_from(cls, data: Any) -> Any:
        """Accept `from` as one text of one or two lines."""
        if isinstance(data, dict) and "from" in data:
            data = dict(data)
            given = data.pop("from")
            data["from_lines"] = tuple(given.split()) if isinstance(given, str) else given
        return data

    @property
    def is_dc(self) -> bool:
        """Whether it gives direct current."""
        return self.kind == "psu"


SHARED_BY_GROUPS = ("kind", "volts", "from_lines", "earthed", "protection", "class_2")
"""What a group of a control supply has from it."""


class Location(Named):
    """A place other than plate and door; `distance` in m of cable route from the panel.

    `laid` is how its cables run: in conduit, on a wall or on a tray; `grouped` how many loaded circuits lie together. `cable_volts` is
    for what volts between lines its cables are insulated, None: 1000 V, 600 V in North America. `bands` is whether extra-low voltage has
    cables of its own, or goes in one with mains and control.
    """

    title: str = ""
    distance: LengthM = 20.0
    box: Literal["metal", "insulating"] = "metal"
    laid: Literal["conduit", "wall", "tray"] = "conduit"
    grouped: Annotated[int, Field(ge=1, le=20)] = 1
    cable_volts: Volts | None = None
    bands: Literal["apart", "shared"] = "apart"


Lamp = Literal["run", "trip", "ready"]


class Starter(Named):
    """The starter of one motor: expands to its protection, contactors, overload, operators, lamps and circuit.

    `power` names an extra supply in place of the main one. `control` None: a selector for a pump, buttons otherwise.
    `auto` is the element that runs it in automatic. `restart` manual needs a button after each loss of control supply.
    `protection` and its `curve` (or class of fuse) stand before everything, None: as the practice says. `start_ratio` is the
    start current over the rated one, `start_seconds` how long a start takes, `trip_class` None: by that time.
    `hold_to_run`: only while a button is held; `limits` end its ways, forward first; `interlock` None: mechanical where it is held.
    `detached`: its circuit stands as plain devices, rungs and feeders under the names of its parts.
    """

    title: str = ""
    kind: Literal["dol", "reversing", "star-delta", "drive", "soft", "pump"] = "dol"
    kw: Annotated[float, quantity("kW"), Field(ge=0.06, le=1000)] | None = None
    hp: Annotated[float, quantity("hp"), Field(ge=0.08, le=1340)] | None = None
    amps: Amps | None = None
    efficiency: Annotated[float, Field(gt=0, le=1)] | None = None
    cos_phi: Annotated[float, Field(gt=0, le=1)] | None = None
    motor_volts: Annotated[str, StringConstraints(pattern=r"^\d+(/\d+)?$")] | None = None
    service_factor: Annotated[float, Field(ge=1, le=2)] = 1.0
    duty: Annotated[str, StringConstraints(pattern=r"^(S[1-9]|AC-4)$")] = "S1"
    protection: Literal["breaker", "motor-breaker", "magnetic", "fuse"] | None = None
    curve: Literal["B", "C", "D", "gG", "aM", "dual-element", "nontime-delay"] | None = None
    start_ratio: Annotated[float, Field(ge=1, le=20)] | None = None
    start_seconds: Annotated[float, Field(gt=0, le=120)] = 4.0
    trip_class: Literal["10", "20", "30"] | None = None
    phases: Literal[1, 3] = 3
    control: Literal["buttons", "selector", "controller"] | None = None
    supply: Word
    power: Word | None = None
    lamps: tuple[Lamp, ...] = ()
    motor_at: Word = "field"
    buttons_at: Places = ("door",)
    selector: Literal["off-on", "hand-off-auto"] | None = None
    key: bool = False
    auto: str | None = None
    needs: Refs = ()
    hold_to_run: bool = False
    limits: tuple[str, ...] = ()
    legends: Literal["forward-reverse", "up-down", "left-right", "open-close"] | None = None
    interlock: Literal["electrical", "mechanical"] | None = None
    restart: Literal["manual", "automatic"] | None = None
    controller: Word | None = None
    feedback: bool | None = None
    estop_at: Places | None = None
    runs_while: tuple[Word, ...] = ()
    never_with: tuple[Word, ...] = ()
    isolator: bool = False
    hours: bool = False
    thermistor: bool = False
    overload_contact: Literal["live", "return"] | None = None
    level: Word | None = None
    speed: Literal["fixed", "controller", "potentiometer"] = "fixed"
    star_seconds: Annotated[float, Field(gt=0, le=120)] = 8.0
    detached: bool = False

    @model_validator(mode="after")
    def _has_one_power(self) -> "Starter":
        if (self.kw is None) == (self.hp is None):
            raise ValueError("give the motor's power once, as kw or as hp")
        return self

    @property
    def mode(self) -> str:
        """How it is controlled: buttons, selector or controller."""
        return self.control or ("selector" if self.kind == "pump" else "buttons")

    @property
    def is_interlocked(self) -> bool:
        """Whether a mechanical interlock stands between its two contactors."""
        usual = "mechanical" if self.hold_to_run else "electrical"
        return self.kind == "reversing" and (self.interlock or usual) == "mechanical"

    @property
    def is_inching(self) -> bool:
        """Whether its contactors break the start current as a rule (AC-4): as its duty says, or because it runs while it is held."""
        return self.duty == "AC-4" or self.hold_to_run

    @property
    def ways(self) -> tuple[str, str]:
        """What its two directions are called on buttons and lamps."""
        first, _, second = (self.legends or ("up-down" if self.hold_to_run else "forward-reverse")).partition("-")
        return first, second

    @property
    def has_hand(self) -> bool:
        """Whether it has a hand-off-auto selector."""
        return self.selector == "hand-off-auto" or (self.kind == "pump" and self.selector is None)


class Device(Frozen):
    """A device of one's own. `contacts` None: Riktig picks a part that has what the paths ask for; of a selector they
    are its positions. `seconds` is the setting of a timer, `level` the height of a float in m.
    """

    name: DeviceName
    kind: str
    title: str = ""
    contacts: tuple[str, ...] | None = None
    at: Word | None = None
    part: str | None = None
    kw: KiloWatts | None = None
    hp: HorsePower | None = None
    amps: Amps | None = None
    va: VoltAmps | None = None
    volts: Volts | None = None
    colour: str | None = None
    poles: Annotated[int, Field(ge=1, le=6)] | None = None
    curve: str | None = None
    seconds: Annotated[float, Field(gt=0, le=360_000)] | None = None
    level: Annotated[float, Field(ge=0, le=100)] | None = None


class PathRow(Frozen):
    """A path as a person wrote it."""

    most_letters: ClassVar[int] = MOST_PATH
    name: RowName
    path: str


class Rung(PathRow):
    """A path of one conductor in the control circuit."""


class Feeder(PathRow):
    """A path of one or more conductors in the power circuit."""


class Job(Frozen):
    """Everything people decided about one panel."""

    @field_validator("*", mode="before")
    @classmethod
    def _refuse_unfit(cls, value: object) -> object:
        """Look at the words of the Job itself, and how many members a table has; the members look at their own fields."""
        unfit = find_unfit(value) if isinstance(value, str) else find_too_many(value)
        if unfit:
            raise ValueError(unfit)
        return value

    info: JobInfo
    supply: Supply
    practice: Practice = Practice()
    enclosure: Enclosure = Enclosure()
    incoming: Incoming = Incoming()
    phase_lamps: PhaseLamps | None = None
    pass_through: PassThrough | None = None
    colours: Colours = Colours()
    risk: Risk = Risk()
    extra_supplies: tuple[ExtraSupply, ...] = ()
    controls: tuple[Control, ...] = ()
    locations: tuple[Location, ...] = ()
    levels: tuple[Level, ...] = ()
    pumps: tuple[Pumps, ...] = ()
    estops: tuple[Estop, ...] = ()
    phase_relays: tuple[PhaseRelay, ...] = ()
    controllers: tuple[Controller, ...] = ()
    starters: tuple[Starter, ...] = ()
    ways: tuple[Way, ...] = ()
    alarms: tuple[Alarm, ...] = ()
    surges: tuple[Surge, ...] = ()
    excepted: tuple[Excepted, ...] = ()
    devices: tuple[Device, ...] = ()
    rungs: tuple[Rung, ...] = ()
    feeders: tuple[Feeder, ...] = ()
    scripts: tuple[Script, ...] = ()
    waivers: tuple[Waiver, ...] = ()
    ledger: Ledger = Ledger()
    revision: str | None = None

    @model_validator(mode="after")
    def _groups_are_as_their_supply(self) -> Self:
        """Give each group of a control supply what it shares with it, so that nobody has to look for it elsewhere."""
        whole = {control.name: control for control in self.controls if control.group_of is None}
        shared = tuple(
            control.model_copy(update={name: getattr(whole[control.group_of], name) for name in SHARED_BY_GROUPS})
            if control.group_of in whole
            else control
            for control in self.controls
        )
        if shared != self.controls:
            object.__setattr__(self, "controls", shared)
        return self

    def starter(self, name: str) -> Starter | None:
        """Return the starter of that name, None if there is none."""
        return next((s for s in self.starters if s.name == name), None)

    def control(self, name: str) -> Control | None:
        """Return the control supply of that name, None if there is none."""
        return next((c for c in self.controls if c.name == name), None)

    def location(self, name: str) -> Location | None:
        """Return the location of that name; `field` is there without being declared."""
        found = next((place for place in self.locations if place.name == name), None)
        return Location(name="field", title="Field") if found is None and name == "field" else found

    def way_in(self, name: str | None) -> WayIn:
        """Return the supply that a starter's `power` names, the main one for None or an unknown name."""
        return next((extra for extra in self.extra_supplies if extra.name == name), self.supply)


SINGLE_TABLES: dict[str, tuple[str, type[Frozen]]] = {
    "job": ("info", JobInfo),
    "practice": ("practice", Practice),
    "supply": ("supply", Supply),
    "enclosure": ("enclosure", Enclosure),
    "incoming": ("incoming", Incoming),
    "phase_lamps": ("phase_lamps", PhaseLamps),
    "pass_through": ("pass_through", PassThrough),
    "colours": ("colours", Colours),
    "risk": ("risk", Risk),
}
NAMED_TABLES: dict[str, tuple[str, type[Frozen]]] = {
    "extra_supply": ("extra_supplies", ExtraSupply),
    "control": ("controls", Control),
    "location": ("locations", Location),
    "level": ("levels", Level),
    "pumps": ("pumps", Pumps),
    "estop": ("estops", Estop),
    "phase_relay": ("phase_relays", PhaseRelay),
    "controller": ("controllers", Controller),
    "starter": ("starters", Starter),
    "way": ("ways", Way),
    "alarm": ("alarms", Alarm),
    "surge": ("surges", Surge),
    "excepted": ("excepted", Excepted),
    "device": ("devices", Device),
}
ROW_TABLES: dict[str, tuple[str, type[Frozen]]] = {
    "rung": ("rungs", Rung),
    "feeder": ("feeders", Feeder),
    "script": ("scripts", Script),
    "waiver": ("waivers", Waiver),
}
"""Tables of a brief: name -> field of the Job and what stands in it."""


def job_schema() -> dict[str, Any]:
    """Return the JSON Schema of a Job as it stands in a job file."""
    return Job.model_json_schema()
