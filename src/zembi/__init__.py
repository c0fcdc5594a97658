"""Zembi: cut a music video to its song."""

__version__ = "0.1.0"
