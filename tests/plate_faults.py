"""Faults of where things stand, made on whatever panel it is: its plate is looked at, and one thing of it is kept elsewhere."""

import re
from itertools import pairwise

from riktig.files.brief_writer import write_brief
from riktig.plan.plan import Plan
from support import plan_of


def _moved(plan: Plan, key: str, place: str) -> str:
    """Return the brief of a panel with all as it stands, but for one thing."""
    text = write_brief(plan.job)
    line = re.compile(rf'^"?{re.escape(key)}"? = {{ auto = "(?:h|v|plate|door|R\d+) .*$', re.MULTILINE)
    new = f'"{key}" = "{place}"'
    return line.sub(new, text) if line.search(text) else text.replace("[kept.places]\n", f"[kept.places]\n{new}\n")


def room(text: str) -> str:
    """Stand the control transformer a millimetre above a duct."""
    plan = plan_of(text)
    duct = min((d for d in plan.plate.ducts if not d.is_vertical), key=lambda d: d.box.y)
    return _moved(plan, "C1.T", f"plate {duct.box.x + 100:.0f} {duct.box.top + 1:.1f}")


def reach(text: str) -> str:
    """Stand what protects the first motor straight above a part of its row."""
    plan = plan_of(text)
    other = next(name for name in plan.plate.boxes if name != "M1.Q" and name in plan.plate.rail_of)
    box, mine = plan.plate.boxes[other], plan.plate.boxes["M1.Q"]
    return _moved(plan, "M1.Q", f"plate {box.centre[0] - mine.w / 2:.0f} {box.top + 1:.0f}")


def loose(text: str) -> str:
    """Have a short duct lie between two others and touch neither."""
    plan = plan_of(text)
    levels = sorted((d for d in plan.plate.ducts if not d.is_vertical), key=lambda d: d.box.y)
    low, high = max(pairwise(levels), key=lambda pair: pair[1].box.y - pair[0].box.top)
    middle = (low.box.top + high.box.y) / 2
    return _moved(plan, "duct:D77", f"h {low.box.centre[0]:.0f} {middle - 15:.0f} 60 30 60")


def full(text: str) -> str:
    """Take a duct that is far too small for what lies in it."""
    plan = plan_of(text)
    duct = max((d for d in plan.plate.ducts if not d.is_vertical), key=lambda d: plan.fill_percent[d.code])
    return _moved(plan, f"duct:{duct.code}", f"h {duct.box.x:g} {duct.box.y:g} {duct.box.w:g} 8 10")


def apart(text: str) -> str | None:
    """Stand the second of two contactors with a mechanical interlock in another place than beside the first."""
    if 'kind = "reversing"' not in text:
        return None
    plan = plan_of(text.replace('kind = "reversing"\n', 'kind = "reversing"\ninterlock = "mechanical"\n'))
    first = next(starter.name for starter in plan.job.starters if starter.kind == "reversing")
    rail = next(rail for rail in plan.plate.rails if rail.code != plan.plate.rail_of.get(f"{first}.KR"))
    return _moved(plan, f"{first}.KR", f"{rail.code} {rail.x + rail.length - 100:.0f}")


def far_arrester(text: str) -> str:
    """Stand a surge arrester in the row farthest from the main switch."""
    plan = plan_of(text + "[surge.F79]\n")
    first = plan.plate.boxes.get("Q0", plan.plate.boxes["PE.bar"])
    rail = max(plan.plate.rails, key=lambda rail: abs(rail.y - first.centre[1]))
    return _moved(plan, "F79", f"{rail.code} {rail.x + rail.length - 100:.0f}")


def deep_door(text: str) -> str:
    """Stand a button of the door in front of the deepest part of the plate, in an enclosure that is shallow."""
    plan = plan_of(text.replace("depth = 500", "depth = 180") + '[device.S77]\nkind = "pushbutton"\n')
    deepest = max(plan.plate.items.values(), key=lambda item: plan.parts[item.id].depth if item.id in plan.parts else 0)
    box, job = plan.plate.boxes[deepest.id], plan.job
    x = box.centre[0] + (job.enclosure.width - plan.plate.width) / 2
    y = box.centre[1] + (job.enclosure.height - plan.plate.height) / 2
    return _moved(plan, "S77", f"door {x:.0f} {y:.0f}")


def unequal(text: str) -> str | None:
    """Make one of two wires of a clamp thicker by hand."""
    plan = plan_of(text)
    for landed in plan.conductors_at.values():
        wires = [wire for wire in landed if wire.kind == "wire"]
        if len(wires) == 2 and plan.potential_at.get(wires[0].a) and all(wire.size.mm2 < 2 for wire in wires):
            key = wires[0].id.rpartition(" ")[0]
            return f'{text}[kept.values]\n"{key}|wire_section" = "4 | at hand"\n'
    return None
