"""Mutates briefs, kept choices, job files, tables and live scripts, and looks whether anything but a sentence comes of it.

`fuzz.py [MINUTES] [--seed N] [--cases N] [--only brief,job,table,script,export] [--keep]`: as many processes as there are processors; each
case has limits of time and memory. What fails is made as small as it gets, and with `--keep` stands in tests/data/bad, where a test
reads it from then on. Leaves with 1 if something failed. The same seed on the same code mutates the same.
"""

import argparse
import multiprocessing
import os
import random
import resource
import signal
import sys
import time
import traceback
from collections import Counter
from collections.abc import Callable, Sequence
from functools import partial
from hashlib import sha256
from pathlib import Path
from typing import Any

sys.path.insert(0, str(Path(__file__).resolve().parent))

import targets  # noqa: E402

BAD = Path(__file__).resolve().parent.parent / "tests" / "data" / "bad"
CASE_S, SMALL_S, _TRIES = 120, 60, 30
"""So long one case may take, and so long what fails is made smaller."""
MEMORY_BYTES = 4 << 30
SHARES = {"brief": 0.7, "job": 0.2, "table": 0.1, "export": 0.05, "script": 0.3}


class TooLong(Exception):
    """A case took longer than it may."""


def _stop(*_: object) -> None:
    raise TooLong(f"longer than {CASE_S} s")


def failure_of(read: Callable[[], bool]) -> tuple[str, str, bool]:
    """Return what names the failure of a case ("" for none), its trace, and whether what was read was sound."""
    signal.signal(signal.SIGALRM, _stop)
    signal.alarm(CASE_S)
    try:
        return "", "", read()
    except (Exception, MemoryError) as error:  # noqa: BLE001 whatever comes out is what is looked for
        frames = [
            f for f in traceback.extract_tb(error.__traceback__) if "/riktig/" in f.filename or "/fuzz/" in f.filename
        ]
        place = frames[-1] if frames else None
        where = f"{Path(place.filename).name}:{place.name}" if place is not None else "?"
        return f"{type(error).__name__} {where}", traceback.format_exc(), False
    finally:
        signal.alarm(0)


