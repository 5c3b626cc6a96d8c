"""A deadline: so many copies until a time, on the machines that are free, with the best surface that fits, or what would be needed."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any

from django.utils import timezone
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from northpace.errors import InputError
from northpace.spec import PlanSpec
from service.jobs.schedule import factor_of, open_jobs, schedule
from service.plans import rules
from service.plans.models import Plan
from service.plans.views import asked, plan_of
from service.workshop.models import Machine, Nozzle
from service.workshop.spools import reserved


class DeadlineAskSerializer(serializers.Serializer[Any]):
    until = serializers.DateTimeField()
    copies = serializers.IntegerField(min_value=1, max_value=500, default=1)
    start = serializers.DateTimeField(required=False, help_text="not before this; now when left out")


class MachineAnswerSerializer(serializers.Serializer[Any]):
    """What one machine can do by then: from when on it is free, minutes there are for each copy, the change that fits, and when all are done."""

    machine = serializers.CharField()
    nozzle = serializers.IntegerField()
    free_at = serializers.DateTimeField()
    minutes_each = serializers.FloatField()
    fits = serializers.BooleanField()
    words = serializers.CharField()
    change = serializers.DictField(child=serializers.JSONField())
    time_s = serializers.FloatField(allow_null=True)
    p95_um = serializers.FloatField(allow_null=True)
    done_at = serializers.DateTimeField(allow_null=True)
    give_s = serializers.FloatField()


class DeadlineSerializer(serializers.Serializer[Any]):
    """The answer: best machine first; what stands in the way where none fits; pieces a day at the present plan's pace."""

    fits = serializers.BooleanField()
    sentence = serializers.CharField()
    spool = serializers.CharField(allow_blank=True)
    machines = MachineAnswerSerializer(many=True)
    pieces_a_day = serializers.FloatField()
    run_done_at = serializers.DateTimeField()


@dataclass(frozen=True)
class _Asked:
    plan: Plan
    until: datetime
    start: datetime
    copies: int


def free_at(machine: Machine, start: datetime) -> datetime:
    """From when on a machine can take the first copy: after what is on it and waits for it, with a change of bed."""
    slots = schedule(machine, open_jobs(machine), timezone.now())
    if not slots:
        return start
    return max(start, max(slot.end for slot in slots.values()) + timedelta(minutes=machine.bed_change_min / factor_of(machine)))


def answer(plan: Plan, until: datetime, copies: int, start: datetime | None = None) -> dict[str, Any]:
    """What can be had by a deadline; raises `InputError` for one that makes no sense."""
    now = timezone.now()
    start = max(start or now, now)
    exact = rules.last_exact(plan)
    if exact is None or exact.report is None:
        raise InputError("the exact figures are not computed yet", str(plan))
    if until <= start:
        raise InputError(f"the deadline lies before the start ({start:%H:%M})", "until")
    asked_for = _Asked(plan, until, start, copies)
    rows = []
    for nozzle in _nozzles(plan, exact.nozzle):
        row = _on(asked_for, nozzle)
        if row is not None:
            rows.append(row)
    rows.sort(key=lambda row: (not row["fits"], row["p95_um"] if row["fits"] else -row["minutes_each"]))
    machine, each = exact.nozzle.machine, float(exact.report["time_s"]["total"])
    cycle = each + 60 * machine.bed_change_min
    best = rows[0] if rows else None
    return {"fits": bool(best and best["fits"]), "sentence": _sentence(asked_for, best), "spool": _spool(plan, copies), "machines": rows,
            "pieces_a_day": 86400 / cycle, "run_done_at": free_at(machine, start) + timedelta(seconds=copies * cycle - 60 * machine.bed_change_min)}


def _nozzles(plan: Plan, own: Nozzle) -> list[Nozzle]:
    """The plan's own nozzle first, then those of the same bore on other machines: another bore is another plan."""
    others = Nozzle.objects.filter(machine__workshop=plan.workshop, bore=own.bore).exclude(pk=own.pk).select_related("machine")
    return [own, *(nozzle for nozzle in others if not nozzle.machine.held)]


