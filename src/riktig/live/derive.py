"""Owns deriving the function test of a panel: what is done step by step and what must be seen, until every contact has moved and every
conductor has carried current as far as hands and field can bring it about. Must not know faults of wiring.
"""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from enum import Enum, auto
from math import inf

from riktig.job.scripts import Script, Step
from riktig.live.actions import MOST_LATER, perform, wait_for
from riktig.live.coils import Relay
from riktig.live.coverage import Coverage, Item, Reach
from riktig.live.derived import Derived
from riktig.live.motors import Motor
from riktig.live.moves import Move, Sort, moves_of
from riktig.live.names import Names
from riktig.live.nearby import way_to_left
from riktig.live.operators import Selector
from riktig.live.protection import Breaker, Overload
from riktig.live.seen import look_at, tell_changes
from riktig.live.shortening import Passage, shorten
from riktig.live.simulation import Simulation
from riktig.plan.plan import Plan

MOST_ROUNDS = 4
"""So often everything is tried again: what one has reached may let another do something."""
_WARM, _COOL = 0.5, 0.2
"""Of the heat that the rated current keeps: from the first on a motor is not started again before it has cooled to the second."""


def derive_tests(plan: Plan, on_share: Callable[[float], None] = lambda share: None) -> Derived:
    """Return the function test of a panel that has just been switched on; `on_share` is told which share is done, and may raise to end it.

    Each step is kept only if it reaches something that no step before it has: a contact seen closed or open, a conductor that carries
    current, what a stop stops, or a start that something holds back; what the others reach as well is left out again.

    Source:
        Each operator action and each field signal is mimicked and each response compared with the design, also what must not happen:
        common practice, no source; IEC 60204-1:2016 18.6, from memory.
    """
    made = _Deriving(plan)
    made.run(lambda share: on_share(0.6 * share))
    kept = shorten(plan, made.steps, made.passages, lambda share: on_share(0.6 + 0.4 * share))
    why = tuple(words for _, words in kept)
    script = Script(name="functions", title="Function test, derived", steps=tuple(step for step, _ in kept))
    return Derived(script=script, why=why, coverage=made.coverage)


class Way(Enum):
    """How things stand when a move is made: as they do, with all else running and what belongs to it stopped, with all running, and so
    with selectors in other positions.
    """

    PLAIN = auto()
    STOPPED = auto()
    OTHERS = auto()
    TURNED = auto()


_WAYS = {
    Sort.START: (Way.PLAIN, Way.STOPPED, Way.OTHERS), Sort.STOP: (Way.OTHERS, Way.PLAIN, Way.TURNED), Sort.SUPPLY: (Way.PLAIN, Way.OTHERS),
}  # fmt: skip
"""How things stand when a move of a sort is tried, one after the other until it reaches something."""


@dataclass(frozen=True, slots=True)
class _Start:
    """What is done to start something, and how the hand that must hold it meanwhile is taken away again; what the field does stays."""

    device: str
    do: tuple[str, ...]
    back: tuple[str, ...] = ()


