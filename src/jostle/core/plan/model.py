"""The base of every object in a plan: unknown keys are refused, values cannot be changed in place."""

import hashlib
from collections.abc import Mapping
from functools import cached_property
from typing import Any, ClassVar, Self, get_args

from pydantic import BaseModel, ConfigDict


class Model(BaseModel):
    """`formerly` has what a field was called before, with what it is called now."""

    formerly: ClassVar[Mapping[str, str]] = {}
    # Built when it is first used: what reads a plan builds all at once
    model_config = ConfigDict(
        extra="forbid", frozen=True, allow_inf_nan=False, validate_by_name=True, serialize_by_alias=True, defer_build=True
    )

    @cached_property
    def content(self) -> str:
        """A key that two objects share if and only if they say the same."""
        said = f"{type(self).__name__} {self.model_dump_json()}"
        return hashlib.blake2b(said.encode(), digest_size=16).hexdigest()

    def model_copy(self, *, update: Mapping[str, Any] | None = None, deep: bool = False) -> Self:
        copied = super().model_copy(update=update, deep=deep)
        copied.__dict__.pop("content", None)
        return copied


def kind_of(model: type[Model]) -> str:
    """The kind that a model of several says it is."""
    kind: str = get_args(model.model_fields["kind"].annotation)[0]
    return kind
