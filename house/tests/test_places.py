"""Set-up's own rules: ports, folders, stamps, and the checks that name what is missing."""

import json
import os
import socket
import subprocess
import sys
import threading

import pytest

from house import checks, places, steps
from house.database import Cluster


def test_a_port_is_kept_while_it_is_free_and_left_when_it_is_taken(tmp_path):
    remembered = tmp_path / "here" / "port"
    port = places.free_port(remembered, 45100)
    assert remembered.read_text() == str(port)
    assert places.free_port(remembered, 45100) == port
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", port))
        taken.listen()
        other = places.free_port(remembered, 45100)
    assert other != port
    assert remembered.read_text() == str(other)


def test_every_checkout_and_purpose_has_a_folder_of_its_own(monkeypatch, tmp_path):
    monkeypatch.delenv("HEWEL_HOME", raising=False)
    assert places.data_home("data") != places.data_home("test")
    monkeypatch.setattr(places, "ROOT", tmp_path / "another" / places.ROOT.name)
    elsewhere = places.data_home("data")
    monkeypatch.undo()
    assert elsewhere != places.data_home("data")
    monkeypatch.setenv("HEWEL_HOME", str(tmp_path))
    assert places.data_home("data") == tmp_path / "data"


def test_a_plain_user_keeps_data_at_home(monkeypatch):
    monkeypatch.delenv("HEWEL_HOME", raising=False)
    monkeypatch.setattr(places, "AS_ROOT", False)
    monkeypatch.setenv("XDG_DATA_HOME", "/home/ann/data")
    assert str(places.data_home("data")).startswith("/home/ann/data/hewel/")


def test_the_secret_is_made_once_and_read_by_its_owner_only(tmp_path):
    first = places.secret(tmp_path / "own" / "secret")
    assert places.secret(tmp_path / "own" / "secret") == first
    assert len(first) > 40
    assert (tmp_path / "own" / "secret").stat().st_mode & 0o077 == 0


def test_a_stamp_holds_until_an_input_changes(monkeypatch, tmp_path):
    monkeypatch.setattr(places, "ROOT", tmp_path)
    monkeypatch.setattr(places, "VENV", tmp_path / "venv")
    (tmp_path / "src").mkdir()
    (tmp_path / "src" / "a.txt").write_text("one")
    made = tmp_path / "made"
    stamp = places.Stamp("step", tmp_path / "src", needs=made)
    assert not stamp.fresh()
    made.touch()
    stamp.set()
    assert stamp.fresh()
    (tmp_path / "src" / "b.txt").write_text("two")
    assert not stamp.fresh(), "a new file counts"
    stamp.set()
    made.unlink()
    assert not stamp.fresh(), "what the step makes must be there"


def test_the_environment_carries_no_other_databases_settings(monkeypatch, tmp_path):
    monkeypatch.setenv("PGHOST", "elsewhere")
    monkeypatch.setenv("DJANGO_SETTINGS_MODULE", "other.settings")
    env = places.environment(tmp_path, "host=127.0.0.1 dbname=x")
    assert "PGHOST" not in env
    assert env["DJANGO_SETTINGS_MODULE"] == "hewel.settings"
    assert env["HEWEL_DATABASE"] == "host=127.0.0.1 dbname=x"


def test_what_python_compiled_is_kept_by_everything_that_is_started(monkeypatch, tmp_path):
    monkeypatch.setenv("PYTHONDONTWRITEBYTECODE", "1")
    kept = "import sys; print(sys.dont_write_bytecode)"
    told = subprocess.run(
        [sys.executable, "-c", kept], env=places.environment(tmp_path), capture_output=True, text=True
    )
    assert told.stdout.strip() == "False"


def test_a_failing_command_shows_its_last_words(capsys):
    with pytest.raises(SystemExit) as caught:
        places.run([sys.executable, "-c", "print('the reason'); raise SystemExit(3)"])
    assert "the reason" in str(caught.value)
    assert "(3)" in str(caught.value)


