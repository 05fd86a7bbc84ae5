"""Which source can feed which device, by which lead, at what power; and what cannot be fed at all."""

from collections.abc import Sequence
from dataclasses import dataclass

from stonechat.core.charge.plugs import Lead, Plug, reaches
from stonechat.core.charge.things import Electric, Electrics


@dataclass(frozen=True, kw_only=True)
class Feed:
    """One way to charge a thing."""

    source: Electric
    device: Electric
    leads: tuple[Lead, ...]  # each of which does it; none where the kit names no leads
    power: float  # W at most

    @property
    def by(self) -> str:
        """The lead that is used first, in words."""
        return self.leads[0].name if self.leads else "a lead of its own"


@dataclass(frozen=True, kw_only=True)
class Graph:
    """Sources, leads and what they feed."""

    sources: tuple[Electric, ...]
    feeds: tuple[Feed, ...]
    unfed: tuple[Electric, ...]  # draw in a race and no lead reaches them, though there is a source
    no_source: bool  # whether things draw and nothing aboard gives

    def of(self, device_id: str) -> tuple[Feed, ...]:
        """Return the ways to charge a thing."""
        return tuple(feed for feed in self.feeds if feed.device.id == device_id)


def graph_of(electrics: Electrics, leads: Sequence[Lead] | None = None) -> Graph:
    """Return which source feeds what.

    Parameters
    ----------
    electrics : Electrics
        What is aboard.
    leads : sequence of Lead, optional
        In place of those that are aboard.

    Returns
    -------
    graph : Graph
        A bank feeds devices, everything else banks too.
    """
    used = electrics.leads if leads is None else tuple(leads)
    hub = () if electrics.hub_charger is None else (electrics.hub_charger,)
    sources = (*hub, *electrics.walls, *electrics.panels, *electrics.banks)
    feeds = []
    for source in sources:
        for device in electrics.batteries:
            if device.plug is None or source.plug is None or (source.role == "bank" and device.role == "bank"):
                continue
            fits = reaches(used, source.plug, device.plug)
            ways = tuple(lead for lead, does in zip(used, fits, strict=True) if does)
            if ways or electrics.assumes_leads:
                power = min(source.gives, device.charge)
                feeds.append(Feed(source=source, device=device, leads=ways, power=power))
    fed = {feed.device.id for feed in feeds}
    wants = [one for one in electrics.batteries if one.plug is not None and (one.draws or one.role == "bank")]
    outside = [source for source in sources if source.role != "bank"]
    unfed = tuple(one for one in wants if one.id not in fed and (sources if one.role != "bank" else outside))
    return Graph(sources=sources, feeds=tuple(feeds), unfed=unfed, no_source=bool(wants) and not sources)


def needs_special(device: Electric) -> bool:
    """Tell whether a thing is charged by a lead of its own kind only, as a watch is.

    Parameters
    ----------
    device : Electric
        The thing.

    Returns
    -------
    needs : bool
        False where a cable of the common family does.
    """
    return device.plug in (Plug.WATCH, Plug.SHIFTING)
