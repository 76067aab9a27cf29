"""Owns what the Labels bench asks of the worker: a page of labels as they come out, and what is on it. Must not know the window."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from riktig.drawings.display import Drawing
    from riktig.drawings.labels.fitting import Fitted
    from riktig.plan.making.labels import Sticker
    from riktig.plan.plan import Plan
    from riktig.record.labels import LabelState


@dataclass(frozen=True, slots=True, kw_only=True)
class LabelWish:
    """What is to be shown: the code of a medium ("" for the first), when labels are put on ("" for any), of which stage of wiring markers
    are ("" for any, and other labels too), only what is not printed yet, the page, and what was done to which label.
    """

    medium: str = ""
    when: str = ""
    stage: str = ""
    only_open: bool = False
    page: int = 0
    done: "Mapping[str, LabelState]"


@dataclass(frozen=True, slots=True, kw_only=True)
class MediumLine:
    """A medium with how many labels there are on it, and how many of them are printed as they are now."""

    code: str
    title: str
    count: int
    printed: int


@dataclass(frozen=True, slots=True, kw_only=True)
class ShownLabel:
    """A label on the page that is shown; `on` is the ref of what it is stuck on, `about` that in words; `media` are the codes and titles of
    what labels of its kind may be printed on.
    """

    key: str
    kind: str
    text: str
    on: str
    about: str
    place: str
    when: str
    is_editable: bool
    is_own: bool
    is_printed: bool
    is_stuck: bool
    media: tuple[tuple[str, str], ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class ShownLabels:
    """A page of labels: media with their counts, the drawing of the page, which of how many it is, its labels by key, all labels of this
    choice with their texts, what no medium takes, and of single characters how many pieces of each sign they take.
    """

    media: tuple[MediumLine, ...]
    medium: str
    drawing: "Drawing | None"
    page: int
    pages: int
    labels: Mapping[str, ShownLabel]
    texts: Mapping[str, str]
    refused: tuple[str, ...]
    signs: tuple[tuple[str, int], ...]


def show_labels(plan: "Plan", /, wish: LabelWish) -> ShownLabels:
    """Return a page of the labels of one medium, with what somebody wants of them."""
    from riktig.drawings.labels.fitting import fit_labels
    from riktig.drawings.labels.media_list import count_signs
    from riktig.drawings.labels.pages import by_medium, label_page
    from riktig.plan.making.bundles import bundles_of

    labels = fit_labels(plan)
    done = wish.done
    every = by_medium(labels)
    media = tuple(
        MediumLine(code=m.code, title=m.title, count=len(rows), printed=sum(_is_printed(row, done) for row in rows))
        for m, rows in every.items()
    )
    of_stage = {f"wire:{w.id}" for b in bundles_of(plan) if b.stage.value == wish.stage for w in b.wires}
    chosen = next((m for m in every if m.code == wish.medium), next(iter(every), None))
    rows = [
        label for label in (every[chosen] if chosen is not None else ())
        if (not wish.when or label.sticker.when.value == wish.when)
        and (not wish.stage or label.sticker.on in of_stage)
        and not (wish.only_open and _is_printed(label, done))
    ]  # fmt: skip
    info = plan.job.info
    name = f"{info.number} {info.title}".strip()
    made, pages = (
        label_page(chosen, rows, plan.job.practice.template_paper, name, wish.page) if chosen is not None else (None, 0)
    )
    return ShownLabels(
        media=media, medium=chosen.code if chosen is not None else "", drawing=made.drawing if made is not None else None,
        page=made.page if made is not None else 0, pages=pages,
        labels={one.fitted.sticker.key: _shown(plan, one.fitted, done) for one in (made.placed if made is not None else ())},
        texts={row.sticker.key: row.sticker.text for row in rows}, refused=tuple(label.refused for label in labels if label.refused),
        signs=tuple(sorted(count_signs(rows).items())) if chosen is not None and chosen.signs else (),
    )  # fmt: skip


def labels_on(plan: "Plan", /, code: str) -> "tuple[Fitted, ...]":
    """Return the labels that are printed on a medium, in order."""
    from riktig.drawings.labels.fitting import fit_labels

    return tuple(label for label in fit_labels(plan) if label.medium is not None and label.medium.code == code)


def _about(plan: "Plan", sticker: "Sticker") -> str:
    """Return in words what a label is stuck on, "" of a wire, which is known by where its label goes."""
    sort, _, name = sticker.on.partition(":")
    if sort == "wire":
        return ""
    return name if sort == "cable" else plan.tags.get(sticker.on, sticker.on)


def _is_printed(label: "Fitted", done: "Mapping[str, LabelState]") -> bool:
    state = done.get(label.sticker.key)
    return state is not None and state.printed == label.sticker.text


def _media_of(sticker: "Sticker") -> tuple[tuple[str, str], ...]:
    from riktig.catalogue.media import all_media
    from riktig.drawings.labels.fitting import choose_media

    return tuple((medium.code, medium.title) for medium in choose_media(sticker, all_media()))


def _shown(plan: "Plan", label: "Fitted", done: "Mapping[str, LabelState]") -> ShownLabel:
    from riktig.plan.making.labels import EDITABLE

    sticker = label.sticker
    state = done.get(sticker.key)
    return ShownLabel(
        key=sticker.key, kind=sticker.kind.value, text=sticker.text, on=sticker.on, about=_about(plan, sticker),
        place=sticker.place, when=sticker.when.value, is_editable=sticker.kind in EDITABLE, is_own=sticker.own,
        is_printed=_is_printed(label, done), is_stuck=state is not None and state.stuck == sticker.text, media=_media_of(sticker),
    )  # fmt: skip
