"""Session sign-in for the API, what a role may do, and the one way to a request's workshop."""

from __future__ import annotations

from typing import Any

from drf_spectacular.extensions import OpenApiAuthenticationExtension
from rest_framework.authentication import SessionAuthentication
from rest_framework.permissions import BasePermission
from rest_framework.request import Request

from service.accounts.models import Member
from service.accounts.rules.roles import may, rule_of
from service.queue import ASKING
from service.workshop.models import Workshop


class Session(SessionAuthentication):
    """Session cookie with CSRF check; an absent session answers 401 so that the screen can ask to
    sign in.
    """

    def authenticate_header(self, request: Request) -> str:
        return "Session"


class SessionScheme(OpenApiAuthenticationExtension):  # type: ignore[no-untyped-call]
    target_class = Session
    name = "session"

    def get_security_definition(self, auto_schema: Any) -> dict[str, str]:
        return {"type": "apiKey", "in": "cookie", "name": "sessionid"}


class IsMember(BasePermission):
    """Signed in, in a workshop, and of a role that may do this."""

    def has_permission(self, request: Request, view: Any) -> bool:
        if not request.user.is_authenticated or not hasattr(request.user, "member"):
            return False
        match = request.resolver_match
        rule = rule_of(match.route, str(request.method)) if match else None
        if rule is None:
            return False
        sent = request.data if rule.daily and isinstance(request.data, dict) else {}
        if may(request.user.member.role, rule, frozenset(sent)):
            ASKING.set(request.user.member.pk)
            return True
        self.message = _who_may(request.user.member, rule.role)
        return False


def _who_may(member: Member, role: str) -> str:
    owners = Member.objects.filter(workshop=member.workshop, role="owner", left=None)
    owners = owners.select_related("user")
    names = ", ".join(str(owner) for owner in owners[:3])
    return (
        f"you are {member.get_role_display().lower()} here, and this is for "
        f"{'owners' if role == 'owner' else 'planners and owners'}; ask {names}"
    )


def workshop_of(request: Request) -> Workshop:
    """The workshop everything of this request is scoped to."""
    return member_of(request).workshop


def member_of(request: Request) -> Member:
    """Who asks."""
    return request.user.member  # type: ignore[union-attr]
