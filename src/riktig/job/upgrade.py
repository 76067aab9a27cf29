"""Owns how a Job that an earlier version kept is brought to what the present one reads. Must not settle."""

from riktig.job.edits import replace
from riktig.job.ledger import Choice
from riktig.job.model import Job

_ROW = "row:"


def upgrade(job: Job) -> Job:
    """Return the Job as the present version keeps it, the very same where nothing is to be done.

    History of the ledger's places: up to 0.6 a plate had rows, `row:N` -> `y up down group`, and parts `N x`; rails ran from side to
    side and ducts followed from the rows. Now rails and ducts have places of their own.
    """
    if not any(key.startswith(_ROW) for key in job.ledger.places):
        return job
    return replace(job, ledger=replace(job.ledger, places=_with_rails(job)))


def _with_rails(job: Job) -> dict[str, Choice]:
    width, height = job.enclosure.width - 50.0, job.enclosure.height - 50.0
    size, depth = (60.0, 80.0) if job.enclosure.width >= 800 else (40.0, 60.0)
    old = job.ledger.places
    rows: list[tuple[int, Choice, float, float, float]] = []
    for key, choice in old.items():
        if key.startswith(_ROW):
            y, up, down = map(float, choice.value.split()[:3])
            rows.append((int(key.removeprefix(_ROW)), choice, y, up, down))
    rows.sort(key=lambda row: -row[2])
    inner = width - 2 * size
    found = {"plate:size": Choice(value=f"{width:g} {height:g} arranged")}
    for number, choice, y, _, _ in rows:
        found[f"rail:R{number + 1}"] = choice.model_copy(update={"value": f"{size + 5:g} {y:g} {inner - 10:g}"})
    top = rows[0][2] + rows[0][3] + 30
    levels = [("D3", top, rows[0][1])]
    levels.extend((f"D{number + 4}", y - down - 30 - size, choice) for number, choice, y, _, down in rows)
    low, high = min(0.0, levels[-1][1]), max(height, top + size)
    for code, x in (("D1", 0.0), ("D2", width - size)):
        value = f"v {x:g} {low:g} {high - low:g} {size:g} {depth:g}"
        found[f"duct:{code}"] = rows[0][1].model_copy(update={"value": value})
    for code, y, choice in levels:
        found[f"duct:{code}"] = choice.model_copy(update={"value": f"h {size:g} {y:g} {inner:g} {size:g} {depth:g}"})
    for key, choice in old.items():
        if not key.startswith(_ROW):
            first, *rest = choice.value.split()
            value = choice.value if not first.isdigit() else " ".join((f"R{int(first) + 1}", *rest))
            found[key] = choice.model_copy(update={"value": value})
    return found
