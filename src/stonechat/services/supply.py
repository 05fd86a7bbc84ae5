"""Supply: what to leave a stop with."""

from collections.abc import Mapping
from dataclasses import replace
from uuid import UUID

from stonechat.core.plan.plan import START, Plan
from stonechat.services.history import OpenPlan, change_plan
from stonechat.services.line import stop_named
from stonechat.services.workspace import Workspace


def set_supply(
    workspace: Workspace,
    plan_id: UUID,
    variant_id: str,
    *,
    revision: int,
    stop_id: str,
    water: float | None,
    food: float | None,
) -> OpenPlan:
    """Set litres and kcal to leave a stop with (`start` for the start); None goes back to what the model needs."""

    def with_value(current: Mapping[str, float], value: float | None) -> Mapping[str, float]:
        kept = {key: amount for key, amount in current.items() if key != stop_id}
        return kept if value is None else {**kept, stop_id: value}

    def change(plan: Plan) -> Plan:
        if stop_id != START:
            stop_named(plan, stop_id)
        variant = plan.variant(variant_id)
        supply = replace(
            variant.supply,
            water_by_stop=with_value(variant.supply.water_by_stop, water),
            food_by_stop=with_value(variant.supply.food_by_stop, food),
        )
        return plan.with_variant(replace(variant, supply=supply))

    return change_plan(workspace, plan_id, revision=revision, label="set what to leave with", change=change)
