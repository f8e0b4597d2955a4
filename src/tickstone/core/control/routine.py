"""A controller as a routine for a board: the same clamps, hold and slew as on the bench."""

from __future__ import annotations

from tickstone.core.control.controller import BACK, COUNT, ERROR, NONE, Controller
from tickstone.core.emit.code import Code
from tickstone.core.emit.routine import Entry, Routine, Told, finished
from tickstone.core.emit.terms import Kind, Name, Term, is_number, pick, real, size, whole
from tickstone.core.quantity import NUMBER, Quantity
from tickstone.core.status import Status

MEASURED, WANTED, OUTPUT = "measured", "wanted", "output"
_WHOLE_MOST = 2.0e9
"""What an integer of 32 bits holds, a little less: far beyond the ends of any output."""


def controller_routine(controller: Controller, name: str, sample_s: float) -> Routine:
    """A controller as a routine that is stepped with each reading, `sample_s` apart.

    What is measured goes in with its status, and what is wanted. It tells what the actuator is to
    be set to: mapped to its span, where it has one.

    >>> it = controller_routine(Controller(kp=2.0), "steering", 0.05)
    >>> [one.names for one in it.entries], it.told[0].values
    ([('measured_in',), ('wanted_in',)], ('output',))
    """
    return _Controller(controller, name, sample_s).routine()


class _Controller:
    def __init__(self, controller: Controller, name: str, sample_s: float) -> None:
        self.given = controller
        self.name = name
        self.sample_s = sample_s
        self.code = code = Code()
        self.entries = [
            Entry(MEASURED, ("measured_in",), NUMBER, ("measured_in_status",)),
            Entry(WANTED, ("wanted_in",), NUMBER),
        ]
        self.u = code.state("u", controller.rest)
        self.integral = code.state("integral", 0.0)
        self.d_term = code.state("d_term", 0.0)
        self.before = code.state("before")
        self.wanted_before = code.state("wanted_before")
        self.silent = code.state("silent", 0.0, Kind.WHOLE)

    def _constant(self, hint: str, value: float, rests_on: str, unit: str = "") -> Name:
        return self.code.constant(hint, value, unit, None, rests_on)

    def routine(self) -> Routine:
        code, given = self.code, self.given
        value, status = self.entries[0].parameters
        wanted = self.entries[1].parameters[0]
        measures = code.let("is_measured", status.is_(Status.OK) & is_number(value))
        if given.invalid == COUNT:
            code.remark("A reading that is none counts as 0, as on the bench.")
            self._act(code.let("seen", pick(measures, value, 0.0)), wanted)
        else:
            with code.when(measures):
                self._act(value, wanted)
            with code.otherwise():
                code.remark("The output is held, and after a while goes to rest.")
                most = self._silent_most()
                code.set(self.silent, pick(self.silent < most, self.silent + 1, self.silent))
                with code.when(self.silent >= most):
                    code.set(self.u, self._constant("rest", given.rest, "the output at rest"))
                    code.set(self.integral, 0.0)
                    code.set(self.d_term, 0.0)
        code.set(self.wanted_before, wanted)
        return finished(code, self.name, self.entries, [self._told()])

    def _silent_most(self) -> int:
        """After so many readings that are none the output goes to rest; counted as the bench adds
        up.
        """
        count, silent_s = 0, 0.0
        while silent_s <= self.given.hold_s:
            silent_s += self.sample_s
            count += 1
        return count

    def _act(self, seen: Term, wanted: Term) -> None:
        code, given, ts = self.code, self.given, self.sample_s
        gains = given.counted
        code.set(self.silent, 0)
        code.set(self.before, pick(is_number(self.before), self.before, seen))
        error = code.variable("e", wanted - seen)
        if given.dead_band:
            near = self._constant("dead_band", given.dead_band, "an error below counts as none")
            with code.when(size(error) < near):
                code.set(error, 0.0)
        asked: Term = error * self._constant("p", gains.kp, "for one unit off")
        if given.rest:
            asked = asked + self._constant("rest_at", given.rest, "the output at rest")
        step: Term | None = None
        if gains.ki:
            i = self._constant("i", gains.ki, "for one unit off for a second", "1/s")
            step = code.let("step", error * i * ts)
            asked = asked + self.integral + step
        if gains.kd:
            asked = asked + self._derivative(seen, wanted)
        if given.whole_numbers:
            most = code.let("asked", asked)
            held = pick(
                most > _WHOLE_MOST, _WHOLE_MOST, pick(most < -_WHOLE_MOST, -_WHOLE_MOST, most)
            )
            asked = real(whole(held))
        asked = code.let("asks", asked)
        low = self._constant("low", given.low, "the output’s end")
        high = self._constant("high", given.high, "the output’s other end")
        out = code.variable("out", _between(asked, low, high))
        if given.slew_per_s:
            most_step = given.slew_per_s * ts
            moves = self._constant(
                "slew", most_step, f"it moves {given.slew_per_s:g} a second at most"
            )
            code.set(out, _between(out, self.u - moves, self.u + moves))
        if step is not None:
            self._wind(step, asked, out)
        code.set(self.u, _between(out, low, high))
        code.set(self.before, seen)

    def _derivative(self, seen: Term, wanted: Term) -> Term:
        code, given, ts = self.code, self.given, self.sample_s
        d = self._constant("d", given.counted.kd, "for one unit a second", "s")
        change: Term = (self.before - seen) / ts
        if given.derivative_of == ERROR:
            kick = pick(is_number(self.wanted_before), (wanted - self.wanted_before) / ts, 0.0)
            change = change + kick
        lag = given.derivative_lag_s
        fresh: Term = d * ts * change
        if lag:
            kept = self._constant("d_lag", lag, "D is smoothed over", "s")
            fresh = (kept * self.d_term + fresh) / (lag + ts)
        else:
            fresh = fresh / ts
        code.set(self.d_term, fresh)
        return self.d_term

    def _wind(self, step: Term, asked: Term, out: Term) -> None:
        """What keeps the integral from winding up while the output stands at an end."""
        code, given = self.code, self.given
        if given.windup == NONE:
            code.set(self.integral, self.integral + step)
            return
        with code.when(out.is_(asked)):
            code.set(self.integral, self.integral + step)
        with code.otherwise():
            if given.windup == BACK:
                code.remark("Drawn back by what did not fit.")
                code.set(self.integral, self.integral + step + (out - asked))
            else:
                with code.when((asked - out) * step < 0.0):
                    code.set(self.integral, self.integral + step)

    def _told(self) -> Told:
        code, given = self.code, self.given
        offset, slope = given.span
        acted: Term = self.u
        if (offset, slope) != (0.0, 1.0):
            acted = (
                self._constant("offset", offset, "of the map to the actuator")
                + self._constant("slope", slope, "of the map to the actuator") * self.u
            )
        if given.whole_numbers:
            acted = real(whole(acted))
        output = code.state("output")
        status = code.state("output_status", float(Status.OK), Kind.STATUS)
        code.set(output, acted)
        code.set(status, Status.OK)
        return Told(OUTPUT, Quantity("output", "", decimals=2), (output.text,), (status.text,))


def _between(x: Term, low: Term, high: Term) -> Term:
    return pick(x < low, low, pick(x > high, high, x))
