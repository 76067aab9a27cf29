"""Values that explain themselves and may be set by hand, the charts, and the what-if page, by real clicks and keys."""

from collections.abc import Callable
from functools import partial

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QLabel, QPushButton, QWidget
from pytestqt.qtbot import QtBot

from riktig.app.benches.brief.bench import MODULES, MOTORS, WHAT_IF, BriefBench
from riktig.app.benches.brief.what_if_page import WhatIfPage
from riktig.app.shell import Shell
from riktig.app.value_card import ValueCard
from riktig.job.edits import change_part

Settled = Callable[[], None]
LEFT = Qt.MouseButton.LeftButton


@pytest.fixture
def bench(shell: Shell) -> BriefBench:
    found = shell.bench("brief")
    assert isinstance(found, BriefBench)
    return found


def card_of(shell: Shell, quantity: str, qtbot: QtBot) -> ValueCard:
    """Return the explained card of a quantity in the margin, opened."""
    found: list[ValueCard] = []

    def is_explained() -> None:
        found[:] = [c for c in shell.margin.findChildren(ValueCard) if c.value.quantity == quantity and c.isVisible()]
        assert found and found[0].explained is not None

    qtbot.waitUntil(is_explained, timeout=20_000)
    card = found[0]
    if "Less" not in card.why.text():
        qtbot.mouseClick(card.why, LEFT)
    return card


def order_of_cards(shell: Shell) -> list[str]:
    """Return the quantities of the cards from top to bottom."""
    cards = (card for card in shell.margin.findChildren(ValueCard) if card.isVisible())
    return [card.value.quantity for card in sorted(cards, key=lambda card: card.y())]


def words_of(widget: QWidget) -> str:
    return "\n".join(w.text() for w in widget.findChildren(QLabel) if w.isVisible())


def await_words(widget: QWidget, *words: str, qtbot: QtBot) -> None:
    """Wait until the widget says all of it: what was just laid out shows with the next turn of the event loop."""
    qtbot.waitUntil(lambda: all(word in words_of(widget) for word in words), timeout=20_000)


def press(widget: QWidget, name: str, qtbot: QtBot) -> None:
    qtbot.mouseClick(
        next(b for b in widget.findChildren(QPushButton) if b.accessibleName() == name or b.text() == name), LEFT
    )


def test_a_value_tells_inputs_source_margin_and_what_its_neighbours_would_do(shell: Shell, qtbot: QtBot) -> None:
    shell.hub.select("M1")
    card = card_of(shell, "conductor_section", qtbot)
    await_words(card, "to spare", "IEC 60204-1", "Larger: 2.5 mm² carries", "circuits together", qtbot=qtbot)


def test_an_input_leads_to_the_field_where_it_is_decided(shell: Shell, bench: BriefBench, qtbot: QtBot) -> None:
    shell.hub.select("M1")
    press(card_of(shell, "motor_current", qtbot), "motor current: motor power", qtbot)
    assert bench.pages.currentIndex() == MOTORS
    assert shell.focusWidget() is bench.motor_card("M1").power
    press(card_of(shell, "conductor_section", qtbot), "conductor section: circuits together", qtbot)
    assert bench.pages.currentIndex() == MODULES and bench.tables is not None and bench.tables.form is not None
    grouped = bench.tables.form.editors["grouped"]
    assert grouped.isAncestorOf(shell.focusWidget())
    qtbot.wait(50)
    assert grouped.visibleRegion().boundingRect() == grouped.rect(), "scrolled to"


def test_an_input_leads_back_from_another_bench(shell: Shell, bench: BriefBench, qtbot: QtBot) -> None:
    shell.show_stage("circuit")
    shell.hub.select("M1")
    press(card_of(shell, "voltage_drop", qtbot), "voltage drop: length", qtbot)
    assert shell.stack.currentWidget() is bench and bench.tables is not None and bench.tables.form is not None
    assert bench.tables.form.editors["distance"].isAncestorOf(shell.focusWidget())
    shell.hub.place_requested.emit("pass_through.section_mm2")
    assert "There is no pass_through of its own yet: add it" in shell.message.text()


def card_with_4_mm2_typed(shell: Shell, qtbot: QtBot) -> ValueCard:
    """Return the card of a section of M1 into which another one is typed and not kept yet."""
    shell.hub.select("M1")
    card = card_of(shell, "conductor_section", qtbot)
    press(card, "Set by hand: conductor section", qtbot)
    qtbot.keyClicks(card.number, "4 mm2")
    return card


def test_a_person_sets_a_size_with_a_reason_and_has_it_computed_again(
    shell: Shell, qtbot: QtBot, settled: Settled
) -> None:
    card = card_with_4_mm2_typed(shell, qtbot)
    qtbot.keyClicks(card.reason, "spare reel of 4")
    qtbot.mouseClick(card.keep, LEFT)
    settled()
    job, plan = shell.session.job, shell.session.bundle.plan  # type: ignore[union-attr]
    assert job is not None and str(job.ledger.values["M1|conductor_section"].value) == "4 | spare reel of 4"
    assert {c.size.mm2 for c in plan.conductors if c.number == "1L1" and c.kind == "wire"} == {4.0}
    card = card_of(shell, "conductor_section", qtbot)
    await_words(card, "set by hand: spare reel of 4", qtbot=qtbot)
    assert card.objectName() == "caution"
    press(card, "Compute it again", qtbot)
    settled()
    assert shell.session.job is not None and not shell.session.job.ledger.values
    assert card_of(shell, "conductor_section", qtbot).value.value == 1.5


