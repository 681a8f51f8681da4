"""One window a person: a second start hands its file to the first and ends."""

from __future__ import annotations

import hashlib
import json
import os
from pathlib import Path

from platformdirs import user_state_path
from PyQt6.QtCore import QObject, QTimer, pyqtSignal
from PyQt6.QtNetwork import QLocalServer, QLocalSocket

_WAIT = 1500
_MOST = 64 << 10


def _name() -> str:
    """Return the address, which is another one for another person and another state folder."""
    who = hashlib.sha256(f"{os.getuid()} {user_state_path('spiralis')}".encode()).hexdigest()[:12]
    folder = os.environ.get("XDG_RUNTIME_DIR", "")
    return str(Path(folder) / f"spiralis-{who}") if folder and Path(folder).is_dir() else f"spiralis-{who}"


def ring(file: Path | None, demo: bool = False) -> bool:
    """Ask a window that is open already to come forward with a file; False where there is none that answers."""
    socket = QLocalSocket()
    socket.connectToServer(_name())
    if not socket.waitForConnected(_WAIT):
        return False
    asked = {"file": str(file.resolve()) if file is not None else "", "demo": demo}
    socket.write(json.dumps(asked).encode() + b"\n")
    socket.flush()
    answered = socket.waitForReadyRead(_WAIT) and bytes(socket.readAll().data()).startswith(b"ok")
    socket.disconnectFromServer()
    return bool(answered)


class Doorbell(QObject):
    """Listens for later starts. ``rung`` carries the file's path, empty for none, and whether the demo is wanted."""

    rung = pyqtSignal(str, bool)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._server = QLocalServer(self)
        self._server.setSocketOptions(QLocalServer.SocketOption.UserAccessOption)
        self._server.newConnection.connect(self._answer)
        self._sockets: list[QLocalSocket] = []
        self._asked: list[tuple[str, bool]] = []
        # Opening a file waits in the event loop. Methods of an object that stays outlive that; what a socket holds, or
        # a call that is made later, would be taken apart while it runs.
        self._later = QTimer(self)
        self._later.setSingleShot(True)
        self._later.timeout.connect(self._ring)

    def listen(self) -> bool:
        """Begin to listen; what a program that was killed has left behind is taken over."""
        if self._server.listen(_name()):
            return True
        QLocalServer.removeServer(_name())
        return self._server.listen(_name())

    def close(self) -> None:
        """Stop listening."""
        self._server.close()

    def _answer(self) -> None:
        socket = self._server.nextPendingConnection()
        if socket is not None:
            self._sockets.append(socket)
            socket.disconnected.connect(self._let_go)
            socket.readyRead.connect(self._read)
            self._read()

    def _let_go(self) -> None:
        """Forget the sockets whose other end has gone."""
        for socket in [s for s in self._sockets if s.state() is QLocalSocket.LocalSocketState.UnconnectedState]:
            self._sockets.remove(socket)
            socket.deleteLater()

    def _read(self) -> None:
        for socket in tuple(self._sockets):
            if socket.canReadLine():
                self._take(socket)
            elif socket.bytesAvailable() > _MOST:
                socket.abort()

    def _take(self, socket: QLocalSocket) -> None:
        try:
            asked = json.loads(bytes(socket.readLine().data()))
            self._asked.append((str(asked["file"]), bool(asked["demo"])))
        except (ValueError, KeyError, TypeError):
            socket.abort()
            return
        socket.write(b"ok\n")
        socket.flush()
        self._later.start()

    def _ring(self) -> None:
        while self._asked:
            self.rung.emit(*self._asked.pop(0))
