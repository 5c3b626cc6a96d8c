"""Sign in, sign out, who am I, where am I signed in."""

from __future__ import annotations

from ipaddress import ip_address
from typing import Any

from django.conf import settings
from django.contrib.auth import authenticate, login, logout, update_session_auth_hash
from django.contrib.auth.models import User
from django.shortcuts import get_object_or_404
from django.utils.decorators import method_decorator
from django.views.decorators.csrf import csrf_protect, ensure_csrf_cookie
from drf_spectacular.utils import extend_schema
from rest_framework import serializers, status
from rest_framework.permissions import AllowAny
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from service.accounts.models import Role, SignedIn
from service.accounts.rules import people, tries
from service.hands import Busy


class SignInSerializer(serializers.Serializer[Any]):
    username = serializers.CharField(max_length=150)
    password = serializers.CharField(max_length=200, trim_whitespace=False)


class SessionSerializer(serializers.Serializer[Any]):
    signed_in = serializers.BooleanField()
    name = serializers.CharField(allow_blank=True)
    workshop = serializers.CharField(allow_blank=True)
    role = serializers.ChoiceField(choices=Role.choices, allow_null=True)


def session_answer(request: Request) -> Response:
    """Who is signed in."""
    member = getattr(request.user, "member", None)
    return Response(
        {
            "signed_in": member is not None,
            "name": str(member or ""),
            "workshop": member.workshop.name if member else "",
            "role": member.role if member else None,
        }
    )


def address_of(request: Request) -> str | None:
    """Where a request comes from; none where a proxy gave what is no address."""
    try:
        return str(ip_address(request.META.get("REMOTE_ADDR", "")))
    except ValueError:
        return None


def enter(request: Request, user: User) -> Response:
    """Sign somebody in here."""
    login(request, user)
    request.user = user
    people.note_sign_in(
        user,
        str(request.session.session_key),
        address_of(request),
        request.META.get("HTTP_USER_AGENT", ""),
    )
    return session_answer(request)


@method_decorator(ensure_csrf_cookie, name="dispatch")
class SessionView(APIView):
    permission_classes = [AllowAny]

    @extend_schema(operation_id="session_show", responses=SessionSerializer)
    def get(self, request: Request) -> Response:
        """Who is signed in; also hands out the CSRF cookie."""
        return session_answer(request)

    @extend_schema(
        operation_id="session_start", request=SignInSerializer, responses=SessionSerializer
    )
    @method_decorator(csrf_protect)
    def post(self, request: Request) -> Response:
        """Sign in. After too many that failed, for a name or from an address, it has to wait."""
        form = SignInSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        name = form.validated_data["username"]
        browser = tries.browser_of(request.COOKIES.get(tries.COOKIE), name)
        try:
            mine = tries.begin(name, address_of(request), browser)
        except tries.TooMany as error:
            return _too_many(error.wait)
        try:
            with tries.looking_at_a_password():
                user = authenticate(request, **form.validated_data)
        except Busy:
            mine.delete()
            raise
        if not isinstance(user, User) or not hasattr(user, "member"):
            return Response(
                {"detail": "name and password do not belong together", "where": "sign-in"},
                status=status.HTTP_403_FORBIDDEN,
            )
        mine.delete()
        answer = enter(request, user)
        answer.set_cookie(
            tries.COOKIE,
            tries.cookie_for(name, browser),
            max_age=tries.KNOWN_FOR,
            secure=settings.SECURE,
            httponly=True,
            samesite="Lax",
        )
        return answer

    @extend_schema(operation_id="session_end", request=None, responses={204: None})
    def delete(self, request: Request) -> Response:
        """Sign out."""
        SignedIn.objects.filter(key=request.session.session_key or "").delete()
        logout(request)
        return Response(status=status.HTTP_204_NO_CONTENT)


def _too_many(wait: float) -> Response:
    """The answer where too many sign-ins failed; ``wait`` in s."""
    minutes = max(1, round(wait / 60))
    return Response(
        {
            "detail": f"too many sign-ins failed; try again in {minutes} min",
            "where": "sign-in",
        },
        status=status.HTTP_429_TOO_MANY_REQUESTS,
        headers={"Retry-After": str(max(1, round(wait)))},
    )


class PasswordSerializer(serializers.Serializer[Any]):
    old = serializers.CharField(max_length=200, trim_whitespace=False)
    new = serializers.CharField(max_length=200, trim_whitespace=False)


class PasswordView(APIView):
    @extend_schema(
        operation_id="session_password", request=PasswordSerializer, responses={204: None}
    )
    def post(self, request: Request) -> Response:
        """Change the password; everywhere else one is signed out."""
        form = PasswordSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        user = request.user
        assert isinstance(user, User)
        people.change_password(user, **form.validated_data)
        for place in people.places_of(user):
            if place.key == request.session.session_key:
                place.delete()
            else:
                people.end(place)
        update_session_auth_hash(request, user)
        people.note_sign_in(
            user,
            str(request.session.session_key),
            address_of(request),
            request.META.get("HTTP_USER_AGENT", ""),
        )
        return Response(status=status.HTTP_204_NO_CONTENT)


class PlaceSerializer(serializers.ModelSerializer[SignedIn]):
    here = serializers.SerializerMethodField()

    class Meta:
        model = SignedIn
        fields = ["id", "address", "agent", "since", "here"]

    def get_here(self, place: SignedIn) -> bool:
        return bool(place.key == self.context["request"].session.session_key)


class PlaceList(APIView):
    @extend_schema(operation_id="session_places", responses=PlaceSerializer(many=True))
    def get(self, request: Request) -> Response:
        """Where one is signed in."""
        assert isinstance(request.user, User)
        rows = people.places_of(request.user)
        return Response(PlaceSerializer(rows, many=True, context={"request": request}).data)


class PlaceDetail(APIView):
    @extend_schema(operation_id="session_place_end", request=None, responses={204: None})
    def delete(self, request: Request, pk: int) -> Response:
        """Sign out somewhere else."""
        people.end(get_object_or_404(SignedIn, pk=pk, user=request.user))
        return Response(status=status.HTTP_204_NO_CONTENT)
