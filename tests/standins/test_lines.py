"""Lines of devices over TCP and at a serial port, whatever they send; a probe beside the scale."""

import os
import pty
import socket
import threading
import tty
from datetime import UTC, datetime

import pytest
from hypothesis import given
from hypothesis import strategies as st

from isostasis.standins import lines
from isostasis.standins.air import air_of_line, probe_at
from isostasis.standins.lines import MAX_BYTES, Serial, Tcp, first, source_at
from isostasis.standins.scale import scale_at, weight_of_line

AT = datetime(2027, 3, 1, 19, tzinfo=UTC)


class Pieces:
    """What comes in the pieces that it comes in."""

    def __init__(self, *pieces):
        self.all = pieces

    def pieces(self):
        yield from self.all


@pytest.mark.parametrize(
    ("line", "air"),
    [("R 19.2 C 54 %", (19.2, 0.54)), ("r -3 80", (-3.0, 0.8)), ("R 21.5C 45.5%", (21.5, 0.455)), ("R 200 50", None),
     ("R 20 120", None), ("S 20 50", None), ("R 20", None), ("", None)],
)  # fmt: skip
def test_a_line_of_a_probe(line, air):
    assert air_of_line(line) == air


@given(st.binary(max_size=400), st.integers(1, 50))
def test_whatever_a_device_sends_a_reading_comes_or_a_sentence(data, size):
    good = data + b"\nS 12.5 g\n"
    pieces = [good[at : at + size] for at in range(0, len(good), size)]
    found = first(Pieces(*pieces), weight_of_line, "scale")
    assert found.grams is None or -1e6 < found.grams < 1e6
    with pytest.raises(OSError, match="no reading came from the probe"):
        first(
            Pieces(b"\n".join(one for one in data.split(b"\n") if not one.startswith((b"R", b"r")))),
            air_of_line,
            "probe",
        )


def test_a_device_that_never_ends_a_line_is_given_up():
    class Endless:
        def pieces(self):
            while True:
                yield b"x" * 200

    with pytest.raises(OSError, match="no reading"):
        first(Endless(), weight_of_line, "scale")
    assert MAX_BYTES < 10_000


@pytest.mark.parametrize(
    ("address", "source"),
    [("10.0.0.5:7001", Tcp("10.0.0.5", 7001)), ("serial:/dev/ttyUSB0", Serial("/dev/ttyUSB0", 9600)),
     ("serial:COM3@4800", Serial("COM3", 4800))],
)  # fmt: skip
def test_an_address_names_its_source(address, source):
    assert source_at(address) == source


@pytest.mark.parametrize("address", ["serial:", "serial:/dev/x@1", "serial:/dev/x@fast", "tea", ":1", "host:70000"])
def test_what_is_no_address_says_what_would_be(address):
    with pytest.raises(ValueError, match="write something like"):
        source_at(address)


@pytest.fixture
def port():
    """A serial port of the system's own making, and what says a line into its other end again and again: what came
    before it was opened is dropped."""
    ours, theirs = pty.openpty()
    tty.setraw(theirs)
    said, over = [b""], threading.Event()

    def say():
        while not over.wait(0.02):
            os.write(ours, said[0])

    saying = threading.Thread(target=say)
    saying.start()
    yield os.ttyname(theirs), said
    over.set()
    saying.join()
    os.close(ours)
    os.close(theirs)


def test_a_scale_and_a_probe_at_a_serial_port(port):
    name, said = port
    said[0] = b"\nS 90.7 g B80\n"
    read = scale_at(f"serial:{name}").read(AT)
    assert (read.grams, read.steady, read.battery) == (90.7, True, 0.8)
    said[0] = b"\nR 19.2 C 54 %\n"
    air = probe_at(f"serial:{name}").read(AT)
    assert (air.at, air.temp_c, air.rh) == (AT, 19.2, 0.54)


def test_a_port_that_says_nothing_and_one_that_is_not_there_are_told(port, monkeypatch):
    monkeypatch.setattr(lines, "WAITS_S", 0.05)
    with pytest.raises(OSError, match="no reading came from the scale"):
        scale_at(f"serial:{port[0]}").read(AT)
    with pytest.raises(OSError, match="could not open port"):
        scale_at("serial:/dev/there-is-none").read(AT)


def test_a_probe_over_tcp():
    server = socket.create_server(("127.0.0.1", 0))

    def answer():
        talk, _ = server.accept()
        with talk:
            talk.sendall(b"R 11.0 80\n")

    threading.Thread(target=answer, daemon=True).start()
    air = probe_at(f"127.0.0.1:{server.getsockname()[1]}").read(AT)
    assert (air.temp_c, air.rh) == (11.0, 0.8)
    server.close()
