"""The simulated scale behaves as one does; lines are read whatever comes; a real one is read over TCP."""

import socket
import threading
from datetime import UTC, datetime, timedelta

import pytest
from click.testing import CliRunner
from hypothesis import given
from hypothesis import strategies as st

from isostasis.cli import main
from isostasis.core.mixing.gauge import gauge
from isostasis.standins.scale import CAPACITY_G, RESOLUTION_G, SimulatedScale, scale_at, weight_of_line

AT = datetime(2027, 3, 1, 19, tzinfo=UTC)


def later(seconds):
    return AT + timedelta(seconds=seconds)


def test_it_settles_rounds_wanders_and_is_the_same_for_the_same_seed():
    scale = SimulatedScale(7, AT).put(100.0, later(10))
    assert scale.read(later(10.1)).grams < 60 and not scale.read(later(10.1)).steady
    settled = scale.read(later(20))
    assert settled.steady and settled.grams == pytest.approx(100, abs=0.5)
    assert settled == SimulatedScale(7, AT).put(100.0, later(10)).read(later(20))
    assert round(settled.grams / RESOLUTION_G) * RESOLUTION_G == pytest.approx(settled.grams)
    zeros = [scale.read(later(20 + 60 * minute)).grams for minute in range(30)]
    assert 0.1 < max(zeros) - min(zeros) < 0.8


def test_a_tare_takes_off_what_lies_there_and_overload_and_battery_are_told():
    scale = SimulatedScale(7, AT).put(230.0, AT).tare(later(10)).put(50.0, later(12))
    assert scale.read(later(20)).grams == pytest.approx(50, abs=0.5)
    heavy = scale.put(CAPACITY_G, later(30)).read(later(60))
    assert heavy.overload and heavy.grams is None and not heavy.steady
    assert scale.put(-9999, later(40)).load_g == 0
    assert scale.read(AT + timedelta(hours=190)).battery < 0.06


@given(st.text(max_size=120))
def test_any_line_is_a_reading_or_none(line):
    weight = weight_of_line(line)
    assert weight is None or ((weight.grams is None or abs(weight.grams) < 1e6) and 0 <= weight.battery <= 1)


@given(st.floats(-99999, 99999), st.booleans(), st.one_of(st.none(), st.integers(0, 100)))
def test_lines_of_the_protocol_are_read_as_they_were_meant(grams, steady, battery):
    line = f"{'S' if steady else 'U'} {grams:+.1f} g" + ("" if battery is None else f" B{battery}")
    weight = weight_of_line(line)
    assert weight.grams == pytest.approx(grams, abs=0.06) and weight.steady is steady
    assert weight.battery == (1.0 if battery is None else battery / 100)
    assert weight_of_line("O B5").overload


@pytest.fixture
def speaking():
    """A server that sends lines to whoever comes."""
    server = socket.create_server(("127.0.0.1", 0))
    lines = [b""]

    def answer():
        while True:
            try:
                talk, _ = server.accept()
            except OSError:
                return
            with talk:
                talk.sendall(lines[0])

    threading.Thread(target=answer, daemon=True).start()
    yield server.getsockname()[1], lines
    server.close()


def test_a_real_scale_is_read_over_tcp_past_what_is_no_reading(speaking):
    port, lines = speaking
    lines[0] = b"hello\nU 12.5 g\nS 13.0 g\n"
    assert scale_at(f"127.0.0.1:{port}").read(AT).grams == 12.5
    ran = CliRunner().invoke(main, ["weigh", "--at", f"127.0.0.1:{port}", "--count", "2"])
    assert ran.output == "12.5 g, unsteady\n" * 2
    for silent in (b"", b"nothing to say\n", b"\xff\xfe" * 9000):
        lines[0] = silent
        with pytest.raises(OSError, match=r"no reading|reset|closed"):
            scale_at(f"127.0.0.1:{port}").read(AT)
    assert CliRunner().invoke(main, ["weigh", "--at", f"127.0.0.1:{port}"]).exit_code == 2
    assert "HOST:PORT" in CliRunner().invoke(main, ["weigh", "--at", "kitchen"]).output


@pytest.mark.parametrize("address", ["", "kitchen", ":7001", "host:0", "host:99999", "host:x"])
def test_what_is_no_address_is_refused(address):
    with pytest.raises(ValueError, match="HOST:PORT"):
        scale_at(address)


@given(st.floats(0.5, 2000), st.floats(0, 3000))
def test_the_gauge_goes_from_pour_to_slow_to_stop_to_over(wanted, in_g):
    made = gauge(wanted, in_g)
    order = ("pour", "slow", "stop", "over")
    more = gauge(wanted, in_g + wanted / 50)
    assert order.index(more.state) >= order.index(made.state)
    assert (made.state == "over") == (in_g > wanted + made.good_g)
    assert made.over_g == max(in_g - wanted, 0)
    if made.state == "stop":
        assert abs(in_g - wanted) <= made.good_g + 1e-9


def test_a_part_of_nothing_has_no_gauge():
    with pytest.raises(ValueError, match="nothing is not weighed"):
        gauge(0, 1)
