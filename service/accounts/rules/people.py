"""People of a workshop: invited, changed, removed; their passwords and sessions."""

from __future__ import annotations

import hashlib
import secrets
from datetime import timedelta
from typing import Any

from django.contrib.auth.models import User
from django.contrib.auth.password_validation import validate_password
from django.contrib.sessions.backends.db import SessionStore
from django.contrib.sessions.models import Session
from django.core.exceptions import ValidationError
from django.db import IntegrityError, transaction
from django.utils import timezone

from northpace.errors import InputError
from service.accounts.models import Invitation, Member, Role, SignedIn
from service.accounts.rules.tries import looking_at_a_password

#: How long an invitation stands.
STANDS = timedelta(days=7)


def digest(secret: str) -> str:
    """What is kept of an invitation's secret."""
    return hashlib.sha256(secret.encode()).hexdigest()


def invite(workshop: Any, role: str, note: str, by: User) -> tuple[Invitation, str]:
    """An invitation and its secret, which is not kept."""
    secret = secrets.token_urlsafe(24)
    found = Invitation.objects.create(
        workshop=workshop,
        role=role,
        note=note,
        digest=digest(secret),
        by=by,
        expires=timezone.now() + STANDS,
    )
    return found, secret


def invitation_of(secret: str) -> Invitation:
    """The invitation of a secret. Raises `InputError` where it was used, taken back or is old."""
    return _standing(Invitation.objects.filter(digest=digest(secret)).first())


def _standing(found: Invitation | None) -> Invitation:
    if found is None or not found.stands:
        raise InputError(
            "this invitation was used, taken back or is older than a week; ask for another one"
        )
    return found


def join(secret: str, name: str, shown_name: str, password: str) -> User:
    """A new person by an invitation, which is used up. Raises `InputError`."""
    with transaction.atomic():
        # held: of two who use it at the same time one is let in
        held = Invitation.objects.select_for_update(no_key=True).filter(digest=digest(secret))
        found = _standing(held.first())
        user = User(username=name)
        check_password(password, user, shown_name)
        with looking_at_a_password():
            user.set_password(password)
        try:
            with transaction.atomic():
                user.save()
        except IntegrityError as error:
            raise InputError(f"the name '{name}' is taken; choose another", "username") from error
        Member.objects.create(
            user=user, workshop=found.workshop, shown_name=shown_name, role=found.role
        )
        found.delete()
    return user


def check_password(password: str, user: User, shown_name: str) -> None:
    """Raises `InputError` with what a password of a person with these names lacks."""
    try:
        validate_password(password, User(username=user.username, first_name=shown_name))
    except ValidationError as error:
        raise InputError(" ".join(error.messages), "password") from error


def change_password(user: User, old: str, new: str) -> None:
    """Raises `InputError` where the old one is wrong or the new one too weak."""
    with looking_at_a_password():
        if not user.check_password(old):
            raise InputError("this is not the password you have now", "old")
        check_password(new, user, str(user.member))
        user.set_password(new)
    user.save(update_fields=["password"])


def change(member: Member, values: dict[str, Any]) -> Member:
    """Another role or name. Raises `InputError` where a workshop would be left without an owner."""
    with transaction.atomic():
        _keep_an_owner(member, values.get("role", member.role))
        for name, value in values.items():
            setattr(member, name, value)
        member.save(update_fields=list(values))
    return member


def remove(member: Member) -> None:
    """A person leaves: they are signed out everywhere and cannot sign in again, and what they did
    stays under their name.
    """
    with transaction.atomic():
        _keep_an_owner(member, "")
        for place in member.user.signed_in.all():
            end(place)
        member.user.is_active = False
        member.user.save(update_fields=["is_active"])
        member.left = timezone.now()
        member.save(update_fields=["left"])


def _keep_an_owner(member: Member, role: str) -> None:
    # held, so that owners who leave at the same time come one after the other
    owners = Member.objects.select_for_update(no_key=True).filter(
        workshop_id=member.workshop_id, role=Role.OWNER, left=None
    )
    if role != Role.OWNER and {owner.pk for owner in owners.order_by("pk")} == {member.pk}:
        raise InputError(f"{member} is the only owner; make somebody else an owner first", "role")


def note_sign_in(user: User, key: str, address: str | None, agent: str) -> None:
    """Keep where somebody is signed in."""
    SignedIn.objects.update_or_create(
        key=key, defaults={"user": user, "address": address, "agent": agent[:200]}
    )


def places_of(user: User) -> list[SignedIn]:
    """Where somebody is signed in now; what has ended is forgotten."""
    keys = list(user.signed_in.values_list("key", flat=True))
    alive = set(
        Session.objects.filter(session_key__in=keys, expire_date__gt=timezone.now()).values_list(
            "session_key", flat=True
        )
    )
    user.signed_in.exclude(key__in=alive).delete()
    return list(user.signed_in.all())


def end(place: SignedIn) -> None:
    """Sign somebody out there."""
    SessionStore(session_key=place.key).delete()
    place.delete()
