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
        if socket is None:
            return
        socket.disconnected.connect(socket.deleteLater)
        socket.readyRead.connect(lambda: self._read(socket))
        if socket.bytesAvailable():
            self._read(socket)

    def _read(self, socket: QLocalSocket) -> None:
        if not socket.canReadLine():
            if socket.bytesAvailable() > _MOST:
                socket.abort()
            return
        try:
            asked = json.loads(bytes(socket.readLine().data()))
            file, demo = str(asked["file"]), bool(asked["demo"])
        except (ValueError, KeyError, TypeError):
            socket.abort()
            return
        socket.write(b"ok\n")
        socket.flush()
        # Not from within this slot: opening a file waits in the event loop, and the socket goes meanwhile.
        QTimer.singleShot(0, lambda: self.rung.emit(file, demo))
