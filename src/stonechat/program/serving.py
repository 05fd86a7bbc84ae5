"""The web server: on a socket that is bound once, with an end to clients that send nothing."""

import asyncio
import socket
import threading
import time
from collections.abc import Callable
from typing import Any

import h11
import uvicorn
from uvicorn.protocols.http.h11_impl import H11Protocol

from stonechat.errors import Unavailable
from stonechat.services.workspace import Workspace
from stonechat.web.app import create_app

_BACKLOG = 512  # connections that may wait
_HEAD_S = 15.0  # until a request has said what it wants
_LAST_ANSWERS_S = 5  # for what is being answered when the program ends


class ImpatientProtocol(H11Protocol):
    """HTTP as the server speaks it, but a client that does not finish its head is let go."""

    _waiting: asyncio.TimerHandle | None = None

    def connection_made(self, transport: asyncio.Transport) -> None:  # type: ignore[override]
        """Begin to wait for the first head."""
        super().connection_made(transport)
        self._wait()

    def data_received(self, data: bytes) -> None:
        """Go on waiting while a head is begun and not whole."""
        super().data_received(data)
        if self.conn.their_state is h11.IDLE and self.conn.trailing_data[0]:
            self._wait()
        else:
            self._stop_waiting()

    def connection_lost(self, exc: Exception | None) -> None:
        """Forget the wait."""
        self._stop_waiting()
        super().connection_lost(exc)

    def _wait(self) -> None:
        if self._waiting is None:
            self._waiting = self.loop.call_later(_HEAD_S, self.transport.close)

    def _stop_waiting(self) -> None:
        if self._waiting is not None:
            self._waiting.cancel()
            self._waiting = None


def loopback_socket(wanted: int) -> socket.socket:
    """Return a socket that listens on a loopback port: the wanted one, or any where that is taken (0: any).

    The server is handed this very socket, so that nobody can take the port in between.
    """
    for port in (wanted, 0):
        listening = socket.socket()
        listening.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            listening.bind(("127.0.0.1", port))
            listening.listen(_BACKLOG)
        except OSError:
            listening.close()
            continue
        return listening
    raise Unavailable("No loopback port is free. End a program that holds one, then start again.")


def serve(workspace: Workspace, *, port: int | None, say: Callable[[str], None]) -> None:
    """Serve until told to stop; the address is said when the server answers."""
    wanted = workspace.settings.port if port is None else port
    with loopback_socket(wanted) as listening:
        got = listening.getsockname()[1]
        config = uvicorn.Config(
            create_app(workspace),
            log_level="warning",
            server_header=False,
            http=ImpatientProtocol,
            timeout_graceful_shutdown=_LAST_ANSWERS_S,
        )
        server = uvicorn.Server(config)
        taken = f"Port {wanted} is taken, so " if wanted not in (0, got) else ""
        sentence = f"{taken}Stonechat is at http://127.0.0.1:{got}/  (Ctrl-C stops it)"
        threading.Thread(target=_announce, args=(server, sentence, say), daemon=True).start()
        server.run(sockets=[listening])


def _announce(server: Any, sentence: str, say: Callable[[str], None]) -> None:
    while not server.started:
        time.sleep(0.05)
    say(sentence)
