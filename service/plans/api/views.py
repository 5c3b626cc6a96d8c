"""Plans and versions over the API."""

from __future__ import annotations

from typing import Any

from django.http import HttpResponse
from django.shortcuts import get_object_or_404
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import extend_schema
from rest_framework import status
from rest_framework.parsers import MultiPartParser
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.serializers import Serializer
from rest_framework.views import APIView

from northpace.errors import InputError
from northpace.spec import PlanSpec
from service.accounts.auth import workshop_of
from service.files import download, fetch
from service.parts.models import Part
from service.parts.views import UploadSerializer
from service.plans import rules, slices
from service.plans.api.report import QuickSerializer
from service.plans.api.serializers import (
    AcknowledgementSerializer,
    FrontierAskSerializer,
    FrontierSerializer,
    PlanChangeSerializer,
    PlanCreateSerializer,
    PlanListSerializer,
    PlanSerializer,
    SliceCutSerializer,
    TestSliceSerializer,
    TriedSerializer,
    VerdictSerializer,
    VersionSerializer,
)
from service.plans.models import Plan, PlanVersion, TestSlice
from service.workshop.models import Material, Nozzle, Recipe, Spool
from service.workshop.recipes import RecipeSaveSerializer, RecipeSerializer

BINARY = {(200, "application/octet-stream"): OpenApiTypes.BINARY}


def plan_of(request: Request, pk: int) -> Plan:
    return get_object_or_404(
        Plan.objects.select_related("part", "workshop"), pk=pk, workshop=workshop_of(request)
    )


def asked(form: type[Serializer[Any]], request: Request) -> dict[str, Any]:
    """What a request asks for, checked by its form."""
    filled = form(data=request.data)
    filled.is_valid(raise_exception=True)
    return dict(filled.validated_data)


def _choices(
    request: Request, values: dict[str, Any], now: PlanVersion | None
) -> tuple[Nozzle, Material, Spool | None]:
    """Nozzle, material and spool asked for, of this workshop only; what is not mentioned stays."""
    workshop = workshop_of(request)
    nozzle = (
        get_object_or_404(Nozzle, pk=values["nozzle"], machine__workshop=workshop)
        if "nozzle" in values
        else now and now.nozzle
    )
    material = (
        get_object_or_404(Material, pk=values["material"], workshop=workshop)
        if "material" in values
        else now and now.material
    )
    assert nozzle is not None and material is not None
    spool = now.spool if now and now.spool and now.spool.material_id == material.pk else None
    if "spool" in values:
        spool = (
            get_object_or_404(Spool, pk=values["spool"], material=material)
            if values["spool"]
            else None
        )
    return nozzle, material, spool


def _recipe(request: Request, values: dict[str, Any]) -> Recipe | None:
    return (
        get_object_or_404(Recipe, pk=values["recipe"], workshop=workshop_of(request))
        if values.get("recipe")
        else None
    )


def spec_asked(request: Request, plan: Plan, values: dict[str, Any]) -> PlanSpec:
    """The spec of changed settings of a plan; what is not mentioned stays."""
    latest = plan.latest
    nozzle, material, spool = _choices(request, values, latest)
    return rules.resolve(
        rules.refit(values.get("settings", latest.settings), latest.nozzle, nozzle),
        nozzle,
        material,
        spool,
    )


class PlanList(APIView):
    @extend_schema(operation_id="plans_list", responses=PlanListSerializer(many=True))
    def get(self, request: Request) -> Response:
        """Plans of the workshop, newest first, each with its newest figures."""
        plans = (
            Plan.objects.filter(workshop=workshop_of(request))
            .select_related("part", "slice_of")
            .prefetch_related("versions__nozzle__machine", "versions__material", "versions__spool")
        )
        return Response(PlanListSerializer(plans, many=True).data)

    @extend_schema(
        operation_id="plans_create", request=PlanCreateSerializer, responses={201: PlanSerializer}
    )
    def post(self, request: Request) -> Response:
        """Plan a part on a machine in a material; the exact figures are computed in the queue."""
        values = asked(PlanCreateSerializer, request)
        part = get_object_or_404(Part, pk=values["part"], workshop=workshop_of(request))
        nozzle, material, spool = _choices(request, values, None)
        plan = rules.create_plan(
            workshop_of(request),
            part,
            nozzle,
            material,
            spool,
            values.get("settings"),
            _recipe(request, values),
        )
        return Response(PlanSerializer(plan).data, status=status.HTTP_201_CREATED)


