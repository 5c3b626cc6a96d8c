"""What a password must not be, beside what the framework looks at."""

from __future__ import annotations

from typing import Any

from django.core.exceptions import ValidationError

#: Letters that have to be left of a password without the names of the person.
LEFT = 8


class NotOnlyNames:
    """Refuses passwords that are little more than the person's name, however often."""

    def validate(self, password: str, user: Any = None) -> None:
        left = password.casefold()
        for name in (getattr(user, "username", ""), getattr(user, "first_name", "")):
            if len(name) >= 3:
                left = left.replace(name.casefold(), "")
        if left != password.casefold() and len(left) < LEFT:
            raise ValidationError("The password is too similar to the name.")

    def get_help_text(self) -> str:
        return "The password may not be made of the name."
