"""People of a workshop, invitations, and the record of what they changed."""

from __future__ import annotations

import csv
import io
from typing import Any

from django.contrib.auth.models import User
from django.http import HttpResponse
from django.shortcuts import get_object_or_404
from django.utils.decorators import method_decorator
from django.views.decorators.csrf import csrf_protect, ensure_csrf_cookie
from drf_spectacular.utils import extend_schema
from rest_framework import serializers, status
from rest_framework.permissions import AllowAny
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from service.accounts.api.auth import member_of, workshop_of
from service.accounts.api.session import SessionSerializer, enter
from service.accounts.models import Invitation, Member, Record, Role
from service.accounts.rules import people
from service.answers import files
from service.files import download

#: Entries of the record that the screen shows.
SHOWN = 200


class PersonSerializer(serializers.ModelSerializer[Member]):
    username = serializers.CharField(source="user.username", read_only=True)
    last_sign_in = serializers.DateTimeField(source="user.last_login", read_only=True)
    me = serializers.SerializerMethodField()

    class Meta:
        model = Member
        fields = ["id", "username", "shown_name", "role", "last_sign_in", "me"]

    def get_me(self, member: Member) -> bool:
        return bool(member.pk == member_of(self.context["request"]).pk)


class PersonList(APIView):
    @extend_schema(operation_id="people_list", responses=PersonSerializer(many=True))
    def get(self, request: Request) -> Response:
        """People of the workshop."""
        rows = Member.objects.filter(workshop=workshop_of(request), left=None)
        rows = rows.select_related("user")
        return Response(PersonSerializer(rows, many=True, context={"request": request}).data)


class PersonDetail(APIView):
    def _found(self, request: Request, pk: int) -> Member:
        return get_object_or_404(
            Member.objects.select_related("user"),
            pk=pk,
            workshop=workshop_of(request),
            left=None,
        )

    @extend_schema(
        operation_id="person_change", request=PersonSerializer, responses=PersonSerializer
    )
    def patch(self, request: Request, pk: int) -> Response:
        """Change a person's role or name; a workshop keeps an owner."""
        member = self._found(request, pk)
        form = PersonSerializer(
            member, data=request.data, partial=True, context={"request": request}
        )
        form.is_valid(raise_exception=True)
        people.change(member, dict(form.validated_data))
        return Response(PersonSerializer(member, context={"request": request}).data)

    @extend_schema(operation_id="person_remove", responses={204: None})
    def delete(self, request: Request, pk: int) -> Response:
        """Remove a person; their sessions end at once."""
        people.remove(self._found(request, pk))
        return Response(status=status.HTTP_204_NO_CONTENT)


class InvitationSerializer(serializers.ModelSerializer[Invitation]):
    """An invitation; ``secret`` only where it was just made."""

    secret = serializers.SerializerMethodField()

    class Meta:
        model = Invitation
        fields = ["id", "role", "note", "created", "expires", "secret"]
        read_only_fields = ["created", "expires"]

    def get_secret(self, found: Invitation) -> str:
        return str(self.context.get("secret", ""))


class InvitationList(APIView):
    @extend_schema(operation_id="invitations_list", responses=InvitationSerializer(many=True))
    def get(self, request: Request) -> Response:
        """Invitations that stand."""
        rows = [
            row for row in Invitation.objects.filter(workshop=workshop_of(request)) if row.stands
        ]
        return Response(InvitationSerializer(rows, many=True).data)

    @extend_schema(
        operation_id="invitation_make",
        request=InvitationSerializer,
        responses={201: InvitationSerializer},
    )
    def post(self, request: Request) -> Response:
        """Invite a person; the secret of the answer is their way in, and shown this once."""
        form = InvitationSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        assert isinstance(request.user, User)
        found, secret = people.invite(
            workshop_of(request),
            form.validated_data["role"],
            form.validated_data.get("note", ""),
            request.user,
        )
        answer = InvitationSerializer(found, context={"secret": secret}).data
        return Response(answer, status=status.HTTP_201_CREATED)


class InvitationDetail(APIView):
    @extend_schema(operation_id="invitation_take_back", responses={204: None})
    def delete(self, request: Request, pk: int) -> Response:
        """Take an invitation back."""
        get_object_or_404(Invitation, pk=pk, workshop=workshop_of(request)).delete()
        return Response(status=status.HTTP_204_NO_CONTENT)


class InvitedSerializer(serializers.Serializer[Any]):
    workshop = serializers.CharField()
    role = serializers.ChoiceField(choices=Role.choices)


class JoinSerializer(serializers.Serializer[Any]):
    username = serializers.RegexField(r"^[\w.@+-]+$", max_length=150)
    shown_name = serializers.CharField(max_length=80)
    password = serializers.CharField(max_length=200, trim_whitespace=False)


@method_decorator(ensure_csrf_cookie, name="dispatch")
class Invited(APIView):
    permission_classes = [AllowAny]

    @extend_schema(operation_id="invitation_show", responses=InvitedSerializer)
    def get(self, request: Request, secret: str) -> Response:
        """What an invitation is to."""
        found = people.invitation_of(secret)
        return Response({"workshop": found.workshop.name, "role": found.role})

    @extend_schema(
        operation_id="invitation_use", request=JoinSerializer, responses=SessionSerializer
    )
    @method_decorator(csrf_protect)
    def post(self, request: Request, secret: str) -> Response:
        """Join the workshop and be signed in; the invitation is used up."""
        form = JoinSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        values = form.validated_data
        user = people.join(secret, values["username"], values["shown_name"], values["password"])
        return enter(request, user)


class RecordSerializer(serializers.ModelSerializer[Record]):
    class Meta:
        model = Record
        fields = ["id", "at", "who", "what", "about", "sent"]


class RecordList(APIView):
    @extend_schema(operation_id="record_list", responses=RecordSerializer(many=True))
    def get(self, request: Request) -> Response:
        """What was changed lately, newest first."""
        rows = Record.objects.filter(workshop=workshop_of(request))[:SHOWN]
        return Response(RecordSerializer(rows, many=True).data)


def _plain(word: Any) -> Any:
    """A value for a cell of a table, quoted if a table program would run it as a formula."""
    return f"'{word}" if str(word)[:1] in ("=", "+", "-", "@", "\t", "\r") else word


class RecordFile(APIView):
    @extend_schema(operation_id="record_file", responses=files("text/csv"))
    def get(self, request: Request) -> HttpResponse:
        """The whole record as a table."""
        out = io.StringIO()
        table = csv.writer(out)
        table.writerow(["at", "who", "what", "about", "sent"])
        for row in Record.objects.filter(workshop=workshop_of(request)).iterator():
            words = (row.who, row.what, row.about, row.sent)
            table.writerow([row.at.isoformat(), *(_plain(word) for word in words)])
        return download(out.getvalue().encode(), "record.csv", "text/csv")
