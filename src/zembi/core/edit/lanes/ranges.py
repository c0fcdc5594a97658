"""Treated ranges: treatments of everything that lies beneath, whatever is cut there. Ranges may overlap."""

from zembi.core.edit.model import Beneath, LaneKind

RANGES = LaneKind("ranges", "Treated ranges", (Beneath,), overlap=True, several=False, named="treated range")
