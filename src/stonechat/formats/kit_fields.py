"""What a column of a kit table may mean, and the words by which its header and its cells say so."""

from collections.abc import Mapping
from dataclasses import dataclass

from stonechat.core.kit.bolts import TOOLS
from stonechat.core.kit.facts import FACTS
from stonechat.core.kit.item import CATEGORIES, NEEDS
from stonechat.core.kit.jobs import JOBS
from stonechat.core.kit.lexicon.kinds import FIELDS as KIT_FIELDS
from stonechat.core.kit.lexicon.kinds import KINDS
from stonechat.core.rig.carrier import ACCESS_NAMES, ACCESS_RANK
from stonechat.core.rig.spots import SPOTS


@dataclass(frozen=True, kw_only=True)
class Field:
    """One thing that a column may mean."""

    key: str
    title: str
    words: str  # pattern of headers that mean it
    unit: str = ""  # unit that it is taken in: g, ml, mm or %
    kind: str = "text"  # text, number, whole, flag, words, or one of a list
    limit: str = ""
    factor: float = 1.0  # from house units to `unit`


_MASS = r"mass|weight|weighs|wgt|^(wt|g|gr|grams|kg|oz|lb|lbs)$|\b(g|gr|kg|oz|lbs?)$"
_FILL = ("fill_g", "loft")  # facts whose columns name grams and power too


def _fact(key: str) -> Field:
    return Field(key=key, title=FACTS[key].name, words=FACTS[key].headers, kind="fact")


