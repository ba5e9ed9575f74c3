"""The log tells every write as a sentence about a part or a record that people know by name."""

import ast
from pathlib import Path

from audit.actions import called
from audit.models import Entry
from audit.sentences import SENTENCES, sentence

SERVER = Path(__file__).parent.parent


def written() -> set[str]:
    """What the sources call the actions that they write to the log."""
    out = set()
    for file in SERVER.rglob("*.py"):
        if "tests" in file.parts or "migrations" in file.parts:
            continue
        for node in ast.walk(ast.parse(file.read_text())):
            if not isinstance(node, ast.Call):
                continue
            name = getattr(node.func, "id", getattr(node.func, "attr", ""))
            if name == "record" and len(node.args) > 2:
                out |= {n.value for n in ast.walk(node.args[1]) if isinstance(n, ast.Constant) and n.value is not True}
            out |= {k.value.value for k in node.keywords if k.arg == "audit" and isinstance(k.value, ast.Constant)}
    return {words for words in out if isinstance(words, str) and words}


def test_every_action_has_its_sentence_and_every_sentence_its_action():
    told = {words for words in written() if not words.startswith("print: ")}
    assert told == set(SENTENCES)


def log(client) -> list[str]:
    return [row["sentence"] for row in client.get("/api/people/log").json()]


def test_the_log_names_the_part(client, part, study):
    assert called(part) == part.name
    base = client.get(f"/api/parts/{part.id}").json()["version"]
    body = {"base": base, "sections": {"title": {"name": "Lever", "note": ""}}}
    assert client.put(f"/api/parts/{part.id}/job", body, content_type="application/json").status_code == 200
    client.delete(f"/api/sheets/{part.sheet_id}")
    assert log(client)[:2] == ["put “Lever” in the bin", "changed “Lever”: name, note, labels"]


def test_an_entry_of_before_names_is_told_without(engineer):
    old = Entry(action="remedies taken", thing="proposal", after={"steps": 3})
    assert sentence(old) == "took 3 remedies of a record (proposal) as a revision"
    assert sentence(Entry(action="remedies taken", thing="proposal", about="Fork")).startswith(
        "took … remedies of “Fork”"
    )


def test_the_currency_is_the_workshops(client, engineer):
    assert client.get("/api/session").json()["currency"] == "EUR"
    put = lambda currency: client.put("/api/people/workshop", {"currency": currency}, content_type="application/json")
    assert put(" Fr. ").status_code == 204 and client.get("/api/session").json()["currency"] == "Fr."
    assert log(client)[0] == "set the currency to Fr."
    for bad in ("", "   ", "12", "nine letters"):
        assert put(bad).status_code == 422, bad
