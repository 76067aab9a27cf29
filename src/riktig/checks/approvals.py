"""Rules about what parts are made to and under which conditions: their standards, what must stand ahead of them, what may land on them."""

from collections.abc import Iterator, Mapping

from riktig.catalogue.model import Mounting, Part
from riktig.checks.finding import Finding, Severity
from riktig.job.practice import Standard
from riktig.plan.circuit.model import DOOR, PLATE
from riktig.plan.circuit.zones import device_of
from riktig.plan.plan import Plan

_MARKS = {Standard.IEC: ("IEC", "EN"), Standard.UL: ("UL", "CSA", "NEMA")}
"""With which words the names of the standards of a world begin."""
_WORLDS = {Standard.IEC: "IEC or EN", Standard.UL: "UL or CSA"}
SOURCE_PARTS = "IEC 60204-1:2016 4.2.1, IEC 61439-1 8.5, UL 508A 4 and SA, NFPA 79 4.2, from memory"
SOURCE_CONDITIONS = "the maker's conditions; UL 508A SA, IEC 61439-1 8.5.3, from memory"
SOURCE_GUARD = "IEC 61800-5-1 6.3.7 (as the maker states), NEC 430.130(A)(2), UL 508A 31.3.2, from memory"
SOURCE_FIELD = "UL 508A 28.3, UL 1059, from memory"
SOURCE_ADAPTER = "UL 60947-4-1 type E and F (spacings of the line side), UL 508A 31.1, from memory"


def check_part_standards(plan: Plan) -> Iterator[Finding]:
    """Yield parts, also those that protect nothing, that are made to no standard of the panel's world, or of which nobody has said.

    Source:
        IEC 60204-1:2016 4.2.1 and IEC 61439-1 8.5 (components comply with their standards), UL 508A 4 and supplement SA, NFPA 79 4.2;
        from memory. What protects is judged by its ratings already, and wrong there at once.
    """
    world = plan.job.practice.standard
    for code, (part, names) in _parts_inside(plan).items():
        stated = part.traits.get("type", "")
        words = stated.replace("/", " ").replace(",", " ").split()
        if any(word in _MARKS[world] for word in words) or (stated and any(d in plan.unmet for d in names)):
            continue
        tags = _tags(plan, names)
        yield Finding(
            rule="part-standard", severity=Severity.SHOULD if stated else Severity.NOTE, subject=names[0], evidence=stated or code,
            message=f"{tags} ({part.title}) {'is' if len(names) == 1 else 'are'} made to {stated}, and the panel wants parts to "
            f"{_WORLDS[world]} standards: take one that is, or have it accepted"
            if stated
            else f"nothing says to which standard {tags} ({part.title}) is made: write type for {code} in the catalogue",
            limit=f"a standard of {_WORLDS[world]}", source=SOURCE_PARTS, asks="" if stated else "type",
        )  # fmt: skip


def check_conditions(plan: Plan) -> Iterator[Finding]:
    """Yield parts that their makers let be used under conditions alone, with these, for somebody to see that they hold.

    Source:
        Conditions of acceptability of recognised components: UL 508A supplement SA; the maker's instructions: IEC 61439-1 8.5.3; from
        memory.
    """
    for code, (part, names) in _parts_inside(plan).items():
        stated = part.traits.get("conditions", "")
        if stated:
            yield Finding(
                rule="part-conditions", severity=Severity.NOTE, subject=names[0], evidence=code, limit=stated, source=SOURCE_CONDITIONS,
                message=f"{_tags(plan, names)} ({part.title}) may be used under conditions, which somebody must see kept: {stated}",
            )  # fmt: skip


