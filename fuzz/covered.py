"""Feeds the readers of bytes with what leads into new branches of them (atheris, libFuzzer), and looks whether anything but a sentence
comes of it.

`covered.py [MINUTES] [--seed N] [--only brief,stored,event,table,file] [--keep]`: one process for each reader, each with its share of the
time and sound inputs to begin with. What fails is printed and, with `--keep`, stands in tests/data/bad, where a test reads it from then
on. Leaves with 1 if something failed.
"""

import argparse
import re
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from hashlib import sha256
from importlib.util import find_spec
from pathlib import Path

HERE = Path(__file__).resolve().parent
sys.path.insert(0, str(HERE))
BAD = HERE.parent / "tests" / "data" / "bad"
READERS = {"brief": ".toml", "stored": ".stored", "event": ".event", "table": ".csv", "file": ".riktig"}
"""The readers, and the ending of the name of what one cannot read."""
_DONE = re.compile(r"Done (\d+) runs|#(\d+)\s+DONE|stat::number_of_executed_units:\s+(\d+)")


def main() -> int:
    """Run the readers one after the other; return 1 if one failed."""
    parser = argparse.ArgumentParser(prog="./run covered", description=__doc__)
    parser.add_argument("minutes", type=float, nargs="?", default=5.0)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--only", default=",".join(READERS))
    parser.add_argument("--keep", action="store_true")
    if sys.argv[1:2] == ["--reader"]:
        return _feed(sys.argv[2], sys.argv[3:])
    given = parser.parse_args()
    if find_spec("atheris") is None:
        print("atheris is not made for this machine: nothing was fed by coverage")
        return 0
    names = given.only.split(",")
    return max(_watch(name, 60 * given.minutes / len(names), given.seed, keep=given.keep) for name in names)


def _watch(name: str, seconds: float, seed: int, *, keep: bool) -> int:
    """Run one reader in a process of its own and say what came of it."""
    with tempfile.TemporaryDirectory(prefix="riktig-covered-") as room:
        corpus, found = Path(room) / "corpus", Path(room) / "found"
        corpus.mkdir(), found.mkdir()
        command = [
            sys.executable, str(HERE / "covered.py"), "--reader", name, str(corpus), f"-artifact_prefix={found}/",
            f"-max_total_time={max(1, round(seconds))}", f"-seed={seed}", "-timeout=20", "-rss_limit_mb=2048", "-print_final_stats=1",
            "-max_len=20000",
        ]  # fmt: skip
        begun = time.monotonic()
        ran = subprocess.run(command, capture_output=True, text=True, errors="replace", check=False)
        count = next((n for groups in _DONE.findall(ran.stdout + ran.stderr)[::-1] for n in groups if n), "?")
        wrong = sorted(found.iterdir())
        new = len(list(corpus.iterdir()))
        print(
            f"{count} of {name} in {time.monotonic() - begun:.0f} s, {new} that led on, {len(wrong)} failed", flush=True
        )
        if wrong or ran.returncode:
            print("\n".join((ran.stdout + ran.stderr).splitlines()[-40:]))
        for path in wrong if keep else ():
            data = path.read_bytes()
            BAD.mkdir(parents=True, exist_ok=True)
            (BAD / f"{sha256(data).hexdigest()[:12]}{READERS[name]}").write_bytes(data)
        return 1 if wrong or ran.returncode else 0


def _feed(name: str, rest: list[str]) -> int:
    """Feed one reader in this process; libFuzzer ends it."""
    import atheris

    with atheris.instrument_imports(include=["riktig"]):
        import byte_readers
    for number, data in enumerate(byte_readers.sound(name)):
        Path(rest[0], f"sound{number}").write_bytes(data)
    read: Callable[[bytes], None] = byte_readers.READ[name]
    atheris.Setup([sys.argv[0], *rest], read)
    atheris.Fuzz()
    return 0


if __name__ == "__main__":
    sys.exit(main())
