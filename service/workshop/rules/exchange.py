"""A workshop as a file: machines, materials and spools as JSON with a schema, out and in again."""

from __future__ import annotations

from typing import Any

from django.db import transaction
from pydantic import BaseModel, ConfigDict, Field, ValidationError

from northpace.errors import InputError
from service.workshop.models import Machine, Material, Nozzle, Spool, SpoolEntry, Workshop
from service.workshop.rules import machines, materials
from service.workshop.rules.spools import put_right

FORMAT = "north-pace-workshop"


VERSION = 1


class _Row(BaseModel):
    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)


class NozzleRow(_Row):
    bore: float = Field(ge=0.1, le=3, description="mm")
    flow: float = Field(ge=0.1, le=500, description="mm³/s it melts at best")
    least_height: float = Field(ge=0.01, le=2, description="mm")
    greatest_height: float | None = Field(
        None, ge=0.01, le=2, description="mm; left open: three quarters of the bore"
    )
    hard: bool = Field(False, description="stands abrasive materials")


class MachineRow(_Row):
    name: str = Field(min_length=1, max_length=80)
    figures: dict[str, Any] = Field(
        default_factory=dict,
        description="settings of the machine group by name, those that differ from the defaults",
    )
    nozzles: list[NozzleRow] = Field(min_length=1, max_length=50)
    bed_change_min: float = Field(5, ge=0, le=1440)
    spool_change_min: float = Field(5, ge=0, le=1440)
    clears_itself: bool = False


class SpoolRow(_Row):
    label: str = Field(min_length=1, max_length=40)
    colour: str = Field("", max_length=40)
    usable_mass: float = Field(ge=0, le=100000, description="g")
    diameter: float = Field(1.75, ge=0.5, le=5, description="mm, as measured")
    tare: float | None = Field(None, ge=0, le=20000, description="g of the empty reel")
    net: float | None = Field(None, ge=0, le=100000, description="g of filament when new")
    figures: dict[str, Any] = Field(
        default_factory=dict,
        description="what was found to suit this spool better than the figures of its material",
    )


class MaterialRow(_Row):
    name: str = Field(min_length=1, max_length=80)
    figures: dict[str, Any] = Field(
        default_factory=dict,
        description="settings of the material group by name, those that differ from the defaults",
    )
    purge_g: float = Field(
        4, ge=0, le=200, description="g that are laid until a new spool of it runs clean"
    )
    spools: list[SpoolRow] = Field(default_factory=list, max_length=1000)


class WorkshopFile(_Row):
    """The whole file."""

    format: str = Field(default=FORMAT, pattern=f"^{FORMAT}$")
    version: int = Field(default=VERSION, ge=1, le=VERSION)
    machines: list[MachineRow] = Field(default_factory=list, max_length=500)
    materials: list[MaterialRow] = Field(default_factory=list, max_length=500)
    checklist: list[str] | None = Field(None, max_length=40)


def export(workshop: Workshop) -> dict[str, Any]:
    """The workshop's machines, materials and spools; what jobs told about them stays here."""
    return WorkshopFile(
        machines=[
            MachineRow(
                name=machine.name,
                figures=machine.figures,
                bed_change_min=machine.bed_change_min,
                spool_change_min=machine.spool_change_min,
                clears_itself=machine.clears_itself,
                nozzles=[
                    NozzleRow(
                        bore=n.bore,
                        flow=n.flow,
                        least_height=n.least_height,
                        greatest_height=n.greatest_height,
                        hard=n.hard,
                    )
                    for n in machine.nozzles.all()
                ],
            )
            for machine in workshop.machines.prefetch_related("nozzles")
        ],
        materials=[
            MaterialRow(
                name=material.name,
                figures=material.figures,
                purge_g=material.purge_g,
                spools=[
                    SpoolRow(
                        label=s.label,
                        colour=s.colour,
                        usable_mass=s.usable_mass,
                        diameter=s.diameter,
                        tare=s.tare,
                        net=s.net,
                        figures=s.figures,
                    )
                    for s in material.spools.all()
                ],
            )
            for material in workshop.materials.prefetch_related("spools")
        ],
        checklist=workshop.checklist,
    ).model_dump(mode="json")


def take_in(workshop: Workshop, data: Any) -> list[str]:
    """Put a file into the workshop, all of it or nothing: what has a known name is changed, what
    has not is added, nothing is removed. Returns what was done in sentences.
    """
    try:
        found = WorkshopFile.model_validate(data)
    except ValidationError as error:
        first = error.errors()[0]
        raise InputError(
            f"{'.'.join(str(part) for part in first['loc']) or 'the file'}: {first['msg']}",
            "workshop file",
        ) from error
    done: list[str] = []
    with transaction.atomic():
        for row in found.machines:
            _machine(workshop, row, done)
        for entry in found.materials:
            _material(workshop, entry, done)
        if found.checklist is not None and found.checklist != workshop.checklist:
            workshop.checklist = found.checklist
            workshop.save(update_fields=["checklist"])
            done.append("the checklist was changed")
    return done


def _machine(workshop: Workshop, row: MachineRow, done: list[str]) -> None:
    bores = [nozzle.bore for nozzle in row.nozzles]
    if len(set(bores)) != len(bores):
        raise InputError("two nozzles have the same bore", row.name)
    for nozzle in row.nozzles:
        own = {
            "nozzle": nozzle.bore,
            "nozzle_flow": nozzle.flow,
            "least_height": nozzle.least_height,
            "nozzle_hard": nozzle.hard,
            **(
                {}
                if nozzle.greatest_height is None
                else {"greatest_height": nozzle.greatest_height}
            ),
        }
        try:
            machines.check_figures(row.figures, own)
        except InputError as error:
            raise InputError(str(error), row.name) from error
    machine, made = Machine.objects.update_or_create(
        workshop=workshop,
        name=row.name,
        defaults={
            "figures": row.figures,
            "bed_change_min": row.bed_change_min,
            "spool_change_min": row.spool_change_min,
            "clears_itself": row.clears_itself,
        },
    )
    for nozzle in row.nozzles:
        Nozzle.objects.update_or_create(
            machine=machine, bore=nozzle.bore, defaults=nozzle.model_dump(exclude={"bore"})
        )
    done.append(
        f"{row.name} was {'added' if made else 'changed'}, with {len(row.nozzles)} "
        f"nozzle{'s' if len(row.nozzles) > 1 else ''}"
    )


def _material(workshop: Workshop, row: MaterialRow, done: list[str]) -> None:
    for figures in (row.figures, *({**row.figures, **spool.figures} for spool in row.spools)):
        try:
            materials.check_figures(figures)
        except InputError as error:
            raise InputError(str(error), row.name) from error
    material, made = Material.objects.update_or_create(
        workshop=workshop,
        name=row.name,
        defaults={"figures": row.figures, "purge_g": row.purge_g},
    )
    for spool in row.spools:
        known = Spool.objects.filter(material=material, label=spool.label).first()
        values = spool.model_dump(exclude={"usable_mass"})
        if known is None:
            Spool.objects.create(material=material, usable_mass=spool.usable_mass, **values)
            continue
        for name, value in values.items():
            setattr(known, name, value)
        known.save()
        put_right(known, spool.usable_mass, SpoolEntry.Kind.CORRECTED, "from a workshop file")
    done.append(
        f"{row.name} was {'added' if made else 'changed'}, with {len(row.spools)} "
        f"spool{'s' if len(row.spools) != 1 else ''}"
    )
