"""What Pydantic refuses, as our own error."""

from pydantic import ValidationError

from keenquiet.core.errors import InputError


def input_error(exc: ValidationError) -> InputError:
    """Our error for the first thing Pydantic found."""
    first = exc.errors()[0]
    message = first["msg"].removeprefix("Value error, ")
    return InputError(".".join(str(part) for part in first["loc"]) or "document", f"{message}.", "Check this field.")
