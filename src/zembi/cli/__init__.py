"""The command line. Each command is in the module of what it is about; ``zembi --help`` lists them."""

import os
import sys
from pathlib import Path

from zembi.cli import serving, hearing, footage, films, comparing, doctor  # isort: skip  # as help lists them
from zembi.cli.shared import app
from zembi.core.errors import BadInput, ZembiError

__all__ = ["comparing", "doctor", "films", "footage", "hearing", "main", "serving"]


def main() -> None:
    """Run the command line. Exit 0 done, 2 wrong use or unreadable input, 1 anything else."""
    try:
        raise SystemExit(app(standalone_mode=False) or 0)
    except BadInput as fault:
        _fail(fault.message, 2)
    except ZembiError as fault:
        _fail(fault.message, 1)
    except KeyboardInterrupt:
        _fail("Stopped.", 1)
    except OSError as fault:
        from zembi.jobs.disk import disk_fault

        _fail(disk_fault(fault, Path.cwd()).message, 1)
    except Exception as fault:
        said = getattr(fault, "format_message", None)
        if said is not None:  # the words of the library that reads the arguments
            _fail(f"{said().rstrip(chr(46))}. Try zembi --help.", 2)
        if os.environ.get("ZEMBI_TRACE"):
            raise
        _fail(f"{type(fault).__name__}: {fault}", 1)


def _fail(message: str, code: int) -> None:
    print(f"zembi: {' '.join(message.split())}", file=sys.stderr)
    raise SystemExit(code)
