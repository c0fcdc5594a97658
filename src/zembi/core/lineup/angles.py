"""What an angle's name says of it."""


def is_close(name: str) -> bool:
    """Whether an angle is a close one, which rules prefer where somebody sings: its name says so."""
    return "close" in name.casefold()
