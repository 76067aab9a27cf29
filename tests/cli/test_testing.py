"""`riktig derive-tests`: the function test in words and as JSON."""

import json
from pathlib import Path

from headless import riktig
from support import small_text


def test_the_function_test_is_printed_with_its_caution_and_as_json(tmp_path: Path) -> None:
    path = tmp_path / "job.toml"
    path.write_text(small_text())
    words = riktig("derive-tests", path)
    assert words.returncode == 0 and words.stdout.startswith("Dead tests come first.")
    assert "must not start while" in words.stdout and "contacts seen closed and open" in words.stdout
    found = json.loads(riktig("derive-tests", path, "--json").stdout)
    assert set(found) == {"title", "steps", "contacts", "conductors"}
    assert found["contacts"]["moved"] == found["contacts"]["all"] and found["conductors"]["never"] == []
