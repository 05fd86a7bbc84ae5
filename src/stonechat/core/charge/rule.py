"""The rule by which a rider charges: what the hub feeds and when, what a bank tops up, what is done at sockets."""

from dataclasses import dataclass

HUB_INTO = {"bank": "banks first, devices from them", "devices": "devices first, then banks", "off": "nothing"}
HUB_WHEN = {
    "always": "always",
    "needed": "only below a share of all that is stored",
    "fast": "only faster than 25 km/h, where much of it is braked away anyway",
    "legs": "on the legs that are named",
}
AT_SOCKETS = {"emptiest": "the emptiest first", "devices": "devices first", "banks": "banks first", "none": "nothing"}
LIGHT = {"need": "as the way needs it", "low": "low", "mid": "middle", "high": "high"}
DAY, NIGHT = "day", "night"


@dataclass(frozen=True, kw_only=True)
class ChargingRule:
    """How a rider charges, editable."""

    hub: str = "bank"  # key of HUB_INTO
    hub_when: str = "always"  # key of HUB_WHEN
    hub_below: float = 0.9  # 1, of all that is stored, below which the hub charges where it does so when needed
    hub_on: frozenset[str] = frozenset()  # `stop day` and `stop night`: legs by the stop they begin at, START the first
    parallel: bool = False  # whether lamp and charger share the hub at night; else the lamp has it alone
    low: float = 0.30  # 1, of a device's battery: below it the device is put on a bank
    high: float = 0.90  # 1, until which it stays there
    at_rest: bool = True  # whether everything is put on the bank wherever one rests
    sockets: str = "emptiest"  # key of AT_SOCKETS
    light: str = "need"  # key of LIGHT
    dim_when_slow: bool = True  # whether the front light is turned down on slow climbs
    hub_points: tuple[tuple[float, float], ...] = ()  # m/s and W that the rider's own hub and charger give; () usual