def smallest(parts: Sequence[Any], join: Callable[[Sequence[Any]], Any], name: str, read: Callable[[Any], bool]) -> Any:
    """Return the least of parts (lines, bytes) with which a case still fails in the same way: halves left out, then quarters, and so on."""
    until, size = time.monotonic() + SMALL_S, max(1, len(parts) // 2)
    while size >= 1 and time.monotonic() < until:
        at = 0
        while at < len(parts) and time.monotonic() < until:
            fewer = [*parts[:at], *parts[at + size :]]
            if fewer and failure_of(partial(read, join(fewer)))[0] == name:
                parts = fewer
            else:
                at += size
        size //= 2
    return join(parts)


def make_case(what: str, seed: int, bases: dict[str, Any]) -> tuple[bytes, str, Callable[[bytes], bool]]:
    """Return a case as bytes, the ending of its name, and what reads it."""
    chance = random.Random(f"{what} {seed}")
    if what == "brief":
        exports = chance.random() < targets.EXPORTED
        text = bases["brief"].mutated(chance)
        return (
            text.encode(errors="surrogatepass"),
            ".toml",
            lambda b: targets.read_brief_text(b.decode(errors="replace"), exports=exports),
        )
    if what == "export":
        tries = (bases["brief"].mutated(chance) for _ in range(_TRIES))
        text, names = next((t for t in tries if targets.is_sound(t)), ""), targets.some_documents(chance)
        return text.encode(), ".toml", lambda b: targets.export_text(b.decode(), names)
    if what == "script":
        text, plan = bases["script"].mutated(chance)
        return text.encode(errors="surrogatepass"), ".toml", lambda b: targets.read_script_text(b, plan)
    if what == "job":
        return targets.job_case(chance, bases["job"]), ".riktig", targets.read_job_file
    data, suffix = targets.table_case(chance, bases["table"])
    return data, suffix, lambda b: targets.read_table(b, suffix)


def work(number: int, of: int, given: argparse.Namespace, answers: Any) -> None:
    """Run every `of`-th case until the time is over or all are done, and tell what was seen."""
    resource.setrlimit(resource.RLIMIT_AS, (MEMORY_BYTES, MEMORY_BYTES))
    briefs = targets.Briefs()
    bases = {
        "brief": briefs, "job": targets.base_job_file(), "table": targets.base_tables(), "script": targets.Scripts(briefs.texts[:8]),
    }  # fmt: skip
    counts: Counter[str] = Counter()
    slowest, known = (0.0, ""), set()
    until, only = time.monotonic() + 60 * given.minutes, given.only.split(",")
    first = given.seed * 1_000_000
    for case in range(first + number, first + given.cases, of):
        if time.monotonic() > until:
            break
        what = random.Random(case).choices(only, [SHARES[name] for name in only])[0]
        start = time.monotonic()
        data, suffix, read = make_case(what, case, bases)
        name, trace, is_sound = failure_of(partial(read, data))
        slowest = max(slowest, (time.monotonic() - start, f"{what} {case}"))
        counts[what] += 1
        counts[f"{what} sound"] += is_sound
        counts[f"{what} failed"] += bool(name)
        if name and name not in known:
            known.add(name)
            if given.keep:
                data = smaller(data, suffix, name, read)
            answers.put(("failed", name, f"{what} {case}", trace, data, suffix))
    answers.put(("done", counts, slowest, resource.getrusage(resource.RUSAGE_SELF).ru_maxrss // 1024))


def smaller(data: bytes, suffix: str, name: str, read: Callable[[bytes], bool]) -> bytes:
    """Return a failing case made small; a job file stays as it is, a byte less and it is damaged in another way."""
    if suffix in {".riktig", ".xlsx"}:
        return data
    return smallest(data.split(b"\n"), lambda lines: b"\n".join(lines), name, read)


def main() -> int:
    """Run the cases; return 1 if one failed."""
    parser = argparse.ArgumentParser(prog="./run fuzz", description=__doc__)
    parser.add_argument("minutes", type=float, nargs="?", default=5.0)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--cases", type=int, default=1_000_000, help="no more cases than this")
    parser.add_argument("--only", default="brief,job,table,script")
    parser.add_argument("--keep", action="store_true")
    given = parser.parse_args()
    context = multiprocessing.get_context("spawn")
    answers, count = context.Queue(), os.cpu_count() or 1
    processes = [context.Process(target=work, args=(n, count, given, answers)) for n in range(count)]
    for process in processes:
        process.start()
    counts: Counter[str] = Counter()
    names: set[str] = set()
    slowest, peak, done = (0.0, ""), 0, 0
    while done < count:
        answer = answers.get(timeout=60 * given.minutes + 20 * SMALL_S)
        if answer[0] == "done":
            done, counts, slowest, peak = done + 1, counts + answer[1], max(slowest, answer[2]), max(peak, answer[3])
        elif answer[1] not in names:
            _, name, case, trace, data, suffix = answer
            names.add(name)
            print(f"== {name} ({case})\n{trace}", flush=True)
            if given.keep:
                BAD.mkdir(parents=True, exist_ok=True)
                (BAD / f"{sha256(data).hexdigest()[:12]}{suffix}").write_bytes(data)
    for what in given.only.split(","):
        print(f"{counts[what]} of {what}: {counts[f'{what} sound']} sound, {counts[f'{what} failed']} failed")
    print(f"slowest {slowest[0]:.1f} s ({slowest[1]}), largest process {peak} MiB, {len(names)} kinds of failure")
    return 1 if names else 0


if __name__ == "__main__":
    sys.exit(main())
