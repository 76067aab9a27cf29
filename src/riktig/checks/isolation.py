"""Rules about the switch that isolates the panel: what it is, its lock, its handle, the door before it, and what stays live beside it."""

from collections.abc import Iterable, Iterator

from riktig.checks.finding import Finding, Severity
from riktig.job.mends import Mend
from riktig.job.practice import Standard
from riktig.plan.answers.stay_live import find_live_groups
from riktig.plan.plan import Plan
from riktig.standards import iec_60204_1


def check_disconnect(plan: Plan) -> Iterator[Finding]:
    """Yield main switches, and switches of further supplies, whose standard is none of isolators, or that cannot be locked off.

    Source:
        IEC 60204-1:2016 5.3.2 and 5.3.3, NFPA 79 5.3.2 and 5.3.3.1, from memory.
    """
    is_ul = plan.job.practice.standard is Standard.UL
    asked = iec_60204_1.ISOLATING_UL if is_ul else iec_60204_1.ISOLATING_IEC
    for device in disconnects_of(plan):
        part, tag = plan.parts[device], plan.tags[device]
        made_to = part.traits.get("type", "")
        if not any(word in made_to for word in asked):
            yield Finding(
                rule="disconnect-type", severity=Severity.MUST if made_to else Severity.NOTE, subject=device, source=SOURCE_TYPE,
                message=f"{tag} isolates a supply and is made to {made_to}: take one to {' or '.join(asked)}"
                if made_to
                else f"{tag} isolates a supply, and nothing says to which standard it is made: write type for {part.code} in the catalogue",
                evidence=made_to or part.code, limit=" or ".join(asked), asks="" if made_to else "type",
            )  # fmt: skip
        if part.traits.get("padlock") != "off":
            yield Finding(
                rule="disconnect-lock", severity=Severity.NOTE, subject=device, evidence=part.code, limit="a lock in its off position",
                message=f"nothing says that {tag} can be locked off: see that it takes a padlock, and write padlock = \"off\" for "
                f"{part.code} in the catalogue",
                source="IEC 60204-1:2016 5.3.3, NFPA 79 5.3.3.1, from memory", asks="padlock",
            )  # fmt: skip


SOURCE_TYPE = "IEC 60204-1:2016 5.3.2, NFPA 79 5.3.2, from memory"


def disconnects_of(plan: Plan) -> tuple[str, ...]:
    """Return the switches that isolate a supply of the panel."""
    wanted = ("Q0", *(f"{extra.name}.Q" for extra in plan.job.extra_supplies if extra.isolated == "here"))
    return tuple(device for device in wanted if device in plan.parts)


def check_handle(plan: Plan) -> Iterator[Finding]:
    """Yield a main switch that is to switch off in an emergency and lies behind a door.

    Source:
        Red on yellow only where it serves as emergency stop or emergency switching off, and then it is readily accessible:
        IEC 60204-1:2016 5.3.4, 10.7.4 and 10.8.4; NFPA 79 10.8.4; from memory.
    """
    incoming = plan.job.incoming
    if incoming.handle == "red-yellow" and incoming.switch != "door":
        yield Finding(
            rule="handle-colour", severity=Severity.MUST, subject="Q0", evidence=f'switch = "{incoming.switch}", handle = "red-yellow"',
            message='a red and yellow handle says that it switches off in an emergency, and the main switch stands behind the door: write '
            '[incoming] switch = "door", or handle = "black"',
            limit="a handle outside", mend=Mend(table="incoming", changes=(("handle", "black"),)),
            source="IEC 60204-1:2016 5.3.4 and 10.8.4, NFPA 79 10.8.4, from memory",
        )  # fmt: skip


def check_inside_handle(plan: Plan) -> Iterator[Finding]:
    """Yield a door handle without one inside that works while the door is open.

    Source:
        NFPA 79:2021 5.3.3.1: operable independent of the door's position, without a tool; from memory.
    """
    incoming = plan.job.incoming
    is_asked = plan.job.practice.standard is Standard.UL and plan.job.practice.scope == "machine" and "Q0" in plan.parts
    if is_asked and incoming.switch == "door" and not incoming.inside_handle:
        is_known = incoming.inside_handle is not None
        yield Finding(
            rule="inside-handle", severity=Severity.MUST if is_known else Severity.NOTE, subject="Q0",
            evidence="no handle inside" if is_known else "inside_handle is not stated", limit="a handle inside, worked on purpose",
            message=f"{plan.tags['Q0']} is worked through the door and cannot be while it is open: give it a handle on the plate that "
            "works without a tool by a deliberate act"
            if is_known
            else f"whether {plan.tags['Q0']} can be worked with the door open too is not stated: see that it has a handle inside, and "
            "write [incoming] inside_handle = true",
            source="NFPA 79:2021 5.3.3.1, from memory", asks="" if is_known else "incoming.inside_handle",
        )  # fmt: skip


