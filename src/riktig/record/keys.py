"""Owns what the subject of an event says: which thing, and which step of it. Must not know the Plan, for the thing may be gone."""

from enum import StrEnum


class Sort(StrEnum):
    """What operations are done to. Things of some sorts have several, each with a step behind the thing in its key."""

    PIECE = "piece"
    HOLES = "holes"
    CUTOUT = "cutout"
    ENTRY = "entry"
    DEVICE = "device"
    COMB = "comb"
    WIRE = "wire"
    SCREEN = "screen"
    COVER = "cover"
    PATCH = "patch"
    REMOVED = "removed"
    FAULT = "fault"

    @property
    def has_steps(self) -> bool:
        """Whether several operations are done to one thing of it."""
        return self in {Sort.PIECE, Sort.DEVICE, Sort.WIRE}


class Step(StrEnum):
    """What is done to a piece or a device."""

    CUT = "cut"
    FIXED = "fixed"
    FITTED = "fitted"
    MOUNTED = "mounted"
    LABELLED = "labelled"


class WireStep(StrEnum):
    """What is done to a wire, in order; `proved` comes from a measurement."""

    CUT = "cut"
    MARK = "marked"
    ONE_END = "one end"
    OTHER_END = "other end"
    TIGHTEN = "tightened"
    PROVE = "proved"


_WIRE, _LANDED = f"{Sort.WIRE.value}:", f":{WireStep.OTHER_END.value}"
_SORTS = {sort.value: sort for sort in Sort}
_WORDS = {
    Sort.PIECE: "piece {}",
    Sort.DEVICE: "device {}",
    Sort.HOLES: "the holes of {}",
    Sort.CUTOUT: "the cut-out of {}",
    Sort.ENTRY: "the hole of the gland of {}",
    Sort.SCREEN: "the screen of the cable to {}",
    Sort.PATCH: "the network cable {}",
    Sort.COVER: "the cover over {}",
    Sort.COMB: "the comb or bridge at {}",
    Sort.FAULT: "the fault {}",
}


class OperationKey(str):
    """The subject of an event: `SORT:THING`, or `SORT:THING:STEP`. Any text is one; of an unknown sort it tells itself."""

    __slots__ = ()

    @classmethod
    def of(cls, sort: Sort, thing: str, step: Step | WireStep | None = None) -> "OperationKey":
        """Return the key of what is done to a thing; `step` where its sort has several."""
        assert sort.has_steps is (step is not None), (sort, step)
        return cls(f"{sort.value}:{thing}:{step.value}" if step is not None else f"{sort.value}:{thing}")

    @property
    def sort(self) -> Sort | None:
        """What it is done to, None of an unknown sort."""
        head, colon, _ = self.partition(":")
        return _SORTS.get(head) if colon else None

    @property
    def whole(self) -> "OperationKey":
        """The thing without its step."""
        sort = self.sort
        return OperationKey(self.rpartition(":")[0]) if sort is not None and sort.has_steps else self

    @property
    def thing(self) -> str:
        """The id of what it is done to: code, device, cable, wire."""
        return self.whole.partition(":")[2]

    @property
    def step(self) -> str:
        """Which of several steps it is, "" where there is one."""
        return self.rpartition(":")[2] if self.whole != self else ""

    @property
    def words(self) -> str:
        """The thing as people read it, also when the Plan has it no more."""
        sort, thing = self.sort, self.thing
        if sort is Sort.WIRE:
            ends = thing.split(" ")
            return f"the wire from {ends[0]} to {ends[1]}" if len(ends) > 1 else f"the wire {thing}"
        if sort is None:
            return self.replace(":", " ")
        return _WORDS.get(sort, f"{sort.value} {{}}").format(thing)

    @property
    def again(self) -> str:
        """What is to be done where it was made and is planned otherwise now: relabel, move or remake."""
        if self.step in {WireStep.MARK.value, Step.LABELLED.value}:
            return "relabel"
        return "move" if self.step in {Step.MOUNTED.value, Step.FIXED.value} else "remake"

    @property
    def is_landing(self) -> bool:
        """Whether a wire is joined at both ends once it is done."""
        return self.startswith(_WIRE) and self.endswith(_LANDED)


def removed(key: OperationKey) -> OperationKey:
    """Return the key under which it is noted that a thing was taken out."""
    return OperationKey.of(Sort.REMOVED, key.whole)


def wire_key(wire: str, step: WireStep) -> OperationKey:
    """Return the key of a wire's step; `wire` is the id of the conductor."""
    return OperationKey.of(Sort.WIRE, wire, step)
