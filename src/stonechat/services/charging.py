"""What is told of batteries."""

from typing import Any

from stonechat.core.charge.report import BatteryLine, Charge
from stonechat.core.plan.evaluate import evaluate
from stonechat.core.plan.plan import Plan


def charge_report(plan: Plan, variant_id: str) -> dict[str, Any]:
    """Return what becomes of every battery."""
    charge = evaluate(plan, variant_id).ridden.report(Charge)
    return {
        "plan": plan.name,
        "variant": variant_id,
        "dark_h": charge.dark_hours,
        "light_h_of_its_own": charge.light_hours,
        "stored_wh": charge.stored,
        "from_hub_wh": charge.hub,
        "sockets_could_give_wh": charge.wall,
        "taken_wh": charge.run.taken,
        "used_wh": charge.run.used,
        "lost_wh": charge.run.lost,
        "least_left_wh": charge.spare,
        "batteries": [_entry(line) for line in charge.lines],
        "labels_to_check": [bank.name for bank in charge.doubted],
    }


def _entry(line: BatteryLine) -> dict[str, Any]:
    return {
        "thing": line.thing.id,
        "name": line.thing.name,
        "role": line.thing.role,
        "capacity_wh": line.thing.capacity,
        "own_figure": line.thing.is_told,
        "lowest": line.lowest,
        "lowest_km": line.lowest_km / 1e3,
        "at_the_finish": line.ends,
        "flat_km": None if line.flat_km is None else line.flat_km / 1e3,
        "lacks_wh": line.unmet,
    }


def charge_sentences(report: dict[str, Any]) -> list[str]:
    """Return what the command line prints without `--json`."""
    told = [
        f"{report['dark_h']:.1f} h ridden in the dark; batteries hold {report['stored_wh']:.0f} Wh, sockets could give "
        f"{report['sockets_could_give_wh']:.0f}, the hub gives {report['from_hub_wh']:.0f}"
    ]
    for entry in report["batteries"]:
        if entry["role"] == "spare":
            continue
        flat = (
            "never flat"
            if entry["flat_km"] is None
            else f"flat from km {entry['flat_km']:.0f}, lacks {entry['lacks_wh']:.0f} Wh"
        )
        told.append(f"{entry['name']}: {flat}; lowest {entry['lowest']:.0%} at km {entry['lowest_km']:.0f}")
    return told
