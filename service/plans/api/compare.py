"""Plans side by side over the API: as data, as a table to download, and with a verdict."""

from __future__ import annotations

from typing import Any

from django.http import HttpResponse
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from northpace import VERSION
from northpace.errors import InputError
from northpace.export import export_for, exports
from northpace.plan.compare import compare, lanes_of
from service.accounts.api.auth import workshop_of
from service.answers import files
from service.files import download
from service.plans.models import PlanVersion

#: Plans side by side at most.
MOST = 8


class BedSizeSerializer(serializers.Serializer[Any]):
    """The bed a plan stands on, for the stage."""

    round = serializers.BooleanField()
    x = serializers.FloatField()
    y = serializers.FloatField()
    z = serializers.FloatField()
    origin_x = serializers.FloatField()
    origin_y = serializers.FloatField()


class ComparedPlanSerializer(serializers.Serializer[Any]):
    """A plan among others: the first is the baseline."""

    title = serializers.CharField()
    version = serializers.IntegerField()
    version_number = serializers.IntegerField()
    plan = serializers.IntegerField()
    number = serializers.IntegerField()
    name = serializers.CharField(allow_blank=True)
    verdict = serializers.CharField(allow_blank=True)
    part = serializers.CharField()
    machine = serializers.CharField()
    material = serializers.CharField()
    bed = BedSizeSerializer()
    size_mm = serializers.ListField(child=serializers.FloatField())
    tops_mm = serializers.ListField(child=serializers.FloatField())
    min_per_mm = serializers.ListField(child=serializers.FloatField())
    error_um = serializers.ListField(child=serializers.FloatField())
    heights_mm = serializers.ListField(child=serializers.FloatField())


class DifferingSerializer(serializers.Serializer[Any]):
    """A setting that is not the same in all plans, and where each value comes from."""

    name = serializers.CharField()
    label = serializers.CharField()  # type: ignore[assignment]
    group = serializers.CharField()
    unit = serializers.CharField(allow_blank=True)
    type = serializers.CharField()
    values = serializers.ListField(child=serializers.JSONField(allow_null=True))
    sources = serializers.ListField(child=serializers.CharField())


class TotalRowSerializer(serializers.Serializer[Any]):
    key = serializers.CharField()
    label = serializers.CharField()  # type: ignore[assignment]
    unit = serializers.CharField(allow_blank=True)
    values = serializers.ListField(child=serializers.FloatField())


class FeatureRowSerializer(serializers.Serializer[Any]):
    feature = serializers.CharField()
    seconds = serializers.ListField(child=serializers.FloatField())
    grams = serializers.ListField(child=serializers.FloatField())
    cost = serializers.ListField(child=serializers.FloatField())


class BandRowSerializer(serializers.Serializer[Any]):
    name = serializers.CharField()
    seconds = serializers.ListField(child=serializers.FloatField(allow_null=True))
    grams = serializers.ListField(child=serializers.FloatField(allow_null=True))


class HeightRowSerializer(serializers.Serializer[Any]):
    from_mm = serializers.FloatField()
    to_mm = serializers.FloatField()
    seconds = serializers.ListField(child=serializers.FloatField())
    grams = serializers.ListField(child=serializers.FloatField())


class FindingRowSerializer(serializers.Serializer[Any]):
    code = serializers.CharField()
    severity = serializers.ChoiceField(choices=["stop", "look", "note"])
    messages = serializers.ListField(child=serializers.CharField(allow_null=True))
    z_mm = serializers.ListField(child=serializers.FloatField(allow_null=True))


class ComparedSerializer(serializers.Serializer[Any]):
    """What differs between plans; every row has one value a plan, in their order."""

    plans = ComparedPlanSerializer(many=True)
    settings = DifferingSerializer(many=True)
    totals = TotalRowSerializer(many=True)
    features = FeatureRowSerializer(many=True)
    bands = BandRowSerializer(many=True)
    heights = HeightRowSerializer(many=True)
    findings = FindingRowSerializer(many=True)


