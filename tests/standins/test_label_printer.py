"""Labels come out each exactly once and in order, whatever happens to the printer and to whoever prints."""

import random
import subprocess
import sys
import time
from collections.abc import Iterator
from pathlib import Path

import pytest

from effort import examples
from riktig.drawings.labels.fitting import Fitted, fit_labels
from riktig.drawings.labels.pages import by_medium
from riktig.files.job_file import JobFile
from riktig.files.label_printer import PrinterError, connected, print_labels
from riktig.plan.plan import compute_plan
from riktig.record.events import EventKind, make_event
from riktig.record.labels import LabelState, read_labels
from riktig.standins.label_printer import FAULTS, SimulatedPrinter
from support import demo_text, job_of


@pytest.fixture(scope="module")
def labels() -> list[Fitted]:
    """Some 500 of one medium, and the tape that they want."""
    plan = compute_plan(job_of(demo_text()))
    return [label for rows in by_medium(fit_labels(plan)).values() for label in rows][:500]


def words(labels: list[Fitted]) -> tuple[str, ...]:
    return tuple(" / ".join(label.lines) for label in labels)


@pytest.mark.parametrize("seed", range(examples(20)))
def test_each_label_comes_out_once_and_in_order_through_jams_cuts_and_empty_tapes(
    seed: int, labels: list[Fitted], tmp_path: Path
) -> None:
    chance = random.Random(seed)
    memory, done, stops = tmp_path / "tape", {}, 0

    def fault(count: int) -> str:
        return chance.choice(FAULTS) if chance.random() < 0.03 else ""

    printer = SimulatedPrinter(memory, tape_mm=2000, fault=fault)
    try:
        for _ in range(300):
            try:
                with connected("127.0.0.1", printer.port) as link:
                    print_labels(
                        link,
                        labels,
                        done,
                        "J",
                        "1",
                        lambda x: done.update({x.sticker.key: LabelState(printed=x.sticker.text)}),
                    )
                break
            except PrinterError as error:
                stops += 1
                assert any(word in str(error) for word in ("jammed", "at its end", "went off", "answer"))
                if "went off" in str(error):
                    printer.close()
                    printer = SimulatedPrinter(memory, tape_mm=printer.left_mm, fault=fault)
                printer.clear()
                printer.load(2000)
        assert stops > 5 and printer.tape == words(labels)
        assert len(done) == len(labels)
    finally:
        printer.close()


def test_what_is_to_be_printed_again_comes_out_again_and_new_words_too(labels: list[Fitted], tmp_path: Path) -> None:
    few, printer = labels[:3], SimulatedPrinter(tmp_path / "tape")
    try:
        with connected("127.0.0.1", printer.port) as link:
            for done in ({}, {}, {few[0].sticker.key: LabelState(rounds=1)}):
                print_labels(link, few, done, "J", "1", lambda _: None)
        assert printer.tape == (*words(few), words(few)[0])
    finally:
        printer.close()


def test_what_is_no_printer_is_refused_with_the_mend(tmp_path: Path) -> None:
    printer = SimulatedPrinter(tmp_path / "tape")
    port = printer.port
    printer.close()
    with pytest.raises(PrinterError, match="no printer answers at 127.0.0.1"), connected("127.0.0.1", port):
        pass


def test_the_record_tells_what_was_printed_put_on_and_taken_back() -> None:
    def event(step: str, **texts: str) -> object:
        return make_event(EventKind.LABELS, "labels", unit="1", person="A", step=step, texts=texts)

    events = [
        event("printed", a="1", b="2"),
        event("put on", a="1"),
        event("not printed", b="2"),
        event("printed", c="3"),
    ]
    found = read_labels(events, "1")  # type: ignore[arg-type]
    assert found == {"a": LabelState("1", "1"), "b": LabelState(rounds=1), "c": LabelState("3")} and not read_labels(
        events, "2"
    )  # type: ignore[arg-type]


@pytest.fixture
def printer(tmp_path: Path) -> Iterator[SimulatedPrinter]:
    made = SimulatedPrinter(tmp_path / "tape", medium="tape-9", tape_mm=1e6)
    yield made
    made.close()


def test_whoever_prints_may_be_killed_at_any_moment(printer: SimulatedPrinter, tmp_path: Path) -> None:
    """The command itself, killed again and again, then let end: nothing twice, nothing missing, all noted."""
    path = tmp_path / "job.riktig"
    job = job_of(demo_text())
    JobFile.create(path, job).close()
    wanted = next(rows for medium, rows in by_medium(fit_labels(compute_plan(job))).items() if medium.code == "tape-9")
    command = [
        sys.executable,
        "-m",
        "riktig",
        "print",
        str(path),
        "--person",
        "A",
        "--printer",
        f"127.0.0.1:{printer.port}",
    ]
    chance = random.Random(1)
    for _ in range(examples(20)):
        before = len(printer.tape)
        process = subprocess.Popen(command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
        until = time.monotonic() + 30
        while len(printer.tape) == before and process.poll() is None and time.monotonic() < until:
            time.sleep(0.005)
        time.sleep(chance.random() * 0.05)
        process.kill()
        process.wait()
    assert len(printer.tape) > 0
    done = subprocess.run(command, capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stderr
    assert printer.tape == words(wanted)
    with JobFile.open(path, read_only=True) as file:
        noted = read_labels(file.events(), "1")
    assert {key: state.printed for key, state in noted.items()} == {x.sticker.key: x.sticker.text for x in wanted}
