"""Owns the Plan as JSON, keys as promised in docs/interfaces.md. Must not compute what the Plan does not hold."""

from collections.abc import Iterable
from typing import Any

from riktig import VERSION
from riktig.checks.rule import Verdict
from riktig.checks.run import find_all
from riktig.job.practice import Practice
from riktig.plan.answers.assumptions import list_assumptions
from riktig.plan.answers.nameplate import nameplate_fields
from riktig.plan.basis.strength import PROTECTING
from riktig.plan.circuit.model import is_bar
from riktig.plan.circuit.zones import device_of
from riktig.plan.making.labels import build_labels
from riktig.plan.making.lots import cut_lengths
from riktig.plan.net.runs import run_words
from riktig.plan.net.strips import SPARE
from riktig.plan.plan import Plan


def plan_to_dict(plan: Plan) -> dict[str, Any]:
    """Return the whole Plan as plain values; lengths in mm, keys that do not apply are left out."""
    return {
        "riktig": VERSION,
        "job": _job(plan),
        "devices": [_device(plan, device.id) for device in plan.circuit.devices],
        "potentials": [
            {"id": p.net.terminals[0], "number": p.number, "name": p.name, "terminals": _terminals_of(plan, p.number)}
            for p in plan.potentials
        ],
        "conductors": _conductors(plan),
        "cables": [
            {
                "name": cable.name,
                "from": cable.begin,
                "to": cable.target,
                "conductors": list(cable.numbers),
                "spare": cable.spare,
                "section": cable.size_label,
                "length_m": cable.length_m,
                "screen": cable.screen.value if cable.screen is not None else None,
                "gland": cable.gland.thread if cable.gland is not None else None,
                "hole_mm": cable.hole_mm,
                "conduit": {
                    "trade_size": cable.conduit.trade_size,
                    "fill_percent": round(cable.conduit.fill_percent, 1),
                }
                if cable.conduit is not None
                else {},
            }
            for cable in plan.cables
        ],
        "terminals": _terminals(plan),
        "sizing": [
            {
                "subject": _subject_tag(plan, v.subject),
                "quantity": v.quantity,
                "value": v.value,
                "unit": v.unit,
                "formula": v.formula,
                "inputs": dict(v.inputs),
                "source": v.source,
                "needed": v.needed,
                "most": v.most,
                "margin_percent": None if v.margin_percent is None else round(v.margin_percent, 1),
                "by_hand": v.reason,
                "computed": v.computed,
            }
            for v in plan.sizing
        ],
        "panel": _panel(plan),
        "plate": _plate(plan),
        "door": _door(plan),
        "labels": [{"kind": x.kind, "text": x.text, "count": x.count, "size": x.size} for x in build_labels(plan)],
        "findings": findings_to_list(plan),
        "spare_terminals": [
            {"strip": c.strip, "label": c.label, "for": run_words(c.drop) if c.drop != SPARE else None}
            for c in plan.clamps
            if c.is_spare
        ],
    }


def _panel(plan: Plan) -> dict[str, Any]:
    panel = plan.panel
    return {
        "full_load_a": round(panel.full_load_a, 3),
        "largest_motor_a": panel.largest_motor_a,
        "neutral_a": round(panel.load.neutral, 3),
        "sccr_ka": panel.sccr_ka,
        "sccr_limited_by": [plan.tags[d] for d in panel.sccr_limited_by],
        "sccr_chain": [
            {
                "branch": branch.owner,
                "available_ka": branch.available_ka,
                "ka": branch.ka,
                "links": [
                    {
                        "device": plan.tags[link.device],
                        "own_ka": link.strength.own_ka,
                        "ka": link.strength.ka,
                        "how": link.strength.how,
                        "why": link.strength.why,
                        "source": plan.job.practice.cite(link.strength.source),
                    }
                    for link in branch.links
                ],
            }
            for branch in panel.short_circuit.branches
        ],
        "heat_w": round(panel.heat_w, 2),
        "temperature_rise_k": panel.heat.rise_k,
        "inside_c": round(panel.heat.inside_c, 1),
        "fan_m3h": round(panel.heat.needed_air_m3h, 1),
        "heater_w": round(panel.heat.needed_heater_w, 1),
    }


