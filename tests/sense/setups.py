"""Twelve set-ups as riders type them, with what a seasoned racer would expect of their packing."""

from dataclasses import dataclass

from stonechat.core.line.weather import DayWeather

BODY = ("body", "back", "waist", "shoulder")
FRAME = ("frame", "frame_upper", "frame_lower")
TAIL = ("seat", "seat_top", "rack", "rack_side")
AHEAD = ("bar", "bar_front", "bar_top", "bar_under", "fork")
LOW = (*FRAME, "down_tube", "down_store")
NEAR = ("top_tube_front", "top_tube_rear", "stem", "aero", "bar_top", "bar_front", "bar_end", "frame", "frame_upper",
        "body", "back", "waist", "guard_shelf", "fork")  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class Setup:
    """One kit on one bike and course."""

    name: str
    bike: str  # key of BIKES
    carriers: tuple[str, ...]  # keys of the catalogue
    length_km: float
    hills: float  # m
    every_km: float  # between stops
    kit: str  # one thing a line: name, grams
    together: tuple[tuple[str, ...], ...] = ()  # things in one bag
    never: tuple[tuple[str, tuple[str, ...]], ...] = ()  # thing and places where it does not ride
    within: tuple[tuple[str, tuple[str, ...]], ...] = ()  # thing and places of which it rides in one
    days: tuple[DayWeather, ...] = ()
    school: str = "window"


TOOLS = """multitool, 140
tyre levers, 30
mini pump, 110
inner tube, 120
plug kit, 40
patches, 20
chain lube, 45
quick links, 10
spare bolts, 20
derailleur hanger, 25"""
POCKET = """phone, 200
wallet, 60
power bank 10 Ah, 200
charging cable, 25
wall charger, 60
sunscreen, 60
toothbrush, 20
first aid kit, 120"""
SLEEP = """sleeping bag, 650
inflatable mat, 400
bivvy bag, 250"""
RAIN = """rain jacket, 210
rain trousers, 190
waterproof gloves, 70"""
WARM = """down jacket, 260
arm warmers, 80
leg warmers, 120
gilet, 90
beanie, 40"""
WORN = """helmet, 280
cycling shoes, 650
bib shorts, 190
jersey, 150"""
CARRY = ("jersey", "bottle_top", "bottle_side")


def _kit(*parts: str) -> str:
    return "\n".join(parts)


_SLEEP_TOGETHER = (("sleeping bag", "inflatable mat", "bivvy bag"),)
_USUAL_NEVER = (
    ("sleeping bag", (*BODY, "down_tube", "top_tube_front", "top_tube_rear", "stem")),
    ("inflatable mat", (*BODY, "down_tube", "top_tube_front", "top_tube_rear", "stem")),
    ("multitool", BODY),
    ("inner tube", BODY),
    ("power bank 10 Ah", BODY),
    ("wall charger", BODY),
    ("chain lube", (*BODY, "top_tube_front")),
    ("toothbrush", ("down_tube", "down_store")),
)
_USUAL_WITHIN = (
    ("rain jacket", NEAR),
    ("gilet", NEAR),
    ("phone", NEAR),
    ("plug kit", (*NEAR, "down_tube", "down_store")),
)

