"""Filters side by side."""

from __future__ import annotations

from pydantic import ConfigDict, Field

from tickstone.api.schemas.base import Answer, Body
from tickstone.api.schemas.bench import InputOut, QuantityOut, inputs_out
from tickstone.api.schemas.look import Draft, LineOfSamplesOut
from tickstone.core.filters.kind import FilterKind


class FilterAsked(Body):
    """A filter as it is typed, such as ``median:n=5``; run there and back when in hindsight."""

    words: str = Field(min_length=1, max_length=200)
    is_hindsight: bool = False


class FiltersIn(Body):
    """What to compare on which stretch. speed_m_per_s: of the rig, for what a delay costs."""

    model_config = ConfigDict(
        json_schema_extra={"examples": [{"filters": [{"words": "median:n=5"}]}]}
    )

    output: str = Field(default="", max_length=40)
    lane: int = Field(default=0, ge=0, le=63)
    filters: list[FilterAsked] = Field(default_factory=list, max_length=6)
    speed_m_per_s: float = Field(default=0.0, ge=0.0, le=1000.0)
    from_s: float | None = Field(default=None, ge=-1e9, le=1e9)
    to_s: float | None = Field(default=None, ge=-1e9, le=1e9)
    draft: Draft = Field(default_factory=Draft)


class ChannelFiltersIn(Body):
    """The same, of a channel as it came."""

    model_config = ConfigDict(
        json_schema_extra={"examples": [{"filters": [{"words": "kalman:q=1e-3,r=4e-2"}]}]}
    )

    filters: list[FilterAsked] = Field(default_factory=list, max_length=6)
    speed_m_per_s: float = Field(default=0.0, ge=0.0, le=1000.0)
    from_s: float | None = Field(default=None, ge=-1e9, le=1e9)
    to_s: float | None = Field(default=None, ge=-1e9, le=1e9)


class InnovationsOut(Answer):
    """Whether a Kalman filter's own claims hold. gain: once run in."""

    ratio: float | None
    echo: float | None
    is_fine: bool
    says: str
    gain: float


class FilteredOut(Answer):
    """One filter. noise, rise_s, delay_s: SI; overshoot, spike: shares. costs_m: on the way to a
    stop. Null where that is longer than can be told. hz, density: its spectrum.
    """

    words: str
    is_hindsight: bool
    noise: float | None
    noise_share: float | None
    rise_s: float | None
    delay_s: float | None
    overshoot: float | None
    spike: float | None
    spikes: int
    costs_m: float | None
    line: LineOfSamplesOut
    hz: list[float]
    density: list[float]
    innovations: InnovationsOut | None


class SuggestedOut(Answer):
    """R and Q from the recording itself. share: of the exponential filter that is the same."""

    r: float
    q_fast: float
    fastest: float
    q_likely: float
    r_likely: float
    share: float


class ComparisonOut(Answer):
    """All of it; the first line is that of no filter. is_still: whether noise is told of stretches
    that were held still. samples: compared on, of how many. can_take: whether the sensor's chain
    has a place for one on this output. filtered: the output it has one on. taken: the filter in it.
    """

    quantity: QuantityOut
    noise: float
    is_still: bool
    spikes: int
    gap_s: float
    samples: int
    of: int
    rows: list[FilteredOut]
    suggested: SuggestedOut
    can_take: bool
    filtered: str
    taken: str


class FilterKindOut(Answer):
    """A kind of filter, and what may be set."""

    name: str
    label: str
    what: str
    inputs: list[InputOut]

    @classmethod
    def of(cls, kind: FilterKind) -> FilterKindOut:
        return cls(
            name=kind.name, label=kind.label, what=kind.what, inputs=inputs_out(kind.parameters)
        )
