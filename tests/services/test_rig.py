"""Changes to the rig: what is drawn follows, what is set by hand stays."""

from dataclasses import replace

import pytest

from stonechat.core.rig.bike import usual_bike
from stonechat.core.rig.catalogue import KINDS
from stonechat.core.rig.fitting import fit_rig
from stonechat.errors import InvalidInput
from stonechat.services import rhythm as rhythm_service
from stonechat.services import rig as rig_service
from stonechat.services import variant as variant_service
from stonechat.services.evaluation import evaluated
from stonechat.services.history import OpenPlan, open_plan
from stonechat.services.workspace import Workspace


def carrier(opened: OpenPlan, key: str):  # type: ignore[no-untyped-def]
    return variant_service.carrier_named(opened.plan.variants[0], key)


def test_another_bike_redraws_frame_bag_and_drag(workspace: Workspace, opened: OpenPlan) -> None:
    after = rig_service.set_bike(
        workspace, opened.id, "a", revision=opened.revision, bike=usual_bike("drop_rigid", "s")
    )
    variant = after.plan.variants[0]
    assert carrier(after, "frame").capacity < carrier(opened, "frame").capacity
    assert variant.carriers == fit_rig(variant.bike, variant.carriers, variant.rider.position)


def test_a_lower_posture_leaves_more_in_the_wind(workspace: Workspace, opened: OpenPlan) -> None:
    rider = replace(opened.plan.variants[0].rider, position="aero")
    after = rhythm_service.set_rider(workspace, opened.id, "a", revision=opened.revision, rider=rider)
    assert carrier(after, "seat").drag >= carrier(opened, "seat").drag


def test_the_catalogue_mounts_a_pair_with_ids_of_their_own(workspace: Workspace, opened: OpenPlan) -> None:
    once = rig_service.add_kind(workspace, opened.id, "a", revision=opened.revision, kind="rack_sides")
    twice = rig_service.add_kind(workspace, opened.id, "a", revision=once.revision, kind="rack_sides")
    new = twice.plan.variants[0].carriers[len(opened.plan.variants[0].carriers) :]
    assert len(new) == 4 == len({c.id for c in new}) and {c.kind for c in new} == {"rack_sides"}
    assert evaluated(twice, "a").ridden.ledger.minutes("wind") > evaluated(opened, "a").ridden.ledger.minutes("wind")
    with pytest.raises(InvalidInput, match="not in the catalogue"):
        rig_service.add_kind(workspace, opened.id, "a", revision=twice.revision, kind="balloon")


def test_a_rig_has_an_end(workspace: Workspace, opened: OpenPlan) -> None:
    now = opened
    with pytest.raises(InvalidInput, match="at most 60 carriers"):
        for _ in range(60):
            now = rig_service.add_kind(workspace, opened.id, "a", revision=now.revision, kind="rack_sides")


def test_a_carrier_is_shifted_as_far_as_it_goes_and_no_farther(workspace: Workspace, opened: OpenPlan) -> None:
    far = rig_service.put_carrier(
        workspace, opened, "a", revision=opened.revision, carrier_id="top-front", place="top_tube_front",
        side="centre", shift=9.0,
    )  # fmt: skip
    assert 0.1 < carrier(far, "top-front").shift < 0.5
    with pytest.raises(InvalidInput, match="may hang: top tube, behind the stem"):
        rig_service.put_carrier(
            workspace, far, "a", revision=far.revision, carrier_id="top-front", place="fork", side="left", shift=0.0
        )


def test_a_bottle_moved_to_other_bosses_takes_those(workspace: Workspace, opened: OpenPlan) -> None:
    after = rig_service.put_carrier(
        workspace, opened, "a", revision=opened.revision, carrier_id="bottle-down", place="bottle_seat",
        side="centre", shift=0.0,
    )  # fmt: skip
    assert carrier(after, "bottle-down").uses == {"seat_tube"}
    found = [f for f in evaluated(after, "a").findings if f.code == "bosses"]
    assert any(f.state == "broken" and "on them already" in f.sentence for f in found)


def test_a_removed_carrier_leaves_its_things_on_the_floor(workspace: Workspace, opened: OpenPlan) -> None:
    held = {k for k, place in opened.plan.variants[0].places.items() if place == "pouch"}
    after = rig_service.drop_carrier(workspace, opened, "a", revision=opened.revision, carrier_id="pouch")
    assert "pouch" not in {c.id for c in after.plan.variants[0].carriers}
    assert {item.id for item in evaluated(after, "a").ridden.unplaced} == held


def test_what_is_typed_in_stays_when_the_bike_changes(workspace: Workspace, opened: OpenPlan) -> None:
    own = replace(carrier(opened, "bar"), drag_by_hand=True, drag=0.0125, drag_fill=0.2)
    typed = rig_service.set_carrier(workspace, opened.id, "a", revision=opened.revision, carrier=own)
    after = rig_service.set_bike(workspace, opened.id, "a", revision=typed.revision, bike=usual_bike("hardtail", "xl"))
    assert (carrier(after, "bar").drag, carrier(after, "bar").drag_fill) == (0.0125, 0.2)
    assert KINDS["bar_roll_small"].parts[0].drag_by_hand is False


def test_several_carriers_are_copied_taken_off_mounted_and_removed_in_one_step_each(
    workspace: Workspace, opened: OpenPlan
) -> None:
    def several(now: OpenPlan, how: str, *ids: str) -> OpenPlan:
        return rig_service.change_carriers(workspace, now, "a", revision=now.revision, carrier_ids=ids, how=how)

    before = opened.plan.variants[0]
    copied = several(opened, "copy", "seat", "bar")
    new = [c for c in copied.plan.variants[0].carriers if c.id not in {old.id for old in before.carriers}]
    assert [c.name for c in new] == ["seat pack", "bar roll"] or [c.name for c in new] == ["bar roll", "seat pack"]
    assert not any(c.mounted for c in new)
    off = several(copied, "off", "seat", "bar").plan.variants[0]
    assert not any(c.mounted for c in off.carriers if c.id in ("seat", "bar"))
    assert not {"seat", "bar"} & set(off.places.values()) and off.places
    on = several(open_plan(workspace, opened.id), "mount", "seat", "bar").plan.variants[0]
    assert all(c.mounted for c in on.carriers if c.id in ("seat", "bar"))
    gone = several(open_plan(workspace, opened.id), "remove", *(c.id for c in new)).plan.variants[0]
    assert [c.id for c in gone.carriers] == [c.id for c in before.carriers]
    for ids, how in (((), "off"), (("seat",), "paint")):
        with pytest.raises(InvalidInput):
            several(open_plan(workspace, opened.id), how, *ids)
