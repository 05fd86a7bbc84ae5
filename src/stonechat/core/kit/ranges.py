"""Whether a figure is believable for the kind of thing: a slipped unit is off by ten or more."""

from stonechat.core.kit.item import CATEGORIES, Item

# usual mass of one in kg by category, least and most (estimates, wide: a fifth and five times what is common)
_MASSES = {
    "sleep": (0.004, 2.5), "clothes": (0.008, 1.6), "tools": (0.001, 1.3), "power": (0.001, 1.3),
    "navigation": (0.005, 0.9), "hygiene": (0.002, 0.7), "food": (0.004, 3.0), "papers": (0.001, 0.5),
    "other": (0.001, 3.0),
}  # fmt: skip
_DENSITIES = (15.0, 9_000.0)  # kg/m³ of anything packed: down in a bag to solid steel (estimate)


def doubt_of(item: Item) -> str:
    """Return what is hard to believe of a thing, as a sentence; empty where nothing is.

    Parameters
    ----------
    item : Item
        The thing.

    Returns
    -------
    doubt : str
        Mass out of the usual range of its kind, or mass and volume that do not go together.

    Examples
    --------
    >>> doubt_of(Item(id="t", name="toothbrush", category="hygiene", mass=15.0, volume=0.00005))
    'toothbrush: 15,000 g is unusual for hygiene and health (2 to 700 g). A slipped unit?'
    """
    least, most = _MASSES[item.category]
    kind = CATEGORIES[item.category][0]
    if not least <= item.mass <= most:
        return (
            f"{item.name}: {item.mass * 1e3:,.{0 if item.mass > 0.01 else 1}f} g is unusual for {kind} "
            f"({least * 1e3:g} to {most * 1e3:g} g). A slipped unit?"
        )
    if item.volume > 0.0 and item.packed:
        density = item.mass / item.volume
        if not _DENSITIES[0] <= density <= _DENSITIES[1]:
            return f"{item.name}: {item.mass * 1e3:.0f} g in {item.volume * 1e6:.0f} ml is unlikely. A slipped unit?"
    return ""
