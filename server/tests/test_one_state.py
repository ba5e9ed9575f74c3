"""A question asked while what it rests on is just being replaced is answered from what there was when it was asked."""

import pytest
from conftest import beside

from stages.stage import put
from store import actions as store
from store.models import Blob
from studies import queries
from studies.models import Study

pytestmark = pytest.mark.django_db(transaction=True)


@pytest.mark.parametrize("what", ["sweep", "duties"])
def test_content_that_is_replaced_while_it_is_read_is_still_there(client, study, monkeypatch, what):
    before = study.sweep_id
    queries._swept.cache_clear()  # nobody has read it yet
    real = store.get

    def get(blob: Blob) -> bytes:
        if blob.digest == before:
            beside(lambda: put(Study.objects.get(id=study.id), "sweep", b'{"ups": [], "fields": {}}')).join()
        return real(blob)

    monkeypatch.setattr(store, "get", get)
    answer = client.get(f"/api/studies/{study.id}/{what}")
    assert answer.status_code == 200, answer.content
    assert Study.objects.get(id=study.id).sweep_id != before
    assert not Blob.objects.filter(digest=before).exists()
