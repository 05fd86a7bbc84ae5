"""Sources, leads and devices as a drawing: what feeds what, and what nothing reaches."""

from dataclasses import dataclass

from stonechat.core.charge.graph import Graph
from stonechat.core.charge.things import Electric, Electrics
from stonechat.render.drawings.along import shortened

WIDTH, NARROW = 620.0, 366.0
_TOP, _ROW, _LONG = 22.0, 34.0, 22
_BOX, _BOX_NARROW = 176.0, 128.0


@dataclass(frozen=True, kw_only=True)
class LeadBox:
    """A source or a device."""

    x: float
    y: float
    width: float
    name: str
    words: str
    is_unfed: bool


@dataclass(frozen=True, kw_only=True)
class LeadLink:
    """A way to feed, from a source to a device."""

    path: str
    is_bank: bool


@dataclass(frozen=True, kw_only=True)
class LeadView:
    """All that the picture prints."""

    width: float
    height: float
    boxes: tuple[LeadBox, ...]
    links: tuple[LeadLink, ...]
    words: str


def leads_drawing(electrics: Electrics, graph: Graph, *, narrow: bool = False) -> LeadView:
    """Return the picture; spares that nobody draws on are left out."""
    width, box = (NARROW, _BOX_NARROW) if narrow else (WIDTH, _BOX)
    sources = list(graph.sources)
    devices = [one for one in electrics.batteries if one.draws or one.role == "bank"]
    rows = max(len(sources), len(devices), 1)
    unfed = {one.id for one in graph.unfed}
    left = {one.id: _TOP + (k + 0.5) * _ROW * rows / max(len(sources), 1) for k, one in enumerate(sources)}
    right = {one.id: _TOP + (k + 0.5) * _ROW * rows / max(len(devices), 1) for k, one in enumerate(devices)}
    boxes = [_box(one, 1.0, left[one.id], box, _gives(one), unfed=False) for one in sources]
    boxes += [_box(one, width - box - 1.0, right[one.id], box, _takes(one), unfed=one.id in unfed) for one in devices]
    middle = 0.5 * width
    links = [
        LeadLink(
            path=f"M{1.0 + box:.1f},{left[feed.source.id]:.1f} C{middle:.1f},{left[feed.source.id]:.1f} {middle:.1f},"
            f"{right[feed.device.id]:.1f} {width - box - 1.0:.1f},{right[feed.device.id]:.1f}",
            is_bank=feed.source.role == "bank",
        )
        for feed in graph.feeds
        if feed.device.id in right
    ]
    missing = ", ".join(one.name for one in graph.unfed) or "none"
    return LeadView(
        width=width,
        height=_TOP + rows * _ROW + 6.0,
        boxes=tuple(boxes),
        links=tuple(links),
        words=f"What feeds what: {len(sources)} sources, {len(devices)} batteries; no lead reaches {missing}.",
    )


def _box(one: Electric, x: float, y: float, width: float, words: str, *, unfed: bool) -> LeadBox:
    return LeadBox(x=x, y=y, width=width, name=shortened(one.name, _LONG), words=words, is_unfed=unfed)


def _gives(one: Electric) -> str:
    outlets = "outlet" if one.ports == 1 else "outlets"
    return f"{one.gives:.0f} W, {one.ports} {outlets}"


def _takes(one: Electric) -> str:
    plug = "" if one.plug is None or one.plug == "usb" else f", {one.plug}"
    return f"{one.capacity:.0f} Wh{plug}" if one.capacity >= 3.0 else f"{one.capacity:.1f} Wh{plug}"
