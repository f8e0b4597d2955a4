"""Shared ground of all bodies."""

from __future__ import annotations

from typing import Annotated, Any, Self

from pydantic import BaseModel, ConfigDict, Field, StringConstraints, model_validator


class Body(BaseModel):
    """Unknown fields and infinite numbers are refused; rows of the store can be read directly."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False, from_attributes=True)

    @model_validator(mode="after")
    def _is_text(self) -> Self:
        """Whatever text is in it can be written down: no zero bytes, no halves of characters."""
        waiting: list[Any] = list(vars(self).values())
        while waiting:
            one = waiting.pop()
            if isinstance(one, str):
                if "\0" in one or any("\ud800" <= letter <= "\udfff" for letter in one):
                    raise ValueError("it holds a character that no text has (zero, or half of one)")
            elif isinstance(one, dict):
                waiting += [*one.keys(), *one.values()]
            elif isinstance(one, list | tuple):
                waiting += one
        return self


class Answer(BaseModel):
    """What the server says. Every field is always there."""

    model_config = ConfigDict(
        from_attributes=True, json_schema_serialization_defaults_required=True
    )


Name = Annotated[
    str,
    StringConstraints(
        strip_whitespace=True, min_length=1, max_length=120, pattern=r"^[^\x00-\x1f\x7f]*$"
    ),
]
Words = Annotated[
    str, StringConstraints(strip_whitespace=True, max_length=2_000, pattern=r"^[^\x00]*$")
]
Metres = Annotated[float, Field(ge=-20, le=20)]
Seconds = Annotated[float, Field(ge=0, le=1e9)]
