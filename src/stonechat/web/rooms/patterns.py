"""The patterns page: every part that pages share, in all of its states; served in development only."""

from fastapi import APIRouter, Request
from fastapi.responses import Response

from stonechat.errors import NotFound
from stonechat.web.desk import workspace_of
from stonechat.web.forms.binding import FieldView
from stonechat.web.respond import page

router = APIRouter()
FIELDS = (
    FieldView(name="plain", label="Words", kind="text", value="rain jacket"),
    FieldView(name="helped", label="With help", kind="text", value="", help="empty: as is usual"),
    FieldView(
        name="wrong", label="That is wrong", kind="text", value="12 parsecs", error="“parsecs” is no unit for this."
    ),
    FieldView(name="figure", label="Figure", kind="number", value="212", unit="g"),
    FieldView(name="time", label="Time", kind="time", value="05:30"),
    FieldView(name="choice", label="Choice", kind="select", value="b", options={"a": "one", "b": "another"}),
    FieldView(name="on", label="Ticked", kind="tick", value="yes"),
    FieldView(name="off", label="Not ticked", kind="tick", value=""),
)
SURFACES = ("tarmac", "smooth_gravel", "rough_gravel", "track", "singletrack", "sand_mud", "hike_a_bike")
GRADES = ("up3", "up2", "up1", "flat", "down1", "down2", "night")


@router.get("/patterns")
def patterns(request: Request) -> Response:
    """Show every part."""
    if not workspace_of(request).settings.patterns:
        raise NotFound("There is no such page. Go back to the list of plans.")
    return page("patterns.html", fields=FIELDS, surfaces=SURFACES, grades=GRADES)
