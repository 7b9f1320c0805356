"""Every test of the store runs on a file and on a server."""

import pytest

from isostasis.store import Database
from tests.support.store import fresh


@pytest.fixture(scope="session")
def club(server):
    """One database of the server for all tests of a worker: what is asked of it is compiled once."""
    made = Database(server.address())
    made.close()
    server.keep(made.address)
    return made


@pytest.fixture(params=["file", "server"])
def database(request, standing, tmp_path):
    if request.param == "file":
        opened = standing.over(fresh(tmp_path / "test.db"))
    else:
        opened = request.getfixturevalue("club")
        request.getfixturevalue("server").bring_back(opened.address)
    yield opened
    opened.close()
