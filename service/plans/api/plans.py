"""Plans over the API."""

from __future__ import annotations

from django.shortcuts import get_object_or_404
from drf_spectacular.utils import extend_schema
from rest_framework import serializers, status
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from northpace.errors import InputError
from service.accounts.api.auth import workshop_of
from service.paged import AskSerializer, asked_page, paged
from service.parts.models import Part
from service.plans.api.asking import (
    asked,
    author_of,
    choices_of,
    plan_of,
    recipe_of,
    version_of,
)
from service.plans.api.serializers import (
    AcknowledgementSerializer,
    PlanChangeSerializer,
    PlanCreateSerializer,
    PlanListSerializer,
    PlanSerializer,
    VersionProgressSerializer,
    listed,
)
from service.plans.rules import acknowledging, library, merging, recipes, several, versions
from service.plans.rules.versions import Choice
from service.workshop.api.recipes import RecipeSaveSerializer, RecipeSerializer


class PlanAskSerializer(AskSerializer):
    """What of the plans is asked for."""

    sort = serializers.ChoiceField(required=False, choices=list(library.SORTS))
    part = serializers.IntegerField(required=False)


class PlanList(APIView):
    @extend_schema(
        operation_id="plans_list",
        parameters=[PlanAskSerializer],
        responses=PlanListSerializer(many=True),
    )
    def get(self, request: Request) -> Response:
        """Plans of the workshop, each with its newest figures; how many there are in all is in the
        header X-Total.
        """
        asked_for = asked_page(PlanAskSerializer, request)
        plans, count = library.asked_plans(workshop_of(request), asked_for)
        return paged(PlanListSerializer(listed(plans), many=True).data, count)

    @extend_schema(
        operation_id="plans_create", request=PlanCreateSerializer, responses={201: PlanSerializer}
    )
    def post(self, request: Request) -> Response:
        """Plan a part on a machine in a material; the exact figures are computed in the queue."""
        values = asked(PlanCreateSerializer, request)
        part = get_object_or_404(Part, pk=values["part"], workshop=workshop_of(request))
        nozzle, material, spool = choices_of(request, values, None)
        plan = versions.create_plan(
            workshop_of(request),
            part,
            nozzle,
            material,
            spool,
            values.get("settings"),
            recipe_of(request, values),
            values["from_file"],
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
            plan.baseline = version_of(request, values["baseline"]) if values["baseline"] else None
            if plan.baseline is not None and plan.baseline.report is None:
                raise InputError("only a computed plan can be a baseline", "baseline")
            plan.save(update_fields=["baseline"])
        if "recipe" in values:
            plan.recipe = recipe_of(request, values)
            plan.save(update_fields=["recipe"])
        if set(values) - {"name", "verdict", "baseline", "recipe", "base", "mine"}:
            nozzle, material, spool = choices_of(request, values, latest)
            wanted = Choice(values.get("settings", latest.settings), nozzle, material, spool)
            merging.change(
                plan, wanted, author_of(request), values.get("base"), mine=values.get("mine", False)
            )
        return Response(PlanSerializer(plan).data)

    @extend_schema(operation_id="plan_remove", responses={204: None})
    def delete(self, request: Request, pk: int) -> Response:
        """Remove a plan that no job was made of, and that lies on no bed."""
        plan = plan_of(request, pk)
        reason = several.why_it_stays(plan)
        if reason:
            return Response({"detail": reason, "where": str(plan)}, status=status.HTTP_409_CONFLICT)
        plan.delete()
        return Response(status=status.HTTP_204_NO_CONTENT)


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
        acknowledging.acknowledge(plan, values["code"], values["reason"], request.user)
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
        recipe = recipes.save_recipe(
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
            PlanSerializer(versions.copy_plan(plan_of(request, pk))).data,
            status=status.HTTP_201_CREATED,
        )


class PlanUndo(APIView):
    @extend_schema(operation_id="plan_undo", request=None, responses=PlanSerializer)
    def post(self, request: Request, pk: int) -> Response:
        """Undo the last change: a new version with the settings before it."""
        plan = plan_of(request, pk)
        versions.step(plan, forward=False, author=author_of(request))
        return Response(PlanSerializer(plan).data)


class PlanRedo(APIView):
    @extend_schema(operation_id="plan_redo", request=None, responses=PlanSerializer)
    def post(self, request: Request, pk: int) -> Response:
        """Do again what was undone last."""
        plan = plan_of(request, pk)
        versions.step(plan, forward=True, author=author_of(request))
        return Response(PlanSerializer(plan).data)


class PlanProgress(APIView):
    @extend_schema(operation_id="plan_progress", responses=VersionProgressSerializer)
    def get(self, request: Request, pk: int) -> Response:
        """How far the newest version is: state and progress alone, to be asked for often."""
        return Response(VersionProgressSerializer(plan_of(request, pk).latest).data)


class PlanCancel(APIView):
    @extend_schema(operation_id="plan_cancel", request=None, responses=PlanSerializer)
    def post(self, request: Request, pk: int) -> Response:
        """Stop what is being computed."""
        plan = plan_of(request, pk)
        versions.cancel(plan)
        return Response(PlanSerializer(plan).data)
