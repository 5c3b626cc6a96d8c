"""Who may do what: one table of all addresses that change something."""

from __future__ import annotations

from typing import NamedTuple

from service.accounts.models import Role

OPERATOR, PLANNER, OWNER = Role.OPERATOR, Role.PLANNER, Role.OWNER
RANK = {OPERATOR: 0, PLANNER: 1, OWNER: 2}


class Rule(NamedTuple):
    """The least role an address needs, and the words it is put on record with; where only the
    fields in ``daily`` are sent, an operator may do it too.
    """

    role: Role
    record: str = ""
    daily: frozenset[str] = frozenset()


#: By address below ``api/``, then by method. What is not here cannot be done by anybody.
RULES: dict[str, dict[str, Rule]] = {
    # people
    "session/password": {"POST": Rule(OPERATOR, "changed their password")},
    "session/places/<int:pk>": {"DELETE": Rule(OPERATOR)},
    "people": {"GET": Rule(OPERATOR)},
    "people/<int:pk>": {
        "PATCH": Rule(OWNER, "changed a person"),
        "DELETE": Rule(OWNER, "removed a person"),
    },
    "people/invitations": {"GET": Rule(OWNER), "POST": Rule(OWNER, "invited a person")},
    "people/invitations/<int:pk>": {"DELETE": Rule(OWNER, "took an invitation back")},
    "state": {"GET": Rule(OWNER)},
    "record": {"GET": Rule(OWNER)},
    "record/file": {"GET": Rule(OWNER)},
    # the workshop: its machines, money and connections
    "workshop": {"PATCH": Rule(OWNER, "changed the workshop")},
    "workshop/archive": {"GET": Rule(OWNER, "took everything out as an archive")},
    "workshop/import": {"POST": Rule(OWNER, "read in a workshop file")},
    "machines": {"POST": Rule(OWNER, "added a machine")},
    "machines/<int:pk>": {
        "PATCH": Rule(OWNER, "changed a machine", frozenset({"held"})),
        "DELETE": Rule(OWNER, "removed a machine"),
    },
    "machines/<int:pk>/nozzles": {"POST": Rule(OWNER, "added a nozzle")},
    "nozzles/<int:pk>": {
        "PATCH": Rule(OWNER, "changed a nozzle"),
        "DELETE": Rule(OWNER, "removed a nozzle"),
    },
    "machines/<int:pk>/learnt": {
        "POST": Rule(OWNER, "let a machine learn again"),
        "DELETE": Rule(OWNER, "took back what a machine learnt"),
    },
    # materials
    "materials": {"POST": Rule(PLANNER, "added a material")},
    "materials/<int:pk>": {
        "PATCH": Rule(PLANNER, "changed a material"),
        "DELETE": Rule(PLANNER, "removed a material"),
    },
    "materials/<int:pk>/dial": {"POST": Rule(PLANNER, "set an end of the dial")},
    "materials/<int:pk>/spools": {"POST": Rule(OPERATOR, "added a spool")},
    "spools/<int:pk>": {
        "PATCH": Rule(OPERATOR, "changed a spool"),
        "DELETE": Rule(OPERATOR, "removed a spool"),
    },
    "spools/<int:pk>/weigh": {"POST": Rule(OPERATOR, "weighed a spool")},
    # parts, plans, recipes
    "parts": {"POST": Rule(PLANNER)},
    "parts/<int:pk>": {"PATCH": Rule(PLANNER), "DELETE": Rule(PLANNER, "removed a part")},
    "parts/<int:pk>/again": {"POST": Rule(PLANNER)},
    "plans": {"POST": Rule(PLANNER)},
    "plans/<int:pk>": {"PATCH": Rule(PLANNER), "DELETE": Rule(PLANNER, "removed a plan")},
    "plans/ahead": {"POST": Rule(OPERATOR)},
    "plans/several": {"POST": Rule(PLANNER, "changed plans")},
    "plans/several/remove": {"POST": Rule(PLANNER, "removed plans")},
    "plans/<int:pk>/quick": {"POST": Rule(OPERATOR)},
    "plans/<int:pk>/others": {"POST": Rule(OPERATOR)},
    "plans/<int:pk>/cancel": {"POST": Rule(PLANNER)},
    "plans/<int:pk>/undo": {"POST": Rule(PLANNER)},
    "plans/<int:pk>/redo": {"POST": Rule(PLANNER)},
    "plans/<int:pk>/frontier": {"POST": Rule(OPERATOR)},
    "plans/<int:pk>/try": {"POST": Rule(OPERATOR)},
    "plans/<int:pk>/acknowledge": {"POST": Rule(PLANNER, "accepted a finding")},
    "plans/<int:pk>/acknowledge/<str:code>": {"DELETE": Rule(PLANNER)},
    "plans/<int:pk>/recipe": {"POST": Rule(PLANNER, "kept a recipe")},
    "plans/<int:pk>/copy": {"POST": Rule(PLANNER)},
    "plans/<int:pk>/slices": {"POST": Rule(PLANNER)},
    "slices/<int:pk>/verdict": {"POST": Rule(OPERATOR)},
    "slices/<int:pk>/photo": {"POST": Rule(OPERATOR)},
    "plans/<int:pk>/vase": {"POST": Rule(OPERATOR)},
    "plans/<int:pk>/regions": {"POST": Rule(OPERATOR)},
    "plans/<int:pk>/ways": {"POST": Rule(OPERATOR), "DELETE": Rule(OPERATOR)},
    "plans/<int:pk>/proposals": {"POST": Rule(PLANNER)},
    "searches/<int:pk>": {"DELETE": Rule(PLANNER)},
    "plans/<int:pk>/mesh": {"POST": Rule(PLANNER)},
    "plans/<int:pk>/painted": {"POST": Rule(OPERATOR)},
    "plans/<int:pk>/bodies": {"POST": Rule(OPERATOR)},
    "plans/<int:pk>/apart": {"POST": Rule(PLANNER)},
    "plans/<int:pk>/cut": {"POST": Rule(PLANNER)},
    "plans/<int:pk>/reach": {"POST": Rule(OPERATOR)},
    "plans/<int:pk>/here": {"POST": Rule(OPERATOR)},
    "plans/<int:pk>/write-back": {"POST": Rule(PLANNER, "kept a figure with a material")},
    "plans/<int:pk>/deadline": {"POST": Rule(OPERATOR)},
    "bands/repeat": {"POST": Rule(OPERATOR)},
    "bands/merge": {"POST": Rule(OPERATOR)},
    "recipes/<int:pk>": {
        "PATCH": Rule(PLANNER, "changed a recipe"),
        "DELETE": Rule(PLANNER, "removed a recipe"),
    },
    "recipes/<int:pk>/apply": {"POST": Rule(PLANNER)},
    "versions/<int:pk>/name": {"POST": Rule(PLANNER)},
    # beds
    "beds": {"POST": Rule(PLANNER)},
    "beds/<int:pk>": {"PATCH": Rule(PLANNER), "DELETE": Rule(PLANNER, "removed a bed")},
    "beds/<int:pk>/undo": {"POST": Rule(PLANNER)},
    "beds/<int:pk>/redo": {"POST": Rule(PLANNER)},
    "beds/<int:pk>/cancel": {"POST": Rule(PLANNER)},
    "beds/<int:pk>/copy": {"POST": Rule(PLANNER)},
    "bed-versions/<int:pk>/name": {"POST": Rule(PLANNER)},
    "bed-versions/<int:pk>/commit": {"POST": Rule(PLANNER, "committed a bed")},
    "jobs/<int:pk>/copies": {"POST": Rule(OPERATOR, "told what came of a bed's copies")},
    # orders and the schedule
    "orders": {"POST": Rule(PLANNER, "took an order")},
    "orders/import": {"POST": Rule(PLANNER, "took orders from a table")},
    "orders/<int:pk>": {
        "PATCH": Rule(PLANNER, "changed an order"),
        "DELETE": Rule(PLANNER, "removed an order"),
    },
    "orders/<int:pk>/close": {"POST": Rule(PLANNER, "closed an order")},
    "orders/<int:pk>/promise": {"POST": Rule(PLANNER, "promised an order")},
    "schedule": {"POST": Rule(OPERATOR), "DELETE": Rule(OPERATOR)},
    "schedule/release": {"POST": Rule(PLANNER, "made a bed for an order")},
    "schedule/what-if": {"POST": Rule(OPERATOR)},
    # jobs
    "jobs": {"POST": Rule(PLANNER, "committed a job")},
    "jobs/<int:pk>/flow": {"POST": Rule(OPERATOR, "changed the flow of a job")},
    "jobs/<int:pk>/order": {"POST": Rule(OPERATOR, "gave an order to a job")},
    "jobs/<int:pk>/outcome": {"POST": Rule(OPERATOR, "told the outcome of a job")},
    "jobs/<int:pk>/photo": {"POST": Rule(OPERATOR)},
    "jobs/<int:pk>/place": {"POST": Rule(OPERATOR, "moved a job")},
    "jobs/<int:pk>/reprint": {"POST": Rule(OPERATOR, "had a job printed again")},
    "jobs/<int:pk>/spool": {"POST": Rule(OPERATOR, "gave a job another spool")},
    "machines/<int:pk>/clear": {"POST": Rule(OPERATOR, "cleared a bed")},
    "machines/<int:pk>/hung-up": {"POST": Rule(OPERATOR, "said what hangs on a machine")},
    "machines/<int:pk>/regroup": {"POST": Rule(OPERATOR, "put a queue in another order")},
}
READING = Rule(OPERATOR)
SAFE = ("GET", "HEAD", "OPTIONS")


def rule_of(route: str, method: str) -> Rule | None:
    """The rule of an address (as in the URL patterns) and a method; None where there is none."""
    rules = RULES.get(route.removeprefix("api/"), {})
    return rules.get(method, READING if method in SAFE else None)


def may(role: str, rule: Rule, fields: frozenset[str]) -> bool:
    """Whether a role may do what a rule is about, with the fields that are sent."""
    if rule.daily and fields and fields <= rule.daily:
        return True
    return RANK[Role(role)] >= RANK[rule.role]
