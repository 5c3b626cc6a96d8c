"""Who belongs to which workshop."""

from django.conf import settings
from django.db import models


class Member(models.Model):
    """A person who signs in; everything they see belongs to their workshop."""

    user = models.OneToOneField(
        settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="member"
    )
    workshop = models.ForeignKey(
        "workshop.Workshop", on_delete=models.CASCADE, related_name="members"
    )
    shown_name = models.CharField(max_length=80, blank=True)

    def __str__(self) -> str:
        return self.shown_name or self.user.get_username()
