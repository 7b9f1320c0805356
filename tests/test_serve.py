"""The server as it is started from the command line."""

import socket
import urllib.request
from contextlib import ExitStack

from tools.browser import Served


def test_connections_that_say_nothing_block_nobody(tmp_path):
    with Served(str(tmp_path)) as served, ExitStack() as idle:
        for number in range(150):
            silent = idle.enter_context(socket.create_connection(("127.0.0.1", served.port)))
            if number % 2:
                silent.sendall(b"GET / HTTP/1.1\r\nHost: localhost\r\n")  # and no more
        with urllib.request.urlopen(f"{served.url}/", timeout=300) as answer:
            assert answer.status == 200
