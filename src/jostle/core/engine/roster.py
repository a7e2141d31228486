"""Several groups, laid down where compiled code takes them up in turn."""

import numpy as np

from jostle.core.built.laid import Longs
from jostle.core.built.play import group_words, lay_group
from jostle.core.engine.setup import Setup
from jostle.core.engine.state import State


class Roster:
    """Setups with their states. It keeps them for as long as it is kept itself; what compiled code is given are `addresses`."""

    def __init__(self, setups: list[Setup], states: list[State]) -> None:
        self.setups, self.states = list(setups), list(states)
        self._memory = np.zeros((len(setups), group_words()), np.int64)
        self.addresses: Longs = np.array([row.ctypes.data for row in self._memory], np.int64)
        for number, state in enumerate(states):
            self.put(number, state)

    def put(self, number: int, state: State) -> None:
        """Another state in the place of one, as when it was given more room."""
        self.states[number] = state
        lay_group(self.setups[number], state, int(self.addresses[number]))