def papers_to_dict(plan: Plan) -> dict[str, Any]:
    """Return what an inspector reads beside the rules as plain values: short-circuit rating part by part, nameplate, assumptions."""
    rating = plan.panel.short_circuit
    return {
        "short_circuit": {
            "rating_ka": rating.rating_ka,
            "available_ka": plan.job.supply.available_ka,
            "limited_by": [plan.tags[device] for device in rating.limited_by],
            "devices": [
                {
                    "way": plan.tags.get(branch.owner, branch.owner), "device": plan.tags[link.device], "stands_ka": link.strength.ka,
                    "by_itself_ka": link.strength.own_ka, "how": link.strength.how, "why": link.strength.why,
                    "source": plan.job.practice.cite(link.strength.source),
                }
                for branch in rating.branches
                for link in branch.links
            ],
        },
        "nameplate": [{"heading": field.heading, "text": field.text, "key": field.key} for field in nameplate_fields(plan)],
        "assumptions": [
            {"what": one.what, "taken": one.taken, "decides": one.decides, "key": one.key} for one in list_assumptions(plan)
        ],
    }  # fmt: skip


def findings_to_list(plan: Plan) -> list[dict[str, object]]:
    """Return the findings, worst first, as plain values."""
    return [
        {
            "rule": f.rule,
            "severity": f.severity.value,
            "subject": plan.tags.get(f.subject, f.subject),
            "message": f.message,
            "evidence": f.evidence,
            "limit": f.limit,
            "source": f.source,
            **({"margin_percent": round(f.margin_percent, 1)} if f.margin_percent is not None else {}),
            **({"waived": f.waived} if f.waived else {}),
            **({"asks": f.asks} if f.asks else {}),
            **({"mend": f.mend.words} if f.mend is not None else {}),
        }
        for f in find_all(plan)
    ]


def verdicts_to_list(verdicts: Iterable[Verdict], practice: Practice) -> list[dict[str, object]]:
    """Return what each rule comes to, in the order of the book, as plain values."""
    return [
        {
            "rule": one.rule.id, "subject": one.rule.subject.value, "title": one.rule.title, "outcome": one.outcome.value,
            "findings": len(one.findings), "asks": sorted({f.asks for f in one.findings if f.asks}), "judged": one.rule.judged,
            "looked": one.looked, "source": practice.cite(one.rule.source),
        }
        for one in verdicts
    ]  # fmt: skip


def _subject_tag(plan: Plan, subject: str) -> str:
    """Return the tag of what a value is about, "panel" for the whole; a control supply has its name, and any other part of the brief
    that has no tag of its own that of what protects it, else of its first device.
    """
    if subject in plan.tags or subject == "Q0":
        return plan.tags.get(subject, "panel")
    own = [device.id for device in plan.circuit.devices if device.owner == subject and device.id in plan.tags]
    own.sort(key=lambda device: plan.parts[device].kind not in PROTECTING)
    is_named = any(control.name == subject for control in plan.job.controls)
    return plan.tags[own[0]] if own and not is_named else subject


def _job(plan: Plan) -> dict[str, Any]:
    fields = plan.job.model_dump(mode="json", exclude_none=True, exclude={"ledger"})
    fields.update(fields.pop("info"))
    return fields


def _device(plan: Plan, device_id: str) -> dict[str, Any]:
    device, part = plan.circuit.device(device_id), plan.parts[device_id]
    settings: dict[str, Any] = dict(device.settings)
    if device.positions:
        settings["positions"] = list(device.positions)
    setting = plan.setting_of(device_id)
    if setting is not None:
        settings["overload_a"] = round(setting, 3)
    place = plan.sheet_places.get(device_id)
    return {
        "id": device_id,
        "tag": plan.tags[device_id],
        "kind": device.kind,
        "part": part.code,
        "location": device.place,
        "title": device.title,
        "starter": device.owner if device.owner in plan.motors else None,
        "role": device.role,
        "sheet": place.sheet if place else None,
        "column": place.column if place else None,
        "settings": settings,
    }


def _terminals_of(plan: Plan, number: str) -> list[str]:
    """Return every terminal of a potential: devices, strips, and the clamps of the earth bar in use."""
    potential = next(p for p in plan.potentials if p.number == number)
    found = [plan.terminal_label(t) for t in potential.net.terminals]
    found.extend(clamp.id for clamp in plan.clamps if clamp.number == number)
    bar = {t for link in plan.links if link.number == number for t in (link.a, link.b) if is_bar(device_of(t))}
    return found + sorted((plan.terminal_label(t) for t in bar), key=lambda t: int(t.rpartition(":")[2]))


