"""Conditions in words and numbers: read, said again, and told from what the inputs say.

    front < 0.42 m                      an amount against a number, SI unless a unit is written
    front between 30 cm and 0.5 m
    line is lost_left, line is not bar  a decision against one of its words
    front says no_echo                  the status of a reading, whatever it is worth
    any of front, left < 0.3            so many of several: any, all, or a number
    … and …, … or …, not …, ( … )

A reading that counts for nothing makes a comparison neither true nor false, and what follows from
it by and, or, not is told as far as it can be (Kleene's three values, 1938).
"""

from __future__ import annotations

import math
import re
from collections.abc import Mapping
from dataclasses import dataclass, field

from tickstone.core.reading_units import GRAVITIES, STANDARD_GRAVITY_M_PER_S2, displays
from tickstone.core.status import Status

ATOM, NOT, AND, OR, OF = range(5)
FALSE, TRUE, UNKNOWN = 0, 1, 2
_STATUS = {one.code: one for one in Status}
_LONGEST, _DEEPEST = 400, 24
_TOKEN = re.compile(
    r"\s*(?:(?P<number>[-+−]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?)"
    r"|(?P<word>[A-Za-z_][A-Za-z0-9_]*)"
    r"|(?P<unit>°C|°F|°/s|°|%|µs|Ω)"
    r"|(?P<sign><=|>=|≤|≥|[<>(),/²]))"
)
_LENGTHS = {"m": 1.0, "cm": 0.01, "mm": 0.001, "in": 0.0254}
_UNITS: dict[str, dict[str, float]] = {
    "m": _LENGTHS,
    "s": {"s": 1.0, "ms": 0.001, "µs": 1e-6, "us": 1e-6},
    "m/s": {"m/s": 1.0, "cm/s": 0.01, "mm/s": 0.001, "km/h": 1 / 3.6, "mph": 0.44704},
    "m/s²": {"m/s²": 1.0, "g": STANDARD_GRAVITY_M_PER_S2},
    "rad": {"rad": 1.0, "°": math.pi / 180.0, "deg": math.pi / 180.0},
    "rad/s": {"rad/s": 1.0, "°/s": math.pi / 180.0},
    "turn/s": {"turn/s": 1.0, "Hz": 1.0, "RPM": 1 / 60.0, "rpm": 1 / 60.0},
    "V": {"V": 1.0, "mV": 0.001},
    "°C": {"°C": 1.0, "K": 1.0},
    "": {"": 1.0, "%": 0.01},
}
_RESERVED = {
    *("and", "or", "not", "is", "says", "of", "any", "all"),
    *("between", "below", "above", "at"),
}


@dataclass(frozen=True, slots=True)
class InputNames:
    """What a condition may speak of: unit and states of each input, by name."""

    known: Mapping[str, tuple[str, tuple[str, ...]]]

    def of(self, name: str) -> tuple[str, tuple[str, ...]]:
        """Unit and states. Raises ValueError when there is none of that name."""
        if name not in self.known:
            said = ", ".join(self.known) or "none"
            raise ValueError(f"there is no input “{name[:40]}”; there are {said}")
        return self.known[name]


@dataclass(frozen=True, slots=True)
class Atom:
    """One comparison of one input: its value is `low` or more, and less than `high`.

    status: it is about the status instead, and this one. is_not: the other way round.
    """

    input: str
    low: float = -math.inf
    high: float = math.inf
    status: Status | None = None
    said: str = field(default="", compare=False)
    is_not: bool = False

    def told(self, value: float, status: Status, counts: bool) -> int:
        """FALSE, TRUE or UNKNOWN. counts: whether the reading is worth anything."""
        if self.status is not None:
            return int((status == self.status) != self.is_not)
        if status.is_bound:
            # The truth lies below the value: only what that leaves no doubt of is known.
            if value <= self.low:
                return int(self.is_not)
            if value <= self.high and self.low == -math.inf:
                return int(not self.is_not)
            return UNKNOWN
        if not counts or math.isnan(value):
            return UNKNOWN
        return int((self.low <= value < self.high) != self.is_not)


@dataclass(frozen=True, slots=True)
class Condition:
    """Comparisons put together. steps: (what, a number), each after what it takes: ATOM and which,
    NOT, AND, OR, or OF with k·256 + n.
    """

    atoms: tuple[Atom, ...]
    steps: tuple[tuple[int, int], ...]
    said: str

    @property
    def inputs(self) -> frozenset[str]:
        """All that it speaks of."""
        return frozenset(one.input for one in self.atoms)

    @property
    def values_of(self) -> frozenset[str]:
        """Of which inputs it looks at more than the status."""
        return frozenset(one.input for one in self.atoms if one.status is None)

    def told(self, truths: list[int]) -> int:
        """What the whole is, when its comparisons are so.

        >>> names = InputNames({"front": ("m", ()), "left": ("m", ())})
        >>> condition = read_condition("front < 0.4 or left < 0.3", names)
        >>> condition.told([UNKNOWN, TRUE]), condition.told([UNKNOWN, FALSE])
        (1, 2)
        """
        stack: list[int] = []
        for what, number in self.steps:
            if what == ATOM:
                stack.append(truths[number])
            elif what == NOT:
                stack.append(_opposite(stack.pop()))
            else:
                k, n = _asked(what, number)
                given = [stack.pop() for _ in range(n)]
                yes, perhaps = given.count(TRUE), given.count(UNKNOWN)
                stack.append(TRUE if yes >= k else UNKNOWN if yes + perhaps >= k else FALSE)
        return stack[0]