def test_what_is_half_typed_at_a_value_stays_when_something_else_is_edited(
    shell: Shell, qtbot: QtBot, settled: Settled
) -> None:
    card = card_with_4_mm2_typed(shell, qtbot)
    shell.session.apply(partial(change_part, field="info", customer="Cedar Fork"), "customer")
    settled()
    assert shell.session.job is not None and shell.session.job.info.customer == "Cedar Fork"
    assert card_of(shell, "conductor_section", qtbot) is card and card.number.text() == "4 mm2"
    assert words_of(card).count("Larger:") == 1


def test_where_a_value_changes_its_card_alone_is_made_anew_in_its_place(
    shell: Shell, qtbot: QtBot, settled: Settled
) -> None:
    card = card_with_4_mm2_typed(shell, qtbot)
    old = card_of(shell, "greatest_length", qtbot)
    before = order_of_cards(shell)
    shell.session.apply(partial(change_part, field="supply", fault_ka=20), "fault current")
    settled()
    qtbot.waitUntil(lambda: card_of(shell, "greatest_length", qtbot) is not old, timeout=20_000)
    new = card_of(shell, "greatest_length", qtbot)
    await_words(new, "0.0231 Ω", qtbot=qtbot)  # 2 · 231 V / 20 kA
    assert card_of(shell, "conductor_section", qtbot) is card and card.number.text() == "4 mm2"
    qtbot.waitUntil(lambda: order_of_cards(shell) == before, timeout=30_000)


@pytest.mark.parametrize(
    ("number", "reason", "said"),
    [
        ("much", "I like it", "'much' is not a number"),
        ("4", "", "Write why"),
        ("7 AWG", "reel", "is no gauge used in panels"),
    ],
)
def test_a_size_that_does_not_fit_is_said_on_its_card(
    shell: Shell, qtbot: QtBot, number: str, reason: str, said: str
) -> None:
    shell.hub.select("M1")
    card = card_of(shell, "conductor_section", qtbot)
    press(card, "Set by hand: conductor section", qtbot)
    qtbot.keyClicks(card.number, number)
    qtbot.keyClicks(card.reason, reason)
    qtbot.keyClick(card.reason, Qt.Key.Key_Return)
    assert said in card.said.text() and not shell.session.is_stale


def test_the_panel_as_a_whole_has_its_values_too(shell: Shell, qtbot: QtBot) -> None:
    press(shell.margin, "The panel as a whole", qtbot)
    card = card_of(shell, "short_circuit_rating", qtbot)
    press(card, "short circuit rating: weakest part", qtbot)
    assert shell.hub.selection in shell.session.bundle.plan.panel.sccr_limited_by  # type: ignore[union-attr]


def test_each_chart_is_a_click_away(shell: Shell, bench: BriefBench, qtbot: QtBot) -> None:
    side = bench.side
    for tab, ref in ((1, "M1.Q"), (2, "M1.Q"), (3, None), (0, "M1.Q")):
        qtbot.mouseClick(side.tabs, LEFT, pos=side.tabs.tabRect(tab).center())
        wanted = ("single-line", "short-circuit", "heat", "feeder")[tab]
        qtbot.waitUntil(
            lambda name=wanted: side.view.drawing is not None and side.view.drawing.name == name, timeout=20_000
        )
        assert ref is None or side.view.has(ref)


# -- what if


@pytest.fixture
def page(shell: Shell, bench: BriefBench, qtbot: QtBot) -> WhatIfPage:
    qtbot.mouseClick(bench.pages, LEFT, pos=bench.pages.tabRect(WHAT_IF).center())
    assert bench.what_if is not None
    return bench.what_if


def test_sliders_show_what_would_follow_and_keep_nothing(
    shell: Shell, bench: BriefBench, page: WhatIfPage, qtbot: QtBot
) -> None:
    shown: list[object] = []
    page.outlook_changed.connect(shown.append)
    for _ in range(15):
        qtbot.keyClick(page.power.slider, Qt.Key.Key_Right)
    qtbot.waitUntil(lambda: bool(shown) and getattr(shown[-1], "wish", None) == page.wish, timeout=20_000)
    await_words(page, "motor current", "→", "Panel stands", qtbot=qtbot)
    assert bench.side.view.drawing is not None and bench.side.view.drawing.name == "feeder"
    assert bench.side.note.isVisible()
    assert shell.session.job is not None and shell.session.job.starters[0].kw == 1.5
    qtbot.mouseClick(page.back, LEFT)
    assert page.wish.is_empty and not bench.side.note.isVisible() and "→" not in words_of(page)


def test_what_was_asked_last_is_what_is_shown_and_taken_over(
    shell: Shell, page: WhatIfPage, qtbot: QtBot, settled: Settled
) -> None:
    for _ in range(10):
        qtbot.keyClick(page.air.slider, Qt.Key.Key_Right)
    qtbot.keyClick(page.fault.slider, Qt.Key.Key_Right)
    wish = page.wish
    assert wish.ambient == 45.0 and wish.fault_ka is not None
    qtbot.mouseClick(page.keep, LEFT)
    settled()
    job = shell.session.job
    assert job is not None and (job.enclosure.ambient, job.supply.available_ka) == (45.0, wish.fault_ka)
    assert page.wish.is_empty and not page.keep.isEnabled()
    assert shell.session.file is not None and "45 °C" in (shell.session.file.gestures()[0] or "")
