"""Parts over the API."""

from __future__ import annotations

from typing import Any

from django.http import HttpResponse
from django.shortcuts import get_object_or_404
from drf_spectacular.utils import OpenApiParameter, extend_schema, extend_schema_field
from rest_framework import generics, serializers, status
from rest_framework.exceptions import NotFound
from rest_framework.parsers import MultiPartParser
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from service.accounts.api.auth import workshop_of
from service.answers import BYTES, SVG, drawing, files
from service.archives import archive
from service.files import download, fetch
from service.paged import AskSerializer, asked_page, keys_asked, paged
from service.parts.models import Part
from service.parts.rules.library import SORTS, asked_parts, labels_of, with_prints
from service.parts.rules.parts import read_again, take_in


class FaceSerializer(serializers.Serializer[Any]):
    normal = serializers.ListField(child=serializers.FloatField())
    area_mm2 = serializers.FloatField()


class FactsSerializer(serializers.Serializer[Any]):
    triangles = serializers.IntegerField()
    size_mm = serializers.ListField(child=serializers.FloatField())
    volume_mm3 = serializers.FloatField()
    bodies = serializers.ListField(child=serializers.CharField())
    body_count = serializers.IntegerField()
    mended = serializers.ListField(child=serializers.CharField())
    closed = serializers.BooleanField()
    widest_opening_mm = serializers.FloatField()
    added_volume_mm3 = serializers.FloatField()
    faces = FaceSerializer(many=True)


@extend_schema_field(str)
class PictureField(serializers.Field[Any, Any, str, Part]):
    """Where the picture of a part is, for ever, because another file is another part; empty before
    it is read.
    """

    def to_representation(self, part: Part) -> str:
        known = part.state == Part.State.READY
        return f"/api/parts/{part.pk}/picture?of={part.checksum[:12]}" if known else ""


class PlannedSerializer(serializers.Serializer[Any]):
    """A plan that came with the part's file: what it is called, and what it was made for."""

    name = serializers.CharField()
    machine = serializers.CharField()
    bore = serializers.FloatField()
    material = serializers.CharField()


class PartSerializer(serializers.ModelSerializer[Part]):
    facts = serializers.SerializerMethodField()
    plans = serializers.SerializerMethodField()
    picture = PictureField(source="*", read_only=True)
    labels = serializers.ListField(
        child=serializers.CharField(max_length=60), max_length=20, required=False
    )

    planned = serializers.SerializerMethodField()
    printed = serializers.DateTimeField(
        read_only=True, allow_null=True, default=None, help_text="when one was done last"
    )
    told = serializers.IntegerField(
        read_only=True, default=0, help_text="of how many it is known what came of them"
    )
    good = serializers.IntegerField(read_only=True, default=0, help_text="of these, good")

    class Meta:
        model = Part
        fields = [
            "id",
            "name",
            "labels",
            "filename",
            "checksum",
            "size_bytes",
            "state",
            "message",
            "facts",
            "picture",
            "created",
            "plans",
            "planned",
            "printed",
            "told",
            "good",
        ]
        read_only_fields = [
            "id",
            "filename",
            "checksum",
            "size_bytes",
            "state",
            "message",
            "picture",
            "created",
        ]

    @extend_schema(responses=FactsSerializer(allow_null=True))
    def get_facts(self, part: Part) -> FactsSerializer(allow_null=True):  # type: ignore[valid-type]
        if not part.facts:
            return None
        # what was read before only has the names
        return {"body_count": len(part.facts["bodies"]), **part.facts}

    @extend_schema_field(PlannedSerializer(allow_null=True))
    def get_planned(self, part: Part) -> Any:
        """The plan its file held."""
        return part.planned and PlannedSerializer(part.planned).data

    def get_plans(self, part: Part) -> list[int]:
        return [plan.pk for plan in part.plans.all()]


class UploadSerializer(serializers.Serializer[Any]):
    file = serializers.FileField(allow_empty_file=True, max_length=250)


class PartAskSerializer(AskSerializer):
    """What of the parts is asked for."""

    sort = serializers.ChoiceField(required=False, choices=list(SORTS))


