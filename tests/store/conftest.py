"""Every test of the store runs on a file and on a server."""

import pytest

from isostasis.store import Database


@pytest.fixture(params=["file", "server"])
def database(request, tmp_path):
    where = tmp_path / "test.db" if request.param == "file" else request.getfixturevalue("server").address()
    opened = Database(where)
    yield opened
    opened.close()
