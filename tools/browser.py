"""Debian's Chromium, and a demo server of one's own for it."""

from __future__ import annotations

import socket
import subprocess
import sys
import time
import urllib.request

CHROMIUM = "/usr/bin/chromium"
CHROMIUM_FLAGS = (
    "--no-sandbox",
    "--disable-gpu",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
)
PATIENCE_S = 300.0  # until a server is up, however busy the machine is


def free_port() -> int:
    """A port that nobody listens at."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


class Served:
    """A demo server of its own on a free port, over a database in a folder."""

    def __init__(self, folder: str) -> None:
        self.port = free_port()
        self.url = f"http://127.0.0.1:{self.port}"
        self.folder = folder
        self.cookies: dict[str, str] = {}  # this machine needs none
        self.process: subprocess.Popen[bytes] | None = None

    def __enter__(self) -> Served:
        command = [
            sys.executable,
            "-m",
            "isostasis",
            "demo",
            "--db",
            f"{self.folder}/demo.db",
            "--port",
            str(self.port),
        ]
        self.process = subprocess.Popen(command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
        last = time.monotonic() + PATIENCE_S
        while time.monotonic() < last and self.process.poll() is None:
            try:
                with urllib.request.urlopen(self.url + "/", timeout=60):
                    return self
            except OSError:
                time.sleep(0.02)
        raise RuntimeError("the server did not start")

    def __exit__(self, *_: object) -> None:
        if self.process:
            self.process.terminate()
            self.process.wait(PATIENCE_S)
