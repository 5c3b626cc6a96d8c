"""What a request over the API means: which plan, which settings."""

from __future__ import annotations

from typing import Any

from django.shortcuts import get_object_or_404
from rest_framework.request import Request
from rest_framework.serializers import Serializer

from northpace.spec import PlanSpec
from service.accounts.api.auth import member_of, workshop_of
from service.plans.models import Plan, PlanVersion
from service.plans.rules import resolving
from service.plans.rules.versions import Author
from service.workshop.models import Material, Nozzle, Recipe, Spool


def plan_of(request: Request, pk: int) -> Plan:
    return get_object_or_404(
        Plan.objects.select_related("part", "workshop"), pk=pk, workshop=workshop_of(request)
    )


def asked(form: type[Serializer[Any]], request: Request) -> dict[str, Any]:
    """What a request asks for, checked by its form."""
    filled = form(data=request.data)
    filled.is_valid(raise_exception=True)
    return dict(filled.validated_data)


def choices_of(
    request: Request, values: dict[str, Any], now: PlanVersion | None
) -> tuple[Nozzle, Material, Spool | None]:
    """Nozzle, material and spool asked for, of this workshop only; what is not mentioned stays."""
    workshop = workshop_of(request)
    nozzle: Nozzle | None = now.nozzle if now else None
    if "nozzle" in values:
        nozzle = get_object_or_404(Nozzle, pk=values["nozzle"], machine__workshop=workshop)
    material: Material | None = now.material if now else None
    if "material" in values:
        material = get_object_or_404(Material, pk=values["material"], workshop=workshop)
    assert nozzle is not None and material is not None
    spool = now.spool if now and now.spool and now.spool.material_id == material.pk else None
    if "spool" in values:
        spool = (
            get_object_or_404(Spool, pk=values["spool"], material=material)
            if values["spool"]
            else None
        )
    return nozzle, material, spool


def author_of(request: Request) -> Author:
    """Who asks, and on which of their screens."""
    return Author(request.headers.get("X-Desk", "")[:40], str(member_of(request)))


def recipe_of(request: Request, values: dict[str, Any]) -> Recipe | None:
    return (
        get_object_or_404(Recipe, pk=values["recipe"], workshop=workshop_of(request))
        if values.get("recipe")
        else None
    )


def spec_asked(request: Request, plan: Plan, values: dict[str, Any]) -> PlanSpec:
    """The spec of changed settings of a plan; what is not mentioned stays."""
    latest = plan.latest
    nozzle, material, spool = choices_of(request, values, latest)
    return resolving.resolve(
        resolving.refit(values.get("settings", latest.settings), latest.nozzle, nozzle),
        nozzle,
        material,
        spool,
    )


def version_of(request: Request, pk: int) -> PlanVersion:
    return get_object_or_404(PlanVersion, pk=pk, plan__workshop=workshop_of(request))
