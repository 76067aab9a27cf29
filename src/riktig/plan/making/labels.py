"""Owns every text that is slid, stuck or engraved: each label with what it is stuck on, where and when. Must not know media or printers."""

from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass, replace
from enum import StrEnum
from typing import TYPE_CHECKING

from riktig.job.edits import replace as replace_fields
from riktig.job.ledger import Choice, ChoiceState
from riktig.job.model import Job
from riktig.plan.answers.lookup import code_of
from riktig.plan.answers.nameplate import nameplate_fields
from riktig.plan.answers.remembered import remembered
from riktig.plan.making.bundles import bundles_of
from riktig.plan.making.patches import PATCH_MM, patches_of
from riktig.plan.making.warnings import warnings_of
from riktig.plan.wiring.cables import cable_ref
from riktig.standards.wire_diameters import outer_diameter_mm

if TYPE_CHECKING:
    from riktig.plan.plan import Plan


class LabelKind(StrEnum):
    """What a label is for."""

    WIRE = "wire"
    DEVICE = "device"
    PLATE = "plate"
    INSIDE = "inside"
    TERMINAL = "terminal"
    STRIP = "strip"
    CABLE = "cable"
    LEGEND = "legend"
    HEADING = "heading"
    PIECE = "piece"
    NAMEPLATE = "nameplate"
    WARNING = "warning"


class When(StrEnum):
    """When in the build a label is put on."""

    BEFORE = "before wiring"
    WITH = "with the wires"
    AFTER = "after wiring"


_WHEN = {
    LabelKind.WIRE: When.WITH,
    LabelKind.CABLE: When.AFTER,
    LabelKind.NAMEPLATE: When.AFTER,
    LabelKind.WARNING: When.AFTER,
}
EDITABLE = frozenset({LabelKind.LEGEND, LabelKind.HEADING, LabelKind.WARNING, LabelKind.STRIP})
"""Labels whose words a person may write otherwise; numbers, tags and the nameplate are decided where they come from."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Sticker:
    """One label. `key` tells it from all others for good; `on` is the ref of what it is stuck on, `place` where on it; `size_mm` is what it
    goes round or onto: the diameter of a wire or cable, the pitch of a terminal, 0 for anything; `link` opens the thing in Riktig, "" where
    the label has no code for it; `own` tells that a person wrote the text.
    """

    key: str
    kind: LabelKind
    text: str
    on: str
    place: str
    size_mm: float = 0.0
    link: str = ""
    own: bool = False

    @property
    def when(self) -> When:
        """When it is put on."""
        return _WHEN.get(self.kind, When.BEFORE)


@dataclass(frozen=True, slots=True, kw_only=True)
class Label:
    """A text to print, how often, and its size in mm as `WxH`."""

    kind: str
    text: str
    count: int
    size: str


_SIZES = {"wire": "12x4", "device": "17x9", "plate": "17x9", "inside": "17x9", "terminal": "5x10", "strip": "17x9", "cable": "40x10",
          "legend": "30x12", "heading": "80x12", "piece": "20x8", "nameplate": "100x60", "warning": "80x40"}  # fmt: skip


def build_labels(plan: "Plan") -> tuple[Label, ...]:
    """Return all labels, alike ones counted together."""
    counts = Counter((sticker.kind.value, sticker.text) for sticker in stickers_of(plan))
    return tuple(Label(kind=kind, text=text, count=count, size=_SIZES[kind]) for (kind, text), count in counts.items())


@remembered(
    bundles_of, "circuit", "parts", "tags", "conductors", "clamps", "clamp_parts", "cables", "plate", "door", "stations", "walls", "cuts",
    "panel", "job.ledger", "job.info", "job.practice", "job.supply", "job.extra_supplies", "job.excepted", "job.starters", "job.enclosure",
    "job.controllers", "job.locations",
)  # fmt: skip
def stickers_of(plan: "Plan") -> tuple[Sticker, ...]:
    """Return every label of a panel, each once, with the words of a person where somebody wrote some."""
    texts = plan.job.ledger.texts
    found = []
    for sticker in _stickers(plan):
        own = texts.get(f"{LABEL}{sticker.key}") if sticker.kind in EDITABLE else None
        found.append(replace(sticker, text=own.value, own=True) if own is not None else sticker)
    return tuple(found)


LABEL = "label:"
"""Before the key of a label in the ledger's texts."""


def write_label(job: Job, key: str, text: str) -> Job:
    """Return the Job in which a label says something else; as it would by itself again where there is no text."""
    texts = {k: choice for k, choice in job.ledger.texts.items() if k != f"{LABEL}{key}"}
    if text.strip():
        texts[f"{LABEL}{key}"] = Choice(" ".join(text.split()), ChoiceState.KEPT)
    return replace_fields(job, ledger=job.ledger.with_sorts(texts=texts))


