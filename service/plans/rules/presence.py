"""Who has a plan open."""

from __future__ import annotations

from datetime import timedelta

from django.utils import timezone

from service.plans.models import Plan, Presence
from service.plans.rules.versions import Author

#: A screen says every few seconds that it is there; after this it is gone.
GONE = timedelta(seconds=15)


def others(plan: Plan, author: Author) -> list[str]:
    """Note that a screen shows a plan; the names at other screens that do."""
    now = timezone.now()
    Presence.objects.filter(seen__lt=now - GONE).delete()
    if author.desk:
        Presence.objects.update_or_create(
            plan=plan, desk=author.desk, defaults={"name": author.name[:80], "seen": now}
        )
    found = plan.presences.exclude(desk=author.desk).values_list("name", flat=True)
    return sorted(set(found))
