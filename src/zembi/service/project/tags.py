"""Tags by which a change says what it was made of, so that nobody's change is lost under another's (RFC 9110, section 13.1.1)."""

import hashlib
import json
from typing import Any

from zembi.core.errors import Changed

_DIGITS = 16


def tag_of(value: Any) -> str:
    """A short hash of a JSON value: the same for equal values, whoever asks."""
    text = json.dumps(value, sort_keys=True, ensure_ascii=False)
    return hashlib.sha256(text.encode()).hexdigest()[:_DIGITS]


def check_tag(known: str | None, value: Any, what: str) -> None:
    """Let a change pass that was made of the value as it is now, or that does not say.

    Raises:
        Changed: the value is another one by now.
    """
    if known is not None and known.strip().strip('"') not in ("*", tag_of(value)):
        raise Changed(
            f"{what} changed meanwhile, in another window or by somebody else. Nothing was replaced: look at it first, and then do it again."
        )
