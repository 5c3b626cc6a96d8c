"""Sign in, sign out, who am I."""

from __future__ import annotations

from typing import Any

from django.contrib.auth import authenticate, login, logout
from django.utils.decorators import method_decorator
from django.views.decorators.csrf import csrf_protect, ensure_csrf_cookie
from drf_spectacular.utils import extend_schema
from rest_framework import serializers, status
from rest_framework.permissions import AllowAny
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.throttling import AnonRateThrottle
from rest_framework.views import APIView


class SignInSerializer(serializers.Serializer[Any]):
    username = serializers.CharField(max_length=150)
    password = serializers.CharField(max_length=200, trim_whitespace=False)


class SessionSerializer(serializers.Serializer[Any]):
    signed_in = serializers.BooleanField()
    name = serializers.CharField(allow_blank=True)
    workshop = serializers.CharField(allow_blank=True)


class SignInRate(AnonRateThrottle):
    scope = "sign-in"

    def allow_request(self, request: Request, view: Any) -> bool:
        return request.method != "POST" or super().allow_request(request, view)


def _answer(request: Request) -> Response:
    member = getattr(request.user, "member", None)
    return Response(
        {
            "signed_in": member is not None,
            "name": str(member or ""),
            "workshop": member.workshop.name if member else "",
        }
    )


@method_decorator(ensure_csrf_cookie, name="dispatch")
class SessionView(APIView):
    permission_classes = [AllowAny]
    throttle_classes = [SignInRate]

    @extend_schema(operation_id="session_show", responses=SessionSerializer)
    def get(self, request: Request) -> Response:
        """Who is signed in; also hands out the CSRF cookie."""
        return _answer(request)

    @extend_schema(
        operation_id="session_start", request=SignInSerializer, responses=SessionSerializer
    )
    @method_decorator(csrf_protect)
    def post(self, request: Request) -> Response:
        """Sign in."""
        form = SignInSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        user = authenticate(request, **form.validated_data)
        if user is None or not hasattr(user, "member"):
            return Response(
                {"detail": "name and password do not belong together", "where": "sign-in"},
                status=status.HTTP_403_FORBIDDEN,
            )
        login(request, user)
        request.user = user
        return _answer(request)

    @extend_schema(operation_id="session_end", request=None, responses={204: None})
    def delete(self, request: Request) -> Response:
        """Sign out."""
        logout(request)
        return Response(status=status.HTTP_204_NO_CONTENT)