def test_missing_packages_are_named_to_who_may_not_install_them(monkeypatch):
    monkeypatch.setattr(steps, "AS_ROOT", False)
    monkeypatch.setattr(steps.shutil, "which", lambda name: None)
    with pytest.raises(SystemExit) as caught:
        steps.debian_packages(["coreutils", "no-such-package-at-all"])
    assert "apt-get install no-such-package-at-all" in str(caught.value)
    assert "coreutils" not in str(caught.value)


def test_a_group_that_is_none_is_said():
    with pytest.raises(SystemExit, match="no group spelling"):
        checks.run_checks(["spelling"])


def test_a_cluster_that_was_never_made_does_not_run(tmp_path):
    assert not Cluster(tmp_path).running()


def test_the_script_answers_a_wrong_verb_with_the_right_ones():
    done = subprocess.run([places.ROOT / "hewel", "fly"], capture_output=True, text=True, env=os.environ)
    assert done.returncode == 2
    for verb in ("up", "test", "bench", "engine", "backup", "restore", "worker", "reset-demo"):
        assert verb in done.stderr


def test_a_lock_may_gain_or_lose_foreign_optional_packages_and_nothing_else():
    lock = lambda **packages: json.dumps({"packages": packages}).encode()
    ours, foreign = {"version": "1"}, {"version": "1", "optional": True}
    assert steps.same_lock(lock(a=ours), lock(a=ours, b=foreign))
    assert steps.same_lock(lock(a=ours, b=foreign), lock(a=ours))
    assert not steps.same_lock(lock(a=ours), lock(a=ours, b=ours))
    assert not steps.same_lock(lock(a=ours), lock(a={"version": "2"}))
    assert not steps.same_lock(lock(a=ours, b=foreign), lock(a=ours, b=foreign | {"version": "2"}))


def test_two_steps_beside_each_other_are_told_line_by_line(capsys):
    met = threading.Barrier(2, timeout=5)  # broken if one of both waits for the other to end

    def compiled():
        with steps.step("compiled"):
            met.wait()

    with steps._beside(compiled), steps.step("fetched"):
        met.wait()
    with steps.step("afterwards"):
        pass
    lines = [line.split() for line in capsys.readouterr().out.splitlines()]
    assert sorted(lines[:2]) == [["compiled", "…"], ["fetched", "…"]]
    assert sorted(line[0] for line in lines[2:4]) == ["compiled", "fetched"]
    assert all(line[-1] == "s" for line in lines[2:]) and lines[4][0] == "afterwards"


def test_what_stops_one_of_two_steps_stops_both(capsys):
    def fails():
        with steps.step("compiled"):
            raise SystemExit("no compiler")

    with pytest.raises(SystemExit, match="no compiler"), steps._beside(fails):
        pass
    assert "compiled                           stopped" in capsys.readouterr().out
    with pytest.raises(SystemExit, match="no network"), steps._beside(lambda: None):
        raise SystemExit("no network")


def test_a_checkout_of_another_user_is_said_before_anything_is_set_up(monkeypatch):
    monkeypatch.setattr(steps.os, "access", lambda path, mode: False)
    monkeypatch.setattr(steps, "debian_packages", lambda *_: pytest.fail("something was set up"))
    with pytest.raises(SystemExit, match="belongs to another user"):
        steps.set_up()


def test_what_tools_leave_beside_the_sources_changes_no_digest(tmp_path, monkeypatch):
    monkeypatch.setattr(places, "ROOT", tmp_path)
    source = tmp_path / "rooms" / "room.py"
    source.parent.mkdir()
    source.write_text("WALLS = 4\n")
    before = places.digest_of(source.parent)
    for left in (".pytest_cache/lastfailed", ".hypothesis/constants/1", "__pycache__/room.pyc"):
        file = source.parent / left
        file.parent.mkdir(parents=True)
        file.write_text("left by a test")
    assert places.digest_of(source.parent) == before
    source.write_text("WALLS = 5\n")
    assert places.digest_of(source.parent) != before
