"""A text is fitted to its medium by size, then by breaking, then refused with the mend; nothing is cut off, overlaps or is too small."""

import random
from collections import Counter

import pytest

from effort import examples
from panels import panel_text
from riktig.catalogue.media import LEAST_ENGRAVED_MM, LEAST_LETTER_MM, MediaError, Medium, all_media, parse_media
from riktig.drawings.display import Text
from riktig.drawings.labels.fitting import choose_media, choose_medium, fit_label, fit_labels, fit_text
from riktig.drawings.labels.media_list import media_lines
from riktig.drawings.labels.pages import GAP_MM, label_pages
from riktig.drawings.text_width import text_box, text_width
from riktig.plan.making.labels import LabelKind, Sticker
from riktig.plan.plan import Plan, compute_plan
from riktig.plan.settle import settle
from support import demo_text, plan_of

PLATE = Medium(code="p", title="Plate", form="plate", height=10, width=30, letters=(2, 5))
WORDS = ("stop", "start", "elevator", "running", "M1", "auger of the press", "1.5 mm²", "W12", "and")


@pytest.fixture(scope="module", params=["iec", "ul", *range(examples(20))])
def plan(request: pytest.FixtureRequest) -> Plan:
    return plan_of(demo_text(request.param) if isinstance(request.param, str) else panel_text(request.param))


@pytest.mark.parametrize("seed", range(examples(300)))
def test_what_fits_lies_within_its_medium_and_is_whole_and_what_does_not_has_no_way_to(seed: int) -> None:
    chance = random.Random(seed)
    text = " ".join(chance.choices(WORDS, k=chance.randint(1, 7)))
    medium = chance.choice([m for m in all_media() if not m.signs])
    found = fit_text(text, medium)
    if found is None:
        longest = max(text.replace(" mm²", "\u00a0mm²").split(" "), key=lambda word: text_width(word, 1, is_bold=True))
        words = text_width(text, medium.letters[0], is_bold=True)
        room = (medium.width or medium.most_width) - 1.6
        rows = int((medium.height - 0.8) / (1.55 * medium.letters[0]))
        assert text_width(longest, medium.letters[0], is_bold=True) > room or words > 0.55 * room * max(rows, 1)
        return
    lines, letter, width = found
    assert " ".join(lines).replace("\u00a0", " ") == text
    assert medium.letters[0] <= letter <= medium.letters[1] and width <= (medium.width or medium.most_width)
    assert max(text_width(line, letter, is_bold=True) for line in lines) <= width - 1.6 + 1e-6


def test_a_text_gets_smaller_then_breaks_then_is_refused_with_the_shortest_medium_that_takes_it() -> None:
    assert fit_text("Stop", PLATE) == (("Stop",), 5, 30)
    assert fit_text("Running elevator", PLATE)[0] == ("Running", "elevator")
    long = Sticker(
        key="k",
        kind=LabelKind.LEGEND,
        text="Emergency stop of the elevator, of the belt press and of the pomace auger",
        on="S1",
        place="door",
    )
    media = (PLATE.model_copy(update={"kinds": ("legend",)}), *all_media())
    refused = fit_label(long, media)
    assert refused.medium is None and "does not fit Plate with letters of 2 mm: take" in refused.refused
    assert fit_label(long, media, refused.refused.rpartition("(")[2].rstrip(")")).medium is not None


def test_every_label_of_a_panel_comes_out_or_is_refused_with_a_mend(plan: Plan) -> None:
    for label in fit_labels(plan):
        if label.medium is None:
            assert label.refused
            continue
        least = LEAST_ENGRAVED_MM if label.medium.form == "plate" else LEAST_LETTER_MM
        assert label.letter_mm >= least
        assert label.medium in choose_media(label.sticker, all_media())
        assert "".join(label.lines).replace("\u00a0", "").replace(" ", "") == "".join(label.sticker.text.split())


def test_no_two_labels_overlap_and_no_letter_leaves_its_label(plan: Plan) -> None:
    labels = [label for label in fit_labels(plan) if label.medium is not None]
    pages = label_pages(labels, "a4", "T-1")
    assert Counter(one.fitted.sticker.key for page in pages for one in page.placed) == Counter(
        label.sticker.key for label in labels
    )
    for page in pages:
        boxes = {
            one.fitted.sticker.key: (one.x, one.y, one.x + one.fitted.width_mm, one.y + one.fitted.height_mm)
            for one in page.placed
        }
        rows = sorted(boxes.values())
        for n, (left, low, right, top) in enumerate(rows):
            assert left >= 0 and right <= 210.01 and low > 0 and top < 297
            for other in rows[n + 1 :]:
                apart = other[0] >= right + GAP_MM - 1e-6 or other[1] >= top - 1e-6 or other[3] <= low + 1e-6
                assert apart
        for item in page.drawing.items:
            if isinstance(item, Text) and item.ref in boxes:
                box, (left, low, right, top) = text_box(item), boxes[item.ref]
                assert (
                    left <= box[0] + 0.01 and low <= box[1] + 0.01 and box[2] <= right + 0.01 and box[3] <= top + 0.01
                )


def test_media_of_a_shop_that_cannot_be_are_refused_with_the_medium_and_the_key() -> None:
    head = '[[medium]]\ncode = "x1"\ntitle = "X"\n'
    for row, words in (
        ('form = "roll"\nheight = 9\nwidth = 5\nletters = [2, 3]\n', "x1: form"),
        ('form = "tape"\nheight = 9\nletters = [2, 3]\n', "most_width"),
        ('form = "plate"\nheight = 9\nwidth = 9\nletters = [1.5, 3]\n', "2 mm or more"),
        ('form = "tape"\nheight = 9\nwidth = 9\nletters = [1, 3]\n', "1.5 mm or more"),
    ):
        with pytest.raises(MediaError, match=words):
            parse_media(head + row, "media.toml")


def test_markers_of_single_characters_come_out_sign_by_sign_and_are_bought_so(plan: Plan) -> None:
    chosen = compute_plan(settle(choose_medium(plan.job, LabelKind.WIRE, "clip-3")))
    fitted = [label for label in fit_labels(chosen) if label.sticker.kind is LabelKind.WIRE]
    clipped = [label for label in fitted if label.medium is not None and label.medium.form == "characters"]
    assert clipped, "thin wires get them, thick ones keep what goes round them"
    for label in clipped:
        assert label.medium is not None and label.lines == (label.sticker.text,)
        assert label.width_mm == pytest.approx(len(label.sticker.text) * label.medium.step)
        assert label.medium.goes_round(label.sticker.size_mm)
    pieces = {line.code: line.quantity for line in media_lines(clipped)}
    assert sum(pieces.values()) == sum(len(label.sticker.text) for label in clipped)
    drawn = Counter(
        item.text
        for page in label_pages(clipped, "a4", "T")
        for item in page.drawing.items
        if isinstance(item, Text) and item.ref
    )
    assert sum(drawn.values()) == sum(pieces.values()) and all(len(sign) == 1 for sign in drawn)


def test_a_sign_that_no_piece_has_is_refused_by_name() -> None:
    sticker = Sticker(key="wire:x:a", kind=LabelKind.WIRE, text="Å1", on="wire:x", place="", size_mm=2.5)
    refused = fit_label(sticker, all_media(), "clip-3")
    assert refused.medium is None and "no 'Å' among Clip-on" in refused.refused and "take Sleeve" in refused.refused
