"""Large answers as JSON: views whose columns are arrays are written as they stand, nan as null."""

from decimal import Decimal
from typing import Any

import numpy as np
import orjson
from fastapi import Response
from numpy.typing import NDArray
from pydantic import BaseModel


def json_answer(view: BaseModel) -> Response:
    """A view that was constructed rather than validated, its columns left as arrays."""
    body = orjson.dumps(view, default=_plain, option=orjson.OPT_SERIALIZE_NUMPY | orjson.OPT_NON_STR_KEYS)
    return Response(body, media_type="application/json")


def column(values: NDArray[Any]) -> Any:
    """Values as a column of an answer, in one piece of memory."""
    return np.ascontiguousarray(values)


def _plain(value: Any) -> Any:
    if isinstance(value, BaseModel):
        return value.__dict__
    if isinstance(value, Decimal):
        return float(value)
    raise TypeError(f"{type(value).__name__} has no place in an answer")
