"""Every family of background work that this program knows; a room with work of its own adds it here."""

from stonechat.services.late import LATE
from stonechat.services.load.packing import PACKING
from stonechat.services.odds import ODDS
from stonechat.services.work import Family

FAMILIES: dict[str, Family] = {family.key: family for family in (PACKING, ODDS, LATE)}