def _stickers(plan: "Plan") -> Iterator[Sticker]:
    yield from _of_wires(plan)
    yield from _of_terminals(plan)
    yield from _of_devices(plan)
    for owner in plan.door.frames:
        words = " ".join(filter(None, plan.heading_of(owner)))
        yield Sticker(
            key=f"heading:{owner}", kind=LabelKind.HEADING, text=words, on=owner, place="door, above its group"
        )
    for cable in plan.cables:
        begin = f" from {cable.origin}" if cable.origin else ""
        text = f"{cable.name} {cable.size_label}{begin} to {cable.target}"
        for end in ("panel", "far"):
            yield Sticker(
                key=f"cable:{cable.drop}:{end}", kind=LabelKind.CABLE, text=text, on=cable_ref(cable.name), size_mm=cable.diameter_mm,
                place="its end in the panel" if end == "panel" else "its far end",
                link=code_of(plan.job.info.number, cable_ref(cable.name)),
            )  # fmt: skip
    for patch in patches_of(plan):
        text = f"{patch.name} {plan.tags[patch.a]} to {plan.tags[patch.b]}"
        for end in (patch.a, patch.b):
            yield Sticker(
                key=f"patch:{patch.key}:{end}", kind=LabelKind.CABLE, text=text, on=end, size_mm=PATCH_MM,
                place=f"network cable, at {plan.tags[end]}",
            )  # fmt: skip
    for cut in plan.cuts:
        yield Sticker(
            key=f"piece:{cut.code}", kind=LabelKind.PIECE, text=cut.code, on=cut.code, place=f"the {cut.what}"
        )
    plate = "\n".join(f"{field.heading}: {field.text or '...'}" for field in nameplate_fields(plan))
    yield Sticker(
        key="nameplate:job",
        kind=LabelKind.NAMEPLATE,
        text=plate,
        on="job",
        place="outside of the door",
        link=code_of(plan.job.info.number, "job"),
    )
    counted: Counter[str] = Counter()
    for warning in warnings_of(plan):
        name = f"{warning.name}:{warning.about}"
        counted[name] += 1
        again = f":{counted[name]}" if counted[name] > 1 else ""
        yield Sticker(
            key=f"warning:{name}{again}",
            kind=LabelKind.WARNING,
            text=warning.text,
            on=warning.about,
            place=warning.place,
        )


def _of_wires(plan: "Plan") -> Iterator[Sticker]:
    """Yield the markers in the order in which wires are made, those of field cables behind them."""
    made = [wire for bundle in bundles_of(plan) for wire in bundle.wires]
    for wire in (*made, *(c for c in plan.conductors if c.kind != "wire")):
        for end, text, at in zip("ab", plan.markers_of(wire), (wire.a, wire.b), strict=True):
            if text:
                yield Sticker(
                    key=f"wire:{wire.id}:{end}", kind=LabelKind.WIRE, text=text, on=f"wire:{wire.id}",
                    place=f"at {plan.terminal_label(at)}",                    size_mm=outer_diameter_mm(wire.size.mm2),
                )  # fmt: skip


def _of_terminals(plan: "Plan") -> Iterator[Sticker]:
    for clamp in plan.clamps:
        pitch = plan.clamp_parts[clamp.id].width
        yield Sticker(
            key=f"terminal:{clamp.id}",
            kind=LabelKind.TERMINAL,
            text=clamp.label,
            on=clamp.id,
            place=f"on {clamp.id}",
            size_mm=pitch,
        )
    for strip in dict.fromkeys(clamp.piece for clamp in plan.clamps):
        yield Sticker(
            key=f"strip:{strip}", kind=LabelKind.STRIP, text=strip, on=strip, place=f"at the left end of {strip}"
        )


def _of_devices(plan: "Plan") -> Iterator[Sticker]:
    for device in plan.circuit.devices:
        tag = plan.tags[device.id]
        yield Sticker(key=f"device:{device.id}", kind=LabelKind.DEVICE, text=tag, on=device.id, place="on the device")
        if device.id in plan.plate.boxes:
            yield Sticker(
                key=f"plate:{device.id}", kind=LabelKind.PLATE, text=tag, on=device.id, place="on the plate beside it"
            )
        elif device.place != "plate":
            if device.id in plan.door.boxes:
                yield Sticker(
                    key=f"inside:{device.id}",
                    kind=LabelKind.INSIDE,
                    text=tag,
                    on=device.id,
                    place="on the door inside, beside it",
                )
            if device.kind != "earth-stud":
                yield Sticker(
                    key=f"legend:{device.id}",
                    kind=LabelKind.LEGEND,
                    text=device.title or tag,
                    on=device.id,
                    place=f"{device.place}, at it",
                )
