"""Every input that once led the readers into new code, and every one that once broke them."""

import zipfile

import pytest
from fuzz_readers import CORPUS, one


def names():
    with zipfile.ZipFile(CORPUS) as packed:
        return packed.namelist()


def test_the_corpus_reaches_every_reader():
    with zipfile.ZipFile(CORPUS) as packed:
        heads = [packed.read(n)[:6].lower() for n in packed.namelist()]
    for head in (b"pk", b"ply", b"solid", b"v "):
        assert any(h.startswith(head) for h in heads), head


@pytest.mark.parametrize("first", range(10))
def test_each_ends_in_a_solid_or_in_words(first):
    with zipfile.ZipFile(CORPUS) as packed:
        for name in packed.namelist()[first::10]:
            one(packed.read(name))
