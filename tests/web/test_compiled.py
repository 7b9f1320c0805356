"""What templates were compiled to is there for the next process, and no longer than it is right."""

import pytest
from jinja2 import DictLoader, Environment

from isostasis.web.shared.compiled import CompiledOnce


def pages(folder, words, monkeypatch):
    """An application's templates as a process finds them, and how often one was compiled."""
    made = Environment(loader=DictLoader({"page.html": words}), bytecode_cache=CompiledOnce(folder))
    compiled, compile_one = [], made.compile
    monkeypatch.setattr(made, "compile", lambda *args, **more: compiled.append(args) or compile_one(*args, **more))
    return made, compiled


def test_the_next_process_compiles_what_is_new_alone(tmp_path, monkeypatch):
    for words, times in (("wet", 1), ("wet", 0), ("dry", 1), ("dry", 0)):
        made, compiled = pages(tmp_path / "templates", words, monkeypatch)
        assert made.get_template("page.html").render() == words
        assert len(compiled) == times


@pytest.mark.parametrize("broken", [b"", b"j2", b"nothing that was compiled"])
def test_what_is_broken_is_compiled_anew(tmp_path, monkeypatch, broken):
    made, _ = pages(tmp_path, "wet", monkeypatch)
    made.get_template("page.html")
    for one in tmp_path.iterdir():
        one.write_bytes(broken)
    made, compiled = pages(tmp_path, "wet", monkeypatch)
    assert made.get_template("page.html").render() == "wet" and len(compiled) == 1


def test_without_a_folder_it_is_kept_in_memory(tmp_path, monkeypatch):
    (tmp_path / "file").touch()
    made, compiled = pages(tmp_path / "file" / "templates", "wet", monkeypatch)
    again = made.overlay(cache_size=0)
    for one in (made, again):
        assert one.get_template("page.html").render() == "wet"
    assert len(compiled) == 1