def check_door_lock(plan: Plan) -> Iterator[Finding]:
    """Yield doors that anybody opens, doors that no switch holds, and in North America doors that open while the main switch is on.

    Source:
        IEC 60204-1:2016 6.2.2 (key or tool, interlock, or all live parts at least IP2X), NFPA 79:2021 6.2.3, from memory.
    """
    job = plan.job
    lock, switch = job.enclosure.lock, job.incoming.switch
    is_coupled = switch == "door" and "Q0" in plan.parts
    is_held = is_coupled or (lock == "interlock" and "Q0" in plan.parts)
    if lock == "interlock" and "Q0" not in plan.parts:
        yield Finding(
            rule="door-lock", severity=Severity.MUST, subject="job", evidence='lock = "interlock", switch = "none"', limit="a main switch",
            message='the door is to open only with the main switch off, and the panel has none: write [enclosure] lock = "tool" or '
            '"key", or give it a main switch',
            source=SOURCE_LOCK,
        )  # fmt: skip
    elif job.practice.standard is Standard.UL and job.practice.scope == "machine" and not is_held:
        yield Finding(
            rule="door-lock", severity=Severity.MUST, subject="Q0" if "Q0" in plan.parts else "job",
            evidence=f'switch = "{switch}", lock = "{lock}"', limit="a door that opens only with the main switch off",
            message="the door opens while the main switch is on: write [incoming] switch = \"door\", whose shaft holds the door, or "
            '[enclosure] lock = "interlock"',
            source="NFPA 79:2021 6.2.3, from memory",
            mend=Mend(table="enclosure", changes=(("lock", "interlock"),)) if "Q0" in plan.parts else None,
        )  # fmt: skip
    elif lock == "none" and not is_held and (bare := _bare(plan, plan.parts)):
        named = ", ".join(plan.tags[device] for device in bare[:5]) + (" and others" if len(bare) > 5 else "")
        yield Finding(
            rule="door-lock", severity=Severity.MUST, subject=bare[0], evidence='lock = "none"', limit="a tool, a key, or all of IP2X",
            message=f"anybody opens the door, and the bolts of {named} can be touched: write [enclosure] lock = \"tool\" or \"key\", or "
            "cover them",
            source=SOURCE_LOCK,
        )  # fmt: skip


SOURCE_LOCK = "IEC 60204-1:2016 6.2.2, from memory"


def check_in_sight(plan: Plan) -> Iterator[Finding]:
    """Yield motors far from the panel with no isolator beside them.

    Source:
        NEC 430.102(B): a disconnect in sight of the motor, within 50 ft, unless the one ahead can be locked off and an exception holds;
        from memory.
    """
    declared = {place.name: place for place in plan.job.locations}
    for starter in plan.job.starters if plan.job.practice.standard is Standard.UL else ():
        place = declared.get(starter.motor_at)
        if place is not None and place.distance > IN_SIGHT_M and not starter.isolator and starter.name in plan.parts:
            yield Finding(
                rule="in-sight", severity=Severity.NOTE, subject=starter.name, evidence=f"{place.distance:g} m", limit=f"{IN_SIGHT_M:g} m",
                message=f"{plan.tags[starter.name]} is {place.distance:g} m away, out of sight: put an isolator beside it (isolator = "
                "true), or see that an exception of 430.102(B) holds and the main switch can be locked off",
                source="NEC 430.102(B), from memory", mend=Mend(table="starter", name=starter.name, changes=(("isolator", True),)),
            )  # fmt: skip


IN_SIGHT_M = 15.24
"""50 ft, as far as a motor is in sight: NEC Article 100, from memory."""


def check_shroud(plan: Plan) -> Iterator[Finding]:
    """Yield bolts that stay live with the main switch off, where nothing says that they are covered.

    Source:
        IEC 60204-1:2016 6.2.2 (IP2X at what stays live), NFPA 79 5.3.3 and 6.2, from memory; clamps with screws or springs are safe to
        the finger, bolts are not: common practice.
    """
    groups = [group for group in find_live_groups(plan) if group.source == "mains"]
    live = {*disconnects_of(plan), *(device for group in groups for device in group.devices)}
    bare = _bare(plan, live)
    if bare and plan.job.incoming.shrouded is not True:
        is_known = plan.job.incoming.shrouded is not None
        named = ", ".join(plan.tags[device] for device in bare) + (" stays" if len(bare) == 1 else " stay")
        yield Finding(
            rule="live-shroud", severity=Severity.MUST if is_known else Severity.NOTE, subject=bare[0],
            evidence=f"bolts at {', '.join(plan.tags[device] for device in bare)}" if is_known else "shrouded is not stated", limit="IP2X",
            message=f"{named} live with the main switch off, and the bolts can be touched: put covers on, and write [incoming] "
            "shrouded = true"
            if is_known
            else f"{named} live with the main switch off, with bolts: see that covers come with them, and write [incoming] "
            "shrouded = true",
            source="IEC 60204-1:2016 6.2.2, NFPA 79 5.3.3, from memory", asks="" if is_known else "incoming.shrouded",
        )  # fmt: skip


def _bare(plan: Plan, devices: Iterable[str]) -> list[str]:
    """Return those of some devices in the panel that have bolts for conductors, earth aside."""
    return [
        device for device in sorted(devices)
        if device in plan.plate.boxes and not plan.parts[device].kind.startswith("earth")
        and any(terminal.clamp.clamp == "bolt" for terminal in plan.parts[device].terminals)
    ]  # fmt: skip
