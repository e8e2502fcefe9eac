"""What can go wrong with something a person gave us, each with a sentence they can act on."""


class FerryError(Exception):
    """Base of every error whose text is meant for a person.

    ``hint`` says what to do about it; ``str(error)`` is the whole sentence.
    """

    def __init__(self, message: str, hint: str = "") -> None:
        self.message = message
        self.hint = hint
        super().__init__(f"{message} {hint}".strip())


class AddressError(FerryError):
    """An address that cannot be read, or lies outside what may be fetched."""


class PatternError(FerryError):
    """A pattern (RE2), selector or date form that cannot be read."""


class PlanError(FerryError):
    """A plan that does not fit its schema; ``line`` is 1-based, 0 when unknown."""

    def __init__(self, message: str, *, file: str = "", line: int = 0, hint: str = "") -> None:
        self.file = file
        self.line = line
        self.told = f"line {line}: {message}".rstrip(".")
        where = f"{file}, line {line}: " if line else (f"{file}: " if file else "")
        super().__init__(where + message, hint)


class UnreadablePage(FerryError):
    """A page that the reader refuses (nested beyond reason, or larger than the cap)."""


class StageFailed(FerryError):
    """A stage ended without being done; the text says why."""


class NotThere(FerryError):
    """Something asked for by number or name is not in the workspace."""
