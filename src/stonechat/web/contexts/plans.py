"""What the list of plans shows."""

from dataclasses import dataclass
from datetime import datetime

from stonechat.core.line.surface import SURFACES
from stonechat.services.plans import DAYS_KEPT, PlanHead
from stonechat.web.addresses import PLANS

_SEARCHED_FROM = 6  # plans from which there is something to search


@dataclass(frozen=True, kw_only=True)
class PlanRow:
    """A plan of the list."""

    name: str
    revision: int
    is_demo: bool
    changed_at: datetime
    address: str
    rename_address: str
    copy_address: str
    delete_address: str


@dataclass(frozen=True, kw_only=True)
class GoneRow:
    """A plan that was deleted and can be brought back."""

    name: str
    deleted_at: datetime
    restore_address: str
    forget_address: str


@dataclass(frozen=True, kw_only=True)
class PlansView:
    """The list of plans."""

    plans: tuple[PlanRow, ...]
    gone: tuple[GoneRow, ...]
    days_kept: int
    words: str  # searched for
    is_searchable: bool
    search_address: str
    import_address: str
    surfaces: tuple[tuple[str, str], ...]
    note: str
    error: str


def plans_view(
    heads: tuple[PlanHead, ...], gone: tuple[PlanHead, ...], *, words: str = "", note: str = "", error: str = ""
) -> PlansView:
    """Return what the list shows; `words` must all stand in a plan's name."""
    wanted = words.lower().split()
    rows = [
        PlanRow(
            name=head.name,
            revision=head.revision,
            is_demo=head.demo,
            changed_at=head.changed_at,
            address=f"{PLANS}/{head.id}",
            rename_address=f"{PLANS}/{head.id}/rename",
            copy_address=f"{PLANS}/{head.id}/copy",
            delete_address=f"{PLANS}/{head.id}/delete",
        )
        for head in heads
        if all(word in head.name.lower() for word in wanted)
    ]
    return PlansView(
        plans=tuple(rows),
        gone=tuple(
            GoneRow(
                name=head.name,
                deleted_at=head.deleted_at,
                restore_address=f"{PLANS}/{head.id}/restore",
                forget_address=f"{PLANS}/{head.id}/forget",
            )
            for head in gone
            if head.deleted_at is not None
        ),
        days_kept=DAYS_KEPT,
        words=words,
        is_searchable=len(heads) >= _SEARCHED_FROM or bool(words),
        search_address=PLANS,
        import_address=PLANS,
        surfaces=tuple((surface.key, surface.name) for surface in SURFACES),
        note=note,
        error=error,
    )
