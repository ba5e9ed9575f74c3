"""A part as it came in: the file, the mended solid, its facts; and the sheet of its job."""

import uuid

from django.conf import settings
from django.db import models

from parts.job import whole


class Part(models.Model):
    _job: tuple[dict, dict] | None = None
    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    workshop = models.ForeignKey("accounts.Workshop", on_delete=models.PROTECT, related_name="parts")
    sheet = models.OneToOneField("sheets.Sheet", on_delete=models.PROTECT, related_name="part")
    """What people say of it and decide about it; see ``parts.job``."""
    file_name = models.CharField(max_length=255)
    file_format = models.CharField(max_length=10)
    units = models.CharField(max_length=4)
    """The unit that was asked for; ``scale_mm`` is what one unit of the file became."""
    scale_mm = models.FloatField()
    source = models.ForeignKey("store.Blob", on_delete=models.PROTECT, related_name="+")
    solid = models.ForeignKey("store.Blob", on_delete=models.PROTECT, related_name="+")
    """Vertices and facets in double precision, for the engine."""
    view = models.ForeignKey("store.Blob", on_delete=models.PROTECT, related_name="+")
    first_view = models.ForeignKey("store.Blob", on_delete=models.PROTECT, null=True, related_name="+")
    """The drawing from before the bores were known; kept until night for a page that read its name then."""
    ghost = models.ForeignKey("store.Blob", on_delete=models.PROTECT, related_name="+")
    facts = models.JSONField()
    before = models.ForeignKey("self", on_delete=models.SET_NULL, null=True, related_name="revisions")
    """The part that this one is a revision of."""
    revision = models.IntegerField(default=1)
    recipe = models.JSONField(null=True)
    """How it was made from another part, see ``remedies.queries``; None where it came in as a file."""
    exact = models.ForeignKey("store.Blob", on_delete=models.PROTECT, null=True, related_name="+")
    """The exact solid as STEP, where the part was made here of one that has it; what came in as STEP is its own."""
    uncarried = models.JSONField(default=list)
    """Edits that are not in the exact solid: name and why, of everything the part was made from."""
    warnings = models.JSONField(default=list)
    card = models.JSONField(default=dict)
    """What lists say of it, see ``parts.queries.card_of``: kept beside the sheet, so that a list reads no sheets."""
    standing = models.JSONField(default=dict)
    """State of every stage when something of it last changed, for searching many parts; see ``desk.standing``."""
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-created"]

    @property
    def job(self) -> dict:
        """The content of its sheet with every section; not to be changed, for it is kept as long as the content is."""
        content = self.sheet.content
        if self._job is None or self._job[0] is not content:
            self._job = content, whole(content)
        return self._job[1]

    @property
    def name(self) -> str:
        return self.job["title"]["name"]
