"""Properties of an angle by its name."""


def is_close(name: str) -> bool:
    """True if an angle is a close one, which rules prefer where somebody sings: its name says so."""
    return "close" in name.casefold()