SETUPS = (
    Setup(
        name="gravel, bivvy", bike="drop_rigid", length_km=480, hills=160, every_km=45,
        carriers=(*CARRY, "frame_half", "top_front", "stem_pair", "seat_middle", "tool_bottle"),
        kit=_kit(SLEEP, TOOLS, POCKET, RAIN, WARM, WORN),
        together=_SLEEP_TOGETHER, never=_USUAL_NEVER, within=_USUAL_WITHIN,
    ),
    Setup(
        name="road, rooms each night", bike="road", length_km=700, hills=120, every_km=35, school="rooms",
        carriers=(*CARRY, "top_front", "seat_small", "frame_wedge"),
        kit=_kit("casual trousers, 220\nt-shirt, 130\nsandals, 300", TOOLS, POCKET, RAIN, WORN, "gilet, 90"),
        never=(("casual trousers", BODY), ("sandals", (*BODY, "top_tube_front")), ("multitool", BODY),
               ("power bank 10 Ah", BODY)),
        within=(("rain jacket", NEAR + TAIL), ("sandals", TAIL), ("casual trousers", TAIL)),
    ),
    Setup(
        name="mountain, roll in front", bike="hardtail", length_km=260, hills=380, every_km=50,
        carriers=(*CARRY, "bar_roll", "bar_pouch", "frame_half", "top_front", "seat_small"),
        kit=_kit(SLEEP, "tent pegs, 80\ntarp, 320", TOOLS, POCKET, RAIN, WARM, WORN),
        never=(*_USUAL_NEVER, ("tent pegs", (*BODY, "stem", "top_tube_front")), ("tarp", BODY)),
        within=_USUAL_WITHIN,
    ),
    Setup(
        name="winter", bike="flat_rigid", length_km=220, hills=80, every_km=40,
        days=(DayWeather(temp_low=-14.0, temp_high=-4.0),),
        carriers=("jersey", "frame_full", "bar_roll", "fork_bags", "rack_pack", "top_front", "bar_covers"),
        kit=_kit(SLEEP, "stove, 90\ngas canister, 200\npot, 150\ndown trousers, 280\noverboots, 300", TOOLS, POCKET,
                 RAIN, WARM, WORN),
        never=(("stove", (*BODY, "stem")), ("pot", (*BODY, "stem", "top_tube_front")), ("gas canister", BODY),
               ("sleeping bag", (*BODY, "top_tube_front")), ("multitool", BODY)),
        within=(("sleeping bag", TAIL + AHEAD), ("rain jacket", NEAR + TAIL + AHEAD)),
    ),
    Setup(
        name="pair, tent", bike="drop_rigid", length_km=520, hills=140, every_km=42,
        carriers=(*CARRY, "frame_half", "fork_bags", "seat_large", "bar_box", "top_front"),
        kit=_kit(SLEEP, "tent, 950\ntent poles, 300\ntent pegs, 90\nstove, 85\npot, 140\nspork, 12", TOOLS, POCKET,
                 RAIN, WARM, WORN),
        never=(*_USUAL_NEVER, ("tent", BODY), ("tent pegs", (*BODY, "bar_top", "top_tube_front")),
               ("stove", (*BODY, "top_tube_front")), ("pot", (*BODY, "top_tube_front"))),
        within=_USUAL_WITHIN,
    ),
    Setup(
        name="summer, light", bike="road", length_km=420, hills=70, every_km=60,
        days=(DayWeather(temp_low=17.0, temp_high=33.0),),
        carriers=(*CARRY, "top_front", "frame_half", "seat_small"),
        kit=_kit("foil bivvy, 110\nliner, 130", TOOLS, POCKET, "wind jacket, 80\narm sleeves, 40\nsun cap, 40", WORN),
        never=(("multitool", BODY), ("inner tube", BODY), ("power bank 10 Ah", BODY), ("liner", BODY)),
        within=(("wind jacket", NEAR), ("phone", NEAR)),
    ),
    Setup(
        name="a month", bike="drop_rigid", length_km=2400, hills=100, every_km=70,
        carriers=(*CARRY, "frame_half", "top_front", "top_rear", "stem_pair", "bar_roll_small", "bar_pouch",
                  "seat_middle", "tool_bottle"),
        kit=_kit(SLEEP, TOOLS, POCKET, RAIN, WARM, WORN,
                 "spare shorts, 180\nspare socks, 40\nspare tyre, 420\nbrake pads, 30\nlaundry soap, 50"),
        together=_SLEEP_TOGETHER,
        never=(*_USUAL_NEVER, ("spare tyre", (*BODY, "top_tube_front", "stem")), ("spare shorts", ("down_tube",)),
               ("brake pads", BODY)),
        within=_USUAL_WITHIN,
    ),
    Setup(
        name="vest on the back", bike="drop_rigid", length_km=360, hills=120, every_km=70,
        carriers=("vest", "jersey", "bottle_top", "frame_half", "top_front", "seat_middle"),
        kit=_kit(SLEEP, TOOLS, POCKET, RAIN, WARM, WORN),
        together=_SLEEP_TOGETHER, never=_USUAL_NEVER, within=_USUAL_WITHIN,
    ),
    Setup(
        name="rain from start to finish", bike="drop_rigid", length_km=450, hills=130, every_km=40,
        days=(DayWeather(temp_low=5.0, temp_high=11.0, rain=15.0),),
        carriers=(*CARRY, "frame_half", "top_front", "stem_pair", "seat_middle"),
        kit=_kit(SLEEP, TOOLS, POCKET, RAIN, "overshoes, 120", WARM, WORN),
        together=_SLEEP_TOGETHER, never=_USUAL_NEVER,
        within=(*_USUAL_WITHIN, ("rain trousers", NEAR), ("waterproof gloves", NEAR)),
    ),
    Setup(
        name="fork and rack", bike="flat_rigid", length_km=380, hills=200, every_km=48,
        carriers=("jersey", "fork_bags", "rack_pack", "frame_full", "bar_box", "top_front"),
        kit=_kit(SLEEP, "tarp, 320\ntent pegs, 80\nstove, 85\npot, 140\nspork, 12", TOOLS, POCKET, RAIN, WARM, WORN),
        never=(*_USUAL_NEVER, ("stove", BODY), ("pot", BODY), ("tent pegs", BODY)),
        within=_USUAL_WITHIN,
    ),
    Setup(
        name="sleepless, next to nothing", bike="road", length_km=300, hills=110, every_km=45, school="through",
        carriers=(*CARRY, "top_front", "seat_small"),
        kit=_kit(TOOLS, "phone, 200\nwallet, 60\npower bank 5 Ah, 120\ncharging cable, 25\nfoil blanket, 60",
                 "rain jacket, 180\ngilet, 90\narm warmers, 80", WORN),
        never=(("multitool", BODY), ("inner tube", BODY), ("chain lube", (*BODY, "top_tube_front"))),
        within=(("phone", NEAR), ("gilet", NEAR), ("plug kit", NEAR + TAIL)),
    ),
    Setup(
        name="words of another rider", bike="drop_rigid", length_km=400, hills=150, every_km=44,
        carriers=(*CARRY, "frame_half", "top_front", "seat_middle", "tool_bottle", "stem_one"),
        kit=_kit("28F quilt, 620\nsleep pad, 380\nbivy, 240\nheadlamp, 90\nGPS, 110\nlong fingers, 60\nrain shell, 200",
                 "puffy, 270\nknee warmers, 90\nbuff, 35\nCO2 cartridge, 55\ntubes 2x, 240\nbacon strips, 15",
                 "Allen keys, 90\nchain breaker, 60\nzip ties, 10\nduct tape, 25\nwet lube, 40\nchamois cream, 70",
                 "wall plug, 60\nUSB cables, 30\npowerbank, 210\nID and cards, 40\nearplugs, 5", WORN),
        together=(("28F quilt", "sleep pad", "bivy"),),
        never=(("28F quilt", (*BODY, "down_tube", "top_tube_front", "stem")), ("sleep pad", (*BODY, "stem")),
               ("Allen keys", BODY), ("powerbank", BODY), ("wet lube", BODY), ("chamois cream", ("down_tube",))),
        within=(("rain shell", NEAR), ("long fingers", NEAR), ("ID and cards", NEAR)),
    ),
)  # fmt: skip
