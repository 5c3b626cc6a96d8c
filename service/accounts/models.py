"""Who belongs to which workshop, what they may do there, and what they did."""

from __future__ import annotations

from django.conf import settings
from django.db import models
from django.utils import timezone


class Role(models.TextChoices):
    """What a person does in a workshop; each role may do what those before it may."""

    OPERATOR = "operator"
    PLANNER = "planner"
    OWNER = "owner"


class Member(models.Model):
    """A person who signs in; everything they see belongs to their workshop."""

    user = models.OneToOneField(
        settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="member"
    )
    workshop = models.ForeignKey(
        "workshop.Workshop", on_delete=models.CASCADE, related_name="members"
    )
    shown_name = models.CharField(max_length=80, blank=True)
    role = models.CharField(max_length=10, choices=Role.choices, default=Role.OPERATOR)
    left = models.DateTimeField(
        null=True, help_text="removed then; kept, so that what they did has a name"
    )

    class Meta:
        ordering = ["shown_name", "id"]

    def __str__(self) -> str:
        return self.shown_name or self.user.get_username()


class Invitation(models.Model):
    """A way in for one person, by a secret that is shown once and kept only as its digest."""

    workshop = models.ForeignKey(
        "workshop.Workshop", on_delete=models.CASCADE, related_name="invitations"
    )
    role = models.CharField(max_length=10, choices=Role.choices)
    note = models.CharField(max_length=80, blank=True)
    digest = models.CharField(max_length=64, unique=True)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True)
    created = models.DateTimeField(auto_now_add=True)
    expires = models.DateTimeField()

    class Meta:
        ordering = ["-created"]

    def __str__(self) -> str:
        return self.note or f"an {self.role}"

    @property
    def stands(self) -> bool:
        """Whether it can still be used."""
        return self.expires > timezone.now()


class SignedIn(models.Model):
    """A session somebody is signed in with: from where, and since when."""

    user = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="signed_in"
    )
    key = models.CharField(max_length=40, unique=True)
    address = models.GenericIPAddressField(null=True)
    agent = models.CharField(max_length=200, blank=True)
    since = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-since"]

    def __str__(self) -> str:
        return f"{self.user} from {self.address}"


class FailedSignIn(models.Model):
    """A sign-in that failed, to slow down who tries many."""

    name = models.CharField(max_length=150, db_index=True)
    address = models.GenericIPAddressField(null=True, db_index=True)
    at = models.DateTimeField(auto_now_add=True, db_index=True)
    browser = models.CharField(
        max_length=24, blank=True, help_text="one in which somebody of the name signed in before"
    )

    def __str__(self) -> str:
        return f"{self.name} from {self.address}"


class Record(models.Model):
    """What somebody changed. The name is kept as it was, should the person leave."""

    workshop = models.ForeignKey(
        "workshop.Workshop", on_delete=models.CASCADE, related_name="records"
    )
    who = models.CharField(max_length=160)
    what = models.CharField(max_length=80)
    about = models.CharField(max_length=160, blank=True)
    sent = models.JSONField(default=dict)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-at", "-id"]

    def __str__(self) -> str:
        return f"{self.who}: {self.what} {self.about}"
