"""Owns what may be typed next in a circuit path, and where its first fault stands. Must not change a Job."""

import re
from dataclasses import dataclass

from riktig.catalogue.loader import extensions_of, parts_of_kind
from riktig.catalogue.model import CONTACT_KINDS, ElementKind
from riktig.job.model import Job
from riktig.job.names import find_path_faults, names_known

_WORD = re.compile(r"[^\s>|()\[\]]*$")
_SORT_OF = {
    ElementKind.NO: ("no",), ElementKind.NC: ("nc",), ElementKind.CO: ("no", "nc", "co"), ElementKind.COIL: ("coil",),
    ElementKind.LAMP: ("lamp",), ElementKind.TIMED_CO: ("tno", "tnc"), ElementKind.AUX_NO: ("aux_no",),
    ElementKind.AUX_NC: ("aux_nc",), ElementKind.ALARM_NO: ("alarm_no",), ElementKind.ALARM_NC: ("alarm_nc",),
    ElementKind.INPUT: ("di",), ElementKind.OUTPUT: ("do",), ElementKind.ANALOG_IN: ("ai",),
    ElementKind.ANALOG_OUT: ("ao",),
}  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class Completion:
    """The words that may stand at a place of a text, and where the word that they replace begins (from 0)."""

    start: int
    words: tuple[str, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class PathMark:
    """A fault of a path: begin and end (from 0) of what is wrong, and the sentence."""

    start: int
    end: int
    message: str


def complete_path(text: str, cursor: int, job: Job) -> Completion:
    """Return what may stand at the cursor: potentials and devices; roles behind a dot, contacts behind a colon."""
    typed = _WORD.search(text[:cursor])
    word = typed.group(0) if typed is not None else ""
    device, colon, what = word.partition(":")
    if colon:
        found = [sort for sort in _sorts_of(device, job) if sort.startswith(what)]
        return Completion(start=cursor - len(what), words=tuple(found))
    names = names_known(job)
    named = {node for row in (*job.rungs, *job.feeders) for node in re.findall(r"@[A-Za-z]\w*", row.path)}
    owner, dot, role = word.partition(".")
    if dot and owner in names.roles:
        words = [f"{owner}.{r}" for r in names.roles[owner] if r.startswith(role)]
    else:
        known = [
            *sorted(names.potentials),
            *sorted(named),
            *sorted(names.bare),
            *(f"{o}." for o in sorted(names.roles)),
        ]
        words = [name for name in known if name.lower().startswith(word.lower())]
    return Completion(start=cursor - len(word), words=tuple(dict.fromkeys(words)))


def _sorts_of(device: str, job: Job) -> list[str]:
    """Return the contacts that a device may be asked for: its positions, or by what its kind's parts have."""
    positions = names_known(job).positions.get(device)
    if positions is not None:
        return list(positions)
    own = next((d for d in job.devices if d.name == device), None)
    role = device.partition(".")[2]
    kind = own.kind if own is not None else _KIND_OF_ROLE.get(role.partition("_")[0], "contactor")
    sorts: dict[str, None] = {}
    for base in parts_of_kind(kind)[:4]:
        for part in extensions_of(base.code)[:3]:
            for element in part.elements:
                if element.kind in CONTACT_KINDS or element.kind in _SORT_OF:
                    sorts.update(dict.fromkeys(_SORT_OF.get(element.kind, ())))
                if element.kind in CONTACT_KINDS:
                    sorts.setdefault(element.name if len(element.marks) == 2 else "co")
    return list(sorts)


_KIND_OF_ROLE = {
    "Q": "breaker", "F": "overload", "S0": "pushbutton", "S1": "pushbutton", "S2": "pushbutton", "SE": "emergency-stop",
    "SX": "pushbutton", "X": "relay", "KA": "relay", "KC": "relay", "KCR": "relay", "T": "timer", "R": "thermistor-relay",
    "H": "lamp", "HR": "lamp", "HT": "lamp", "HB": "lamp", "A": "drive", "QM": "disconnect", "stop": "float",
    "start": "float", "alarm": "float",
}  # fmt: skip


def mark_faults(text: str, job: Job, *, is_feeder: bool) -> tuple[PathMark, ...]:
    """Return the faults of a path with the span of text that each is about."""
    marks = []
    for column, message in find_path_faults(text, names_known(job), is_feeder=is_feeder):
        start = min(max(column - 1, 0), max(len(text) - 1, 0))
        rest = re.match(r"[^\s>|()]+", text[start:])
        end = start + (len(rest.group(0)) if rest is not None else 1)
        marks.append(PathMark(start=start, end=min(end, max(len(text), 1)), message=message))
    return tuple(marks)