class LabelsSerializer(serializers.Serializer[Any]):
    labels = serializers.ListField(child=serializers.CharField())


class PartLabels(APIView):
    @extend_schema(
        operation_id="part_labels",
        responses=LabelsSerializer,
    )
    def get(self, request: Request) -> Response:
        """Every label of the workshop's parts."""
        return Response({"labels": labels_of(workshop_of(request))})


class PartList(APIView):
    parser_classes = [MultiPartParser]

    @extend_schema(
        operation_id="parts_list",
        parameters=[PartAskSerializer],
        responses=PartSerializer(many=True),
    )
    def get(self, request: Request) -> Response:
        """Parts of the workshop; how many there are in all is in the header X-Total."""
        parts, count = asked_parts(workshop_of(request), asked_page(PartAskSerializer, request))
        parts = parts.defer("picture").prefetch_related("plans")
        return paged(PartSerializer(parts, many=True).data, count)

    @extend_schema(
        operation_id="parts_take_in", request=UploadSerializer, responses={201: PartSerializer}
    )
    def post(self, request: Request) -> Response:
        """Take in a mesh file; it is read in the queue."""
        form = UploadSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        upload = form.validated_data["file"]
        part = take_in(workshop_of(request), upload.name, upload.read())
        return Response(PartSerializer(part).data, status=status.HTTP_201_CREATED)


class PartDetail(generics.RetrieveUpdateDestroyAPIView[Part]):
    """One part; it can be renamed, and removed while no job was made of it."""

    serializer_class = PartSerializer
    http_method_names = ["get", "patch", "delete"]

    def get_queryset(self) -> Any:
        parts = Part.objects.filter(workshop=workshop_of(self.request))
        return with_prints(parts).prefetch_related("plans")

    def destroy(self, request: Request, *args: Any, **kwargs: Any) -> Response:
        part = self.get_object()
        reason = ""
        if part.plans.filter(versions__jobs__isnull=False).exists():
            reason = "jobs were committed from this part; it stays so that they can be traced"
        elif (line := part.order_lines.select_related("order").first()) is not None:
            reason = f"{line.order} is of this part; it stays with it"
        if reason:
            answer = {"detail": reason, "where": part.name}
            return Response(answer, status=status.HTTP_409_CONFLICT)
        part.delete()
        return Response(status=status.HTTP_204_NO_CONTENT)


class PartAgain(APIView):
    @extend_schema(operation_id="part_read_again", request=None, responses=PartSerializer)
    def post(self, request: Request, pk: int) -> Response:
        """Read a part that was refused once more."""
        part = get_object_or_404(Part, pk=pk, workshop=workshop_of(request))
        return Response(PartSerializer(read_again(part)).data)


class PartPicture(APIView):
    @extend_schema(operation_id="part_picture", responses=files(SVG))
    def get(self, request: Request, pk: int) -> HttpResponse:
        """Its contours as a drawing; what is at an address never changes."""
        part = get_object_or_404(Part, pk=pk, workshop=workshop_of(request))
        return drawing(part.picture)


class PartFile(APIView):
    @extend_schema(operation_id="part_file", responses=files(BYTES))
    def get(self, request: Request, pk: int) -> HttpResponse:
        """The file as it came."""
        part = get_object_or_404(Part, pk=pk, workshop=workshop_of(request))
        return download(fetch(part.file_key), part.filename)


class PartsFile(APIView):
    @extend_schema(
        operation_id="parts_file",
        parameters=[OpenApiParameter("parts", str, description="numbers with commas between")],
        responses=files("application/zip"),
    )
    def get(self, request: Request) -> HttpResponse:
        """The files of several parts as they came, in one archive."""
        keys = keys_asked(request, "parts")
        found = Part.objects.filter(workshop=workshop_of(request)).in_bulk(keys)
        if len(found) < len(keys):
            raise NotFound("one of the parts is not there any more")
        files = ((found[key].filename, fetch(found[key].file_key)) for key in keys)
        return download(archive(files, "parts", packed=False), "parts.zip", "application/zip")
