"""Owns a simulated meter behind the interface of a real one: ranges, noise, leads, and a link that fails. Must not know panels."""

import random
import time
from collections.abc import Callable
from math import floor, isinf, log10

from riktig.files.meter import BUSY, DC_VOLTS, OVER_RANGE, QUESTIONS
from riktig.live.resistance import LEADS_OHM
from riktig.prove.steps import Unit
from riktig.standins.line_server import LineServer

RANGE_OHM = 40e6
_COUNTS = 4000
"""It shows so many steps in each range."""
_NOISE = 0.002
"""Of a reading, one sigma (common practice, no source)."""


class SimulatedMeter:
    """A meter on localhost; `probes` is what lies between its probes now, in the unit that is asked for.

    Args:
        serial: its number.
        fault: told how many readings were asked for so far, returns what goes wrong with the next: "drop", "garbage", "slow", "twice", "".
        port: on which it listens, 0 for any that is free.
        seed: of its noise.
    """

    def __init__(
        self,
        serial: str = "S-0001",
        *,
        fault: Callable[[int], str] = lambda count: "",
        port: int = 0,
        seed: int = 1,
        slow_s: float = 1.0,
    ) -> None:
        self.serial, self._fault, self._slow_s = serial, fault, slow_s
        self.probes: Callable[[Unit], float] = lambda unit: float("inf")
        self._noise = random.Random(seed)
        self._asked = 0
        self._server = LineServer(self.answers, port=port, busy=BUSY.decode())
        self.port = self._server.port

    @property
    def address(self) -> str:
        """Where it is."""
        return f"127.0.0.1:{self.port}"

    def answers(self, question: str) -> list[str | None]:
        """Return what it answers to a line, None where the link is cut in place of an answer."""
        if question == "*IDN?":
            return [f"RIKTIG,SIMULATED,{self.serial},1"]
        units = {**{words: unit for unit, words in QUESTIONS.items()}, DC_VOLTS: Unit.VOLT}
        if question not in units:
            return ["ERROR"]
        happens = self._fault(self._asked)
        self._asked += 1
        reading = f"{self._shown(units[question]):+.6E}"
        if happens == "slow":
            time.sleep(self._slow_s)
        return {"drop": [None], "garbage": ["#?1.2.3"], "twice": [reading, reading]}.get(happens, [reading])  # type: ignore[return-value]

    def _shown(self, unit: Unit) -> float:
        """Return what its display shows: leads, noise, the steps of the range that it chooses."""
        value = self.probes(unit)
        if isinf(value) or (unit is Unit.OHM and value > RANGE_OHM):
            return OVER_RANGE
        value += LEADS_OHM if unit is Unit.OHM else 0.0
        value *= 1.0 + self._noise.gauss(0.0, _NOISE)
        lowest = _COUNTS / 100.0  # two digits behind the point in its lowest range
        top = max(lowest, lowest * 10 ** max(0, floor(log10(max(value, 1e-9) / lowest)) + 1))
        step = top / _COUNTS
        return max(0.0, float(round(value / step) * step))

    def close(self) -> None:
        """Switch it off for good."""
        self._server.close()
