"""Recipes: what of a plan others can take."""

from __future__ import annotations

from typing import Any

from northpace.errors import InputError
from northpace.spec import settings as every_setting
from service.plans.models import Plan
from service.plans.rules.resolving import OF_THE_PART
from service.workshop.models import Recipe


def recipe_settings(settings: dict[str, Any]) -> dict[str, Any]:
    """The settings of a plan that can start another one: without placement, without what its mesh
    needs and without places of the part, which are the lists.
    """
    return _some(settings, of_part=False)


def with_recipe(settings: dict[str, Any], recipe: dict[str, Any]) -> dict[str, Any]:
    """Settings of a plan that takes a recipe's: where the part stands, what its mesh needs and its
    places stay.
    """
    stays = _some(settings, of_part=True)
    groups = {*stays, *recipe}
    return {group: {**stays.get(group, {}), **recipe.get(group, {})} for group in groups}


def _some(settings: dict[str, Any], of_part: bool) -> dict[str, Any]:
    """The settings that are of the part, or those that are not."""
    places = {entry["name"] for entry in every_setting() if entry["type"] == "list"}
    kept = {
        group: {
            key: value
            for key, value in values.items()
            if (group in OF_THE_PART or f"{group}.{key}" in places) == of_part
        }
        for group, values in settings.items()
    }
    return {group: values for group, values in kept.items() if values}


def save_recipe(
    plan: Plan, name: str, note: str, this_machine: bool = False, this_material: bool = False
) -> Recipe:
    """Keep a plan's settings as a recipe for its nozzle, and for its machine or material only where
    that is said; the plan then counts as made from it.
    """
    latest = plan.latest
    if Recipe.objects.filter(workshop=plan.workshop, name=name).exists():
        raise InputError(
            f"there is a recipe '{name}' already; take another name, or remove that one first",
            "name",
        )
    recipe = Recipe.objects.create(
        workshop=plan.workshop,
        name=name,
        note=note,
        settings=recipe_settings(latest.settings),
        bore=latest.nozzle.bore,
        machine=latest.nozzle.machine if this_machine else None,
        material=latest.material if this_material else None,
    )
    plan.recipe = recipe
    plan.save(update_fields=["recipe"])
    return recipe
