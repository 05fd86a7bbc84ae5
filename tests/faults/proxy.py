"""A stand-in on the wire between program and database, which loses the answer to one commit."""

import socket
import threading
from contextlib import suppress
from pathlib import Path

_COMMIT = b"COMMIT\x00"
_SOCKET = ".s.PGSQL.5432"


class LosingProxy:
    """Hands everything on, but cuts the connection at the next commit once armed: before it, or after it was done."""

    def __init__(self, folder: Path, server_folder: Path) -> None:
        self._server = str(server_folder / _SOCKET)
        self._armed = ""
        self._listening = socket.socket(socket.AF_UNIX)
        self._listening.bind(str(folder / _SOCKET))
        self._listening.listen(16)
        self.is_closed_to_new = False
        threading.Thread(target=self._accept, daemon=True).start()

    def lose_next_commit(self, when: str) -> None:
        """Cut the next commit `before` it reaches the server, or `after` the server has done it."""
        assert when in ("before", "after")
        self._armed = when

    def close(self) -> None:
        """Take no more connections."""
        self._listening.close()

    def _accept(self) -> None:
        while True:
            try:
                client, _ = self._listening.accept()
            except OSError:
                return
            if self.is_closed_to_new:
                client.close()
                continue
            server = socket.socket(socket.AF_UNIX)
            server.connect(self._server)
            threading.Thread(target=self._to_server, args=(client, server), daemon=True).start()

    def _to_server(self, client: socket.socket, server: socket.socket) -> None:
        back = threading.Thread(target=_hand_on, args=(server, client), daemon=True)
        back.start()
        while data := _received(client):
            if self._armed and _COMMIT in data:
                when, self._armed = self._armed, ""
                _end(client)  # from here on the program hears nothing
                if when == "after":
                    server.sendall(data)
                    server.shutdown(socket.SHUT_WR)
                    back.join(timeout=5)
                break
            server.sendall(data)
        _end(server)
        back.join(timeout=5)
        server.close()
        client.close()


def _end(connection: socket.socket) -> None:
    with suppress(OSError):  # the other side was faster
        connection.shutdown(socket.SHUT_RDWR)


def _received(source: socket.socket) -> bytes:
    try:
        return source.recv(65_536)
    except OSError:
        return b""


def _hand_on(source: socket.socket, target: socket.socket) -> None:
    while data := _received(source):
        try:
            target.sendall(data)
        except OSError:
            continue
