"""The manual that ships with the program: every page answers, whole, and leads on."""

import re

import pytest
from fastapi.testclient import TestClient
from test_pages import ROOMS, room

from stonechat.services.history import OpenPlan
from stonechat.web.rooms.manual import pages


@pytest.mark.parametrize("name", [name for name, _, _ in pages()])
def test_a_page_answers_and_its_links_within_the_manual_lead_somewhere(client: TestClient, name: str) -> None:
    answer = client.get(f"/manual/{name}")
    assert answer.status_code == 200
    assert "<img" not in answer.text  # pictures are not shipped
    assert "![" not in answer.text and ".md" not in re.sub(r"<code>.*?</code>", "", answer.text)
    for target in re.findall(r'href="(/manual/[\w-]+)', answer.text):
        assert client.get(target).status_code == 200, target


@pytest.mark.parametrize("name", ROOMS)
def test_every_room_leads_to_its_own_page(client: TestClient, opened: OpenPlan, name: str) -> None:
    assert f'href="/manual/{name}"' in client.get(room(opened, name)).text
    assert client.get(f"/manual/{name}").status_code == 200


def test_a_page_that_is_not_there_is_said(client: TestClient) -> None:
    assert client.get("/manual/nowhere").status_code == 404
