"""Addresses and names that the server answers to, and the token that it asks for beyond this machine."""

import ipaddress
import os
import secrets
import socket
from collections.abc import Iterable
from pathlib import Path

from zembi.core.errors import BadInput

LOOPBACK = ("127.0.0.1", "localhost", "::1")
_EVERYWHERE = ("0.0.0.0", "::")


def listen_on(host: str, port: int) -> socket.socket:
    """A socket that listens.

    Raises:
        BadInput: no such port or address, or another program has it; in one true sentence.
    """
    if not 0 <= port <= 65_535:
        raise BadInput(f"--port {port}: a port is a number from 0 to 65535.")
    try:
        found = socket.getaddrinfo(host, port, type=socket.SOCK_STREAM, flags=socket.AI_PASSIVE)
    except (OSError, UnicodeError):
        raise BadInput(f"--host {host}: this machine knows no such address.") from None
    family, kind, protocol, _, address = found[0]
    listening = socket.socket(family, kind, protocol)
    listening.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        listening.bind(address)
        listening.listen(128)
    except OSError as fault:
        listening.close()
        if fault.errno == 98:
            raise BadInput(
                f"Port {port} on {host} is not free. Stop what uses it, or choose another with --port."
            ) from None
        if fault.errno == 13:
            raise BadInput(
                f"Port {port} is kept for the system. Choose one above 1023 with --port."
            ) from None
        raise BadInput(
            f"--host {host}: this machine cannot listen there ({(fault.strerror or '').lower()})."
        ) from None
    return listening


def names_of(host: str, allowed: Iterable[str]) -> set[str]:
    """Names that the server answers to: those of this machine, the address it listens on, and those allowed.

    Raises:
        BadInput: an allowed name that is none.
    """
    names = {*LOOPBACK}
    for name in [*([] if host in _EVERYWHERE else [host]), *allowed]:
        plain = name.strip().strip("[]").lower()
        if not plain or any(c in plain for c in "/@?# *") or (":" in plain and not _is_address(plain)):
            raise BadInput(
                f"--allow-host {name}: write a name or an address alone, without port or wildcard."
            )
        names.add(plain)
    return names


def _is_address(text: str) -> bool:
    try:
        ipaddress.ip_address(text)
    except ValueError:
        return False
    return True


def token_of(data: Path) -> str:
    """The token of a data folder: made once, readable by its owner alone, so that pages stay let in after a restart."""
    path = data / "token"
    try:
        kept = path.read_text().strip()
        if len(kept) >= 32:
            return kept
    except OSError:
        pass
    token = secrets.token_urlsafe(32)
    part = path.with_name(f".token-{os.getpid()}")
    with open(os.open(part, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600), "w") as out:
        out.write(token + "\n")
    os.replace(part, path)
    return token
