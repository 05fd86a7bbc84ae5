"""The web server on the wire: clients that are slow, leave, or say two things at once."""

import asyncio
import logging
import socket
import threading
import time
from collections.abc import Iterator

import pytest
import uvicorn

from stonechat.program import serving
from stonechat.program.serving import ImpatientProtocol, loopback_socket
from stonechat.services.workspace import Workspace
from stonechat.web import security
from stonechat.web.app import create_app


@pytest.fixture
def port(workspace: Workspace, monkeypatch: pytest.MonkeyPatch) -> Iterator[int]:
    """A running server with little patience."""
    monkeypatch.setattr(serving, "_HEAD_S", 0.8)
    monkeypatch.setattr(security, "_SILENCE_S", 0.8)
    with loopback_socket(0) as listening:
        config = uvicorn.Config(create_app(workspace), log_level="warning", http=ImpatientProtocol)
        server = uvicorn.Server(config)
        thread = threading.Thread(target=asyncio.run, args=(server.serve(sockets=[listening]),), daemon=True)
        thread.start()
        while not server.started:
            time.sleep(0.02)
        yield listening.getsockname()[1]
        server.should_exit = True
        thread.join(timeout=20)


def said(port: int, request: str, *, then: float = 0.0) -> str:
    """Send bytes as they are, wait until the server closes, and return what it said."""
    with socket.create_connection(("127.0.0.1", port), timeout=20) as wire:
        wire.sendall(request.replace("\n", "\r\n").encode())
        time.sleep(then)
        got = b""
        while piece := wire.recv(65_536):
            got += piece
    return got.decode(errors="replace")


HEAD = "POST /plans HTTP/1.1\nHost: 127.0.0.1\nConnection: close\n"


def test_a_head_that_is_never_finished_is_hung_up_on(port: int) -> None:
    assert said(port, "GET /plans HTTP/1.1\nHost: 127.0.0.1\nX-Slow: ") == ""
    assert said(port, "") == ""


def test_a_second_head_is_not_waited_for_longer_than_the_first(port: int) -> None:
    told = said(port, "GET /healthy HTTP/1.1\nHost: 127.0.0.1\n\nGET /hea")
    assert told.count("HTTP/1.1 200") == 1


def test_a_body_that_stops_coming_is_given_up(port: int) -> None:
    told = said(port, HEAD + "Content-Type: application/x-www-form-urlencoded\nContent-Length: 900\n\nname=x")
    assert told.startswith("HTTP/1.1 408") and "came too slowly" in told


def test_a_length_told_in_two_ways_is_refused_at_once(port: int) -> None:
    told = said(port, HEAD + "Content-Length: 5\nTransfer-Encoding: chunked\n\n0\n\n")
    assert told.startswith("HTTP/1.1 400") and "in two ways" in told
    assert "content-security-policy" in told.lower()


def test_a_client_that_leaves_is_no_failure(port: int, caplog: pytest.LogCaptureFixture) -> None:
    with caplog.at_level(logging.INFO), socket.create_connection(("127.0.0.1", port)) as wire:
        head = HEAD + "Content-Type: multipart/form-data; boundary=b\nContent-Length: 90000\n\n--b"
        wire.sendall(head.replace("\n", "\r\n").encode())
        time.sleep(0.1)
    time.sleep(0.5)
    assert [record.message for record in caplog.records if record.levelno >= logging.WARNING] == []
