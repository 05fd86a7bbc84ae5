"""Cards over the wire: the print and its pages, the emergency page, files, the pack, links."""

import io
import json
import re

import numpy as np
import pytest
from fastapi.testclient import TestClient
from PIL import Image
from pypdf import PdfReader

from stonechat.core.plan.late import LateTable
from stonechat.core.plan.printing import CARDS, EMERGENCY
from stonechat.db import runs
from stonechat.services.evaluation import evaluated
from stonechat.services.history import OpenPlan, open_plan
from stonechat.services.late import late_of, late_run
from stonechat.services.work import RunState
from stonechat.services.workspace import Workspace


def send(client: TestClient, opened: OpenPlan, path: str, **fields: str) -> str:
    now = client.get(f"/plans/{opened.id}/a/cards").text
    revision = re.search(r'name="revision" value="(\d+)"', now)
    assert revision
    answer = client.post(f"/plans/{opened.id}/a/do/{path}", data={"revision": revision[1], **fields})
    assert answer.status_code in (200, 303, 422), answer.text[:300]
    return answer.text


HOW = {"strip_for": "bar", "paper": "A4", "type_size": "9", "margin": "12"}


def pages(client: TestClient, opened: OpenPlan) -> list[str]:
    reader = PdfReader(io.BytesIO(client.get(f"/plans/{opened.id}/a/do/cards.pdf").content))
    return [" ".join(page.extract_text().split()) for page in reader.pages]


def test_every_card_is_printed_where_it_is_chosen(client: TestClient, opened: OpenPlan) -> None:
    send(client, opened, "cards-emergency", name="A. Nobody", contact="+00 111 222", medicine="none")
    send(client, opened, "cards-print", **HOW, **dict.fromkeys(CARDS, "yes"))
    text = " ".join(pages(client, opened))
    titles = ("bar strip", "bags from the start", "packing list", "By stop", "Shopping", "Camp", "Charging", "Clothes")
    for title in (*titles, "Mending", "Bolts", "Emergency"):
        assert f"The Corvane Round: {title}" in text, title
    assert "+00 111 222" in text and "112" in text and "N·m" in text
    send(client, opened, "cards-print", **HOW, packing="yes")
    text = " ".join(pages(client, opened))
    assert "packing list" in text and "bar strip" not in text and "+00 111 222" not in text


def test_the_preview_is_the_print(client: TestClient, opened: OpenPlan) -> None:
    shown = client.get(f"/plans/{opened.id}/a/do/cards-pages").text
    addresses = re.findall(r'src="([^"]+)"', shown)
    assert len(addresses) == len(pages(client, opened))
    picture = Image.open(io.BytesIO(client.get(addresses[0].replace("&amp;", "&")).content))
    assert picture.width / picture.height == pytest.approx(210 / 297, abs=0.01)
    assert len(picture.convert("L").getcolors() or []) > 10  # something stands on it
    assert client.get(f"/plans/{opened.id}/a/do/cards-page/99").status_code == 404


def test_paper_type_and_sides_are_as_asked(client: TestClient, opened: OpenPlan) -> None:
    send(
        client,
        opened,
        "cards-print",
        **{**HOW, "paper": "A5", "type_size": "7"},
        strip="yes",
        packing="yes",
        two_sided="yes",
    )
    reader = PdfReader(io.BytesIO(client.get(f"/plans/{opened.id}/a/do/cards.pdf").content))
    assert float(reader.pages[0].mediabox.width) == pytest.approx(148 / 25.4 * 72, abs=1.0)
    fronts = [k for k, page in enumerate(reader.pages) if "packing list" in page.extract_text()]
    assert fronts[0] % 2 == 0  # the first of it is a front page
    for wrong in ({"type_size": "5"}, {"margin": "90"}, {"paper": "B9"}):
        assert 'class="wrong"' in send(client, opened, "cards-print", **{**HOW, **wrong}, strip="yes")


def test_nothing_chosen_is_a_page_that_says_so(client: TestClient, opened: OpenPlan) -> None:
    send(client, opened, "cards-print", **HOW)
    (only,) = pages(client, opened)
    assert only.startswith("No card is chosen.")


def test_the_emergency_page_stays_in_the_plan(client: TestClient, opened: OpenPlan, workspace: Workspace) -> None:
    said = {key: f"{title} of mine ✚" for key, title in EMERGENCY.items()}
    send(client, opened, "cards-emergency", **said)
    assert open_plan(workspace, opened.id).plan.emergency == said
    assert "of mine" not in client.get(f"/plans/{opened.id}/a/do/pack.html").text
    assert "of mine" not in " ".join(pages(client, opened))


def test_a_link_shows_the_pack_and_only_that(client: TestClient, opened: OpenPlan) -> None:
    send(client, opened, "cards-share")
    shown = client.get(f"/plans/{opened.id}/a/cards", params={"tab": "pack"}).text
    (address,) = set(re.findall(r'href="(/shared/[^"]+)"', shown))
    page = client.get(address)
    assert page.status_code == 200 and "Corvane" in page.text and "sha256-" in page.headers["content-security-policy"]
    data = json.loads(re.search(r'id="data">(.*?)</script>', page.text, re.S)[1])  # type: ignore[index]
    assert data["format"] == "stonechat-pack" and str(opened.id) not in page.text
    for more in ("worker.js", "manifest.webmanifest", "mark.svg"):
        assert client.get(address + more).status_code == 200
    back = re.search(r'action="([^"]+/back)"', shown)
    assert back
    send(client, opened, back[1].split("/do/")[1])
    gone = client.get(address)
    assert gone.status_code == 404 and "taken back" in gone.text


def test_a_link_that_is_none_is_told(client: TestClient) -> None:
    answer = client.get("/shared/nothing-of-the-kind/")
    assert answer.status_code == 404 and "nothing under this link" in answer.text


def test_a_print_does_not_wait_for_other_work(client: TestClient, opened: OpenPlan, workspace: Workspace) -> None:
    with workspace.store.transaction() as session:  # waiting for ever: no worker takes it up
        runs.add_run(session, opened.id, "a", revision=opened.revision, family="late", kind="late", request={})
    assert "pack waits" in client.get(f"/plans/{opened.id}/a/cards", params={"tab": "pack"}).text
    assert client.get(f"/plans/{opened.id}/a/do/cards.pdf").content.startswith(b"%PDF")
    assert "stonechat-pack" in client.get(f"/plans/{opened.id}/a/do/pack.html").text


def test_a_pack_of_the_plan_as_it_was_is_made_again(
    client: TestClient, opened: OpenPlan, workspace: Workspace, demo_late: LateTable
) -> None:
    send(client, opened, "pack-make")
    tab = f"/plans/{opened.id}/a/cards?tab=pack"
    assert "The pack as one file" in client.get(tab).text
    run = late_run(workspace, open_plan(workspace, opened.id), "a")
    assert run is not None and run.state == RunState.DONE
    kept = late_of(workspace, opened, "a", evaluated(opened, "a").ridden)
    assert np.abs(kept.arrivals - demo_late.arrivals).max() <= 0.05 and kept.nodes.tolist() == demo_late.nodes.tolist()
    send(client, opened, "cards-print", **HOW, packing="yes")
    assert "Make the pack" in client.get(tab).text
