"""Browsable documentation of the API, drawn from its own description without anything from the
network.
"""

from __future__ import annotations

from html import escape
from typing import Any

from django.contrib.auth.decorators import login_required
from django.http import HttpRequest, HttpResponse
from drf_spectacular.generators import SchemaGenerator

STYLE = (
    "body{font:16px/1.5 sans-serif;background:#F5F2EA;color:#1C2733;max-width:60rem;margin:2rem "
    "auto;padding:0 1rem}section{border-top:1px solid #D9D3C4;padding:.6rem "
    "0}code{background:#FBFAF6;padding:.1rem "
    ".3rem}b{display:inline-block;min-width:4.5rem;color:#1F6670}p{margin:.2rem 0 0 4.8rem}"
)


@login_required(login_url="/sign-in")
def api_docs(request: HttpRequest) -> HttpResponse:
    """One page: every operation with its purpose, input and answers."""
    generator: Any = SchemaGenerator()  # type: ignore[no-untyped-call]
    schema = generator.get_schema(request=None, public=True)
    rows = []
    for address, methods in schema["paths"].items():
        for method, operation in methods.items():
            body = operation.get("requestBody", {}).get("content", {})
            takes = ", ".join(_name(item.get("schema", {})) for item in body.values())
            gives = ", ".join(
                f"{code} "
                f"{_name(next(iter(item.get('content', {'': {}}).values())).get('schema', {}))}"
                for code, item in operation["responses"].items()
                if code.startswith("2")
            )
            rows.append(
                f"<section><b>{method.upper()}</b><code>{escape(address)}</code>"
                f"<p>{escape(operation.get('description', ''))}</p>"
                + (f"<p>takes {escape(takes)}</p>" if takes else "")
                + f"<p>gives {escape(gives)}</p></section>"
            )
    return HttpResponse(
        f"<!doctype html><meta charset=utf-8><title>North Pace API</title><style>{STYLE}</style>"
        "<h1>North Pace API</h1><p>The full description: <a "
        "href='/api/schema'>/api/schema</a>. What is refused, or has to be tried again, answers "
        f"with <i>detail</i>, why and what would be allowed, and <i>where</i>.</p>{''.join(rows)}"
    )


def _name(schema: dict[str, Any]) -> str:
    if "$ref" in schema:
        return str(schema["$ref"].rsplit("/", 1)[-1])
    if "items" in schema:
        return f"list of {_name(schema['items'])}"
    return str(schema.get("format") or schema.get("type", "nothing"))
