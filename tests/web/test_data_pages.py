"""The page of the rider's data: what is held, as files, deleted."""

import io
import zipfile

from fastapi.testclient import TestClient

from stonechat.services.history import OpenPlan


def test_everything_can_be_taken_out_and_deleted(client: TestClient, opened: OpenPlan) -> None:
    page = client.get("/data").text
    assert "Everything as files" in page and "Delete everything" in page
    answer = client.get("/data/files")
    assert answer.headers["content-type"] == "application/zip"
    assert zipfile.ZipFile(io.BytesIO(answer.content)).testzip() is None
    refused = client.post("/data/delete", data={"word": "no"})
    assert refused.status_code == 422 and "Nothing was deleted" in refused.text
    assert client.get(f"/plans/{opened.id}").status_code == 303
    assert client.post("/data/delete", data={"word": "delete"}).status_code == 303
    assert client.get(f"/plans/{opened.id}").status_code == 404


def test_a_deleted_plan_can_go_at_once(client: TestClient, opened: OpenPlan) -> None:
    client.post(f"/plans/{opened.id}/delete")
    assert "Delete for good" in client.get("/plans").text
    client.post(f"/plans/{opened.id}/forget")
    assert "Delete for good" not in client.get("/plans").text
    assert client.post(f"/plans/{opened.id}/restore").status_code == 404