class PlanDetail(APIView):
    @extend_schema(operation_id="plan_show", responses=PlanSerializer)
    def get(self, request: Request, pk: int) -> Response:
        """A plan with its newest version and its newest exact one."""
        return Response(PlanSerializer(plan_of(request, pk)).data)

    @extend_schema(
        operation_id="plan_change", request=PlanChangeSerializer, responses=PlanSerializer
    )
    def patch(self, request: Request, pk: int) -> Response:
        """Change settings, machine, material or spool: a new version, which supersedes one still
        being computed.
        """
        plan = plan_of(request, pk)
        values = asked(PlanChangeSerializer, request)
        latest = plan.latest
        if "name" in values:
            plan.name = values["name"]
            plan.save(update_fields=["name"])
        if "verdict" in values:
            plan.verdict = values["verdict"]
            plan.save(update_fields=["verdict"])
        if "baseline" in values:
            plan.baseline = _version(request, values["baseline"]) if values["baseline"] else None
            if plan.baseline is not None and plan.baseline.report is None:
                raise InputError("only a computed plan can be a baseline", "baseline")
            plan.save(update_fields=["baseline"])
        if "recipe" in values:
            plan.recipe = _recipe(request, values)
            plan.save(update_fields=["recipe"])
        if set(values) - {"name", "verdict", "baseline", "recipe"}:
            nozzle, material, spool = _choices(request, values, latest)
            settings = rules.refit(values.get("settings", latest.settings), latest.nozzle, nozzle)
            rules.change_plan(plan, settings, nozzle, material, spool)
        return Response(PlanSerializer(plan).data)

    @extend_schema(operation_id="plan_remove", responses={204: None})
    def delete(self, request: Request, pk: int) -> Response:
        """Remove a plan that no job was made of."""
        plan = plan_of(request, pk)
        if plan.versions.filter(jobs__isnull=False).exists():
            return Response(
                {
                    "detail": "jobs were committed from this plan; it stays so that they can "
                    "be traced",
                    "where": str(plan),
                },
                status=status.HTTP_409_CONFLICT,
            )
        plan.delete()
        return Response(status=status.HTTP_204_NO_CONTENT)


class PlanQuick(APIView):
    @extend_schema(
        operation_id="plan_quick", request=PlanChangeSerializer, responses=QuickSerializer
    )
    def post(self, request: Request, pk: int) -> Response:
        """The ≈ figures of changed settings, answered at once; nothing is kept."""
        plan = plan_of(request, pk)
        values = asked(PlanChangeSerializer, request)
        return Response(rules.quick_figures(plan, spec_asked(request, plan, values)))


class PlanFrontier(APIView):
    @extend_schema(
        operation_id="plan_frontier", request=FrontierAskSerializer, responses=FrontierSerializer
    )
    def post(self, request: Request, pk: int) -> Response:
        """The trade-off of the plan's part under these settings: least time for every surface
        error, beside the even stacks.
        """
        plan = plan_of(request, pk)
        values = asked(FrontierAskSerializer, request)
        spec = spec_asked(request, plan, values)
        return Response(rules.frontier_points(plan, spec, values["measure"], values["points"]))


class PlanTry(APIView):
    @extend_schema(operation_id="plan_try", request=PlanChangeSerializer, responses=TriedSerializer)
    def post(self, request: Request, pk: int) -> Response:
        """Exact figures of changed settings, for a table of trials; nothing is kept."""
        plan = plan_of(request, pk)
        return Response(
            rules.try_out(plan, spec_asked(request, plan, asked(PlanChangeSerializer, request)))
        )


class PlanAcknowledge(APIView):
    @extend_schema(
        operation_id="plan_acknowledge", request=AcknowledgementSerializer, responses=PlanSerializer
    )
    def post(self, request: Request, pk: int) -> Response:
        """Accept a finding of the newest exact version with a reason; it holds while the finding
        says the same.
        """
        plan = plan_of(request, pk)
        values = asked(AcknowledgementSerializer, request)
        rules.acknowledge(plan, values["code"], values["reason"], request.user)
        return Response(PlanSerializer(plan).data)


class PlanAcknowledged(APIView):
    @extend_schema(operation_id="plan_acknowledge_not", responses={200: PlanSerializer})
    def delete(self, request: Request, pk: int, code: str) -> Response:
        """Take an acknowledgement back."""
        plan = plan_of(request, pk)
        plan.acknowledgements.filter(code=code).delete()
        return Response(PlanSerializer(plan).data)


class PlanRecipe(APIView):
    @extend_schema(
        operation_id="plan_recipe", request=RecipeSaveSerializer, responses={201: RecipeSerializer}
    )
    def post(self, request: Request, pk: int) -> Response:
        """Keep the plan's settings as a recipe."""
        values = asked(RecipeSaveSerializer, request)
        recipe = rules.save_recipe(
            plan_of(request, pk),
            values["name"],
            values.get("note", ""),
            values["this_machine"],
            values["this_material"],
        )
        return Response(RecipeSerializer(recipe).data, status=status.HTTP_201_CREATED)


