"""Lines that a device sends, over TCP or a serial port: what scales and probes share."""

from __future__ import annotations

import socket
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Any, Protocol, TypeVar

WAITS_S = 1.5  # for a line
MAX_LINE = 80  # letters
MAX_BYTES = MAX_LINE * 50  # read for one reading
BAUD = 9600
Reading = TypeVar("Reading")


class Source(Protocol):
    """Where lines come from."""

    def pieces(self) -> Iterator[bytes]:
        """What comes, piece by piece; ends where nothing more comes in time. Raises OSError."""
        ...


@dataclass(frozen=True)
class Tcp:
    """A device, or a small program beside it, that listens at a port."""

    host: str
    port: int

    def pieces(self) -> Iterator[bytes]:
        """What it sends."""
        with socket.create_connection((self.host, self.port), timeout=WAITS_S) as talk:
            talk.settimeout(WAITS_S)
            while more := talk.recv(256):
                yield more


@dataclass(frozen=True)
class Serial:
    """A device at a serial port of this machine."""

    port: str
    baud: int = BAUD

    def pieces(self) -> Iterator[bytes]:
        """What it sends."""
        with _opened(self.port, self.baud) as talk:
            while more := talk.read(talk.in_waiting or 1):
                yield bytes(more)


def _opened(port: str, baud: int) -> Any:
    try:
        from serial import Serial as Port
    except ModuleNotFoundError:
        raise OSError(0, "pyserial is missing: install Isostasis with the extra `serial`") from None
    return Port(port, baud, timeout=WAITS_S)  # its SerialException is an OSError


def first(source: Source, understood: Callable[[str], Reading | None], what: str) -> Reading:
    """The first whole line that is a reading. Raises OSError where none comes in time."""
    held, seen = b"", 0
    for more in source.pieces():
        held, seen = held + more, seen + len(more)
        *lines, held = held.split(b"\n")
        for line in lines:
            found = understood(line[:MAX_LINE].decode("ascii", "replace"))
            if found is not None:
                return found
        if seen > MAX_BYTES:
            break
    raise OSError(0, f"no reading came from the {what}")


def source_at(address: str) -> Source:
    """The source at HOST:PORT, or `serial:PORT[@BAUD]`. Raises ValueError for what is no such address.

    >>> source_at("serial:/dev/ttyUSB0@4800")
    Serial(port='/dev/ttyUSB0', baud=4800)
    """
    text = address.strip()
    if text.startswith("serial:"):
        port, _, baud = text.removeprefix("serial:").partition("@")
        if port and (not baud or (baud.isdecimal() and 300 <= int(baud) <= 921_600)):
            return Serial(port, int(baud or BAUD))
    host, colon, number = text.rpartition(":")
    if not colon or not host or host == "serial" or not number.isdecimal() or not 0 < int(number) < 65536:
        raise ValueError(
            f"“{address[:40]}” is no HOST:PORT and no serial:PORT; write something like 192.168.1.20:7001 or "
            "serial:/dev/ttyUSB0@9600"
        )
    return Tcp(host, int(number))
