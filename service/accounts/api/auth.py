"""Session sign-in for the API, and the one way to a request's workshop."""

from __future__ import annotations

from typing import Any

from drf_spectacular.extensions import OpenApiAuthenticationExtension
from rest_framework.authentication import SessionAuthentication
from rest_framework.permissions import BasePermission
from rest_framework.request import Request

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
    """Signed in and in a workshop."""

    def has_permission(self, request: Request, view: Any) -> bool:
        return bool(request.user.is_authenticated and hasattr(request.user, "member"))


def workshop_of(request: Request) -> Workshop:
    """The workshop everything of this request is scoped to."""
    return request.user.member.workshop  # type: ignore[union-attr]
