"""What the Diary room shows, part by part."""

from dataclasses import dataclass

from stonechat.web.contexts.diary.debrief import debrief_view
from stonechat.web.contexts.diary.notes import notes_view
from stonechat.web.contexts.diary.race import race_view
from stonechat.web.contexts.diary.rides import rides_view
from stonechat.web.contexts.diary.shakedown import shakedown_view
from stonechat.web.contexts.diary.since import since_view
from stonechat.web.contexts.tabs import Part, TabbedView, tabbed
from stonechat.web.desk import Desk

NOTES, RACE, DEBRIEF, RIDES, SHAKEDOWN, SINCE = "notes", "race", "debrief", "rides", "shakedown", "since"
_PARTS: dict[str, Part] = {
    NOTES: ("Notes", notes_view),
    RACE: ("The race", race_view),
    DEBRIEF: ("Debrief", debrief_view),
    RIDES: ("Rides and figures", rides_view),
    SHAKEDOWN: ("Loaded ride", shakedown_view),
    SINCE: ("Since last time", since_view),
}


@dataclass(frozen=True, kw_only=True)
class DiaryView(TabbedView):
    """The Diary room."""

    print_address: str


def diary_view(desk: Desk) -> DiaryView:
    """Return what the Diary room shows."""
    shown = tabbed(desk, "diary", _PARTS)
    return DiaryView(
        tab=shown.tab,
        tabs=shown.tabs,
        template=shown.template,
        part=shown.part,
        print_address=desk.do("debrief.pdf"),
    )
