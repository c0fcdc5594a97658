"""Readers that go wrong as native libraries do. A module of its own: the process that runs them reads little else."""

import ctypes
import time


def die() -> None:
    """Follow a pointer to nowhere."""
    ctypes.string_at(0)


def sleep() -> None:
    """Take for ever."""
    time.sleep(60)


def eat() -> int:
    """Take more memory than there is."""
    return len(bytearray(1 << 40))
