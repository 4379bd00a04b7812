"""The trail of changes: who changed what and when. Rows are only ever added, and go with their workshop."""

from django.conf import settings
from django.db import models


class Change(models.Model):
    """One change. It outlives the row it tells of, and whoever made it.

    name    whoever made it, as they were called then; empty where the program did
    did     a word, such as `saved` or `removed`
    kind    what was changed, such as `job`; with `row`, its number, and `title`, what it was called
    told    what else there is to say, in words
    """

    workshop = models.ForeignKey("accounts.Workshop", on_delete=models.CASCADE, related_name="changes")
    at = models.DateTimeField(auto_now_add=True)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True, related_name="+")
    name = models.CharField(max_length=150, blank=True)
    did = models.CharField(max_length=20)
    kind = models.CharField(max_length=20)
    row = models.PositiveBigIntegerField(null=True)
    title = models.CharField(max_length=200)
    version = models.PositiveIntegerField(null=True)
    told = models.CharField(max_length=400, blank=True)

    class Meta:
        ordering = ("-id",)
        indexes = (
            models.Index(fields=("workshop", "-id"), name="changes_latest_first"),
            models.Index(fields=("workshop", "kind", "row", "-id"), name="changes_of_one_thing"),
        )

    def __str__(self) -> str:
        return f"{self.name} {self.did} {self.kind} {self.title}"
