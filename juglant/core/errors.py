"""Errors that a user can cause and mend."""


class UserError(Exception):
    """A plain sentence, and the field it belongs to.

    `field` is a dotted path into the request or recipe (``brief.bpm``), or None when the
    whole request is at fault. `kind` is a short stable word for programs.
    """

    def __init__(self, message: str, field: str | None = None, kind: str = "invalid") -> None:
        super().__init__(message)
        self.message = message
        self.field = field
        self.kind = kind


class CancelledError(Exception):
    """Somebody has asked to stop."""


class NotFoundError(UserError):
    """What was asked for is not in this studio."""

    def __init__(self, message: str) -> None:
        super().__init__(message, None, "not-found")


class StorageError(UserError):
    """The studio file cannot be used just now; what was to be saved is not."""

    def __init__(self, message: str) -> None:
        super().__init__(message, None, "storage")


class StaleError(UserError):
    """The state that was to be saved is not based on the latest one."""

    def __init__(self, message: str) -> None:
        super().__init__(message, None, "stale")
