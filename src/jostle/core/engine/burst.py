"""Bursting machines: each saves credits while it gives less than its baseline, and spends them while it gives more."""

from jostle.core.compiled import hot, inner
from jostle.core.engine.code import Life
from jostle.core.engine.setup import Setup
from jostle.core.engine.state import State, noted

LEAST_PART = 0.02


@hot
def tired_part(setup: Setup, kind: int) -> float:
    """Part of its capacity that an instance of a kind gives once its credits are gone."""
    fixed = setup.fixed[0]
    return max(LEAST_PART, (setup.kinds[kind].baseline - fixed.idle_cpu) / max(LEAST_PART, fixed.full_cpu - fixed.idle_cpu))


@hot
def tired(setup: Setup, state: State) -> float:
    """Capacity that the serving instances lack because their credits are gone; in the unit of `can_do`."""
    return state.now[0].tired * setup.kinds[0].capacity * (1.0 - min(1.0, tired_part(setup, 0)))


@hot
def read_cpu(setup: Setup, state: State, cpu: float) -> float:
    """Mean CPU of the serving instances, of which those without credits give no more than their baseline."""
    now = state.now[0]
    if now.tired == 0 or now.serving == 0:
        return cpu
    return cpu - min(now.tired, now.serving) * max(0.0, cpu - setup.kinds[0].baseline) / now.serving


@inner
def burst(setup: Setup, state: State, k: int) -> None:
    """Credits earned and spent over tick k by the serving instances. The sum is kept in seconds of one whole vCPU."""
    now = state.now[0]
    fixed = setup.fixed[0]
    now.tired = 0
    for a in range(now.living):
        one = state.instances[state.alive[a]]
        if one.state != Life.SERVING:
            continue
        kind = setup.kinds[one.kind]
        cpu = one.cpu if now.own_lines else state.series[noted(state, k)].cpu
        one.credits = min(kind.most_credits, one.credits + (kind.baseline - cpu) * kind.vcpus * fixed.tick)
        one.tired = one.credits <= 0.0
        if one.tired:
            one.credits = 0.0
            now.tired += 1
    now.tired_ticks += now.tired
    if now.tired > 0:
        now.uneven = True