def versions_asked(request: Request) -> list[PlanVersion]:
    """The versions named by a request, in its order, all of this workshop and computed by this
    core.
    """
    text = request.query_params.get("versions", "")
    try:
        keys = list(dict.fromkeys(int(word) for word in text.split(",") if word.strip()))
    except ValueError as error:
        raise InputError(
            f"'{text}' is no list of versions; write their numbers with commas between", "versions"
        ) from error
    if not 1 <= len(keys) <= MOST:
        raise InputError(f"1 to {MOST} plans can stand side by side", "versions")
    found = {
        version.pk: version
        for version in PlanVersion.objects.filter(
            pk__in=keys, plan__workshop=workshop_of(request)
        ).select_related("plan__part", "part", "plan__recipe", "nozzle__machine", "material")
    }
    missing = [key for key in keys if key not in found]
    if missing:
        raise InputError(f"there is no version {missing[0]} in this workshop", "versions")
    for version in found.values():
        if version.report is None or version.core_version != VERSION:
            raise InputError(f"{version} is not computed yet", "versions")
    return [found[key] for key in keys]


def source_of(version: PlanVersion, name: str) -> str:
    """Where a plan has a value from: machine, material, recipe, the plan itself, or the
    defaults.
    """
    group, _, key = name.partition(".")
    if group in ("machine", "material"):
        return group
    own = version.settings.get(group, {})
    recipe = version.plan.recipe
    if key in own:
        return (
            "recipe"
            if recipe is not None and recipe.settings.get(group, {}).get(key) == own[key]
            else "plan"
        )
    return "derived" if group == "pace" and version.spec["pace"].get("derived") else "default"


def compared(versions: list[PlanVersion]) -> dict[str, Any]:
    """Everything that is shown side by side."""
    reports = [version.report for version in versions if version.report is not None]
    found = compare(reports, [version.spec for version in versions])
    for row in found["settings"]:
        row["sources"] = [source_of(version, row["name"]) for version in versions]
    found["plans"] = [
        {
            "title": _title(version),
            "version": version.pk,
            "version_number": version.number,
            "plan": version.plan_id,
            "number": version.plan.number,
            "name": version.plan.name,
            "verdict": version.plan.verdict,
            "part": version.its_part.name,
            "machine": f"{version.nozzle.machine}, {version.nozzle}",
            "material": str(version.material),
            "bed": _bed(version),
            "size_mm": report["part"]["size_mm"],
            **lanes_of(report),
        }
        for version, report in zip(versions, reports, strict=True)
    ]
    return found


def _title(version: PlanVersion) -> str:
    return f"plan {version.plan.number} version {version.number} {version.plan.name}".strip()


def _bed(version: PlanVersion) -> dict[str, Any]:
    machine = version.whole_spec.machine
    x, y = machine.origin
    return {
        "round": machine.bed == "round",
        "x": machine.size_x,
        "y": machine.size_y,
        "z": machine.size_z,
        "origin_x": x,
        "origin_y": y,
    }


VERSIONS = [
    OpenApiParameter(
        "versions",
        str,
        required=True,
        description="version keys with commas between, the baseline first",
    )
]


class Compare(APIView):
    @extend_schema(operation_id="compare", parameters=VERSIONS, responses=ComparedSerializer)
    def get(self, request: Request) -> Response:
        """Plans side by side, the first as the baseline: only what differs in settings, and all
        figures.
        """
        return Response(ComparedSerializer(compared(versions_asked(request))).data)


AS = OpenApiParameter(
    "as",
    str,
    enum=list(exports("comparison")),
    description=" ".join(f"{name}: {way.help}" for name, way in exports("comparison").items()),
)
KINDS = [way.media_type for way in exports("comparison").values()]


class CompareFile(APIView):
    @extend_schema(
        operation_id="compare_file",
        parameters=[*VERSIONS, AS],
        responses=files(*KINDS),
    )
    def get(self, request: Request) -> HttpResponse:
        """The same as a file to download."""
        export = export_for("comparison", request.GET.get("as", "csv"), "as")
        found = compared(versions_asked(request))
        return download(export.write(found), f"compared.{export.suffix}", export.media_type)
