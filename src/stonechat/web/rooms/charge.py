"""Charge: every battery by the clock."""

from fastapi import APIRouter

from stonechat.web.contexts.charge import charge_view
from stonechat.web.desk import Room

router = APIRouter(prefix="/plans/{plan_id}/{variant_id}/do")
ROOM = Room(key="charge", name="Charge", letter="c", build=charge_view, router=router)
