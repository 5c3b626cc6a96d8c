"""A rule for passwords beside those of the framework."""

from __future__ import annotations

from typing import Any

from django.core.exceptions import ValidationError

#: A password needs at least so many letters apart from the person's name.
LEFT = 8


class NotOnlyNames:
    """Refuses passwords that are the person's name, once or several times, and little else."""

    def validate(self, password: str, user: Any = None) -> None:
        left = password.casefold()
        for name in (getattr(user, "username", ""), getattr(user, "first_name", "")):
            if len(name) >= 3:
                left = left.replace(name.casefold(), "")
        if left != password.casefold() and len(left) < LEFT:
            raise ValidationError("The password is too similar to the name.")

    def get_help_text(self) -> str:
        return "The password may not be made of the name."
