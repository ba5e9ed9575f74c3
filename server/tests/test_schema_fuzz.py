# ruff: noqa: F811 (fixtures that another file shares)
"""Requests made up from the API's own schema, sound and unsound: each gets an answer, none breaks the server."""

import json
import os
import re
from urllib.parse import quote

import pytest
import schemathesis
from conftest import client_of
from everything import engineer, everything, part, things  # noqa: F401 (fixtures)
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from schemathesis import GenerationMode
from schemathesis.core import NOT_SET
from things import filled, operations, schema

MOST = 30 if os.environ.get("HEWEL_THOROUGH") else 6
"""Requests of every operation; in a daily run a few."""
SCHEMA = schemathesis.openapi.from_dict(schema())


def cases(verb, path):
    operation = SCHEMA[path][verb.upper()]
    modes = [operation.as_strategy(generation_mode=mode) for mode in (GenerationMode.POSITIVE, GenerationMode.NEGATIVE)]
    return st.one_of(*modes)


@pytest.mark.parametrize("verb, path", operations())
def test_no_request_breaks_the_server(engineer, things, verb, path):
    client = client_of(engineer)

    @settings(max_examples=MOST, deadline=None, database=None, suppress_health_check=list(HealthCheck))
    @given(cases(verb, path), st.booleans())
    def send(case, real):
        values = case.path_parameters or {}
        known = filled(path, things | {"token": "no-such-token"})
        fill = lambda m: quote(str(known[m[1]] if real else values.get(m[1], "")), safe="")
        url = re.sub(r"\{(\w+)\}", fill, path)
        query = {k: v for k, v in (case.query or {}).items() if v is not None} if isinstance(case.query, dict) else {}
        body = "" if case.body is NOT_SET or isinstance(case.body, bytes) else json.dumps(case.body, default=str)
        answer = client.generic(verb.upper(), url, body, content_type="application/json", QUERY_STRING=_encoded(query))
        assert answer.status_code < 500
        if answer.status_code >= 400 and answer["Content-Type"].startswith("application/json"):
            told = answer.json()
            assert told["code"] and told["message"] and "hint" in told, told
        if path == "/api/session" and verb == "delete":
            client.force_login(engineer)

    send()


def _encoded(query: dict) -> str:
    return "&".join(f"{quote(str(k))}={quote(str(v))}" for k, v in query.items())
