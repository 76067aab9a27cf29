"""Owns the control circuit of every starter: what lets it run, what runs it, what it tells. Must not know power paths.

The order is that of the trade: emergency stop, overload, stop, start with seal-in beside it, interlocks, coil.
"""

from collections.abc import Callable
from dataclasses import dataclass

from riktig.job.model import Starter
from riktig.job.roles import (
    has_control_on,
    has_reverse,
    is_commanded,
    overload_role,
    phase_relays_of,
    phase_repeats,
    pumps_of,
    roles_of,
    trip_on_return,
)
from riktig.plan.circuit.estop import EstopFeeds
from riktig.plan.circuit.sketch import Sketch, parallel, series


def with_contact(text: str, sort: str = "no") -> str:
    """Return an element as a path names it; a bare device means its contact of a sort."""
    return text if ":" in text else f"{text}:{sort}"


@dataclass(slots=True)
class StarterControl:
    """Draws one starter's control circuit."""

    starter: Starter
    sketch: Sketch
    feeds: EstopFeeds

    @property
    def _name(self) -> str:
        return self.starter.name

    @property
    def _plus(self) -> str:
        return f"{self.starter.supply}+"

    @property
    def _minus(self) -> str:
        return f"{self.starter.supply}-"

    def draw(self) -> None:
        """Add all rungs of the starter."""
        self._draw_run()
        self._draw_thermistor()
        self._draw_indication()
        self._draw_controller()

    def _rung(self, part: str, text: str, words: str = "") -> None:
        title = f"{self._name} {words or self.starter.title}".strip()
        self.sketch.rung(f"{self._name}/{part}", title, text, owner=self._name)

    # -- what lets it run

    def _permits(self) -> str:
        """Return everything that must be closed before anything may run: own emergency stops, phases, trips, what it needs."""
        starter, job = self.starter, self.sketch.job
        stops = [f"{self._name}.{role}:nc" for role in roles_of(starter, job) if role.startswith("SE")]
        phases = [_phase_contact(name, self.sketch) for name in phase_relays_of(starter, job)]
        trip = "" if trip_on_return(starter, job) else self.trip_break
        needs = [with_contact(text) for text in starter.needs]
        return series(*stops, *phases, trip, f"{self._name}.R:no" if starter.thermistor else "", *needs)

    @property
    def trip_break(self) -> str:
        """The contact that opens on a trip; that of a motor breaker also opens when it is switched off."""
        return f"{self._name}.{self._tripper}:{'13-14' if self._tripper == 'Q' else '95-96'}"

    @property
    def _tripper(self) -> str:
        return overload_role(self.starter, self.sketch.job)

    def _interlocks(self) -> str:
        """Return the contacts of other starters: those that must run, and those that must not."""
        job, starter = self.sketch.job, self.starter
        while_running = []
        for name in starter.runs_while:
            other = job.starter(name)
            roles = ("K", "KR") if other is not None and has_reverse(other) else ("K",)
            while_running.append(parallel(*(f"{name}.{role}:no" for role in roles)))
        never: list[str] = []
        for other in job.starters:
            if other.name in starter.never_with or starter.name in other.never_with:
                never.extend(f"{other.name}.{role}:nc" for role in (("K", "KR") if has_reverse(other) else ("K",)))
        return series(*while_running, *never)

    # -- what runs it

    def _draw_run(self) -> None:
        feed = self.feeds.feed(self.starter)
        permits = self._permits()
        ok = f"@{self._name}_ok" if permits else feed
        begin = series(feed, permits, ok) if permits else feed
        if has_control_on(self.starter, self.sketch.job):
            button = parallel(f"{self._name}.SX:no", f"{self._name}.X:no")
            self._rung("control-on", series(begin, button, f"{self._name}.X:coil", self._tail()), "control on")
            head = series(ok, f"{self._name}.X:no")
        else:
            head = begin if "ready" in self.starter.lamps else series(feed, permits)
        drawers: dict[str, Callable[[str], None]] = {
            "reversing": self._draw_reversing,
            "star-delta": self._draw_star_delta,
            "drive": self._draw_drive,
            "soft": self._draw_soft,
        }
        drawers.get(self.starter.kind, self._draw_single)(head)

    def _demand(self, seal: str) -> str:
        """Return what asks a starter of one direction to run; under buttons `seal` lies across the start button."""
        name, starter = self._name, self.starter
        if starter.mode == "buttons":
            starts = [f"{name}.{role}:no" for role in self._roles("S1")]
            if starter.hold_to_run:
                return parallel(*starts)
            return series(*(f"{name}.{role}:nc" for role in self._roles("S0")), parallel(*starts, seal))
        auto = self._automatic(seal)
        if starter.has_hand:
            return parallel(f"{name}.SL:hand", series(f"{name}.SL:auto", auto))
        return series(f"{name}.SL:on", auto) if starter.mode == "selector" else auto

    def _automatic(self, seal: str) -> str:
        """Return what runs it in automatic: a controller, floats, or an element of a person's own.

        The seal lies across the start float only, so that a pump runs down to the stop float: common practice.
        """
        name, starter = self._name, self.starter
        command = f"{name}.KC:no" if is_commanded(starter) else ""
        if starter.auto is not None:
            command = with_contact(starter.auto)
        if starter.kind != "pump":
            return command
        level = starter.level
        pair = pumps_of(starter, self.sketch.job)
        if pair is not None:
            return f"{pair[0].name}.K{pair[1]}:no"
        stop, start = (f"{level}.stop:no", f"{level}.start:no") if level else (f"{name}.B0:no", f"{name}.B1:no")
        return series(command, stop) if command else series(stop, parallel(start, seal))

    def _roles(self, stem: str) -> list[str]:
        roles = roles_of(self.starter, self.sketch.job)
        return [role for role in roles if role == stem or role.startswith(f"{stem}_")]

    def _tail(self) -> str:
        """Return what follows a coil: the return, or the node ahead of the overload contact in the other school."""
        return f"@{self._name}_ret" if trip_on_return(self.starter, self.sketch.job) else self._minus

    def _close_return(self) -> None:
        """One overload contact serves all coils of the starter: common practice where the return is earthed."""
        if trip_on_return(self.starter, self.sketch.job):
            self._rung("return", series(f"@{self._name}_ret", self.trip_break, self._minus))

    def _draw_single(self, head: str) -> None:
        coil, seal = f"{self._name}.K:coil", f"{self._name}.K:no"
        end = self._tail()
        is_alone = end != self._minus and not has_control_on(self.starter, self.sketch.job)
        end = series(self.trip_break, self._minus) if is_alone else end
        self._rung("run", series(head, self._demand(seal), self._interlocks(), coil, end))
        if not is_alone:
            self._close_return()

    def _draw_reversing(self, head: str) -> None:
        """Each coil is fed through the other's break contact; the seal bridges only its button: common practice."""
        name, run = self._name, f"@{self._name}_run"
        stops = series(*(f"{name}.{role}:nc" for role in self._roles("S0")))
        head, start = _fork(head, series(stops, self._interlocks()), run)
        pairs = (("K", "KR", "S1", "KC", "forward"), ("KR", "K", "S2", "KCR", "reverse"))
        limits = dict(zip(("K", "KR"), (with_contact(text, "nc") for text in self.starter.limits), strict=False))
        for own, other, stem, command, position in pairs:
            if self.starter.mode == "buttons":
                seal = "" if self.starter.hold_to_run else f"{name}.{own}:no"
                demand = parallel(*(f"{name}.{r}:no" for r in self._roles(stem)), seal)
            else:
                ordered = f"{name}.{command}:no" if is_commanded(self.starter) else ""
                demand = series(f"{name}.SL:{position}" if self.starter.mode == "selector" else "", ordered)
            begin = head if own == "K" else start
            part = "run" if own == "K" else "reverse"
            self._rung(
                part,
                series(begin, demand, limits.get(own, ""), f"{name}.{other}:nc", f"{name}.{own}:coil", self._tail()),
            )
        self._close_return()

    def _draw_star_delta(self, head: str) -> None:
        """Star pulls in first and lets the main contactor in; the timer changes star for delta: common practice."""
        name, run, tail = self._name, f"@{self._name}_run", self._tail()
        started = series(head, self._demand(f"{name}.K:no"), self._interlocks(), run)
        self._rung("run", series(started, f"{name}.T:coil", tail))
        self._rung("star-coil", series(run, f"{name}.T:tnc", f"{name}.KD:nc", f"{name}.KS:coil", tail), "star")
        self._rung("main-coil", series(run, parallel(f"{name}.KS:no", f"{name}.K:no"), f"{name}.K:coil", tail), "main")
        self._rung("delta-coil", series(run, f"{name}.T:tno", f"{name}.KS:nc", f"{name}.KD:coil", tail), "delta")
        self._close_return()

    def _draw_drive(self, head: str) -> None:
        """The run relay closes the run input; emergency stops open safe torque off and drop the run relay as well."""
        name = self._name
        self._rung("run", series(head, self._isolator_aux(), self._demand(f"{name}.K:no"), self._interlocks(),
                                 f"{name}.K:coil", self._minus))  # fmt: skip
        self._rung("run-input", series(f"@{name}_P24", f"{name}.K:no", f"@{name}_DI1"), "run input")
        self._rung("run-clamp", series(f"@{name}_P24", f"{name}.A:P24-DI1", f"@{name}_DI1"), "run input")
        own = [role for role in roles_of(self.starter, self.sketch.job) if role.startswith("SE")]
        for channel in ("1", "2"):
            breaks = series(*(f"{name}.{role}:nc" for role in own), *self.feeds.breaks(self.starter))
            node = f"@{name}_STO{channel}" if breaks else f"@{name}_S24"
            if breaks:
                self._rung(f"sto-{channel}", series(f"@{name}_S24", breaks, node), "safe torque off")
            self._rung(
                f"sto-clamp-{channel}", series(f"@{name}_S24", f"{name}.A:S24-STO{channel}", node), "safe torque off"
            )
        self._draw_speed()

    def _isolator_aux(self) -> str:
        return f"{self._name}.QM:aux_no" if self.starter.isolator else ""

    def _draw_speed(self) -> None:
        name, starter = self._name, self.starter
        high, low = f"@{name}_AI1", f"@{name}_AGND"
        if starter.speed == "fixed":
            return
        self._rung("speed", series(high, f"{name}.A:AI1-AGND", low), "speed")
        if starter.speed == "controller":
            self._rung("speed-out", series(high, f"{starter.controller}:ao", low), "speed")
            return
        top = f"@{name}_V10"
        self._rung("speed-supply", series(top, f"{name}.A:V10-AGND", low), "speed")
        self._rung("speed-track", series(top, f"{name}.RP:1-3", low), "speed")
        self._rung("speed-wiper", series(high, f"{name}.RP:2-3", low), "speed")

    def _draw_soft(self, head: str) -> None:
        """The line contactor drops after the stop ramp, at once on emergency stop or trip: common practice."""
        name, late = self._name, self.feeds.late_feed(self.starter)
        head, start = _fork(head, "", f"@{name}_line")
        ends = series(self._isolator_aux(), self._demand(f"{name}.KA:no"), self._interlocks())
        self._rung("run", series(head, ends, f"{name}.KA:coil", self._minus))
        own = [role for role in roles_of(self.starter, self.sketch.job) if role.startswith("SE")]
        begin = start if late is None else series(late, *(f"{name}.{role}:nc" for role in own))
        hold = parallel(f"{name}.KA:no", f"{name}.A:13-14")
        self._rung("line", series(begin, hold, f"{name}.K:coil", self._minus), "line contactor")
        self._rung("start", series(f"@{name}_P24", f"{name}.KA:no", f"@{name}_ON"), "start input")
        self._rung("start-clamp", series(f"@{name}_P24", f"{name}.A:P24-ON", f"@{name}_ON"), "start input")
        self._rung("electronics", series(self._plus, f"{name}.A:A1-A2", self._minus), "soft starter")

    # -- what it tells

    def _draw_thermistor(self) -> None:
        if not self.starter.thermistor:
            return
        name = self._name
        loop = f"@{name}_T1", f"@{name}_T2"
        self._rung("thermistor", series(self._plus, f"{name}.R:A1-A2", self._minus), "thermistor relay")
        self._rung("thermistor-loop", series(loop[0], f"{name}.R:T1-T2", loop[1]), "thermistor")
        self._rung("thermistor-motor", series(loop[0], f"{name}:TP1-TP2", loop[1]), "thermistor")

    def _draw_indication(self) -> None:
        """Trip lamps are fed ahead of the emergency stop; a drive tells by its own contact that it runs: common practice."""
        name, lamps = self._name, self.starter.lamps
        counter = f"{name}.P" if self.starter.hours else ""
        if has_reverse(self.starter):
            if "run" in lamps:
                for contactor, lamp, part in (("K", "H", "run-lamp"), ("KR", "HR", "reverse-lamp")):
                    self._rung(part, series(self._plus, f"{name}.{contactor}:no", f"{name}.{lamp}:lamp", self._minus),
                               "running")  # fmt: skip
            if counter:
                either = parallel(f"{name}.K:no", f"{name}.KR:no")
                self._rung("hours", series(self._plus, either, counter, self._minus), "hours")
        elif "run" in lamps or counter:
            shown = parallel(f"{name}.H:lamp" if "run" in lamps else "", counter)
            part = "run-lamp" if "run" in lamps else "hours"
            runs = f"{name}.A:13-14" if self.starter.kind == "drive" else f"{name}.K:no"
            self._rung(part, series(self._plus, runs, shown, self._minus), "running")
        pair = pumps_of(self.starter, self.sketch.job)
        if "trip" in lamps or pair is not None:
            hot = f"{name}.R:nc" if self.starter.thermistor else ""
            tripped = parallel(f"{name}.{self._tripper}:97-98", hot)
            told = parallel(
                f"{name}.HT:lamp" if "trip" in lamps else "", f"{pair[0].name}.KT{pair[1]}:coil" if pair else ""
            )
            self._rung("trip-lamp", series(self._plus, tripped, told, self._minus), "tripped")
        if "ready" in lamps:
            still = series(*(f"{name}.{role}:nc" for role in (("K", "KR") if has_reverse(self.starter) else ("K",))))
            self._rung("ready-lamp", series(f"@{self._name}_ok", still, f"{name}.HB:lamp", self._minus), "ready")

    def _draw_controller(self) -> None:
        """Commands come through interface relays, feedback from a contact of its own: common practice."""
        starter, name = self.starter, self._name
        controller = next((c for c in self.sketch.job.controllers if c.name == starter.controller), None)
        if controller is None:
            return
        supply = controller_supply(controller.supply, self.sketch)
        plus, minus = f"{supply}+", f"{supply}-"
        for role in [r for r in ("KC", "KCR") if r in roles_of(starter, self.sketch.job)]:
            self._rung(
                f"command-{role}", series(plus, f"{controller.name}:do", f"{name}.{role}:coil", minus), "command"
            )
        if starter.feedback is not False:
            for own in ("K", "KR") if has_reverse(starter) else ("K",):
                self._rung(
                    f"feedback-{own}", series(plus, f"{name}.{own}:no", f"{controller.name}:di", minus), "feedback"
                )
            if self._tripper == "A":
                fault = series(plus, f"{name}.A:107-108", f"{controller.name}:di", minus)
                self._rung("feedback-fault", fault, "fault")


def controller_supply(given: str | None, sketch: Sketch) -> str:
    """Return the DC supply of a controller: as given, or the first one."""
    return given or next(control.name for control in sketch.job.controls if control.is_dc)


def _phase_contact(name: str, sketch: Sketch) -> str:
    """Return the contact of a phase relay in a starter's circuit: its own, or one of the relays that repeat it."""
    return sketch.repeated(f"{name}.K") if phase_repeats(name, sketch.job) else f"{name}:15-18"


def _fork(head: str, common: str, node: str) -> tuple[str, str]:
    """Return a path up to where two rungs part, and the name of that place; a head that ends in one keeps it."""
    last = head.rsplit(" > ", 1)[-1]
    if not common and (last.startswith("@") or last.endswith("+")):
        return head, last
    return series(head, common, node), node
