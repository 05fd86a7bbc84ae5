"""What it costs to get at a thing."""

from stonechat.core.rig.carrier import ACCESS_RANK

# s, all estimates: stopping and starting is 12 and 25 s of handling and 10 s to win the speed back
_OVERHEAD = {"riding": 0.0, "foot": 12.0, "off": 25.0, "camp": 0.0}
_REWIN = {"riding": 0.0, "foot": 10.0, "off": 10.0, "camp": 0.0}
_HANDLING = {"riding": 3.0, "foot": 4.0, "off": 6.0, "camp": 10.0}
_ITEM = 5.0  # s to take it out and put it back
SHARED = 0.30  # 1, share of halts that serve something else as well (estimate)


def reach_seconds(item_access: str, carrier_access: str, open_time: float) -> float:
    """Return the time one reach takes from the race.

    Parameters
    ----------
    item_access : str
        How the thing should be reachable: riding, foot, off, camp or last.
    carrier_access : str
        How the carrier is reached: riding, foot or off.
    open_time : float
        Time for the carrier's closure. [s]

    Returns
    -------
    time : float
        Seconds of the race for one reach. [s]

    Notes
    -----
    A thing in a carrier that is harder to get at than it should be is reached the harder way. At camp no halt
    is charged. Figures are estimates.

    Examples
    --------
    >>> reach_seconds("riding", "riding", 0.0), reach_seconds("riding", "off", 6.0)
    (8.0, 41.5)
    """
    state = "off" if item_access == "last" else item_access
    if state != "camp" and ACCESS_RANK[carrier_access] > ACCESS_RANK[state]:
        state = carrier_access
    halt = _OVERHEAD[state] + _REWIN[state]
    return (1.0 - SHARED) * halt + _HANDLING[state] + open_time + _ITEM