class PlanCopy(APIView):
    @extend_schema(operation_id="plan_copy", request=None, responses={201: PlanSerializer})
    def post(self, request: Request, pk: int) -> Response:
        """Keep the settings as a plan of its own."""
        return Response(
            PlanSerializer(rules.copy_plan(plan_of(request, pk))).data,
            status=status.HTTP_201_CREATED,
        )


class PlanSlices(APIView):
    @extend_schema(
        operation_id="plan_slice", request=SliceCutSerializer, responses={201: TestSliceSerializer}
    )
    def post(self, request: Request, pk: int) -> Response:
        """Cut a stretch of height into a sample part with a plan of its own."""
        plan = plan_of(request, pk)
        values = asked(SliceCutSerializer, request)
        made = slices.make_slice(plan, values["from_mm"], values["to_mm"])
        return Response(TestSliceSerializer(made).data, status=status.HTTP_201_CREATED)


def _slice(request: Request, pk: int) -> TestSlice:
    return get_object_or_404(
        TestSlice.objects.select_related("plan__part"), pk=pk, plan__workshop=workshop_of(request)
    )


class SliceVerdict(APIView):
    @extend_schema(
        operation_id="slice_judge", request=VerdictSerializer, responses=TestSliceSerializer
    )
    def post(self, request: Request, pk: int) -> Response:
        """Record what the printed slice showed; it sets the surface target of the plan it was cut
        from.
        """
        values = asked(VerdictSerializer, request)
        judged = slices.judge(
            _slice(request, pk), values["verdict"], values.get("note", ""), values.get("target_um")
        )
        return Response(TestSliceSerializer(judged).data)


class SlicePhoto(APIView):
    parser_classes = [MultiPartParser]

    @extend_schema(operation_id="slice_photo_show", responses=BINARY)
    def get(self, request: Request, pk: int) -> HttpResponse:
        """The photo of a printed slice."""
        found = _slice(request, pk)
        if not found.photo_key:
            return HttpResponse("there is no photo", status=404, content_type="text/plain")
        return HttpResponse(
            fetch(found.photo_key),
            content_type="image/png" if found.photo_key.endswith(".png") else "image/jpeg",
        )

    @extend_schema(
        operation_id="slice_photo", request=UploadSerializer, responses=TestSliceSerializer
    )
    def post(self, request: Request, pk: int) -> Response:
        """Keep a photo of the printed slice: PNG or JPEG, up to 10 MB."""
        values = asked(UploadSerializer, request)
        found = _slice(request, pk)
        slices.keep_photo(found, values["file"].read())
        return Response(TestSliceSerializer(found).data)


class PlanCancel(APIView):
    @extend_schema(operation_id="plan_cancel", request=None, responses=PlanSerializer)
    def post(self, request: Request, pk: int) -> Response:
        """Stop what is being computed."""
        plan = plan_of(request, pk)
        rules.cancel(plan)
        return Response(PlanSerializer(plan).data)


class PlanShape(APIView):
    @extend_schema(operation_id="plan_shape", responses=BINARY)
    def get(self, request: Request, pk: int) -> HttpResponse:
        """The part as placed: an Arrow stream with three rows a facet, its slopes, flats and
        attention.
        """
        plan = plan_of(request, pk)
        return HttpResponse(
            rules.stage_shape(plan, rules.spec_from(plan.latest.spec)),
            content_type="application/octet-stream",
        )


def _version(request: Request, pk: int) -> PlanVersion:
    return get_object_or_404(PlanVersion, pk=pk, plan__workshop=workshop_of(request))


class VersionDetail(APIView):
    @extend_schema(operation_id="version_show", responses=VersionSerializer)
    def get(self, request: Request, pk: int) -> Response:
        """State, progress and report of a version."""
        return Response(VersionSerializer(_version(request, pk)).data)


class VersionMoves(APIView):
    @extend_schema(operation_id="version_moves", responses=BINARY)
    def get(self, request: Request, pk: int) -> HttpResponse:
        """The move table, Arrow IPC stream; with ``?as=parquet`` as Parquet to download."""
        version = _version(request, pk)
        if not version.moves_key:
            return HttpResponse(
                "this version is not computed", status=404, content_type="text/plain"
            )
        data = fetch(version.moves_key)
        if request.GET.get("as") == "parquet":
            return download(
                rules.parquet_of(data), f"plan-{version.plan.number}-v{version.number}.parquet"
            )
        answer = HttpResponse(data, content_type="application/vnd.apache.arrow.stream")
        answer["Cache-Control"] = "private, max-age=31536000, immutable"
        return answer
