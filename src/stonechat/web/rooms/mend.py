"""Mend: what can fail, what answers it, and what each spare is worth."""

from fastapi import APIRouter

from stonechat.web.contexts.mend import mend_view
from stonechat.web.desk import Room

router = APIRouter(prefix="/plans/{plan_id}/{variant_id}/do")
ROOM = Room(key="mend", name="Mend", letter="m", build=mend_view, router=router, legs=True)
