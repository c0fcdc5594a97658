"""Naming what a browser saves, whatever letters the name has (RFC 6266)."""

from urllib.parse import quote

from fastapi import Response

from zembi.service.handoff.films import Export


def disposition(name: str) -> str:
    """The header that names a download: in plain letters, and as it is for those who can read that."""
    plain = "".join(c if c.isascii() and c.isprintable() and c not in '"\\%' else "_" for c in name)
    return f"attachment; filename=\"{plain}\"; filename*=UTF-8''{quote(name, safe='')}"


def download(made: Export) -> Response:
    """A file that was made just now."""
    return Response(made.data, media_type=made.kind, headers={"content-disposition": disposition(made.name)})
