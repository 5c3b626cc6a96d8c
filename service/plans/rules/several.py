"""Many plans at once: given another machine, spool or recipe, written as files, removed."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from typing import NamedTuple

from northpace.errors import InputError
from service.archives import archive
from service.plans.models import Plan
from service.plans.rules import recipes, resolving, stored, versions
from service.plans.rules.versions import Author, Choice
from service.tables import lines
from service.workshop.models import Material, Nozzle, Recipe, Spool

#: Columns of the table: their words, and the field of a plan.
COLUMNS = (
    ("part", "part.name"),
    ("plan", "number"),
    ("name", "name"),
    ("machine", "machine_name"),
    ("material", "material_name"),
    ("time s", "time_s"),
    ("filament g", "mass_g"),
    ("money", "cost"),
    ("step error mean um", "mean_um"),
    ("step error P95 um", "p95_um"),
    ("step error max um", "max_um"),
    ("findings stop", "stops"),
    ("findings look", "looks"),
    ("last printed", "printed"),
    ("told of", "told"),
    ("good", "good"),
    ("verdict", "verdict"),
)


class Wanted(NamedTuple):
    """What plans are to have; None: as each has it."""

    nozzle: Nozzle | None = None
    material: Material | None = None
    spool: Spool | None = None
    recipe: Recipe | None = None


class Done(NamedTuple):
    """Plans it was done to, and why it was not done to others."""

    plans: list[int]
    refused: list[str]


def change(plans: Iterable[Plan], wanted: Wanted, author: Author) -> Done:
    """A new version of each plan with what is wanted; what was suggested by its nozzle before gives
    way to what the new one suggests, and with a recipe everything to what that holds.
    """
    done = Done([], [])
    for plan in plans:
        try:
            versions.change_plan(plan, _choice(plan, wanted), author=author)
        except InputError as error:
            done.refused.append(f"{_named(plan)}: {error}")
        else:
            if wanted.recipe is not None:
                Plan.objects.filter(pk=plan.pk).update(recipe=wanted.recipe)
            done.plans.append(plan.pk)
    return done


def _choice(plan: Plan, wanted: Wanted) -> Choice:
    now = plan.latest
    nozzle, material = wanted.nozzle or now.nozzle, wanted.material or now.material
    spool = wanted.spool or now.spool
    if spool is not None and spool.material_id != material.pk:
        spool = None
    if wanted.recipe is not None:
        taken = versions.first_settings(nozzle, material, None, wanted.recipe)
        settings = recipes.with_recipe(now.settings, taken)
    else:
        settings = resolving.refit(now.settings, now.nozzle, nozzle)
    return Choice(settings, nozzle, material, spool)


def why_it_stays(plan: Plan) -> str:
    """Why a plan cannot be removed; empty where it can."""
    if plan.versions.filter(jobs__isnull=False).exists():
        return "jobs were committed from this plan; it stays so that they can be traced"
    if plan.versions.filter(bed_versions__isnull=False).exists():
        return "it lies on a bed; remove it there first"
    line = plan.order_lines.filter(order__closed="").select_related("order").first()
    if line is not None:
        return (
            f"it may be used for {line.order}; close that one first, or choose another plan there"
        )
    return ""


def remove(plans: Iterable[Plan]) -> Done:
    """Remove plans that no job was made of and that lie on no bed."""
    done = Done([], [])
    for plan in plans:
        reason = why_it_stays(plan)
        if reason:
            done.refused.append(f"{_named(plan)}: {reason}")
            continue
        done.plans.append(plan.pk)
        plan.delete()
    return done


def as_files(plans: Iterable[Plan]) -> bytes:
    """The newest version of each plan as a 3MF file, in one archive. Raises `InputError` where that
    grows too large.
    """

    def files() -> Iterator[tuple[str, bytes]]:
        for plan in plans:
            version = plan.latest
            yield stored.file_name(version), stored.as_file(plan, version.pk)

    return archive(files(), "plans")


def as_table(plans: Iterable[Plan]) -> Iterator[str]:
    """Plans of `library.asked_plans` as lines of a table for a spreadsheet."""
    rows = ([_field(plan, path) for _, path in COLUMNS] for plan in plans)
    return lines((words for words, _ in COLUMNS), rows)


def _field(plan: Plan, path: str) -> object:
    found: object = plan
    for name in path.split("."):
        found = getattr(found, name)
    return found


def _named(plan: Plan) -> str:
    return f"{plan.part.name}, plan {plan.number}"
