"""A table of what a row sees and what the rig does: following a line, or keeping to a table."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, ClassVar

from tickstone.core.finding import Finding
from tickstone.core.inputs import Choice, check_inputs, choice, number, words
from tickstone.core.line_codes import MOST_IN_TABLE, Combination, combinations
from tickstone.core.reading_units import MILLISECONDS
from tickstone.core.rules.following import following_sum
from tickstone.core.rules.kind import Known, RuleKind, Suggestion, TableRow
from tickstone.core.stages.line_action import ACTION, HOLE, LETTERS, LineAction

TWO_WAYS, THREE_WAYS, GRADED, EDGE = "two-ways", "three-ways", "graded", "edge"
_SCHEMES = (
    Choice(THREE_WAYS, "follow: straight, or ease to a side"),
    Choice(GRADED, "follow: hard to a side when it lies far out"),
    Choice(TWO_WAYS, "follow: always to one side or the other"),
    Choice(EDGE, "keep on a dark table: back up and turn at its edge"),
)
_LEFT, _RIGHT = "lL", "rR"
_DRIVES_ON = "FlrK"
"""Actions that carry the rig forward, or may."""


@dataclass(frozen=True, slots=True)
class LineTableParameters:
    """The table, how long a sight has to stand and an action to last. Raises ValueError."""

    table: str = words("Table", "", "a letter for each combination")
    debounce_s: float = number(
        "Has to stand for", "s", 0.0, 0.0, 10.0, "shorter sights are passed over",
        shown_as=MILLISECONDS, decimals=0,
    )  # fmt: skip
    least_s: float = number(
        "An action lasts at least", "s", 0.0, 0.0, 10.0, "a stop and backing up come at once",
        shown_as=MILLISECONDS, decimals=0,
    )  # fmt: skip

    def __post_init__(self) -> None:
        check_inputs(self)
        if self.table:
            LineAction(self.table, True, False, self.debounce_s, self.least_s)


@dataclass(frozen=True, slots=True)
class LineTableEvidence:
    """What the rig is to do."""

    scheme: str = choice("It is to", _SCHEMES)
    at_all: str = choice(
        "All on the line",
        (
            Choice("F", "drive over it: a crossing"),
            Choice("S", "stop: a bar"),
            Choice("K", "as before"),
        ),
    )

    def __post_init__(self) -> None:
        check_inputs(self)


class LineTable(RuleKind):
    """An action for every combination of a row."""

    name: ClassVar[str] = "line-table"
    label: ClassVar[str] = "What it does"
    parameters: ClassVar[type] = LineTableParameters
    evidence: ClassVar[type] = LineTableEvidence
    takes: ClassVar[str] = "state"
    node: ClassVar[str] = "action"
    decision = ACTION
    words: ClassVar[tuple[str, str]] = ("What the rig is to do", "The table")
    keep: ClassVar[str] = "the table"
    unset: ClassVar[str] = "Nothing says what the rig does at what the row sees."
    caution: ClassVar[str] = (
        "Try it with the wheels off the floor first, and keep a stop within reach. Tick Stone is "
        "not a safety device."
    )

    def stage(self, parameters: LineTableParameters, chain_parameters: Any) -> LineAction:
        """The table. Raises ValueError while it is empty."""
        if not parameters.table:
            raise ValueError("table: there is none yet")
        return LineAction(
            parameters.table,
            chain_parameters.line_is == "dark",
            chain_parameters.first_is == "right",
            parameters.debounce_s,
            parameters.least_s,
        )

    def suggest(
        self,
        evidence: LineTableEvidence,
        known: Known,
        tried: LineTableParameters | None = None,
    ) -> Suggestion:
        """A table for as many sensors as are heard. Raises ValueError when that is not known."""
        if not known.lanes:
            raise ValueError("how many sensors the row has is not known: listen to it first")
        if known.lanes > MOST_IN_TABLE:
            raise ValueError(
                f"{known.lanes} sensors have {2**known.lanes} combinations, more than a table "
                "holds; steer by the place of the line instead"
            )
        all_of = combinations(known.lanes)
        told = "".join(_action(one, evidence) for one in all_of)
        in_hand = tried.table if tried is not None and len(tried.table) == len(told) else told
        found = _findings(all_of, in_hand, evidence.scheme)
        holes = in_hand.count(HOLE)
        return Suggestion(
            parameters={"table": told},
            parts=(),
            note=f"{len(all_of)} combinations of {known.lanes} sensors, from left to right.",
            tried_says=f"{holes} combinations have no action." if holes else "",
            tried_fails=holes > 0,
            findings=tuple(found),
            table=tuple(
                TableRow(
                    one.code,
                    one.picture,
                    one.name,
                    _meaning(one, evidence.scheme),
                    in_hand[one.code],
                    told[one.code],
                    one.groups <= 1,
                )
                for one in _in_order(all_of)
            ),
            table_words=tuple(
                (letter, "as before" if letter == "K" else ACTION.states[place].word)
                for place, letter in enumerate(LETTERS)
            ),
            sum=None if evidence.scheme == EDGE else following_sum(known),
        )

    def short(self, parameters: LineTableParameters) -> str:
        """How many combinations it tells."""
        told = len(parameters.table) - parameters.table.count(HOLE)
        return f"{told} of {len(parameters.table)} told"

    def sentence(self, parameters: LineTableParameters, needed: float | None) -> str:
        """How many combinations it tells."""
        return f"An action for {self.short(parameters).replace(' told', ' combinations')}."

    def failing(
        self, parameters: LineTableParameters, needed: float | None
    ) -> tuple[str, str] | None:
        """When a combination that one line can give has no action."""
        if len(parameters.table) < 2:
            return "nothing told", "No combination has an action: the rig stops at each."
        holes = [
            one
            for one in combinations(len(parameters.table).bit_length() - 1)
            if parameters.table[one.code] == HOLE and one.groups <= 1
        ]
        if not holes:
            return None
        return "a hole", f"{holes[0].picture} has no action: the rig stops there."


def _action(one: Combination, evidence: LineTableEvidence) -> str:
    """What a scheme does at one combination."""
    if evidence.scheme == EDGE:
        return "F" if one.many == len(one.on) else "B"
    if one.many == len(one.on) and len(one.on) > 1:
        return evidence.at_all
    if not one.many:
        return "K"
    side = one.side
    if len(one.on) == 1 or evidence.scheme == TWO_WAYS:
        return "l" if side < 0.0 else "r" if side > 0.0 else "F"
    if abs(side) < 1e-9:
        return "F"
    is_far = evidence.scheme == GRADED and abs(side) > 0.6
    way = _LEFT if side < 0.0 else _RIGHT
    return way[1] if is_far else way[0]


def _in_order(all_of: Sequence[Combination]) -> list[Combination]:
    """None, then from left to right, then all."""
    return sorted(all_of, key=lambda one: (one.many == len(one.on), one.many > 0, one.side))


def _meaning(one: Combination, scheme: str) -> str:
    if scheme != EDGE:
        return one.meaning
    if one.many == len(one.on):
        return "all over the table"
    return "over the edge" if not one.many else "partly over the edge"


def _findings(all_of: Sequence[Combination], table: str, scheme: str) -> list[Finding]:
    """Holes, and actions that contradict what is seen: away from the line, or on over an edge."""
    found = []
    holes = [one for one in all_of if table[one.code] == HOLE]
    if holes:
        pictures = ", ".join(one.picture for one in holes[:4])
        found.append(
            Finding(
                "error" if any(one.groups <= 1 for one in holes) else "warning",
                f"{len(holes)} combinations have no action.",
                f"{pictures}{' …' if len(holes) > 4 else ''}: the rig stops there.",
                "Choose an action for each.",
            )
        )
    if scheme == EDGE:
        over = [one for one in all_of if one.many < len(one.on) and table[one.code] in _DRIVES_ON]
        if over:
            found.append(
                Finding(
                    "error",
                    f"{over[0].picture} drives on with the edge under it.",
                    "A sensor sees the table no more.",
                    "Stop there, back up, or turn on the spot.",
                )
            )
        return found
    away = [
        one
        for one in all_of
        if one.groups == 1
        and one.many < len(one.on)
        and (
            (one.side < -1e-9 and table[one.code] in _RIGHT)
            or (one.side > 1e-9 and table[one.code] in _LEFT)
        )
    ]
    if away:
        found.append(
            Finding(
                "warning",
                f"{away[0].picture} steers away from the line.",
                "The line lies on the one side, and the action turns to the other.",
                "Turn it round, unless the row is mounted behind the wheels.",
            )
        )
    uneven = [
        one
        for one in all_of
        if one.groups == 1 and one.code < _mirrored(one).code
        and _turned(table[one.code]) != table[_mirrored(one).code]
    ]  # fmt: skip
    if uneven and not away and not holes:
        other = _mirrored(uneven[0])
        found.append(
            Finding(
                "note",
                f"{uneven[0].picture} and {other.picture} do not mirror each other.",
                "The same sight on either side is answered differently.",
                "",
            )
        )
    return found


def _mirrored(one: Combination) -> Combination:
    return Combination(one.on[::-1])


def _turned(letter: str) -> str:
    """The action of the mirrored sight."""
    return letter.translate(str.maketrans("lLrR", "rRlL"))
