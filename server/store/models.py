"""Content, kept in the database under the digest of its bytes: one backup holds everything."""

from django.db import models


class Blob(models.Model):
    digest = models.CharField(max_length=64, primary_key=True)
    size = models.BigIntegerField()
    created = models.DateTimeField(auto_now_add=True)


class Chunk(models.Model):
    blob = models.ForeignKey(Blob, on_delete=models.CASCADE, related_name="chunks")
    place = models.IntegerField()
    data = models.BinaryField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["blob", "place"], name="one_chunk_a_place")]
