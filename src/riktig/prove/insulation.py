"""Owns the insulation tests: which circuits the tester sees as one, at how many volts each is tested, what is taken off before. Must not
know meters.
"""

from collections.abc import Collection, Iterable, Iterator, Sequence

from riktig.catalogue.model import CHANGEOVERS, ElementKind
from riktig.job.roles import excepted_volts
from riktig.plan.basis.union import UnionFind
from riktig.plan.circuit.incoming import MAIN_SWITCH
from riktig.plan.circuit.model import CircuitDevice
from riktig.plan.plan import Plan
from riktig.plan.sizes.coils import control_volts
from riktig.prove.points import best_point, number_of, point_of
from riktig.prove.steps import Phase, Step, Unit
from riktig.standards.colours import ConductorFunction

ELECTRONIC = frozenset({
    "plc", "hmi", "network", "drive", "soft-starter", "psu", "phase-relay", "thermistor-relay", "safety-relay", "meter", "surge", "timer",
})  # fmt: skip
"""Kinds that an insulation test may harm."""
_ELECTRONIC_INSIDE = frozenset({
    ElementKind.INPUT, ElementKind.ENABLE, ElementKind.OUTPUT, ElementKind.ANALOG_IN, ElementKind.ANALOG_OUT, ElementKind.SENSOR,
})  # fmt: skip
_NEVER_JOINED = _ELECTRONIC_INSIDE | {ElementKind.EARTH, ElementKind.SOURCE}
_OPEN_AT_REST = frozenset({ElementKind.NO, ElementKind.TIMED_NO, ElementKind.AUX_NO, ElementKind.ALARM_NO})
_CUTS = frozenset({"breaker", "fuse", "rcd", "motor-breaker", "disconnect"})
_EXTRA_LOW_V = 60.0
_MEGOHM, _TEST_V = 1.0, 500
_MEGOHM_LOW, _TEST_LOW_V = 0.5, 250
_SOURCE = "IEC 60204-1 18.3, NFPA 79 18.3, from memory"
_SOURCE_LOW = "IEC 60364-6 table 6.1; IEC 60204-1 18.3 and NFPA 79 18.3 ask it of power circuits alone; from memory"


def list_insulation(plan: Plan) -> tuple[Step, ...]:
    """Return the insulation tests to earth: what lies ahead of each main switch, the power circuits behind it, then every circuit behind a
    transformer or DC supply. All that is not earth, nor leads to electronics alone, is in one of them.

    Source:
        500 V DC between the conductors of the power circuits and the protective conductor, 1 megohm at least: IEC 60204-1:2016 18.3 and
        NFPA 79 18.3; 250 V and 0.5 megohm for extra-low voltage: IEC 60364-6 table 6.1; from memory.
    """
    earth = point_of(plan, "PE")
    return () if earth is None else tuple(_Tests(plan, earth).steps())


def inner_ways(plan: Plan) -> Iterator[tuple[str, str, bool]]:
    """Yield two terminals each between which the tester goes through a device, and whether it does so with nothing operated.

    Main switches are open, all other breakers closed, earth links out; what is electronic inside leads nowhere.
    """
    parted = {MAIN_SWITCH, *(f"{extra.name}.Q" for extra in plan.job.extra_supplies)}
    for device in plan.circuit.devices:
        if device.kind == "link" or device.id in parted:
            continue
        for element in plan.parts[device.id].elements:
            if element.kind in _NEVER_JOINED:
                continue
            first, *others = (f"{device.id}:{mark}" for mark in element.marks)
            for n, other in enumerate(others):
                is_open = element.kind in _OPEN_AT_REST or (element.kind in CHANGEOVERS and n > 0)
                yield first, other, not is_open


