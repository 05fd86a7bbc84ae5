"""A section through a sleeper: ground, mat, body in two zones, bag, bivvy, air, and where the heat goes in watts."""

from dataclasses import dataclass

from stonechat.core.night.report import RestWarmth
from stonechat.core.night.sleep import CLO, HEAT, LIMIT, US_R, heat_flows
from stonechat.render.filters import temperature

WIDTH, HEIGHT = 520.0, 262.0
_THICKEST, _PER_R = 46.0, 46.0  # px of the thickest layer; px for each m²K/W


@dataclass(frozen=True, kw_only=True)
class Arrow:
    """Heat that leaves at a place."""

    x: float
    y: float
    shape: str  # path
    text_y: float
    text: str


@dataclass(frozen=True, kw_only=True)
class Layer:
    """A layer of what is slept in."""

    name: str
    value: str
    thickness: float  # px


@dataclass(frozen=True, kw_only=True)
class SleeperView:
    """All that the picture prints."""

    width: float
    height: float
    ground_y: float
    mat: Layer
    bag: Layer
    shelter: Layer | None
    arrows: tuple[Arrow, ...]
    air: str
    ground: str
    made: str
    lost: str
    breath: str
    words: str


def sleeper(rest: RestWarmth, area: float) -> SleeperView:
    """Return the picture of one rest, with the skin as warm as at the limit."""
    system = rest.bedding.system
    flows = heat_flows(system, rest.bed, LIMIT)
    most = max(*flows.above, *flows.beneath, 1e-6)

    def arrow(x: float, y: float, *, up: bool, value: float) -> Arrow:
        half, head = round(2.0 + 7.0 * value / most, 1), round(5.0 + 8.0 * value / most, 1)
        long = 22.0 if up else 10.0
        sign = -1.0 if up else 1.0
        shape = f"M{x - half},{y} v{sign * long} h{half - head} l{head},{sign * head} l{head},{-sign * head} "
        shape += f"h{half - head} v{-sign * long} z"
        text_y = y - 14.0 if up else y + 16.0
        return Arrow(x=x + head + 6.0, y=y, shape=shape, text_y=text_y, text=_watts(value * area))

    mat = Layer(
        name=" and ".join(item.name for item in rest.bedding.mats) or "no mat",
        value=f"R {system.mat / US_R:.1f}",
        thickness=min(_THICKEST, 3.0 + _PER_R * system.mat),
    )
    bag = Layer(
        name=rest.bedding.bag.name if rest.bedding.bag else "no bag",
        value=f"{system.bag / CLO:.1f} clo",
        thickness=min(_THICKEST, 2.0 + _PER_R * system.bag),
    )
    ground_y = HEIGHT - 44.0
    top = ground_y - mat.thickness - 46.0 - bag.thickness
    shelter = rest.bedding.shelter
    return SleeperView(
        width=WIDTH,
        height=HEIGHT,
        ground_y=ground_y,
        mat=mat,
        bag=bag,
        shelter=Layer(name=shelter.name, value="", thickness=1.5) if shelter else None,
        arrows=(
            arrow(210.0, top - 3.0, up=True, value=flows.above[0]),
            arrow(345.0, top - 3.0, up=True, value=flows.above[1]),
            arrow(210.0, ground_y + 2.0, up=False, value=flows.beneath[0]),
            arrow(345.0, ground_y + 2.0, up=False, value=flows.beneath[1]),
        ),
        air=f"air {temperature(rest.low)}" + (f", wind {rest.wind:.1f} m/s" if not system.is_sheltered else ""),
        ground=f"ground {temperature(rest.ground)}",
        made=_watts(HEAT * area),
        lost=_watts(flows.lost * area),
        breath=_watts((flows.breath + flows.damp) * area),
        words=(
            f"A sleeper makes {_watts(HEAT * area)} and loses {_watts(flows.lost * area)} lying curled up: "
            f"{_watts(sum(flows.above) * area)} to the air, {_watts(sum(flows.beneath) * area)} to the ground, "
            f"{_watts((flows.breath + flows.damp) * area)} with breath and moisture."
        ),
    )


def _watts(value: float) -> str:
    return f"{value:.0f} W"
