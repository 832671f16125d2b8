"""The base of every immutable value."""

from typing import Self

from pydantic import BaseModel, ConfigDict


class Value(BaseModel):
    """Base of every immutable value: no unknown fields, no infinities."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)

    def changed(self, **parts: object) -> Self:
        """The same value with other parts, validated anew.

        Raises
        ------
        ValidationError
            When it would not be a value of its kind, such as one with too many readings.
        """
        kept = {name: getattr(self, name) for name in type(self).model_fields}
        return type(self).model_validate(kept | parts)
