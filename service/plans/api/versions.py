"""Versions of plans: report, moves and shape."""

from __future__ import annotations

from django.http import Http404, HttpResponse
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from northpace.export import export_for, exports
from northpace.figures import Report
from service.answers import ARROW, BYTES, columns, files
from service.files import download
from service.plans.api.asking import plan_of, version_of
from service.plans.api.serializers import (
    VersionSerializer,
)
from service.plans.rules import stage, stored


class PlanShape(APIView):
    @extend_schema(operation_id="plan_shape", responses=files(BYTES))
    def get(self, request: Request, pk: int) -> HttpResponse:
        """The part as placed: an Arrow stream with three rows a facet, its slopes, flats and
        attention.
        """
        plan = plan_of(request, pk)
        return HttpResponse(
            stage.stage_shape(plan, plan.latest.whole_spec),
            content_type=BYTES,
        )


class VersionDetail(APIView):
    @extend_schema(operation_id="version_show", responses=VersionSerializer)
    def get(self, request: Request, pk: int) -> Response:
        """State, progress and report of a version."""
        return Response(VersionSerializer(version_of(request, pk)).data)


#: Ways the move table can be had.
NOT_COMPUTED = "this version is not computed"
AS = OpenApiParameter(
    "as",
    str,
    enum=list(exports("moves")),
    description=" ".join(f"{name}: {way.help}" for name, way in exports("moves").items()),
)


class VersionMoves(APIView):
    @extend_schema(
        operation_id="version_moves",
        parameters=[AS],
        responses=files(ARROW, *(way.media_type for way in exports("moves").values())),
    )
    def get(self, request: Request, pk: int) -> HttpResponse:
        """The move table: as the screen draws it, or with ``?as=`` as a file to download."""
        version = version_of(request, pk)
        if not version.moves_key:
            raise Http404(NOT_COMPUTED)
        if "as" in request.GET:
            export = export_for("moves", request.GET["as"], "as")
            name = f"plan-{version.plan.number}-v{version.number}.{export.suffix}"
            return download(export.write(stage.moves_of(version)), name, export.media_type)
        return columns(stored.moves(version))


class VersionLaid(APIView):
    @extend_schema(operation_id="version_laid", responses=files(ARROW))
    def get(self, request: Request, pk: int) -> HttpResponse:
        """Beads of a version that is still being computed, as far as they are known: the columns of
        its moves, with nothing of pace and time in them.
        """
        found = stored.laid(version_of(request, pk))
        if found is None:
            raise Http404("nothing is laid yet")
        return HttpResponse(found, content_type=ARROW)


class VersionFile(APIView):
    @extend_schema(operation_id="version_file", responses=files("model/3mf"))
    def get(self, request: Request, pk: int) -> HttpResponse:
        """The plan as a 3MF file: part, mesh file and settings, to be taken in again."""
        version = version_of(request, pk)
        return download(
            stored.as_file(version.plan, version.pk), stored.file_name(version), "model/3mf"
        )


class VersionReport(APIView):
    @extend_schema(operation_id="version_report", responses=Report)
    def get(self, request: Request, pk: int) -> HttpResponse:
        """The report of a version as a file to download."""
        version = version_of(request, pk)
        if version.report is None:
            raise Http404(NOT_COMPUTED)
        export = next(iter(exports("report").values()))
        name = f"plan-{version.plan.number}-v{version.number}.{export.suffix}"
        return download(export.write(version.report), name, export.media_type)