class _Tests:
    """The circuits of a panel as a tester finds them: main switches open, all other breakers closed, earth links out, electronics off."""

    def __init__(self, plan: Plan, earth: str) -> None:
        self._plan, self._earth = plan, earth
        self._earths = {p.number for p in plan.potentials if p.net.function is ConductorFunction.EARTH}
        self._joined, self._at_rest = UnionFind[str](), UnionFind[str]()
        self._devices: dict[str, dict[str, CircuitDevice]] = {}
        for a, b, is_at_rest in inner_ways(plan):
            one, other = plan.number_at(a), plan.number_at(b)
            if one and other and self._earths.isdisjoint((one, other)):
                self._joined.join(one, other)
                if is_at_rest:
                    self._at_rest.join(one, other)
        for device in plan.circuit.devices:
            for number in self._numbers(device):
                self._devices.setdefault(self._joined.find(number), {})[device.id] = device
        self._told: set[str] = set()

    def _numbers(self, device: CircuitDevice) -> Iterator[str]:
        """Yield the potentials at the terminals of a device, earth left out."""
        for spec in self._plan.parts[device.id].terminals:
            number = self._plan.number_at(f"{device.id}:{spec.mark}")
            if number and number not in self._earths:
                yield number

    def steps(self) -> Iterator[Step]:
        """Yield the tests in the order of the supplies; what was told with one is not told again."""
        plan = self._plan
        for name, way in {"": plan.job.supply, **{extra.name: extra for extra in plan.job.extra_supplies}}.items():
            yield from self._way(name, way.conductors)
        for device in plan.circuit.devices:
            kinds = (
                {ElementKind.SECONDARY} if device.kind in ELECTRONIC else {ElementKind.SECONDARY, ElementKind.SOURCE}
            )
            marks = [mark for e in plan.parts[device.id].elements if e.kind in kinds for mark in e.marks]
            ends = [end for mark in marks if plan.number_at(end := f"{device.id}:{mark}")]
            if ends:
                yield from self._secondary(device, ends)

    def _way(self, name: str, conductors: Sequence[str]) -> Iterator[Step]:
        """Yield the tests of what comes in and of the power circuits behind its switch; one where loads or no switch join them."""
        dot, of, key = (f"{name}.", f" of way in {name}", f":{name}") if name else ("", "", "")
        behind = self._points(f"{dot}{one}" for one in conductors)
        ahead = self._points(f"in.{dot}{one}" for one in conductors) or behind
        parted = {self._root(end) for end in behind if end not in ahead}
        straight = [end for end in ahead if self._root(end) in parted]
        is_one = not parted or any(end not in behind for end in straight)
        apart = [end for end in ahead if end not in straight]
        if not is_one:
            cuts = self._cuts(apart)
            closed = f"; {', '.join(cuts)} closed" if cuts else ""
            yield from self._test(
                f"ahead{key}", apart, f"Ahead of the main switch{of}", f"main switch off{closed}", self._taken_off(apart),
                "nothing that stays live with the main switch off leaks to earth",
            )  # fmt: skip
        switched = f"main switch {'on' if is_one else 'off'}, " if ahead != behind else ""
        yield from self._test(
            f"power{key}", [*(ahead if is_one else straight), *behind], f"Power circuits{of}",
            f"{switched}all breakers closed; contactors pressed in by hand or bridged",
            self._taken_off(ahead if is_one else straight), "nothing that carries power leaks to earth",
        )  # fmt: skip

    def _taken_off(self, ends: Sequence[str]) -> str:
        return f"supply isolated where it comes from, and taken off at {self._labels(ends)}" if ends else ""

    def _secondary(self, device: CircuitDevice, ends: list[str]) -> Iterator[Step]:
        plan, owner = self._plan, device.owner or ""
        control = plan.job.control(owner)
        circuit = next((one for one in plan.job.excepted if one.name == owner), None)
        if control is not None:
            volts, what = control_volts(control, plan.job), f"Control supply {owner}"
        elif circuit is not None:
            volts, what = excepted_volts(circuit, plan.job), f"{owner}, {circuit.title or circuit.load}"
        else:
            volts, what = (_EXTRA_LOW_V if device.kind == "psu" else _TEST_V), f"Behind {plan.tags[device.id]}"
        link = f"{owner}.B"
        prepare = f"link {plan.tags[link]} out" if link in plan.parts else ""
        yield from self._test(
            owner or device.id, ends, what, "all sides of it together, its breakers closed", prepare,
            "the circuit has no second earth", is_low=volts <= _EXTRA_LOW_V,
        )  # fmt: skip

    def _test(
        self, key: str, ends: list[str], what: str, do: str, prepare: str, proves: str, *, is_low: bool = False
    ) -> Iterator[Step]:
        """Yield the test of a circuit that was not told yet, with what no contact at rest joins to its ends clipped to them."""
        ends = [end for end in ends if self._root(end) not in self._told]
        roots = {self._root(end) for end in ends}
        if not roots:
            return
        self._told |= roots
        reached = {self._at_rest.find(number_of(self._plan, end)) for end in ends}
        apart = list(self._apart(roots, reached))
        volts, least = (_TEST_LOW_V, _MEGOHM_LOW) if is_low else (_TEST_V, _MEGOHM)
        devices = [device for root in sorted(roots) for device in self._devices.get(root, {}).values()]
        tags = [self._plan.tags[device.id] for device in devices if device.kind in ELECTRONIC]
        off = f"disconnected, or all its terminals bridged: {', '.join(dict.fromkeys(tags))}" if tags else ""
        points = tuple(dict.fromkeys((*ends, *apart)))
        yield Step(
            key=f"insulation:{key}", phase=Phase.INSULATION, unit=Unit.MEGOHM, a=points, b=(self._earth,), low=least,
            title=f"{what} to earth, {volts} V DC", prepare="; ".join(filter(None, (prepare, off))),
            do=f"{do}; clip together {self._labels(points)}", as_planned=" ".join(points), proves=proves,
            source=_SOURCE_LOW if is_low else _SOURCE,
        )  # fmt: skip

    def _apart(self, roots: Collection[str], reached: set[str]) -> Iterator[str]:
        """Yield a terminal of each potential of circuits that no contact at rest joins to what is reached already."""
        for potential in self._plan.potentials:
            number = potential.number
            if (
                number in self._earths
                or self._joined.find(number) not in roots
                or self._at_rest.find(number) in reached
            ):
                continue
            reached.add(self._at_rest.find(number))
            yield best_point(self._plan, potential)

    def _points(self, names: Iterable[str]) -> list[str]:
        found = [point_of(self._plan, name) for name in names]
        return [point for point in found if point is not None]

    def _root(self, end: str) -> str:
        return self._joined.find(number_of(self._plan, end))

    def _cuts(self, points: Iterable[str]) -> list[str]:
        """Return the tags of what protects circuits that hang on points."""
        roots = {self._root(point) for point in points}
        found = {d.id: d for root in sorted(roots) for d in self._devices.get(root, {}).values()}
        return [self._plan.tags[d.id] for d in found.values() if d.kind in _CUTS and d.id != MAIN_SWITCH]

    def _labels(self, ends: Iterable[str]) -> str:
        return ", ".join(self._plan.terminal_label(end) for end in ends)
