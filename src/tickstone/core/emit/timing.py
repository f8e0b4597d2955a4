"""How long ago something was, and decisions that wait until they have stood, on a board."""

from __future__ import annotations

from tickstone.core.emit.code import Code
from tickstone.core.emit.terms import Kind, Name, Term, exp, is_number, pick, seconds_between


class Heard:
    """When something was heard last; before the first time, since the first sample.

    The clock wraps: what is older than asked is noted, and stays so until it is heard again.
    """

    def __init__(self, code: Code, hears: Term, at: Term) -> None:
        self._code, self._at = code, at
        self._last = code.state("heard_us", 0.0, Kind.CLOCK)
        begun = code.state("is_begun", 0.0, Kind.FLAG)
        self._is_heard = code.let("hears", hears)
        self._fresh = code.let("is_fresh", self._is_heard | ~begun)
        code.set(self._last, pick(self._fresh, at, self._last))
        code.set(begun, True)

    def is_older_than(self, seconds: float) -> Term:
        """Whether it is longer ago than that."""
        long_ago = self._code.state("is_long_ago", 0.0, Kind.FLAG)
        passed = seconds_between(self._at, self._last) > seconds
        self._code.set(long_ago, ~self._fresh & (long_ago | passed))
        return long_ago


def fading_share(code: Code, at: Term, last: Term, over_s: float) -> Name:
    """Share of a new value in a mean that fades over so long: 1 − e^(−dt/τ)."""
    return code.let("share", 1.0 - exp(seconds_between(at, last) * (-1.0 / over_s)))


def settled_of(code: Code, decision: Term, at: Term, dwell_s: float) -> Term:
    """What counts of a decision: it has to have stood for `dwell_s`. The very first counts."""
    if dwell_s <= 0.0:
        return decision
    counts, waits = code.state("counts"), code.state("waits")
    since = code.state("waits_since_us", 0.0, Kind.CLOCK)
    fresh = code.let("is_other", ~is_number(waits) | waits.is_not(decision))
    code.set(since, pick(fresh, at, since))
    code.set(waits, decision)
    stood = ~is_number(counts) | (seconds_between(at, since) >= dwell_s)
    code.set(counts, pick(stood, decision, counts))
    # What counts already need not be waited for again, however often the clock wraps.
    with code.when(counts.is_(waits)):
        code.set(since, at)
    return counts


def lasting_of(
    code: Code, asked: Term, at: Term, least_s: float, at_once: frozenset[float]
) -> Term:
    """What is done when each thing done lasts `least_s` at least, but for what comes at once."""
    if least_s <= 0.0:
        return asked
    done, since = code.state("done"), code.state("done_since_us", 0.0, Kind.CLOCK)
    is_over = code.state("has_lasted", 0.0, Kind.FLAG)
    code.set(is_over, is_over | (seconds_between(at, since) >= least_s))
    urgent: Term = ~is_number(done)
    for one in sorted(at_once):
        urgent = urgent | asked.is_(one)
    turns = code.let("turns", ~is_number(done) | (asked.is_not(done) & (is_over | urgent)))
    code.set(since, pick(turns, at, since))
    code.set(is_over, is_over & ~turns)
    code.set(done, pick(turns, asked, done))
    return done


def latest(code: Code, value: Term, is_told: Term, before: float) -> Name:
    """What was told last; before the first time, `before`."""
    kept = code.state("latest", before)
    code.set(kept, pick(is_told, value, kept))
    return kept
