"""The web server as it runs: slow clients hold nobody up, and nothing outlives its master."""

import os
import signal
import socket
import subprocess
import sys
import time
import urllib.request
from pathlib import Path

from django.test import SimpleTestCase

GUNICORN = Path(sys.executable).parent / "gunicorn"
CLIENTS = 60
PATIENCE_S = 60


def free_port() -> int:
    with socket.create_server(("127.0.0.1", 0)) as taken:
        return int(taken.getsockname()[1])


class Server(SimpleTestCase):
    def setUp(self) -> None:
        self.port = free_port()
        self.master = subprocess.Popen(
            [GUNICORN, "ondata.wsgi", "--bind", f"127.0.0.1:{self.port}", "--workers", "1",
             "--preload", "--worker-class", "ondata.server.BufferingWorker",
             "--no-control-socket", "--log-level", "critical"],
        )  # fmt: skip
        self.addCleanup(self.master.wait)
        self.addCleanup(self.master.kill)
        self.until(lambda: self.status() == 200)

    def until(self, true) -> None:
        end = time.monotonic() + PATIENCE_S
        while not true():
            self.assertLess(time.monotonic(), end)
            time.sleep(0.1)

    def status(self) -> int:
        """The status of a page that needs no database; 0: nobody answers."""
        try:
            address = f"http://127.0.0.1:{self.port}/account/sign-in/"
            with urllib.request.urlopen(address, timeout=PATIENCE_S) as answer:
                return answer.status
        except OSError:
            return 0

    def child(self) -> int:
        """The number of the one process that serves."""
        children = Path(f"/proc/{self.master.pid}/task/{self.master.pid}/children").read_text()
        (child,) = map(int, children.split())
        return child

    def test_a_process_that_is_renewed_answers_what_has_begun_to_come(self) -> None:
        clients = [socket.create_connection(("127.0.0.1", self.port)) for _ in range(CLIENTS // 3)]
        for client in clients:
            self.addCleanup(client.close)
            client.sendall(b"GET /account/sign-in/ HTTP/1.1\r\nHost: local")
        self.assertEqual(200, self.status())
        child = self.child()
        os.kill(child, signal.SIGTERM)
        time.sleep(1)
        for client in clients:
            client.sendall(b"host\r\nConnection: close\r\n\r\n")
        for client in clients:
            self.assertTrue(client.recv(100).startswith(b"HTTP/1.1 200 "))
        self.until(lambda: not Path(f"/proc/{child}").exists())

    def test_half_sent_requests_hold_nobody_up_and_no_process_is_left_behind(self) -> None:
        for sent in (
            b"",
            b"GET / HTTP/1.1\r\nHost: l",
            b"POST / HTTP/1.1\r\nContent-Length: 9\r\n\r\n",
        ):
            for _ in range(CLIENTS // 3):
                client = socket.create_connection(("127.0.0.1", self.port))
                self.addCleanup(client.close)
                client.sendall(sent)
        self.assertEqual(200, self.status())
        child = self.child()
        os.kill(self.master.pid, signal.SIGKILL)
        self.until(lambda: not Path(f"/proc/{child}").exists())
