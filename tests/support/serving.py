"""Whether anything answers at a port of this machine."""

import socket


def answers(port):
    try:
        socket.create_connection(("127.0.0.1", port), timeout=5).close()
    except OSError:
        return False
    return True