def check_guards(plan: Plan) -> Iterator[Finding]:
    """Yield drives and soft starters behind a protective device that their maker does not prescribe, or of which nobody knows what he does.

    Source:
        IEC 61800-5-1 6.3.7, NEC 430.130(A)(2), UL 508A 31.3.2, from memory.
    """
    for name, circuit in plan.power_circuits.items():
        driven = [d for d in circuit.of_role("A", "K") if plan.parts[d].kind in {"drive", "soft-starter"}]
        guards = [d for d in circuit.of_role("Q") if d in plan.parts]
        for device in driven if guards else ():
            part, guard = plan.parts[device], plan.parts[guards[-1]]
            kinds, most = part.traits.get("guard", "").split(), part.rating("guard_max_a")
            amps = guard.rating("amps") or guard.rating("amps_max")
            tag, ahead = plan.tags[device], plan.tags[guards[-1]]
            if not kinds or not most:
                missing = "guard" if not kinds else "guard_max_a"
                yield Finding(
                    rule="drive-protection", severity=Severity.NOTE, subject=device, evidence=part.code, limit="as the maker prescribes",
                    message=f"what must stand ahead of {tag} of {plan.tags.get(name, name)} is not known: take it from its manual, and "
                    f"write {missing} for {part.code} in the catalogue",
                    source=SOURCE_GUARD, asks=missing,
                )  # fmt: skip
            elif guard.kind not in kinds or amps > most:
                yield Finding(
                    rule="drive-protection", severity=Severity.MUST, subject=device, source=SOURCE_GUARD,
                    evidence=f"{amps:g} A, {_kind_words(guard.kind)} {ahead}",
                    limit=f"{most:g} A, {' or '.join(map(_kind_words, kinds))}",
                    message=f"{ahead} of {amps:g} A stands ahead of {tag} of {plan.tags.get(name, name)}, whose maker prescribes "
                    f"{' or '.join(map(_kind_words, kinds))} of {most:g} A at most: its short-circuit rating holds behind that alone; "
                    "write protection for the starter, or take a larger one",
                )  # fmt: skip


def check_field_wiring(plan: Plan) -> Iterator[Finding]:
    """Yield terminals on which cables from the field land and that are not known to be for field wiring.

    Source:
        UL 508A 28.3, UL 1059 (factory wiring only), from memory.
    """
    cabled = {cable.name for cable in plan.cables}
    cores = [wire for wire in plan.conductors if wire.kind == "core" and wire.location in cabled]
    parts: dict[str, tuple[Part, list[str]]] = {}
    for end in dict.fromkeys(end for wire in cores for end in (wire.a, wire.b)):
        part = plan.clamp_parts.get(end)
        if part is not None and part.traits.get("wiring") != "field":
            parts.setdefault(part.code, (part, []))[1].append(end)
    for code, (part, ends) in parts.items():
        is_factory = part.traits.get("wiring") == "factory"
        yield Finding(
            rule="field-wiring", severity=Severity.MUST if is_factory else Severity.NOTE, subject=device_of(ends[0]),
            evidence=part.traits.get("wiring") or code, limit="for field wiring", source=SOURCE_FIELD, asks="" if is_factory else "wiring",
            message=f"cables from the field land on {plan.terminal_label(ends[0])}{_more(ends)} ({part.title}), which "
            + ("is for factory wiring only: take one for field wiring" if is_factory
               else f"nothing says is for that: write wiring for {code} in the catalogue"),
        )  # fmt: skip


def check_adapters(plan: Plan) -> Iterator[Finding]:
    """Yield motor breakers used as type E or F whose line side has no larger spacings, or of which nobody knows it.

    Source:
        UL 60947-4-1 type E and F, UL 508A 31.1: through air 25.4 mm and over surface 50.8 mm on the line side, by an adapter; from memory.
    """
    for code, (part, names) in _parts_inside(plan).items():
        if (
            part.kind == "motor-breaker"
            and "type E" in part.traits.get("type", "")
            and not part.traits.get("line_adapter")
        ):
            yield Finding(
                rule="spacing-adapter", severity=Severity.NOTE, subject=names[0], evidence=code, limit="larger spacings on the line side",
                message=f"{_tags(plan, names)} ({part.title}) {'is' if len(names) == 1 else 'are'} type E only with larger spacings on the "
                f"line side: see that the adapter is there, and write line_adapter for {code} in the catalogue",
                source=SOURCE_ADAPTER, asks="line_adapter",
            )  # fmt: skip


def _parts_inside(plan: Plan) -> Mapping[str, tuple[Part, list[str]]]:
    """Return code -> part and the devices that have it, of all that sits in the panel and of the terminals of its strips."""
    found: dict[str, tuple[Part, list[str]]] = {}
    for device in plan.circuit.devices:
        part = plan.parts[device.id]
        if (device.location in {PLATE, DOOR} or device.wall) and part.mounting is not Mounting.FIELD:
            found.setdefault(part.code, (part, []))[1].append(device.id)
    for clamp, part in plan.clamp_parts.items():
        names = found.setdefault(part.code, (part, []))[1]
        if device_of(clamp) not in names:
            names.append(device_of(clamp))
    return found


def _tags(plan: Plan, names: list[str]) -> str:
    return f"{plan.tags.get(names[0], names[0])}{_more(names)}"


def _more(names: list[str]) -> str:
    return f" and {len(names) - 1} more" if len(names) > 1 else ""


def _kind_words(kind: str) -> str:
    return {"fuse": "fuses", "breaker": "a breaker", "motor-breaker": "a motor breaker"}.get(kind, kind)
