"""When a battery is empty: a cut-off for each cell, and a band before it is trusted again."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, ClassVar

from tickstone.core.inputs import Choice, check_inputs, choice, number
from tickstone.core.quantity import VOLTAGE, DecisionState, Quantity
from tickstone.core.rules.kind import Known, Level, Part, RuleKind, Suggestion
from tickstone.core.stages.two_thresholds import TwoThresholds, Words
from tickstone.core.uncertainty import expanded

CHARGE = Quantity(
    "charge", "",
    states=(
        DecisionState("fine", "fine"),
        DecisionState("empty", "empty", is_alarm=True),
        DecisionState("blind", "blind", is_alarm=True),
    ),
)  # fmt: skip
_CHEMISTRIES = {
    "lithium": ("lithium, 3.7 V", 3.3),
    "iron": ("lithium iron, 3.2 V", 2.8),
    "nickel": ("nickel, 1.2 V", 1.0),
    "alkaline": ("alkaline, 1.5 V", 0.9),
}
"""Where a cell under load is called empty; common practice."""


@dataclass(frozen=True, slots=True)
class CellCutOffParameters:
    """Volts of one cell. Raises ValueError when there is no band."""

    empty_v: float = number("Empty below", "V", 3.3, 0.1, 10.0, "of one cell", decimals=2)
    again_v: float = number(
        "Fine again above", "V", 3.5, 0.1, 10.0, "it recovers when the load is gone", decimals=2
    )
    dwell_s: float = number(
        "Only after", "s", 2.0, 0.0, 600.0, "a start of the motors dips it for less", decimals=1
    )

    def __post_init__(self) -> None:
        check_inputs(self)
        if not self.empty_v < self.again_v:
            raise ValueError("again_v: has to lie above where it is called empty")


@dataclass(frozen=True, slots=True)
class CellCutOffEvidence:
    """What kind of cells they are."""

    chemistry: str = choice(
        "Cells", tuple(Choice(name, label) for name, (label, _) in _CHEMISTRIES.items())
    )

    def __post_init__(self) -> None:
        check_inputs(self)


class CellCutOff(RuleKind):
    """Stop before a cell is harmed."""

    name: ClassVar[str] = "cell-cut-off"
    label: ClassVar[str] = "Cut-off"
    parameters: ClassVar[type] = CellCutOffParameters
    evidence: ClassVar[type] = CellCutOffEvidence
    takes: ClassVar[str] = "cell"
    node: ClassVar[str] = "cut-off"
    decision = CHARGE
    words: ClassVar[tuple[str, str]] = ("What it runs on", "When it is empty")
    keep: ClassVar[str] = "the cut-off"
    unset: ClassVar[str] = "No cut-off is set."
    caution: ClassVar[str] = (
        "Never run a lithium cell below its cut-off, nor charge it unattended; use its charger."
    )

    def stage(self, parameters: CellCutOffParameters, chain_parameters: Any) -> TwoThresholds:
        """Two thresholds and a wait."""
        return TwoThresholds(
            parameters.empty_v, parameters.again_v, CHARGE, Words("empty", "fine again", "U"),
            blind_after_s=10.0, dwell_s=parameters.dwell_s,
        )  # fmt: skip

    def suggest(
        self, evidence: CellCutOffEvidence, known: Known, tried: CellCutOffParameters | None = None
    ) -> Suggestion:
        """What is usual for the cells, and the reading's ± on top."""
        label, usual_v = _CHEMISTRIES[evidence.chemistry]
        spread_v = expanded(known.u_at(usual_v))
        empty_v = round(usual_v + spread_v, 2)
        again_v = round(empty_v + max(0.05 * usual_v, spread_v), 2)
        shown = tried or CellCutOffParameters(empty_v, again_v)
        return Suggestion(
            parameters={"empty_v": empty_v, "again_v": again_v},
            parts=(
                Part(f"empty, {label}", usual_v, VOLTAGE, "under load; common practice"),
                Part("reading’s ±", spread_v, VOLTAGE, "so that it is never read too full"),
                Part("empty below", empty_v, VOLTAGE, "", is_total=True),
            ),
            note="Follow the maker’s sheet of the cells where it says otherwise.",
            needed=empty_v,
            tried_says=(
                ""
                if shown.empty_v >= usual_v
                else f"A cell is harmed below {VOLTAGE.said(usual_v, 2)}."
            ),
            tried_fails=shown.empty_v < usual_v,
        )

    def lines(self, parameters: CellCutOffParameters) -> tuple[Level, ...]:
        """Both thresholds."""
        return (
            Level(parameters.empty_v, "empty", "below", is_alarm=True),
            Level(parameters.again_v, "fine again", "above", is_alarm=False),
        )

    def short(self, parameters: CellCutOffParameters) -> str:
        """Where it stops."""
        return f"empty below {VOLTAGE.said(parameters.empty_v, 2)}"

    def sentence(self, parameters: CellCutOffParameters, needed: float | None) -> str:
        """Both."""
        return (
            f"Empty below {VOLTAGE.said(parameters.empty_v, 2)} a cell, fine again above "
            f"{VOLTAGE.said(parameters.again_v, 2)}."
        )