def _asked(what: int, number: int) -> tuple[int, int]:
    """How many of how many have to be true."""
    if what == AND:
        return 2, 2
    if what == OR:
        return 1, 2
    return number >> 8, number & 255


def _opposite(truth: int) -> int:
    return UNKNOWN if truth == UNKNOWN else 1 - truth


def read_condition(text: str, names: InputNames) -> Condition:
    """A condition from words. Raises ValueError that says what was read and what was expected.

    >>> names = InputNames({"front": ("m", ()), "line": ("", ("line", "lost"))})
    >>> read_condition("front < 42 cm and line is not lost", names).said
    'front below 0.42 m and line is not lost'
    """
    if not text.strip():
        raise ValueError("says nothing; write a condition such as “front < 0.42 m”")
    if len(text) > _LONGEST:
        raise ValueError(f"{_LONGEST} characters at most")
    return _Reader(text, names).read()


class _Reader:
    """Reads one condition, from left to right."""

    def __init__(self, text: str, names: InputNames) -> None:
        self.names = names
        self.tokens: list[tuple[str, str]] = []
        at = 0
        text = text.rstrip()
        while at < len(text):
            match = _TOKEN.match(text, at)
            if match is None:
                raise ValueError(f"“{text[at : at + 20].strip()}” cannot be read")
            assert match.lastgroup is not None
            self.tokens.append((match.lastgroup, match[match.lastgroup]))
            at = match.end()
        self.at = 0
        self.atoms: list[Atom] = []
        self.steps: list[tuple[int, int]] = []
        self.depth = 0

    def read(self) -> Condition:
        said = self._either()
        if self.at < len(self.tokens):
            raise ValueError(f"“{self._next()}” is not expected there")
        return Condition(tuple(self.atoms), tuple(self.steps), said)

    def _next(self) -> str:
        return self.tokens[self.at][1] if self.at < len(self.tokens) else ""

    def _take(self, *wanted: str) -> bool:
        if self._next() in wanted and self._next():
            self.at += 1
            return True
        return False

    def _take_both(self, one: str, other: str) -> bool:
        if [word for _, word in self.tokens[self.at : self.at + 2]] == [one, other]:
            self.at += 2
            return True
        return False

    def _either(self) -> str:
        self.depth += 1
        if self.depth > _DEEPEST:
            raise ValueError("it is nested too deep")
        said = self._both()
        while self._take("or"):
            said += f" or {self._both()}"
            self.steps.append((OR, 0))
        self.depth -= 1
        return said

    def _both(self) -> str:
        said = self._one()
        while self._take("and"):
            said += f" and {self._one()}"
            self.steps.append((AND, 0))
        return said

    def _one(self) -> str:
        if self._take("not"):
            self.depth += 1
            if self.depth > _DEEPEST:
                raise ValueError("it is nested too deep")
            said = f"not {self._one()}"
            self.depth -= 1
            self.steps.append((NOT, 0))
            return said
        if self._take("("):
            said = f"({self._either()})"
            if not self._take(")"):
                raise ValueError("a bracket is not closed")
            return said
        if self._is_group():
            return self._group()
        return self._compare([self._name()])

    def _is_group(self) -> bool:
        following = self.tokens[self.at + 1][1] if self.at + 1 < len(self.tokens) else ""
        return following == "of"

    def _group(self) -> str:
        """Any of, all of, or so many of several that are compared alike."""
        word = self._next()
        self.at += 2
        listed = [self._name()]
        while self._take(","):
            listed.append(self._name())
        counts = {"any": 1, "all": len(listed)}
        if word not in counts and not word.isdigit():
            raise ValueError(f"“{word[:20]} of”: write any, all or a number")
        k = counts[word] if word in counts else int(word)
        if not 1 <= k <= len(listed):
            raise ValueError(f"{k} of {len(listed)} cannot be")
        said = self._compare(listed)
        self.steps.append((OF, k << 8 | len(listed)))
        return f"{word} of {said}"

    def _name(self) -> str:
        if self.at >= len(self.tokens):
            raise ValueError("it ends where the name of an input is expected")
        sort, word = self.tokens[self.at]
        if sort != "word" or word in _RESERVED:
            raise ValueError(f"“{word[:20]}” stands where the name of an input is expected")
        self.names.of(word)
        self.at += 1
        return word

    def _compare(self, listed: list[str]) -> str:
        """A comparison of each input listed; what it says of the first is said of all."""
        start = self.at
        sentences = []
        for name in listed:
            self.at = start
            atom = self._comparison(name)
            self.atoms.append(atom)
            self.steps.append((ATOM, len(self.atoms) - 1))
            sentences.append(atom.said.removeprefix(name))
        return f"{', '.join(listed)}{sentences[0]}"

    def _comparison(self, name: str) -> Atom:
        unit, states = self.names.of(name)
        if self._take("says"):
            return self._status(name)
        if self._take("is"):
            return self._word(name, states)
        if states:
            raise ValueError(f"{name} is a decision; write {name} is {states[0]}")
        if self._take("<", "below"):
            value, said = self._amount(unit)
            return Atom(name, high=value, said=f"{name} below {said}")
        if self._take(">=", "≥") or self._take_both("at", "least"):
            value, said = self._amount(unit)
            return Atom(name, low=value, said=f"{name} at least {said}")
        if self._take(">", "above"):
            value, said = self._amount(unit)
            return Atom(name, low=math.nextafter(value, math.inf), said=f"{name} above {said}")
        if self._take("<=", "≤") or self._take_both("at", "most"):
            value, said = self._amount(unit)
            above = math.nextafter(value, math.inf)
            return Atom(name, high=above, said=f"{name} at most {said}")
        if self._take("between"):
            low, said_low = self._amount(unit)
            if not self._take("and"):
                raise ValueError("between wants two numbers with “and” between")
            high, said_high = self._amount(unit)
            if not low < high:
                raise ValueError(f"between {said_low} and {said_high} lies nothing")
            return Atom(name, low, high, said=f"{name} between {said_low} and {said_high}")
        after = self._next()
        found = f"“{after[:20]}” stands" if after else "it ends"
        raise ValueError(f"{found} where <, >, between, is or says is expected after {name}")

    def _status(self, name: str) -> Atom:
        is_not = self._take("not")
        word = self._next()
        if word not in _STATUS:
            raise ValueError(
                f"“{word[:30]}” is no status of a reading; there are {', '.join(_STATUS)}"
            )
        self.at += 1
        return Atom(
            name, status=_STATUS[word], is_not=is_not,
            said=f"{name} says {'not ' if is_not else ''}{word}",
        )  # fmt: skip

    def _word(self, name: str, states: tuple[str, ...]) -> Atom:
        is_not = self._take("not")
        if not states:
            raise ValueError(f"{name} is an amount; write {name} < a number, or {name} says ok")
        word = self._next()
        if word not in states:
            raise ValueError(f"{name} is never “{word[:30]}”; it is one of {', '.join(states)}")
        self.at += 1
        place = states.index(word)
        return Atom(
            name, place - 0.5, place + 0.5, is_not=is_not,
            said=f"{name} is {'not ' if is_not else ''}{word}",
        )  # fmt: skip

    def _amount(self, unit: str) -> tuple[float, str]:
        """A number in the input's own unit, and as it is said."""
        if self.at >= len(self.tokens) or self.tokens[self.at][0] != "number":
            raise ValueError(f"“{self._next()[:20]}” stands where a number is expected")
        value = float(self.tokens[self.at][1].replace("−", "-"))
        self.at += 1
        written = self._unit()
        scales = unit_scales(unit)
        if written and written not in scales:
            known = ", ".join(one for one in scales if one) or "no unit"
            raise ValueError(f"“{written[:20]}” is no unit of it; write {known}")
        value *= scales.get(written, 1.0)
        if not math.isfinite(value):
            raise ValueError("the number is not finite")
        return value, amount_said(value, unit)

    def _unit(self) -> str:
        """The unit that follows, if one does."""
        written = ""
        while self.at < len(self.tokens):
            sort, word = self.tokens[self.at]
            is_more = bool(written) and (written.endswith("/") or word in ("/", "²"))
            if sort == "number" and word == "2" and written.endswith("s"):
                word, is_more = "²", True
            if written and not is_more:
                break
            if sort not in ("word", "unit") and word not in ("/", "²"):
                break
            if word in _RESERVED:
                break
            written += word
            self.at += 1
        return written


def unit_scales(unit: str) -> Mapping[str, float]:
    """In which units an amount may be written, and how many of its own one of each is."""
    return _UNITS.get(unit, {unit: 1.0})


def amount_said(value: float, unit: str) -> str:
    """A number of an input as a person reads it.

    >>> amount_said(0.42, "m"), amount_said(math.radians(12), "rad")
    ('0.42 m', '12°')
    """
    how = displays(GRAVITIES if unit == "m/s²" else unit)["metric"]
    number = f"{value * how.scale + how.offset:.6g}".replace("-", "−")
    return f"{number}{how.unit}" if how.unit == "°" else f"{number} {how.unit}".rstrip()
