"""Beds over the API."""

from __future__ import annotations

from typing import Any

from django.http import HttpResponse
from django.shortcuts import get_object_or_404
from drf_spectacular.utils import extend_schema
from rest_framework import status
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from northpace.errors import InputError
from service.accounts.api.auth import member_of, workshop_of
from service.answers import ARROW, columns, files
from service.beds.api.serializers import (
    BedChangeSerializer,
    BedCreateSerializer,
    BedListSerializer,
    BedProgressSerializer,
    BedSerializer,
    listed,
)
from service.beds.models import Bed, BedVersion
from service.beds.rules import stored, versions
from service.plans.api.asking import asked
from service.plans.models import Plan, PlanVersion
from service.workshop.models import Spool


def bed_of(request: Request, pk: int) -> Bed:
    return get_object_or_404(
        Bed.objects.select_related("nozzle__machine", "spool", "workshop"),
        pk=pk,
        workshop=workshop_of(request),
    )


def _shown(bed: Bed, code: int = status.HTTP_200_OK) -> Response:
    return Response(BedSerializer(bed).data, status=code)


class BedList(APIView):
    @extend_schema(operation_id="beds_list", responses=BedListSerializer(many=True))
    def get(self, request: Request) -> Response:
        """Beds of the workshop, newest first."""
        beds = listed(Bed.objects.filter(workshop=workshop_of(request)))
        return Response(BedListSerializer(beds, many=True).data)

    @extend_schema(
        operation_id="beds_create", request=BedCreateSerializer, responses={201: BedSerializer}
    )
    def post(self, request: Request) -> Response:
        """A bed with copies of plans, arranged in the queue."""
        values = asked(BedCreateSerializer, request)
        found = [_exact(request, key) for key in values.get("plans", [])]
        found += versions.of_parts(workshop_of(request), values.get("parts", []))
        bed = versions.create_bed(
            workshop_of(request), found, values.get("copies", 1), values.get("name", "")
        )
        return _shown(bed, status.HTTP_201_CREATED)


def _exact(request: Request, plan: int) -> PlanVersion:
    """The newest exact version of a plan."""
    found = get_object_or_404(Plan, pk=plan, workshop=workshop_of(request))
    version = (
        found.versions.filter(state=PlanVersion.State.DONE)
        .select_related("plan__part", "part", "nozzle__machine", "spool")
        .order_by("-number")
        .first()
    )
    if version is None:
        raise InputError(f"{found} is not computed yet; put it on a bed once it is", "plans")
    return version


class BedDetail(APIView):
    @extend_schema(operation_id="bed_show", responses=BedSerializer)
    def get(self, request: Request, pk: int) -> Response:
        """A bed with its newest version."""
        return _shown(bed_of(request, pk))

    @extend_schema(operation_id="bed_change", request=BedChangeSerializer, responses=BedSerializer)
    def patch(self, request: Request, pk: int) -> Response:
        """Change placings or settings, arrange or fill: a new version, which supersedes one that is
        still computed.
        """
        bed, values = bed_of(request, pk), asked(BedChangeSerializer, request)
        if "name" in values:
            bed.name = values["name"]
        if "spool" in values:
            bed.spool = (
                get_object_or_404(Spool, pk=values["spool"], material__workshop=bed.workshop_id)
                if values["spool"]
                else None
            )
        bed.save(update_fields=["name", "spool"])
        if "spec" in values or values.get("wish"):
            spec: dict[str, Any] = values.get("spec", bed.latest.spec)
            wish = values.get("wish", "")
            if wish in (versions.FILL, versions.SHARE):
                if not str(values.get("fill_with", "")).isdigit():
                    raise InputError("say which plan the bed is filled with", "fill_with")
                wish += f" {values['fill_with']}"
                if wish.startswith(versions.SHARE):
                    how = "evenly" if values.get("evenly") else "filled"
                    wish += f" {values.get('count', 1)} {how}"
            versions.change_bed(bed, spec, wish, values.get("base"), str(member_of(request)))
        return _shown(bed)

    @extend_schema(operation_id="bed_remove", responses={204: None})
    def delete(self, request: Request, pk: int) -> Response:
        """Remove a bed; one that jobs were committed of stays."""
        bed = bed_of(request, pk)
        if BedVersion.objects.filter(bed=bed, jobs__isnull=False).exists():
            raise InputError("jobs were committed of this bed; it stays with them", str(bed))
        versions.cancel(bed)
        bed.delete()
        return Response(status=status.HTTP_204_NO_CONTENT)


class BedProgress(APIView):
    @extend_schema(operation_id="bed_progress", responses=BedProgressSerializer)
    def get(self, request: Request, pk: int) -> Response:
        """How far the newest version is."""
        return Response(BedProgressSerializer(bed_of(request, pk).latest).data)


class BedUndo(APIView):
    @extend_schema(operation_id="bed_undo", request=None, responses=BedSerializer)
    def post(self, request: Request, pk: int) -> Response:
        """Take the last change back."""
        bed = bed_of(request, pk)
        versions.step(bed, False, str(member_of(request)))
        return _shown(bed)


class BedRedo(APIView):
    @extend_schema(operation_id="bed_redo", request=None, responses=BedSerializer)
    def post(self, request: Request, pk: int) -> Response:
        """Make the change again that was taken back."""
        bed = bed_of(request, pk)
        versions.step(bed, True, str(member_of(request)))
        return _shown(bed)


class BedCancel(APIView):
    @extend_schema(operation_id="bed_cancel", request=None, responses=BedSerializer)
    def post(self, request: Request, pk: int) -> Response:
        """Stop computing; the last computed version stays."""
        bed = bed_of(request, pk)
        versions.cancel(bed)
        return _shown(bed)


class BedCopy(APIView):
    @extend_schema(operation_id="bed_copy", request=None, responses={201: BedSerializer})
    def post(self, request: Request, pk: int) -> Response:
        """A bed of its own with the same placings."""
        return _shown(versions.copy_bed(bed_of(request, pk)), status.HTTP_201_CREATED)


class BedVersionMoves(APIView):
    @extend_schema(operation_id="bed_version_moves", responses=files(ARROW))
    def get(self, request: Request, pk: int) -> HttpResponse:
        """The move table of a version, as the screen draws it."""
        version = get_object_or_404(
            BedVersion, pk=pk, bed__workshop=workshop_of(request), moves_key__gt=""
        )
        return columns(stored.moves(version))