class _Deriving:
    """A test under way: the panel as it stands, what is reached, and by which actions each thing has come on."""

    def __init__(self, plan: Plan) -> None:
        self.panel = Simulation(plan)
        self.names = Names(self.panel)
        self.coverage = Coverage(plan, self.panel)
        self.steps: list[tuple[Step, str]] = []
        self.starts: dict[str, list[_Start]] = {}
        """Of what can run: by which device it comes on, and how."""
        self.stops: dict[str, tuple[str, ...]] = {}
        self._stay: set[str] = set()
        """What stays on when the hand that started it is taken away."""
        self._moves: tuple[Move, ...] = ()
        self._tried: set[Move] = set()
        self._stopping: set[str] = set()
        """What has stopped something."""
        self._is_last = False
        self.passages: list[Passage] = []
        self._reached: set[Item] = set()
        """What the passage under way reaches, new or not."""
        self._known: dict[int, frozenset[Item]] = {}

    def run(self, on_share: Callable[[float], None]) -> None:
        """Try every move until none reaches anything more."""
        idle = [f"set {name} 0" for name, gear in self.panel.gears.items() if isinstance(gear, Motor)]
        for action in idle:
            perform(self.panel, self.names, action)
        self.coverage.seen |= self.coverage.now(self.panel)
        first = tuple(self._at_rest())
        self.steps.append(
            (
                Step(do=tuple(idle), expect=first),
                "switched on, nothing on the shafts: what is on by itself, and nothing else",
            )
        )
        self._moves = moves = moves_of(self.panel, self.names)
        starting = [move for move in moves if move.sort is Sort.START]
        for number in range(MOST_ROUNDS):  # what can run is known before stops are tried on it
            is_more = False
            for move in starting:
                on_share(0.05 * number)
                is_more |= self._try(move)
            if not is_more:
                break
        for number in range(MOST_ROUNDS):
            self._is_last = number == MOST_ROUNDS - 1
            for done, move in enumerate(moves):
                on_share(0.2 + 0.7 * (number + done / len(moves)) / MOST_ROUNDS)
                self._try(move)
        while path := way_to_left(self.panel, self.coverage, moves, self._items, lambda: on_share(0.9)):
            self._go(path)
            for move in moves:
                if move.sort is Sort.STOP and move.device not in self._stopping:
                    self._try_in(move, Way.PLAIN)

    def _go(self, path: Sequence[Move]) -> None:
        """Make moves one after the other as a passage, and take back what holds something up."""
        first, self._reached = len(self.steps), set()
        for move in path:
            self._do(move.do, f"{self._reason(move)}: on the way to what was not reached")
            if move.back and move.is_by_hand:
                self._do(move.back, f"back: {self._reason(move)}")
        for move in reversed(path):
            if move.back and move.sort is not Sort.START and not move.is_by_hand:
                self._do(move.back, f"back: {self._reason(move)}")
        self.passages.append(Passage(first=first, last=len(self.steps), reached=frozenset(self._reached)))

    def _try(self, move: Move) -> bool:
        """Make a move as things stand, else with what belongs to it stopped, else with all else running; return whether it reaches anything
        new. What has been tried is tried again only while something of its own is left.
        """
        if move in self._tried and not self._is_left(move):
            return False
        self._tried.add(move)
        return any(self._try_in(move, way) for way in _WAYS[move.sort])

    def _is_left(self, move: Move) -> bool:
        """Return whether something is not reached yet at what belongs to a move, or a stop has stopped nothing yet."""
        if move.sort is Sort.STOP and move.device not in self._stopping:
            return True
        mine = {move.device, *(d.id for d in self.panel.plan.circuit.devices if self._owner(d.id) == move.owner)}
        return not mine.isdisjoint(self.coverage.left_at)

    def _try_in(self, move: Move, way: Way) -> bool:
        """Make a move, with what it needs or may stop running first; take it back again where it reaches nothing new."""
        before = self.panel, self.names, len(self.steps), set(self.coverage.seen)
        self._reached = set()
        stops: dict[int, frozenset[str]] = {}
        self.panel = self.panel.fork()
        self.names = Names(self.panel)
        held = self._prepare(move, way)
        on = self._on()
        stays = [name for name in on if move.sort is Sort.STOP and isinstance(self.panel.gears[name], Relay)]
        place = len(self.steps)
        gain = self._do(move.do, self._reason(move), also=[f"{self.names.tag(name)} on" for name in stays])
        stopped = [name for name in on if name not in self._on() and name in self.starts]
        if move.sort is not Sort.START and stopped:
            gain |= self._stops(move, stopped)
            stops[place] = frozenset(map(self._rests, stopped)) & set(self.steps[place][0].expect)
            gain |= self._hold_back(move, stopped)
        elif move.sort is Sort.STOP and not self._is_last:
            gain = False  # a stop that stops nothing proves nothing: it is tried again while something runs
        started = [name for name in self._on() if name not in on]
        if move.back:
            kept = [self._rests(name) for name in stopped]
            kept += [f"{self.names.tag(name)} on" for name in started if not isinstance(self.panel.gears[name], Motor)]
            gain |= self._do(move.back, f"back: {self._reason(move)}", also=kept)
            if any(name not in self._on() for name in started):
                self._stopping.add(move.device)
            self._tell_restart([name for name in stopped if name in self._on()])
        if gain:
            self._learn(move, started, stopped)
            if held:
                self._do(held, "hands off")
            self.passages.append(
                Passage(first=before[2], last=len(self.steps), reached=frozenset(self._reached), stops=stops)
            )
            return True
        self.panel, self.names, count, self.coverage.seen = before
        del self.steps[count:]
        return False

    def _tell_restart(self, names: Sequence[str]) -> None:
        """Say beside the last step what starts by itself there, for that is as drawn and need not be as it should."""
        if names:
            step, why = self.steps[-1]
            tags = ", ".join(map(self.names.tag, names))
            self.steps[-1] = step, f"{why}; {tags} on again by itself: see that this is meant"

    def _learn(self, move: Move, started: Sequence[str], stopped: Sequence[str]) -> None:
        """Note by what each thing comes on and goes off; what lets it stay so goes before what holds it."""
        whole = (*move.do, *move.back)
        for name in started if move.sort is Sort.START else ():
            starts = self.starts.setdefault(name, [])
            if name in self._on() and name not in self._stay:
                self._stay.add(name)
                starts.insert(0, _Start(move.device, whole))
            elif move.do not in [start.do for start in starts]:
                starts.append(_Start(move.device, move.do, move.back if move.is_by_hand else ()))
        for name in stopped:
            if name not in self._on():
                self.stops.setdefault(name, whole)

    def _reason(self, move: Move) -> str:
        device = self.panel.plan.circuit.index.get(move.device)
        title = device.title if device is not None else ""
        tag = self.names.tag(move.device)
        return f"{tag}, {title}" if title else tag

    def _at_rest(self) -> Iterator[str]:
        """Yield what is on in a panel that nobody has touched, and that no other motor turns."""
        for name, states in look_at(self.panel).items():
            if isinstance(self.panel.gears[name], Motor) or "off" not in states:
                yield from (f"{self.names.tag(name)} {word}" for word in sorted(states))

    def _do(self, actions: Sequence[str], why: str, also: Sequence[str] = (), never: tuple[str, ...] = ()) -> bool:
        """Do something and note what is seen then, and later, while what is under way runs out: whoever reads a step takes longer than a
        star or a ramp lasts. Return whether it reaches anything new.
        """
        seen = set(self.coverage.seen)
        self._note([*self._cool(), *actions], why, also, never)
        for _ in range(MOST_LATER):
            if not wait_for(self.panel):
                break
            self._note([], f"{why}: time runs on", (), never)
            (earlier, reason), (later, _) = self.steps[-2:]
            if not later.expect:
                self.steps[-2:] = [(earlier.model_copy(update={"do": _waited((*earlier.do, *later.do))}), reason)]
        return self.coverage.seen > seen

    def _note(self, actions: Sequence[str], why: str, also: Sequence[str], never: tuple[str, ...]) -> None:
        """Do something, wait for what is due first, and note it as a step."""
        before = look_at(self.panel)
        self.panel.watch = self._look
        done = list(actions)
        try:
            for action in actions:
                perform(self.panel, self.names, action)
            if wait := wait_for(self.panel):
                perform(self.panel, self.names, wait)
                done.append(wait)
        finally:
            self.panel.watch = None
        self._look()
        expect = dict.fromkeys(
            (
                *tell_changes(self.names, before, look_at(self.panel)),
                *(text for text in also if _is_so(self.panel, self.names, text)),
            )
        )
        self.steps.append((Step(do=tuple(done), expect=tuple(expect), never=never), why))

    def _items(self, panel: Simulation) -> frozenset[Item]:
        """Return what an instant reaches: what is the same whenever everything conducts alike."""
        instant = panel.network.instant
        if instant not in self._known:
            self._known[instant] = frozenset(self.coverage.now(panel))
        return self._known[instant]

    def _look(self) -> None:
        items = self._items(self.panel)
        self.coverage.seen |= items
        self._reached |= items

    def _rests(self, name: str) -> str:
        """Return what is claimed of a thing that does not run."""
        word = "stopped" if isinstance(self.panel.gears[name], Motor) else "off"
        return f"{self.names.tag(name)} {word}"

    def _cool(self) -> list[str]:
        """Return a wait until what was heated by many starts has cooled, nothing where it is cool enough."""
        now = self.panel.now
        images = (
            g.image for g in self.panel.gears.values() if isinstance(g, Overload | Breaker) and g.image is not None
        )
        hot = [image.seconds_to_cool(now, _COOL) for image in images if image.heat_at(now) > _WARM]
        longest = max((seconds for seconds in hot if seconds < inf), default=0.0)
        return [f"wait {longest:.0f}"] if longest > 1.0 else []

    def _on(self) -> list[str]:
        """Return the coils, alarms and motors that are on."""
        return [
            name for name, gear in self.panel.gears.items()
            if (isinstance(gear, Motor) and "stopped" not in gear.states)
            or ((isinstance(gear, Relay) or gear.device.kind in {"beacon", "horn"}) and gear.is_on)
        ]  # fmt: skip

    def _prepare(self, move: Move, way: Way) -> list[str]:
        """Let run what a start needs and nothing of its own where it is to stand, or what a stop may stop; return how hands that hold
        something are taken away again.
        """
        own = [name for name in self.starts if self._owner(name) == move.owner]
        foreign = [name for name in self.starts if name not in own]
        enabling = [name for name in foreign if self.panel.gears[name].device.kind == "relay"]
        if move.sort is not Sort.START:
            wanted = [*enabling, *own] if own and way is Way.PLAIN else [*foreign, *own]
        else:
            wanted = {Way.PLAIN: enabling, Way.STOPPED: foreign, Way.OTHERS: [*foreign, *own]}[way]
        held: list[str] = []
        for name in wanted:
            if name not in self._on():
                start = self._start_of(name, move)
                self._do(start.do, f"let {self.names.tag(name)} run")
                held += start.back
        if way is Way.TURNED:
            self._turn_selectors(move)
        for name in own if way is Way.STOPPED else ():
            if name in self._on() and name in self.stops:
                self._do(self.stops[name], f"let {self.names.tag(name)} stop")
        return held

    def _turn_selectors(self, move: Move) -> None:
        """Turn each selector to another of its positions where all that runs then runs there too, started anew where it must be."""
        for name, gear in self.panel.gears.items():
            springs = gear.part.traits.get("return") == "spring"
            if not isinstance(gear, Selector) or not gear.position or name == move.device or springs:
                continue
            on = self._on()
            for choice in gear.choices:
                if choice in {"off", gear.position}:
                    continue
                before = self.panel, self.names, len(self.steps)
                self.panel = self.panel.fork()
                self.names = Names(self.panel)
                self._do((f"turn {self.names.tag(name)} {choice}",), f"{self.names.tag(name)} in {choice}")
                for other in on:
                    if other not in self._on() and other in self.starts:
                        self._do(self._start_of(other, move).do, f"let {self.names.tag(other)} run")
                if set(on) <= set(self._on()):
                    break
                self.panel, self.names, count = before
                del self.steps[count:]

    def _start_of(self, name: str, move: Move) -> _Start:
        """Return by what a thing comes on, if it can by something else than what is moved."""
        ways = self.starts[name]
        return next((start for start in ways if start.device != move.device), ways[0])

    def _owner(self, name: str) -> str:
        device = self.panel.plan.circuit.index[name]
        return device.owner or name

    def _stops(self, move: Move, stopped: Sequence[str]) -> bool:
        """Note what a move stops; return whether something of that is new."""
        items = {(Reach.STOPS, f"{move.device} {name}") for name in stopped}
        is_new = not items <= self.coverage.seen
        self.coverage.seen |= items
        self._reached |= items
        self._stopping.add(move.device)
        return is_new

    def _hold_back(self, move: Move, stopped: Sequence[str]) -> bool:
        """Try to start what a move has stopped, by all that is there for it, while that lasts: it must not; return whether that is new.

        Of what cuts a supply the first thing alone is tried: all the others hang on it as well.
        """
        held = [name for name in stopped if not isinstance(self.panel.gears[name], Motor)] or list(stopped)
        names = held if move.sort is Sort.STOP else held[:1]
        items = {(Reach.HELD, f"{move.device} {name}") for name in names}
        if items <= self.coverage.seen:
            return False
        while names and (past := self._started_past(names, move)):
            names = [name for name in names if name not in past]
            step, why = self.steps[-1]
            self.steps[-1] = (
                step,
                f"{why}; {', '.join(map(self.names.tag, past))} can be started past it: see that this is meant",
            )
        self.coverage.seen |= items
        self._reached |= items
        return bool(names)

    def _started_past(self, names: Sequence[str], move: Move) -> list[str]:
        """Try to start what a move holds; return what does start, and take all back then."""
        before = self.panel, self.names, len(self.steps), set(self.coverage.seen), set(self._reached)
        self.panel, told = self.panel.fork(), len(self.panel.log)
        self.names = Names(self.panel)
        ways = dict.fromkeys((*start.do, *start.back) for start in self._ways_to_start(names, move))
        rests = [self._rests(name) for name in names]
        why = f"{', '.join(map(self.names.tag, names))} must not start while {self.names.tag(move.device)} holds it"
        self._do(
            [action for way in ways for action in way], why, also=rests, never=tuple(f"not {rest}" for rest in rests)
        )
        moved = {one.device for one in self.panel.log[told:]}
        past = [name for name in names if name in moved]
        if past:
            self.panel, self.names, count, self.coverage.seen, self._reached = before
            del self.steps[count:]
        return past

    def _ways_to_start(self, names: Sequence[str], move: Move) -> Iterator[_Start]:
        """Yield all that starts some things by something else than what is moved."""
        for name in names:
            yield self._start_of(name, move)
            for one in self._moves:
                if one.sort is Sort.START and one.back and one.owner == self._owner(name) and one.device != move.device:
                    yield _Start(one.device, one.do, one.back)


def _is_so(panel: Simulation, names: Names, text: str) -> bool:
    name, _, word = text.rpartition(" ")
    return word in panel.gears[names.device(name)].states


def _waited(do: Sequence[str]) -> tuple[str, ...]:
    """Return actions with waits that follow each other as one."""
    found: list[str] = []
    for action in do:
        if found and action.startswith("wait ") and found[-1].startswith("wait "):
            found[-1] = f"wait {float(found[-1].split()[1]) + float(action.split()[1]):.1f}"
        else:
            found.append(action)
    return tuple(found)
