"""The one tree of refusals. Every error carries a stable code; routers turn the code into an answer."""


class ZembiError(Exception):
    """Base of everything Zembi refuses in words: the message is meant to be read by the editor.

    ``code`` is stable and machine-readable; subclasses give the kind of fault.
    """

    code = "error"

    def __init__(self, message: str, *, code: str | None = None) -> None:
        super().__init__(message)
        self.message = message
        if code is not None:
            self.code = code


class BadInput(ZembiError):
    """A value, file or request that cannot be used as it is."""

    code = "bad_input"


class UnreadableMedia(BadInput):
    """A file that is missing, damaged, or not media at all."""

    code = "unreadable_media"


class Damaged(BadInput):
    """A project whose database cannot be opened; the others are not touched by it."""

    code = "damaged"


class NotAllowed(ZembiError):
    """A path outside the allowed media folders, or a request from another page."""

    code = "not_allowed"


class NotFound(ZembiError):
    """Nothing has this name or number."""

    code = "not_found"


class Refused(ZembiError):
    """An operation that would break the edit's rules; the edit is unchanged."""

    code = "refused"


class Changed(Refused):
    """A change of something that is another by now; it was not made."""

    code = "changed"


class NoRoom(ZembiError):
    """The disk has too little space for what was asked."""

    code = "no_room"


class Cancelled(ZembiError):
    """The editor stopped a long work."""

    code = "cancelled"
