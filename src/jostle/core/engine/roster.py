"""Several groups one behind the other, as compiled code takes them up in turn: one compiled form, however many there are.

A tuple of groups would be another type for each number of them, and every number would be compiled by itself. Here the setup and
the state of each are laid down in memory as the compiled code holds them, addresses of arrays and all, and are taken up there.
"""

from typing import Any

import numpy as np
from llvmlite import ir  # type: ignore[import-untyped]
from numba.core import types
from numba.core.types.containers import Tuple
from numba.extending import intrinsic
from numpy.typing import NDArray

from jostle.core.compiled import leaf
from jostle.core.engine.setup import Setup
from jostle.core.engine.state import State
from jostle.core.reference import PLACE, part_of


@intrinsic
def _size_of(_: Any, held: Any) -> Any:
    """Bytes that something takes."""

    def made(context: Any, builder: Any, signature: Any, arguments: Any) -> Any:
        return context.get_constant(types.int64, context.get_abi_sizeof(context.get_value_type(signature.args[0])))

    return types.int64(held), made


def _at(context: Any, builder: Any, address: ir.Value, kind: Any) -> ir.Value:
    return builder.inttoptr(address, context.get_value_type(kind).as_pointer())


@intrinsic
def _lay_down(_: Any, address: Any, held: Any) -> Any:
    """Write something to an address."""

    def made(context: Any, builder: Any, signature: Any, arguments: Any) -> Any:
        builder.store(arguments[1], _at(context, builder, arguments[0], signature.args[1]))
        return context.get_dummy_value()

    return types.void(address, held), made


@intrinsic
def take_up(_: Any, address: Any, like: Any) -> Any:
    """References to the two that were laid down at an address, of the same types as those of `like`."""

    def made(context: Any, builder: Any, signature: Any, arguments: Any) -> Any:
        pair = _at(context, builder, arguments[0], Tuple([one.held for one in signature.args[1].types]))
        parts = [part_of(builder, pair, number) for number in range(2)]
        return context.make_tuple(builder, signature.return_type, [builder.bitcast(part, PLACE) for part in parts])

    return like(address, like), made


@leaf
def _width(setup: Setup, state: State) -> int:
    return _size_of((setup, state))


@leaf
def _write(address: int, setup: Setup, state: State) -> None:
    _lay_down(address, (setup, state))


class Roster:
    """Setups with their states. It keeps them for as long as it is kept itself; what compiled code is given are `addresses`."""

    def __init__(self, setups: list[Setup], states: list[State]) -> None:
        self.setups, self.states = list(setups), list(states)
        words = -(-_width(setups[0], states[0]) // 8)
        self._memory: NDArray[np.int64] = np.zeros((len(setups), words), np.int64)
        self.addresses: NDArray[np.int64] = np.array([row.ctypes.data for row in self._memory], np.int64)
        for number, state in enumerate(states):
            self.put(number, state)

    def put(self, number: int, state: State) -> None:
        """Another state in the place of one, as when it was given more room."""
        self.states[number] = state
        _write(int(self.addresses[number]), self.setups[number], state)
