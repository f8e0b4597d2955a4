"""Stages that were made for other inputs than they get, such as for a row of another length."""

from __future__ import annotations

from tickstone.core.chain import Chain
from tickstone.core.finding import Finding


class MisfitError(ValueError):
    """What does not fit, and what would mend it: each goes on as a sentence would.

    >>> MisfitError("the table is for 5 sensors, but 3 are heard", "make it anew").finding.remedy
    'Make it anew.'
    """

    def __init__(self, what: str, remedy: str, short: str = "another row") -> None:
        super().__init__(f"{what}; {remedy}")
        self.short = short
        self.what = what
        self.remedy = remedy

    @property
    def grounds(self) -> tuple[str, str]:
        """Why what was made so does not hold: a few words, and a sentence or two."""
        return self.short, f"{self.finding.title} {self.finding.remedy}"

    @property
    def finding(self) -> Finding:
        """What is said where the stage is left out."""
        return Finding(
            "error", f"{_begun(self.what)}.", "It is left out here.", f"{_begun(self.remedy)}."
        )


def _begun(words: str) -> str:
    return words[:1].upper() + words[1:]


def first_misfit(chain: Chain) -> tuple[str, MisfitError] | None:
    """The first node whose stage cannot take what it gets; None when all fit."""
    given = {one.at: one.quantity for one in chain.inputs}
    for node in chain.nodes:
        try:
            given[node.name] = node.stage.gives(*(given[before] for before in node.after))
        except MisfitError as error:
            return node.name, error
    return None
