"""How the arrays under one name are laid down for compiled code: said where each is declared."""

from typing import Annotated, NamedTuple

import numpy as np
from numpy.typing import NDArray


class One(NamedTuple):
    """One row of a structure."""

    of: np.dtype


class Many(NamedTuple):
    """Rows of a structure, or plain numbers, along so many axes."""

    of: np.dtype | str
    axes: int = 1


Floats = Annotated[NDArray[np.float64], Many("f8")]
FloatGrid = Annotated[NDArray[np.float64], Many("f8", 2)]
FloatBlock = Annotated[NDArray[np.float64], Many("f8", 3)]
Singles = Annotated[NDArray[np.float32], Many("f4")]
SingleGrid = Annotated[NDArray[np.float32], Many("f4", 2)]
SingleBlock = Annotated[NDArray[np.float32], Many("f4", 3)]
Longs = Annotated[NDArray[np.int64], Many("i8")]
LongGrid = Annotated[NDArray[np.int64], Many("i8", 2)]
LongBlock = Annotated[NDArray[np.int64], Many("i8", 3)]
Ints = Annotated[NDArray[np.int32], Many("i4")]
IntGrid = Annotated[NDArray[np.int32], Many("i4", 2)]
Shorts = Annotated[NDArray[np.int16], Many("i2")]
Bytes = Annotated[NDArray[np.int8], Many("i1")]
FlagBlock = Annotated[NDArray[np.bool_], Many("?", 3)]
