"""The route that composes a demand from a series that was brought."""

from fastapi import APIRouter
from pydantic import BaseModel, Field

from jostle.api.demand_routes import demand_of
from jostle.api.desk import DeskDep, PlanDep
from jostle.api.group_routes import checked_name
from jostle.api.problem import RESPONSES
from jostle.api.turns import LongRoute
from jostle.core.fitting.composed import composed
from jostle.core.plan.layer import Brought
from jostle.core.plan.plan import Plan
from jostle.core.plan.problem import PlanError, Problem

router = APIRouter(prefix="/api/plans/{plan_id}/demands", responses=RESPONSES, route_class=LongRoute)


class WhichLayer(BaseModel):
    key: str = Field(pattern=r"^layers\.\d{1,2}$", description="Path of a layer with a brought series, such as layers.0")


class ComposedDemand(BaseModel):
    """The new demand's name, and what is to be known of how it was composed."""

    name: str
    said: list[str]


@router.post("/{name}/composed", status_code=201)
def compose_demand(name: str, wanted: WhichLayer, kept: PlanDep, desk: DeskDep) -> ComposedDemand:
    """A new demand of layers that can be edited, composed from a series that was brought to another."""
    plan, layer = kept.plan, _brought(kept.plan, name, wanted.key)
    assert layer.samples is not None
    samples = layer.samples.model_copy(update={"rates": [layer.scale * rate for rate in layer.samples.rates]})
    found = composed(samples, plan.zone, plan.start)
    demand = found.demand.model_copy(update={"note": f"Composed from {layer.file}: {'; '.join(found.said)}."[:2000]})
    stem = f"{name}-composed"
    made = next(one for one in (stem, *(f"{stem}-{n}" for n in range(2, len(plan.demands) + 3))) if one not in plan.demands)
    checked_name(made)
    desk.store.change_plan(kept, plan.model_copy(update={"demands": {**plan.demands, made: demand}}))
    return ComposedDemand(name=made, said=found.said)


def _brought(plan: Plan, name: str, key: str) -> Brought:
    layers, number = demand_of(plan, name).layers, int(key.removeprefix("layers."))
    one = layers[number] if number < len(layers) else None
    if not isinstance(one, Brought) or one.samples is None:
        told = [f"layers.{k}" for k, layer in enumerate(layers) if isinstance(layer, Brought)]
        raise PlanError([Problem(("key",), key, f"is no layer with a series from a file; there is: {', '.join(told) or 'none'}")])
    return one
