"""Whatever a person or a broken disk hands over, the answer is a sentence and never a trace."""

import random
from pathlib import Path

import pytest
from hypothesis import HealthCheck, example, given, settings
from hypothesis import strategies as st

from effort import examples
from riktig.files.brief_reader import BriefError, parse_brief, read_brief
from riktig.files.job_access import JobFileError
from riktig.files.job_file import JobFile
from riktig.files.toml_lines import find_lines, line_of
from riktig.job.paths import PathError, nodes_of, parse_path, refs_of
from riktig.units.numbers import BadNumber, parse_reading
from riktig.units.quantity import FACTORS, parse_quantity
from support import GROUPS, HEAD, STARTER, job_of, small_text

LOOSE = settings(max_examples=examples(60), deadline=None, suppress_health_check=[HealthCheck.too_slow])
GOOD = GROUPS + STARTER
WORDS = [
    "C1+",
    "C1-",
    "L1",
    "@a",
    "K1",
    "K1:no",
    "K1:13-14",
    "(",
    ")",
    "|",
    ">",
    "[3 2 1]",
    "in.L1",
    "M1.K",
    ":",
    "-",
    "1K",
    "ü",
]


@LOOSE
@given(st.lists(st.sampled_from(WORDS), max_size=12).map(" ".join), st.booleans())
@example("(", False)
@example(") > (", True)
def test_any_words_in_a_path_read_or_are_refused_inside_the_text(text: str, is_feeder: bool) -> None:
    try:
        path = parse_path(text, is_feeder=is_feeder)
    except PathError as error:
        assert 1 <= error.column <= len(text) + 1 and error.message
    else:
        assert nodes_of(path) and all(ref.device for ref in refs_of(path))


@LOOSE
@given(st.text(max_size=40))
def test_any_text_as_a_path_reads_or_is_refused(text: str) -> None:
    try:
        parse_path(text)
    except PathError as error:
        assert error.column >= 1


@LOOSE
@given(st.integers(0, 2**32))
def test_a_brief_with_lines_lost_doubled_or_exchanged_reads_or_names_its_lines(seed: int) -> None:
    chance = random.Random(seed)
    lines = GOOD.splitlines()
    for _ in range(chance.randint(1, 4)):
        at = chance.randrange(len(lines))
        choice = chance.randrange(4)
        if choice == 0:
            del lines[at]
        elif choice == 1:
            lines.insert(at, lines[chance.randrange(len(lines))])
        elif choice == 2:
            other = chance.randrange(len(lines))
            lines[at], lines[other] = lines[other], lines[at]
        else:
            cut = chance.randrange(len(lines[at]) + 1)
            lines[at] = lines[at][:cut] + chance.choice(['"', "=", "[", "-1", "\t", "é", ""]) + lines[at][cut + 1 :]
    text = "\n".join(lines)
    try:
        parse_brief(text, "b.toml")
    except BriefError as error:
        assert error.faults
        for fault in error.faults:
            assert 1 <= fault.line <= text.count("\n") + 2
            assert fault.message and "\n" not in fault.message and "Traceback" not in fault.message


@LOOSE
@given(st.binary(max_size=200))
def test_any_bytes_as_a_brief_are_refused_with_a_line(tmp_path_factory: pytest.TempPathFactory, data: bytes) -> None:
    path = tmp_path_factory.mktemp("f") / "b.toml"
    path.write_bytes(data)
    with pytest.raises(BriefError) as caught:
        read_brief(path)
    assert all(f.line >= 1 for f in caught.value.faults)


@settings(
    max_examples=examples(25),
    deadline=None,
    suppress_health_check=[HealthCheck.too_slow, HealthCheck.function_scoped_fixture],
)
@given(st.integers(0, 2**32))
def test_a_job_file_with_flipped_bytes_opens_or_is_refused_and_is_left_alone(tmp_path: Path, seed: int) -> None:
    chance = random.Random(seed)
    path = tmp_path / f"{seed}.riktig"
    path.unlink(missing_ok=True)
    JobFile.create(path, job_of(HEAD + STARTER)).close()
    data = bytearray(path.read_bytes())
    for _ in range(chance.randint(1, 30)):
        data[chance.randrange(len(data))] = chance.randrange(256)
    path.write_bytes(data)
    try:
        with JobFile.open(path, read_only=True) as file:
            file.load_job()
            file.events()
    except JobFileError as error:
        assert path.name in str(error)
    assert path.read_bytes() == data


@LOOSE
@given(st.text(max_size=12))
def test_any_text_as_a_reading_or_quantity_is_a_number_or_a_sentence(text: str) -> None:
    for parse in (parse_reading, *(lambda t, u=unit: parse_quantity(t, u) for unit in FACTORS)):
        try:
            assert isinstance(parse(text), float)
        except BadNumber as error:
            assert str(error)


@LOOSE
@given(st.text(alphabet="ab=[]\"'#.\n{},1", max_size=80))
def test_lines_of_any_text_lie_inside_it(text: str) -> None:
    lines = find_lines(text)
    assert line_of(lines, ("nothing", 3)) == 1
    assert all(1 <= number <= max(len(text.splitlines()), 1) for number in lines.values())


@pytest.mark.parametrize("world", ["iec", "ul"])
def test_a_demo_survives_windows_line_ends_and_a_missing_last_one(world: str) -> None:
    text = small_text(world)
    assert parse_brief(text.replace("\n", "\r\n")) == parse_brief(text) == parse_brief(text.rstrip("\n"))
