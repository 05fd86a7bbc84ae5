"""Plugs, leads and what each can feed: the graph of sources, cables and adapters, and devices."""

import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from enum import StrEnum

from stonechat.core.kit.item import Item


class Plug(StrEnum):
    """What a cable's end, an inlet or an outlet looks like."""

    ANY = "usb"  # of the common family; which is not known
    USB_C = "USB-C"
    USB_A = "USB-A"
    MICRO = "micro USB"
    MINI = "mini USB"
    WATCH = "watch lead"
    SHIFTING = "lead of the gears"


_WORDS = (
    (Plug.USB_C, re.compile(r"\bc(?=[\s-]+(?:to|cable|lead|plug)\b)|(?<=to )c\b|usb[\s-]?c\b|type[\s-]c\b")),
    (Plug.MICRO, re.compile(r"\bmicro(?:[\s-]?usb)?\b")),
    (Plug.MINI, re.compile(r"\bmini[\s-]usb\b")),
    (Plug.USB_A, re.compile(r"\busb[\s-]?a\b|\ba(?=\s+to\b)")),
)  # fmt: skip
_LEADS = {"cable": Plug.ANY, "watch_charger": Plug.WATCH, "shift_charger": Plug.SHIFTING}
_SPECIAL = (Plug.WATCH, Plug.SHIFTING)


@dataclass(frozen=True, kw_only=True)
class Lead:
    """One cable, or a chain of cable and adapter."""

    id: str  # of the thing; several of a thing are told apart by `number`
    number: int
    name: str
    source: Plug
    device: Plug
    is_adapter: bool = False  # whether it turns one end into another and is no lead by itself

    def fits(self, outlet: Plug, inlet: Plug) -> bool:
        """Tell whether it reaches from an outlet to an inlet; either way round where both its ends are named."""
        if self.is_adapter or (self.device in _SPECIAL) is not (inlet in _SPECIAL):
            return False
        straight = _meets(self.source, outlet) and _meets(self.device, inlet)
        named = Plug.ANY not in (self.source, self.device) and inlet not in _SPECIAL
        return straight or (named and _meets(self.device, outlet) and _meets(self.source, inlet))


def _meets(one: Plug, other: Plug) -> bool:
    return one == other or (Plug.ANY in (one, other) and not {one, other} & set(_SPECIAL))


def plugs_in(name: str) -> tuple[Plug, ...]:
    """Return the plugs that a name tells, in its order.

    Parameters
    ----------
    name : str
        Of a thing.

    Returns
    -------
    plugs : tuple of Plug
        None, one or two.

    Examples
    --------
    >>> plugs_in("cable USB-A to micro"), plugs_in("phone")
    ((<Plug.USB_A: 'USB-A'>, <Plug.MICRO: 'micro USB'>), ())
    """
    plain = name.lower()
    found = [(match.start(), plug) for plug, pattern in _WORDS for match in pattern.finditer(plain)]
    return tuple(plug for _, plug in sorted(found))[:2]


def plug_of(name: str, usual: str) -> Plug:
    """Return the plug of a device or outlet.

    Parameters
    ----------
    name : str
        Of the thing.
    usual : str
        What its kind has: `usb`, `watch`.

    Returns
    -------
    plug : Plug
        That of the name, else as usual.

    Examples
    --------
    >>> plug_of("front light USB-C", "usb"), plug_of("watch", "watch")
    (<Plug.USB_C: 'USB-C'>, <Plug.WATCH: 'watch lead'>)
    """
    if usual == "watch":
        return Plug.WATCH
    told = plugs_in(name)
    return told[-1] if told else Plug.ANY


def leads_of(items: Iterable[Item]) -> tuple[Lead, ...]:
    """Return the cables and adapters of a kit, each by itself.

    Parameters
    ----------
    items : iterable of Item
        All that goes along.

    Returns
    -------
    leads : tuple of Lead
        Those that fit least first, so that what fits anything stays free longest.
    """
    found = []
    for item in items:
        if item.kind not in (*_LEADS, "cable_adapter"):
            continue
        told = plugs_in(item.name)
        device = _LEADS.get(item.kind, Plug.ANY)
        source = Plug.ANY
        if device not in _SPECIAL and told:
            source, device = (told[0], told[1]) if len(told) == 2 else (Plug.ANY, told[0])
        for number in range(max(1, item.quantity)):
            found.append(
                Lead(
                    id=item.id, number=number, name=item.name, source=source, device=device,
                    is_adapter=item.kind == "cable_adapter",
                )
            )  # fmt: skip
    plain = [lead for lead in found if not lead.is_adapter]
    adapters = [lead for lead in found if lead.is_adapter]
    # a cable with an adapter at its end is one more way to use that cable: which is used is told by its number
    return tuple(
        sorted([*plain, *adapters], key=lambda lead: (lead.is_adapter, (lead.source, lead.device).count(Plug.ANY)))
    )


def reaches(leads: Sequence[Lead], outlet: Plug, inlet: Plug) -> tuple[bool, ...]:
    """Tell by which leads an outlet feeds an inlet.

    Parameters
    ----------
    leads : sequence of Lead
        Cables and adapters.
    outlet, inlet : Plug
        Of the source and of the device.

    Returns
    -------
    fits : tuple of bool
        One for each lead; with an adapter between, any cable of the common family does.

    Examples
    --------
    >>> cable = Lead(id="c", number=0, name="micro cable", source=Plug.USB_A, device=Plug.MICRO)
    >>> reaches([cable], Plug.USB_C, Plug.USB_C)
    (False,)
    >>> adapter = Lead(id="a", number=0, name="adapter", source=Plug.ANY, device=Plug.ANY, is_adapter=True)
    >>> reaches([cable, adapter], Plug.USB_A, Plug.USB_C)
    (True, False)
    """
    adapters = [lead for lead in leads if lead.is_adapter]
    return tuple(lead.fits(outlet, inlet) or _adapted(lead, adapters, outlet, inlet) for lead in leads)


def _adapted(lead: Lead, adapters: Sequence[Lead], outlet: Plug, inlet: Plug) -> bool:
    """Tell whether a cable reaches with one adapter at either end."""
    if lead.is_adapter or inlet in _SPECIAL or lead.device in _SPECIAL:
        return False
    for adapter in adapters:
        ends = (adapter.source, adapter.device)
        for near, far in (ends, ends[::-1]):
            if _meets(lead.source, outlet) and _meets(lead.device, near) and _meets(far, inlet):
                return True
            if _meets(outlet, near) and _meets(far, lead.source) and _meets(lead.device, inlet):
                return True
    return False