FIELDS: tuple[Field, ...] = (
    Field(key="name", title="name",
          words=r"^(name|items?|things?|what|article|gear|description|piece|object|product)\b"),
    Field(key="category", title="section",
          words=r"^(category|kind|type|section|class|group of gear|system|use)\b", kind="list"),
    Field(key="kind_of_thing", title="what it is", words=r"^what it is$", kind="list"),
    Field(key="place", title="bag or place",
          words=r"^(place|bag|where|location|carrier|container|packed in|position|stored|storage|luggage|goes in)\b"),
    Field(key="claimed_g", title="claimed mass",
          words=r"claim|maker|nominal|catalog|manufacturer|stated|advertised", unit="g", kind="number",
          limit="item_content", factor=1e3),
    *(_fact(key) for key in _FILL),  # before the mass, whose words theirs hold
    Field(key="measured_g", title="measured mass", words=r"measured|actual|real|scale|true (weight|mass)|own weight",
          unit="g", kind="number", limit="item_mass", factor=1e3),
    Field(key="content_g", title="of it used up", words=r"^content|consumable", unit="g", kind="number",
          limit="item_content", factor=1e3),
    Field(key="mass_all_g", title="mass together", words=r"(total|sum|together|all|overall|line).*("
          + _MASS + r")|(mass|weight|grams|g|oz)\s*(total|sum|together|all)|^(total|sum|subtotal|line total)$",
          unit="g", kind="number", limit="mass_all", factor=1e3),
    Field(key="mass_g", title="mass each", words=_MASS, unit="g", kind="number", limit="item_mass", factor=1e3),
    Field(key="left_pct", title="left of that", words=r"^left", unit="%", kind="number", limit="share", factor=100.0),
    Field(key="volume_ml", title="volume packed", words=r"volume|litre|^(ml|l|vol)$|size packed|packed size|\b(ml|l)$",
          unit="ml", kind="number", limit="item_volume", factor=1e6),
    Field(key="room_ml", title="room inside", words=r"^room", unit="ml", kind="number", limit="item_volume",
          factor=1e6),
    Field(key="length_mm", title="longest rigid side", words=r"length|longest", unit="mm", kind="number",
          limit="item_length", factor=1e3),
    Field(key="width_mm", title="second rigid side", words=r"width", unit="mm", kind="number", limit="item_length",
          factor=1e3),
    Field(key="quantity", title="how many",
          words=r"^(quantity|qty|qnty|count|number|no|nr|pcs|pieces|how many|units|amount|x|#|n)$",
          kind="whole", limit="quantity"),
    Field(key="keep_dry", title="must stay dry", words=r"keep.?dry|stay dry", kind="flag"),
    Field(key="fragile", title="fragile", words=r"fragile", kind="flag"),
    Field(key="leaks", title="may leak", words=r"^(may )?leak", kind="flag"),
    Field(key="spoils", title="spoiled by leaks", words=r"spoil", kind="flag"),
    Field(key="access", title="needed", words=r"access|^needed$", kind="list"),
    Field(key="reaches_rain", title="more on a wet day", words=r"reaches_rain|^rain$", kind="number", limit="reaches"),
    Field(key="reaches_cold", title="more on a cold day", words=r"reaches_cold", kind="number", limit="reaches"),
    Field(key="reaches_night", title="more for a night", words=r"reaches_night", kind="number", limit="reaches"),
    Field(key="reaches_puncture", title="for each puncture", words=r"reaches_puncture", kind="number",
          limit="reaches"),
    Field(key="reaches_per_day", title="reached a day", words=r"reach|per day|a day|times", kind="number",
          limit="reaches"),
    Field(key="need", title="need", words=r"^need$|priority|must|essential|mandatory", kind="list"),
    Field(key="worn", title="worn", words=r"^worn|wear", kind="flag"),
    Field(key="fixed", title="fixed on the bike", words=r"^(fixed|mounted)", kind="list"),
    Field(key="stowed", title="fixed only in use", words=r"^stowed", kind="flag"),
    Field(key="weighed", title="weighed", words=r"weighed|measured\?", kind="flag"),
    Field(key="roles", title="jobs", words=r"^(roles|jobs|does)$", kind="words"),
    Field(key="tools", title="turns", words=r"^(tools|turns)$", kind="words"),
    Field(key="shared", title="carried for both", words=r"^shared|for both|^common|group gear", kind="flag"),
    Field(key="group", title="set", words=r"^(group|set|bundle)$"),
    Field(key="inside", title="inside", words=r"^(inside|pouch)$"),
    Field(key="holds", title="holds others", words=r"^holds", kind="flag"),
    Field(key="makes_dry", title="keeps them dry", words=r"makes.?dry|keeps them dry", kind="flag"),
    Field(key="carried_before", title="carried in races", words=r"carried (before|in)|carried_before", kind="whole",
          limit="count"),
    Field(key="used_before", title="used in", words=r"used.?(before|in)|^used$", kind="whole", limit="count"),
    Field(key="lost_before", title="lost", words=r"^lost", kind="whole", limit="count"),
    Field(key="broken_before", title="broken", words=r"^broken", kind="whole", limit="count"),
    *(_fact(key) for key in FACTS if key not in _FILL),
    Field(key="note", title="note", words=r"note|comment|remark|detail|info"),
)  # fmt: skip
BY_KEY = {field.key: field for field in FIELDS}
NONE = "none"  # in a list of words: there are none
SKIP = ""  # a column that is not taken
IGNORED = frozenset({"id", "variants", "price_min", "why_aside"})  # ours, written for reading only
YES = frozenset({"yes", "y", "true", "1", "x", "✓", "✔", "worn", "ja", "oui", "si"})
NO = frozenset({"", "no", "n", "false", "0", "-", "–", "none"})
UNIT_WORDS = {
    "g": (("kg", r"\bkgs?\b|kilo"), ("oz", r"\boz\b|ounce"), ("lb", r"\blbs?\b|pound"), ("g", r"\bgr?\b|\bgrm\b|gram")),
    "ml": (("in³", r"in³|in3|cubic in"), ("ml", r"\bml\b|millil"), ("l", r"\bl\b|lit(re|er)")),
    "mm": (("mm", r"\bmm\b"), ("cm", r"\bcm\b"), ("in", r"\bin\b|inch"), ("m", r"\bm\b")),
}
# sections as other people head them
_SECTIONS = {
    "sleeping": "sleep", "sleep system": "sleep", "shelter": "sleep", "bivvy": "sleep", "camping": "sleep",
    "clothing": "clothes", "clothes worn": "clothes", "apparel": "clothes", "wear": "clothes", "worn": "clothes",
    "tool": "tools", "repair": "tools", "repairs": "tools", "spares": "tools", "tools & spares": "tools",
    "tools and spares": "tools", "mechanical": "tools", "bike": "tools", "maintenance": "tools",
    "electronics": "power", "lights": "power", "light": "power", "electric": "power", "electrics": "power",
    "lighting": "power", "tech": "power", "power": "power", "charging": "power", "navigation": "navigation",
    "health": "hygiene", "medical": "hygiene", "wash": "hygiene", "toiletries": "hygiene", "first aid": "hygiene",
    "personal": "hygiene", "hygiene": "hygiene", "documents": "papers", "money": "papers", "admin": "papers",
    "nutrition": "food", "food": "food", "food & water": "food", "food and water": "food",
    "kitchen": "other", "cooking": "other", "water": "other", "bags": "other", "luggage": "other",
    "misc": "other", "miscellaneous": "other", "other": "other", "extras": "other", "stuff": "other",
}  # fmt: skip
SECTIONS: Mapping[str, str] = {
    **{key: key for key in CATEGORIES},
    **{name: key for key, (name, _) in CATEGORIES.items()},
    **{name: category for name, category in KIT_FIELDS.values() if name != "phone"},  # that is a thing
    **_SECTIONS,
}
KNOWN: Mapping[str, Mapping[str, str]] = {
    "category": SECTIONS,
    "kind_of_thing": {
        "none": "", **{key: key for key in KINDS}, **{kind.title.lower(): key for key, kind in KINDS.items()}
    },
    "fixed": {"no": "", **{key: key for key in SPOTS}, **{spot.name: key for key, spot in SPOTS.items()}},
    "access": {**{key: key for key in ACCESS_RANK}, **{name: key for key, name in ACCESS_NAMES.items()}},
    "need": {
        **{key: key for key in NEEDS}, "yes": "must", "x": "must", "no": "maybe", "high": "must", "1": "must",
        "medium": "want", "2": "want", "low": "maybe", "3": "maybe", "mandatory": "must", "essential": "must",
        "optional": "maybe", "required": "must",
    },
    "roles": {**{key: key for key in JOBS}, **{job.name: key for key, job in JOBS.items()}},
    "tools": {**{key: key for key in TOOLS}, **{title.lower(): key for key, title in TOOLS.items()}},
}  # fmt: skip
