"""Who may ask for what, and what stands on every answer."""

import pytest
from fastapi.testclient import TestClient

from stonechat.services.workspace import Workspace
from stonechat.web.app import create_app

OWN = "http://127.0.0.1"


@pytest.mark.parametrize(
    ("headers", "is_let_in"),
    [
        ({}, True),
        ({"Origin": OWN}, True),
        ({"Origin": OWN, "Sec-Fetch-Site": "same-origin"}, True),
        ({"Sec-Fetch-Site": "none"}, True),
        ({"Origin": "https://elsewhere.example"}, False),
        ({"Origin": "null"}, False),
        ({"Origin": "http://127.0.0.1:9999"}, False),
        ({"Origin": "http://127.0.0.1.elsewhere.example"}, False),
        ({"Origin": OWN, "Sec-Fetch-Site": "cross-site"}, False),
        ({"Sec-Fetch-Site": "same-site"}, False),
    ],
)
def test_a_change_comes_from_our_own_pages_alone(client: TestClient, headers: dict[str, str], is_let_in: bool) -> None:
    answer = client.post("/measures", data={"units": "metric", "clock": "24"}, headers=headers)
    assert answer.status_code == (303 if is_let_in else 403)
    assert client.get("/plans", headers=headers).status_code == 200  # reading changes nothing


@pytest.mark.parametrize("host", ["testserver", "elsewhere.example", "127.0.0.1.elsewhere.example", ""])
def test_it_answers_on_loopback_alone(client: TestClient, host: str) -> None:
    assert client.get("/plans", headers={"Host": host}).status_code == 421


@pytest.mark.parametrize(
    "path", ["/plans", "/nowhere", "/healthy", "/ready", "/static/app.css", "/static/none", "/fall"]
)
def test_every_answer_keeps_to_itself(workspace: Workspace, path: str) -> None:
    app = create_app(workspace)

    @app.get("/fall")
    def fall() -> None:
        raise ZeroDivisionError

    with TestClient(app, base_url=OWN, raise_server_exceptions=False) as client:
        answer = client.get(path)
    assert (answer.status_code == 500) == (path == "/fall")
    assert answer.headers["x-content-type-options"] == "nosniff"
    assert "default-src 'none'" in answer.headers["content-security-policy"]
