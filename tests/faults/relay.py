"""Lets what listens on loopback be reached at another address of this machine."""

import contextlib
import socket
import threading


class Relay:
    """Listens on a free port of an address, and carries bytes to a port on loopback and back."""

    def __init__(self, address, to):
        self._to = to
        self._listening = socket.create_server((address, 0))
        self.port = self._listening.getsockname()[1]
        threading.Thread(target=self._listen, daemon=True).start()

    def close(self):
        # a thread that waits for the next one is woken by this, not by closing alone
        with contextlib.suppress(OSError):
            self._listening.shutdown(socket.SHUT_RDWR)
        self._listening.close()

    def _listen(self):
        while True:
            try:
                near, _ = self._listening.accept()
                far = socket.create_connection(("127.0.0.1", self._to))
            except OSError:
                return
            for one, other in ((near, far), (far, near)):
                threading.Thread(target=self._carry, args=(one, other), daemon=True).start()

    @staticmethod
    def _carry(one, other):
        with contextlib.suppress(OSError):
            while data := one.recv(1 << 16):
                other.sendall(data)
        for each in (one, other):
            with contextlib.suppress(OSError):
                each.shutdown(socket.SHUT_RDWR)
