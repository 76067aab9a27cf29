"""Owns what screens show of a Job first, and what they show at once when something was moved by hand. Must not know a screen."""

from collections.abc import Generator
from dataclasses import dataclass
from functools import cached_property
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from riktig.checks.watched import Watch
    from riktig.drawings.display import Drawing
    from riktig.job.model import Job
    from riktig.plan.place.layout import PlateLayout
    from riktig.plan.plan import Plan


@dataclass(frozen=True)
class Bundle:
    """What screens show of a Job first: the Plan and the single-line diagram. Plate and door are drawn where they are first asked for:
    that takes less time than to send them.
    """

    plan: "Plan"
    single_line: "Drawing"

    @cached_property
    def plate(self) -> "Drawing":
        """The plate in its enclosure."""
        from riktig.drawings.plate import draw_plate

        return draw_plate(self.plan)

    @cached_property
    def open_panel(self) -> "Drawing":
        """The plate and the open door, as one stands before them."""
        from riktig.drawings.open_panel import draw_open_panel

        return draw_open_panel(self.plan)

    @cached_property
    def door(self) -> "Drawing":
        """The door with centre lines."""
        from riktig.drawings.door import draw_door

        return draw_door(self.plan)


def make_bundle(job: "Job", watch: "Watch | None" = None) -> Bundle:
    """Return what is shown first of a settled Job; with a watch only what changed is drawn again."""
    from riktig.plan.plan import compute_plan

    return bundle_of(compute_plan(job), watch)


def bundle_of(plan: "Plan", watch: "Watch | None" = None) -> Bundle:
    """Return what is shown first of a Plan; with a watch only what changed is drawn again."""
    from riktig.drawings.single_line import draw_single_line

    single_line = draw_single_line(plan) if watch is None else watch.ask(draw_single_line, plan)
    return Bundle(plan, single_line)


def moving_bundle(bundle: Bundle, layout: "PlateLayout") -> Generator[None, None, Bundle]:
    """Make, in steps, what is shown at once when things on the plate have moved, before that is settled and judged."""
    from riktig.plan.answers.moved import moving

    plan = yield from moving(bundle.plan, layout)
    yield
    moved = Bundle(plan, bundle.single_line)
    _ = moved.plate  # drawn already when it is shown
    return moved
