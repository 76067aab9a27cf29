"""Owns the tags that devices carry on plate and paper. Must not know parts."""

import re
from collections import defaultdict
from collections.abc import Iterable, Iterator, Mapping, Set
from functools import partial
from itertools import count

from riktig.job.ledger import Choices
from riktig.job.model import Job
from riktig.job.practice import Standard
from riktig.plan.circuit.model import DOOR_STUD, EARTH_BAR, PLATE_STUD, Circuit, CircuitDevice, is_bar
from riktig.plan.sheets.allocation import Place

_LETTERS = {
    "breaker": "F", "disconnect": "Q", "contactor": "K", "relay": "K", "overload": "F", "pushbutton": "S",
    "emergency-stop": "S", "lamp": "P", "beacon": "P", "horn": "P", "transformer": "T", "link": "X", "motor": "M",
    "float": "B", "limit-switch": "B", "thermostat": "B", "switch": "S", "block": "K", "busbar": "W", "drive": "T",
    "fan": "E", "filter": "K", "fuse": "F", "heater": "E", "hmi": "P", "light": "E", "load": "E", "meter": "P",
    "motor-breaker": "Q", "network": "K", "phase-relay": "B", "plc": "K", "potentiometer": "S", "psu": "T", "rcd": "F",
    "resistor": "R", "safety-relay": "K", "selector": "S", "socket": "X", "soft-starter": "Q", "source": "W",
    "surge": "F", "terminal": "X", "outlet-filter": "V", "interlock": "R",
    "thermistor-relay": "B", "timer": "K", "transducer": "B", "valve": "M",
}  # fmt: skip
_UL_LETTERS = {
    "breaker": "CB", "disconnect": "DISC", "contactor": "CON", "relay": "CR", "overload": "OL", "pushbutton": "PB",
    "emergency-stop": "PB", "lamp": "LT", "beacon": "LT", "horn": "AH", "transformer": "CPT", "link": "BJ",
    "motor": "MTR", "float": "FS", "limit-switch": "LS", "thermostat": "TAS", "switch": "SW", "block": "CR",
    "busbar": "BUS", "drive": "VFD", "fan": "FAN", "filter": "FLT", "fuse": "FU", "heater": "HTR", "hmi": "OIT",
    "light": "LTG", "load": "LD", "meter": "ETM", "motor-breaker": "MCP", "network": "NSW", "phase-relay": "PFR",
    "plc": "PLC", "potentiometer": "POT", "psu": "PWS", "rcd": "GFCI", "resistor": "RES", "safety-relay": "SR",
    "selector": "SS", "socket": "REC", "soft-starter": "SST", "source": "SRC", "surge": "SPD", "terminal": "TB",
    "outlet-filter": "FLT", "interlock": "MI",
    "thermistor-relay": "TMR", "timer": "TR", "transducer": "TD", "valve": "SOL",
}  # fmt: skip
_BLOCK = {Standard.IEC: "X", Standard.UL: "PDB"}
"""Letters of a distribution block, its line behind them: XL1."""
_FIXED = {EARTH_BAR: "PE", PLATE_STUD: "PE.P", DOOR_STUD: "PE.D"}
"""Earth points are marked PE; that of a box carries the name of its location behind."""
SOURCE = "IEC 81346-2 (one letter) or NFPA 79 device letters, from memory"


def letter_of(device: CircuitDevice, job: Job) -> str:
    """Return the letters of a device's tag; the protection of a motor is Q, other breakers are F.

    Source:
        IEC 81346-2 or NFPA 79, from memory.
    """
    is_main = device.id == "Q0"
    if job.practice.standard is Standard.UL:
        return _UL_LETTERS["disconnect" if is_main and device.kind == "fuse" else device.kind]
    return "Q" if device.role == "Q" or is_main else _LETTERS[device.kind]


def allocate_tags(
    job: Job, circuit: Circuit, own: Set[str], strips: Iterable[str], places: Mapping[str, Place]
) -> dict[str, str]:
    """Return device id -> tag, all different: a person's names first, then what the ledger holds, then new ones.

    In the school of running numbers a part of a starter takes the starter's own number where it is free, so that M1 has Q1, K1 and
    F1. In the schools by place a tag says where the device is drawn, K203 or 203K1 on sheet 20 in column 3; a device that is not
    drawn gets a running number.

    Args:
        job: its starters, practice and the ledger's tags.
        circuit: the devices.
        own: the names that a person gave.
        strips: what the strips are called.
        places: where each device is drawn.

    Source:
        Common practice, no source.
    """
    kept: Choices = job.ledger.tags
    there = {device.id for device in circuit.devices}
    tags = {d.id: kept[d.id].value if d.id in kept else d.id for d in circuit.devices if d.id in own}
    tags.update({device_id: tag for device_id, tag in _FIXED.items() if device_id in there})
    tags.update({d.id: f"PE.{d.location}" for d in circuit.devices if d.kind == "earth-stud" and d.id not in tags})
    taken = {*tags.values(), *strips}
    for device in circuit.devices:
        tag = f"{_BLOCK[job.practice.standard]}{device.title.rpartition(' ')[2]}"
        if is_bar(device.id) and device.id not in tags and tag not in taken:
            tags[device.id] = tag
            taken.add(tag)
    for device in circuit.devices:
        choice = kept.get(device.id)
        if device.id not in tags and choice is not None and choice.value not in taken:
            tags[device.id] = choice.value
            taken.add(choice.value)
    running: dict[str, Iterator[int]] = defaultdict(partial(count, 1))
    for device in circuit.devices:
        if device.id not in tags and device.kind != "earth-terminal":
            place = places.get(device.id) if job.practice.tags != "letter-number" else None
            tags[device.id] = (
                _free_tag(device, job, taken, running) if place is None else _placed_tag(device, job, place, taken)
            )
            taken.add(tags[device.id])
    tags.update(
        {d.id: f"PE.{tags[d.owner]}" for d in circuit.devices if d.kind == "earth-terminal" and d.owner is not None}
    )
    return {device.id: tags[device.id] for device in circuit.devices}


def _placed_tag(device: CircuitDevice, job: Job, place: Place, taken: set[str]) -> str:
    """Return the tag of a device by its sheet and column, or its line."""
    stem, letter = place.label.replace(".", ""), letter_of(device, job)
    if job.practice.tags == "number-letter":
        return next(tag for n in count(1) if (tag := f"{stem}{letter}{n}") not in taken)
    return next(tag for n in count(1) if (tag := f"{letter}{stem}{'' if n == 1 else f'.{n}'}") not in taken)


def _free_tag(device: CircuitDevice, job: Job, taken: set[str], running: Mapping[str, Iterator[int]]) -> str:
    """Return the tag of a device by a number; `running` goes on by letter with numbers not tried yet."""
    if device.id == "Q0":
        letter = letter_of(device, job)
        return next(tag for n in range(1000) if (tag := f"{letter}{n or '0'}") not in taken)
    letter = letter_of(device, job)
    digits = re.search(r"(\d+)$", device.owner or "")
    if (
        device.role in {"Q", "K", "F"}
        and job.starter(device.owner or "")
        and digits
        and f"{letter}{digits[1]}" not in taken
    ):
        return f"{letter}{digits[1]}"
    return next(tag for n in running[letter] if (tag := f"{letter}{n}") not in taken)
