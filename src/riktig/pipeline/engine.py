"""Owns running a table of stages. A stage runs only where an input is another object than before; a result equal to the old one is
replaced by the old one, so that what hangs on it stops; of another result the rows that are as they were are kept. Must not know what
any stage computes.
"""

import time
from collections.abc import Callable, Mapping, Sequence
from contextlib import nullcontext
from dataclasses import dataclass
from typing import Any

from riktig.job.model import Job
from riktig.pipeline.facets import LEDGER, is_facet, job_part, read_facet
from riktig.pipeline.rows import is_same, keep_rows
from riktig.standards.shelf import shut_shelf

SHOP = "shop"
"""The input that stands for the shop's parts and tables: no argument, but without it the shelf is shut."""
_KEPT_RUNS = 2
"""So many results of each stage are remembered: a look ahead and the way back from it cost nothing twice."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Stage:
    """One step from a Job to what follows.

    `make` is a pure function: first comes the Job with just the declared fields and ledger sorts, if any are declared, then the
    products of the other inputs in their order; the shop is read from its shelf. `allocates` is the sort of the ledger that its product
    is, "" for none. Where a Job is only read and nothing allocated, such a product is the sort as the ledger has it; a stage on the way
    to one may say by `kept` which sort stands for its product then.
    """

    name: str
    make: Callable[..., Any]
    inputs: tuple[str, ...]
    allocates: str = ""
    kept: str = ""

    @property
    def facets(self) -> tuple[str, ...]:
        """The parts of the Job that it reads."""
        return tuple(name for name in self.inputs if is_facet(name))

    @property
    def needs(self) -> tuple[str, ...]:
        """The stages whose products it reads, in the order of its arguments; the shop is no argument."""
        return tuple(name for name in self.inputs if not is_facet(name) and name != SHOP)

    def call(self, values: Mapping[str, Any]) -> Any:
        """Return its product from the values of its inputs by name.

        Raises:
            UndeclaredInput, ShutShelf: it reads of the Job or the shop what it does not declare.
        """
        facets = {name: values[name] for name in self.facets}
        job = (job_part(facets),) if facets else ()
        with nullcontext() if SHOP in self.inputs else shut_shelf():
            return self.make(*job, *(values[name] for name in self.needs))


def check_table(stages: Sequence[Stage]) -> None:
    """Return if every stage reads what stands above it in the table, once, and has a name of its own.

    Raises:
        ValueError: it does not.
    """
    known: set[str] = set()
    for stage in stages:
        if stage.name in known:
            raise ValueError(f"two stages are called {stage.name}")
        missing = [name for name in stage.needs if name not in known]
        if missing or len(set(stage.inputs)) < len(stage.inputs):
            raise ValueError(f"{stage.name} reads {missing or 'an input twice'}")
        known.add(stage.name)


@dataclass(slots=True)
class _Result:
    """What a stage made of which inputs."""

    inputs: tuple[Any, ...]
    product: Any


class Memory:
    """What stages made of their last inputs, and how long each took in seconds; shared by runs that follow each other."""

    def __init__(self, stages: Sequence[Stage]) -> None:
        check_table(stages)
        self.stages = {stage.name: stage for stage in stages}
        self.ran: list[str] = []
        self.seconds: dict[str, float] = {}
        self._results: dict[str, list[_Result]] = {}
        self._facets: dict[str, Any] = {}

    def same(self, name: str, value: Any) -> Any:
        """Return the facet as it is remembered where it is equal, so that identity tells of change."""
        old = self._facets.get(name)
        if old is not None and is_same(value, old):
            return old
        self._facets[name] = value
        return value

    def recall(self, stage: Stage, inputs: tuple[Any, ...]) -> _Result | None:
        """Return what the stage made of the very same inputs before, None if it is not remembered."""
        for result in self._results.get(stage.name, ()):
            if all(a is b for a, b in zip(result.inputs, inputs, strict=True)):
                return result
        return None

    def make(self, stage: Stage, inputs: tuple[Any, ...]) -> Any:
        """Return the product of a stage, made now if it is not remembered."""
        known = self.recall(stage, inputs)
        if known is not None:
            return known.product
        began = time.perf_counter()
        product = stage.call(dict(zip(stage.inputs, inputs, strict=True)))
        self.seconds[stage.name] = time.perf_counter() - began
        self.ran.append(stage.name)
        before = self._results.get(stage.name, ())
        same = next((old.product for old in before if is_same(product, old.product)), None)
        if same is not None:
            product = same
        elif before:
            product = keep_rows(product, before[0].product)
        self.remember(stage, inputs, product)
        return product

    def remember(self, stage: Stage, inputs: tuple[Any, ...], product: Any) -> None:
        """Keep what a stage made."""
        kept = self._results.setdefault(stage.name, [])
        kept.insert(0, _Result(inputs, product))
        del kept[_KEPT_RUNS:]


class Run:
    """The products of one Job; each is made when it is first asked for."""

    def __init__(
        self, memory: Memory, job: Job, shop: Any, *, allocates: bool, pins: Mapping[str, Any] | None = None
    ) -> None:
        self._memory, self._job, self._shop, self._allocates = memory, job, shop, allocates
        self._products: dict[str, Any] = dict(pins or {})

    def __getitem__(self, name: str) -> Any:
        if name not in self._products:
            self._products[name] = self._make(name)
        return self._products[name]

    def _make(self, name: str) -> Any:
        if name == SHOP:
            return self._memory.same(name, self._shop)
        if is_facet(name):
            return self._memory.same(name, read_facet(self._job, name))
        stage = self._memory.stages[name]
        kept = stage.kept or stage.allocates
        if kept and not self._allocates:
            return self[f"kept.{kept}"]
        return self._memory.make(stage, self._inputs(stage))

    def _inputs(self, stage: Stage) -> tuple[Any, ...]:
        return tuple(self[name] for name in stage.inputs)

    def allocated(self) -> dict[str, Any]:
        """Return the sorts of the ledger as the stages allocate them."""
        return {stage.allocates: self[stage.name] for stage in self._memory.stages.values() if stage.allocates}

    def settle_on(self, job: Job) -> "Run":
        """Return the run of the Job whose ledger is what this run allocated: its products are the same, for settling again changes
        nothing.
        """
        settled = Run(self._memory, job, self._shop, allocates=False)
        fresh = {name: settled[name] for name in self._products if name.startswith(LEDGER)}
        for name, product in self._products.items():
            stage = self._memory.stages.get(name)
            if stage is not None and any(fresh.get(i) is not self._products.get(i) for i in stage.inputs if i in fresh):
                inputs = tuple(fresh[i] if i in fresh else self[i] for i in stage.inputs)
                self._memory.remember(stage, inputs, product)
        settled._products = {**self._products, **settled._products}
        return settled
