"""What the documents say is what the product does."""

import json
import re
from pathlib import Path

from riktig.catalogue.family import catalogue_schema
from riktig.cli.commands import command_names
from riktig.files.tables import all_tables
from riktig.job.model import NAMED_TABLES, ROW_TABLES, SINGLE_TABLES, job_schema
from riktig.job.roles import STARTER_ROLES
from riktig.job.validate import kinds_known
from riktig.plan.plan import compute_plan
from support import HEAD, job_of

ROOT = Path(__file__).parent.parent
DOCS = ROOT / "docs"


def test_the_published_schema_is_that_of_the_job() -> None:
    assert json.loads((DOCS / "job.schema.json").read_text()) == job_schema()


def test_the_example_of_the_brief_format_is_a_sound_brief() -> None:
    blocks = re.findall(r"```toml\n(.*?)```", (DOCS / "brief-format.md").read_text(), re.S)
    plan = compute_plan(job_of(HEAD + blocks[-1]))
    assert not plan.short_uses
    (readme,) = re.findall(r"```toml\n(.*?)```", (ROOT / "README.md").read_text(), re.S)
    assert compute_plan(job_of(readme)).motors["M1"].current == 3.6


def test_kinds_roles_commands_and_headings_are_documented() -> None:
    brief, words = (DOCS / "brief-format.md").read_text(), (DOCS / "interfaces.md").read_text()
    assert all(kind in brief for kind in kinds_known())
    assert all(f"`M1.{role}`" in brief for role in STARTER_ROLES)
    assert all(f"riktig {name}" in words for name in command_names())
    plan = compute_plan(job_of(HEAD))
    headings = (DOCS / "schedules.md").read_text()
    assert all(f"| `{t.name}.csv` | {' '.join(t.headings)} |" in headings for t in all_tables(plan))


def test_every_key_of_every_table_is_documented() -> None:
    brief = (DOCS / "brief-format.md").read_text()
    for table, (_, model) in {**SINGLE_TABLES, **NAMED_TABLES, **ROW_TABLES}.items():
        assert f"[{table}" in brief, table
        for field in model.model_fields:
            public = {"from_lines": "from", "from_refs": "from"}.get(field, field)
            assert field == "name" or f"`{public}`" in brief or f"`{public} =" in brief, (table, public)
    assert json.loads((DOCS / "catalogue.schema.json").read_text()) == catalogue_schema()


def test_every_picture_is_linked() -> None:
    readme = (ROOT / "README.md").read_text()
    assert all(f"docs/screenshots/{p.name}" in readme for p in (DOCS / "screenshots").glob("*.png"))
