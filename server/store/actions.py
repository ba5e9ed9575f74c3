"""Putting content in and taking it out."""

import hashlib
from collections.abc import Iterable, Iterator
from contextlib import suppress
from datetime import datetime

from django.core.files.uploadedfile import UploadedFile
from django.db import connection, transaction
from django.db.models import CASCADE, Model, ProtectedError, QuerySet

from store.models import Blob, Chunk

CHUNK = 1 << 20


def _pieces(source: Iterable[bytes]) -> Iterator[bytes]:
    """The same bytes in pieces of exactly CHUNK, the last one shorter."""
    left = bytearray()
    for piece in source:
        left += piece
        while len(left) >= CHUNK:
            yield bytes(left[:CHUNK])
            del left[:CHUNK]
    if left:
        yield bytes(left)


@transaction.atomic
def put_stream(digest: str, size: int, source: Iterable[bytes]) -> Blob:
    """Keeps ``source``, whose digest is known, unless it is here already. Until the transaction ends nobody else takes
    it away: what will point to it does not yet.
    """
    while not _held(digest):
        blob, fresh = Blob.objects.get_or_create(digest=digest, defaults={"size": size})
        if fresh:
            for place, piece in enumerate(_pieces(source)):
                Chunk.objects.create(blob=blob, place=place, data=piece)
            return blob
    return Blob.objects.get(digest=digest)


def _held(digest: str) -> bool:
    """Waits for whoever is just taking content away; whether it is there then, and stays."""
    with connection.cursor() as cursor:
        cursor.execute("select 1 from store_blob where digest = %s for key share", [digest])
        return cursor.fetchone() is not None


def put(data: bytes) -> Blob:
    return put_stream(hashlib.sha256(data).hexdigest(), len(data), [data])


def put_file(file: UploadedFile) -> Blob:
    """An uploaded file, read twice from its temporary place and never wholly held in memory."""
    digest = hashlib.sha256()
    for piece in file.chunks(CHUNK):
        digest.update(piece)
    file.seek(0)
    return put_stream(digest.hexdigest(), file.size, file.chunks(CHUNK))


def get(blob: Blob) -> bytes:
    """All bytes of ``blob``; raises ValueError when they are not what their digest says."""
    data = b"".join(bytes(c) for c in blob.chunks.order_by("place").values_list("data", flat=True))
    if hashlib.sha256(data).hexdigest() != blob.digest:
        raise ValueError(f"stored content {blob.digest[:12]} is damaged")
    return data


def forget(digest: str) -> None:
    """Content that no row of any app points to goes; what is still pointed to stays, and so does what somebody is just
    about to point to: ``unused`` finds it later.
    """
    with suppress(ProtectedError), transaction.atomic():
        for free in Blob.objects.select_for_update(skip_locked=True).filter(digest=digest):
            free.delete()


def unused(before: datetime) -> list[str]:
    """Digests of content from before then that no row points to."""
    rows = not_pointed_to(Blob.objects.filter(created__lt=before), but_for=(Chunk,))
    return list(rows.values_list("digest", flat=True))


def not_pointed_to(rows: QuerySet, but_for: tuple[type[Model], ...] = ()) -> QuerySet:
    """Those of some rows that no row of any app points to; what points from a model of ``but_for`` does not count."""
    for relation in rows.model._meta.get_fields(include_hidden=True):
        if relation.one_to_many and relation.auto_created and relation.related_model not in but_for:
            name = relation.field.name
            rows = rows.exclude(pk__in=relation.related_model.objects.exclude(**{name: None}).values(name))
    return rows


def content_fields(model: type[Model]) -> list[str]:
    """The fields of a model that hold stored content."""
    return [f.name for f in model._meta.concrete_fields if f.related_model is Blob]


def content_below(rows: QuerySet) -> set[str]:
    """Digests of all content that some rows hold, and whatever goes with them when they go."""
    found = {d for name in content_fields(rows.model) for d in rows.values_list(f"{name}_id", flat=True)}
    for field in rows.model._meta.get_fields(include_hidden=True):
        if field.one_to_many and field.on_delete is CASCADE:
            found |= content_below(field.related_model.objects.filter(**{f"{field.field.name}__in": rows}))
    return found - {None}
