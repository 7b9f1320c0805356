"""Find on a file and on a server alike."""

from datetime import UTC, datetime

from isostasis.core.reading import read
from isostasis.store import finding, scenes
from tests.support.scenes import scene_data

AT = datetime(2027, 3, 4, tzinfo=UTC)


def test_a_server_finds_what_a_file_finds(database):
    with database.writing() as session:
        scenes.create(session, read(scene_data()), "new", AT)
    with database.reading() as session:
        found = [(one.kind, one.title) for one in finding.find(session, "tarn").entries]
        resin = [one.kind for one in finding.find(session, "resin cast").entries]
    assert found[:2] == [("scene", "Tarn"), ("spot", "Tarn")] and {"mix", "material"} <= set(resin)
    with database.writing() as session:
        scenes.copy(session, scenes.find(session, "tarn"), AT)
    with database.reading() as session:
        assert [one.title for one in finding.find(session, "tarn copy").entries if one.kind == "scene"] == [
            "Tarn, copy"
        ]