def _conductors(plan: Plan) -> list[dict[str, Any]]:
    cut = cut_lengths(plan)
    return [
        {
            "id": c.id,
            "number": c.number,
            "kind": c.kind,
            "from": plan.terminal_label(c.a),
            "to": plan.terminal_label(c.b),
            "location": c.location.partition("/")[0],
            "section_mm2": c.size.mm2,
            "awg": c.size.awg,
            "colour": c.colour,
            "length_mm": c.length_mm,
            "cut_mm": cut.get(c.id, c.length_mm),
            "route": list(c.route),
            "marker_from": plan.markers_of(c)[0],
            "marker_to": plan.markers_of(c)[1],
            "end_from": ends[0].text if (ends := plan.ends_of(c)) is not None else "",
            "end_to": ends[1].text if ends is not None else "",
            "stage": c.stage,
            "batch": c.batch,
            "screened": c.screened.split(),
        }
        for c in plan.conductors
    ]


def _terminals(plan: Plan) -> list[dict[str, Any]]:
    rows = []
    position: dict[str, int] = {}
    bridges = {terminal: list(run) for run in plan.bridges for terminal in run}
    for clamp in plan.clamps:
        position[clamp.strip] = position.get(clamp.strip, 0) + 1
        if clamp.is_spare:
            continue
        at = [c for c in plan.conductors_at.get(clamp.id, ()) if c.kind != "bridge"]
        outside = [c.id for c in at if plan.lands_outside(c, clamp)]
        rows.append(
            {
                "strip": clamp.strip,
                "position": position[clamp.strip],
                "label": clamp.label,
                "potential": clamp.number,
                "inside": [c.id for c in at if c.id not in outside],
                "outside": outside,
                "bridge": bridges.get(clamp.id),
            }
        )
    return rows


def _plate(plan: Plan) -> dict[str, Any]:
    fill = plan.fill_percent
    boxes = plan.plate.boxes.items()
    return {
        "width": plan.plate.width,
        "height": plan.plate.height,
        "parts": [
            {"tag": plan.tags.get(i, i), "x": round(b.x, 2), "y": round(b.y, 2), "w": round(b.w, 2), "h": round(b.h, 2)}
            for i, b in boxes
        ],
        "rails": [{"code": r.code, "x": r.x, "y": r.y, "length": r.length} for r in plan.plate.rails],
        "ducts": [
            {
                "code": d.code,
                "x": d.box.x,
                "y": d.box.y,
                "w": d.box.w,
                "h": d.box.h,
                "depth": d.depth,
                "fill_percent": fill[d.code],
            }
            for d in plan.plate.ducts
        ],
        "holes": [
            {"x": h.x, "y": h.y, "diameter": h.diameter, "fix": h.fix, "for": plan.tags.get(h.target, h.target)}
            for h in plan.holes
        ],
        "cuts": [
            {"code": c.code, "what": c.what, "profile": c.profile, "length": c.length, "bar": c.bar} for c in plan.cuts
        ],
        "stock_mm": plan.job.practice.stock,
        "kerf_mm": plan.job.practice.kerf,
    }


def _door(plan: Plan) -> dict[str, Any]:
    return {
        "width": plan.door.width,
        "height": plan.door.height,
        "cutouts": [
            {"for": plan.name_of(c.device), "x": c.x, "y": c.y, "diameter": c.diameter}
            if c.diameter
            else {"for": plan.name_of(c.device), "x": c.x, "y": c.y, "w": c.w, "h": c.h}
            for c in plan.door.cutouts
        ],
        "hinge": plan.job.enclosure.hinge,
        "shaft_mm": plan.door.shaft,
        "entries": [
            {"for": e.cable, "fitting": e.fitting, "x": e.x, "z": e.z, "diameter": e.diameter, "fits": e.fits}
            for e in plan.entries
        ],
        "walls": [
            {
                "side": wall.side,
                "width": wall.width,
                "height": wall.height,
                "cutouts": [
                    {"for": plan.name_of(c.device), "x": c.x, "y": c.y, "diameter": c.diameter, "w": c.w, "h": c.h}
                    for c in wall.cutouts
                ],
            }
            for wall in plan.walls
        ],
        "stations": [
            {
                "location": s.location,
                "width": s.width,
                "height": s.height,
                "depth": s.depth,
                "fits": s.fits,
                "cutouts": [
                    {"for": plan.name_of(c.device), "x": c.x, "y": c.y, "diameter": c.diameter} for c in s.cutouts
                ],
                "glands": [
                    {"for": g.cable, "fitting": g.fitting, "x": g.x, "z": g.z, "diameter": g.diameter} for g in s.glands
                ],
            }
            for s in plan.stations
        ],
    }