def _on(wanted: _Asked, nozzle: Nozzle) -> dict[str, Any] | None:
    """What one machine can do, None where the plan does not suit it at all."""
    plan, latest, machine = wanted.plan, wanted.plan.latest, nozzle.machine
    try:
        spec = rules.resolve(latest.settings, nozzle, latest.material, latest.spool)
    except InputError:
        return None
    begin = free_at(machine, wanted.start)
    change_s = 60 * machine.bed_change_min
    room = (wanted.until - begin).total_seconds() - (wanted.copies - 1) * change_s
    spread = float((machine.learnt or {}).get("spread", 0.0))
    # two standard deviations of all copies together have to fit as well
    each = room / wanted.copies / (1 + 2 * spread / wanted.copies**0.5)
    row: dict[str, Any] = {"machine": machine.name, "nozzle": nozzle.pk, "free_at": begin, "minutes_each": each / 60, "fits": False, "words": "", "change": {},
                           "time_s": None, "p95_um": None, "done_at": None, "give_s": 0.0}
    if each <= 0:
        return {**row, "words": "not free before then"}
    try:
        now = rules.quick_figures(plan, spec)
    except InputError as error:
        return {**row, "words": error.message}
    found, change, words = now, {}, "the plan as it is"
    if now["time_s"]["total"] > each:
        change = {"surface.kind": "best-fit", "surface.time_cap_min": round(each / 60 - 0.05, 1)}
        try:
            found = rules.quick_figures(plan, _capped(spec, change))
            words = f"layer heights fitted into {each / 60:.0f} min each"
        except InputError as error:
            return {**row, "words": f"{error.message}; {now['time_s']['total'] / 60:.0f} min as it is"}
        if found["time_s"]["total"] > each + 60:
            return {**row, "words": f"the fastest layers take ≈ {found['time_s']['total'] / 60:.0f} min each"}
    total = float(found["time_s"]["total"])
    return {**row, "fits": True, "words": words, "change": change, "time_s": total, "p95_um": float(found["surface"]["p95_um"]),
            "done_at": begin + timedelta(seconds=wanted.copies * total + (wanted.copies - 1) * change_s), "give_s": 2 * spread * total * wanted.copies**0.5}


def _capped(spec: PlanSpec, change: dict[str, Any]) -> PlanSpec:
    return rules.spec_from({**spec.model_dump(), "surface": {**spec.surface.model_dump(), "kind": "best-fit", "time_cap_min": change["surface.time_cap_min"],
                                                             "stack": ()}})


def _sentence(wanted: _Asked, best: dict[str, Any] | None) -> str:
    many = f"{wanted.copies} {'copy' if wanted.copies == 1 else 'copies'}"
    if best is None:
        return "No machine of the workshop suits this plan."
    if best["fits"]:
        return f"{many} on {best['machine']}: {best['words']}, ≈ {best['time_s'] / 60:.0f} min each at a P95 of {best['p95_um']:.0f} µm."
    missing = "" if best["minutes_each"] <= 0 else f" {best['machine']} has {best['minutes_each']:.0f} min for each;"
    return f"{many} do not fit before then.{missing} {best['words']}. Fewer copies, a later time, or what the proposals save would be needed."


def _spool(plan: Plan, copies: int) -> str:
    """What the spool says to so many copies; nothing where it suffices."""
    latest = plan.latest
    exact = rules.last_exact(plan)
    if latest.spool is None or exact is None or exact.report is None:
        return "no spool is chosen" if latest.spool is None else ""
    free, each = latest.spool.usable_mass - reserved(latest.spool), float(exact.report["filament"]["mass_g"])
    if free >= copies * each:
        return ""
    return f"{latest.spool.label} has {free:.0f} g free and {copies * each:.0f} g are needed: it holds {max(int(free / each), 0)} of {copies}"


class PlanDeadline(APIView):
    @extend_schema(operation_id="plan_deadline", request=DeadlineAskSerializer, responses=DeadlineSerializer)
    def post(self, request: Request, pk: int) -> Response:
        """How to have so many copies by a time, heat-up, bed changes, spool and the estimate's range included; or what would be needed."""
        values = asked(DeadlineAskSerializer, request)
        return Response(DeadlineSerializer(answer(plan_of(request, pk), values["until"], values["copies"], values.get("start"))).data)
