"""The base of every object in a plan: unknown keys are refused, values cannot be changed in place."""

from pydantic import BaseModel, ConfigDict


class Model(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True, allow_inf_nan=False, validate_by_name=True, serialize_by_alias=True)
